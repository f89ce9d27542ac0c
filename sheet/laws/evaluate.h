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
} wadi_eval;

bool wadi_expr_eval(const wad_expr *e, const wadi_eval *env, wad_rational *out);

#endif
