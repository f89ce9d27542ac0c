/* SPDX-License-Identifier: MIT */
/* How large a law's parts can become: whether 64 bits hold them, or 32. */
#ifndef WADI_EXTENT_H
#define WADI_EXTENT_H

#include "sheet/chip/expression.h"

/* The greatest numerator and denominator that a part may reach, before anything cancels. */
typedef struct wadi_extent {
    double num, den;
} wadi_extent;

typedef wadi_extent (*wadi_clock_extent)(const wad_clock *clock);

wadi_extent wadi_expr_extent(const wad_expr *e, wadi_clock_extent clock);
/** What its values mean (`is`), over one denominator; 1: all are whole. */
int64_t wadi_meanings_denominator(const wad_bitfield *field);
/** The part that exceeds `limit` first; NULL: none. */
const wad_expr *wadi_expr_beyond(const wad_expr *e, wadi_clock_extent clock, double limit);

#endif
