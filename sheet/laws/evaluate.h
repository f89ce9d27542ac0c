/* SPDX-License-Identifier: MIT */
/* What a law is worth under given fields and clocks. */
#ifndef WADI_EVALUATE_H
#define WADI_EVALUATE_H

#include "sheet/chip/expression.h"

/** How an evaluation learns fields and clocks. */
typedef struct wadi_eval {
    bool (*field)(void *ctx, const wad_fieldref *ref, uint64_t *code); /* what is written there */
    bool (*clock)(void *ctx, const wad_clock *clock, wad_rational *hz);
    void *ctx;
    uint64_t written; /* in a hook */
} wadi_eval;

bool wadi_expr_eval(const wad_expr *e, const wadi_eval *env, wad_rational *out);

/** The limits of a clock under these fields; false: it has none, or none that can be told now. */
bool wadi_clock_limits(const wad_clock *clock, const wadi_eval *env, wad_rational *min,
                       wad_rational *max);
/** Is the rate beyond limits that can be told? */
bool wadi_clock_beyond(const wad_clock *clock, const wadi_eval *env, wad_rational hz);

#endif
