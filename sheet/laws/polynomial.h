/* SPDX-License-Identifier: MIT */
/* A law as a fraction of two polynomials, each of degree at most 1 in each of its variables. */
#ifndef WADI_RATE_POLY_H
#define WADI_RATE_POLY_H

#include "lang/rational.h"
#include "sheet/chip/expression.h"

#define WADI_POLY_VARS  4
#define WADI_POLY_TERMS (1u << WADI_POLY_VARS)

/* term[s] belongs to the product of the variables whose bits are set in s. */
typedef struct wadi_poly {
    wadi_i128 term[WADI_POLY_TERMS];
} wadi_poly;

typedef struct wadi_fraction {
    wadi_poly num, den;
} wadi_fraction;

/** What a name in the law is: a number, or variable `var` (0 to 3). */
typedef struct wadi_poly_env {
    bool (*field)(void *ctx, const wad_expr *e, wad_rational *value, int *var);
    bool (*clock)(void *ctx, const wad_clock *clock, wad_rational *hz);
    void *ctx;
} wadi_poly_env;

/** False: a variable occurs with a degree above 1, in an exponent, a floor, a choice, or the
 * numbers grow beyond 120 bits. */
bool wadi_poly_make(const wad_expr *e, const wadi_poly_env *env, wadi_fraction *out);

#endif
