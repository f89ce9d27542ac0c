/* SPDX-License-Identifier: MIT */
#include "polynomial.h"

#include <string.h>

#include "sheet/chip/expression.h"

static wadi_i128 magnitude(wadi_i128 n)
{
    return n < 0 ? -n : n;
}

static wadi_i128 gcd(wadi_i128 a, wadi_i128 b)
{
    while (b) {
        wadi_i128 r = a % b;
        a = b;
        b = r;
    }
    return a;
}

static bool is_small(wadi_i128 n)
{
    return magnitude(n) >> 100 == 0;
}

static bool constant(const wadi_poly *p)
{
    for (unsigned s = 1; s < WADI_POLY_TERMS; s++)
        if (p->term[s])
            return false;
    return true;
}

static bool multiply(const wadi_poly *a, const wadi_poly *b, wadi_poly *out)
{
    wadi_poly product = {{0}};
    for (unsigned s = 0; s < WADI_POLY_TERMS; s++)
        for (unsigned t = 0; t < WADI_POLY_TERMS && a->term[s]; t++) {
            wadi_i128 x;
            if (!b->term[t])
                continue;
            if (s & t || __builtin_mul_overflow(a->term[s], b->term[t], &x) || !is_small(x))
                return false;
            product.term[s | t] += x;
        }
    *out = product;
    return true;
}

static bool add(const wadi_poly *a, const wadi_poly *b, bool negative, wadi_poly *out)
{
    for (unsigned s = 0; s < WADI_POLY_TERMS; s++) {
        out->term[s] = a->term[s] + (negative ? -b->term[s] : b->term[s]);
        if (!is_small(out->term[s]))
            return false;
    }
    return true;
}

/* Common factors of all terms go; the denominator's constant is positive where there is one. */
static void reduce(wadi_fraction *f)
{
    wadi_i128 g = 0;
    for (unsigned s = 0; s < WADI_POLY_TERMS; s++)
        g = gcd(gcd(g, magnitude(f->num.term[s])), magnitude(f->den.term[s]));
    for (unsigned s = 0; s < WADI_POLY_TERMS && g > 1; s++) {
        f->num.term[s] /= g;
        f->den.term[s] /= g;
    }
}

static void number(wad_rational n, wadi_fraction *out)
{
    memset(out, 0, sizeof *out);
    out->num.term[0] = n.num;
    out->den.term[0] = n.den;
}

/* Denominators that are equal need no multiplying out, which would raise degrees. */
static bool sum(const wadi_fraction *a, const wadi_fraction *b, bool negative, wadi_fraction *out)
{
    wadi_poly x, y;
    wadi_fraction r;
    if (!memcmp(&a->den, &b->den, sizeof a->den)) {
        r.den = a->den;
        if (!add(&a->num, &b->num, negative, &r.num))
            return false;
    } else if (!multiply(&a->num, &b->den, &x) || !multiply(&b->num, &a->den, &y) ||
               !add(&x, &y, negative, &r.num) || !multiply(&a->den, &b->den, &r.den)) {
        return false;
    }
    reduce(&r);
    *out = r;
    return true;
}

static bool product(const wadi_fraction *a, const wadi_poly *num, const wadi_poly *den,
                    wadi_fraction *out)
{
    wadi_fraction r;
    if (!multiply(&a->num, num, &r.num) || !multiply(&a->den, den, &r.den))
        return false;
    reduce(&r);
    *out = r;
    return true;
}

static bool as_number(const wadi_fraction *f, wad_rational *out)
{
    return constant(&f->num) && constant(&f->den) &&
           wadi_rat_make(f->num.term[0], f->den.term[0], out);
}

/* What must be a number before it can be computed with: powers, the smaller of two, floors. */
static bool of_numbers(const wad_expr *e, const wadi_fraction *a, const wadi_fraction *b,
                       wadi_fraction *out)
{
    wad_rational x, y = wadi_int(0), r;
    if (!as_number(a, &x) || (b && !as_number(b, &y)))
        return false;
    if (e->op == WADI_OP_POW) {
        if (!wadi_rat_pow(x, y, &r))
            return false;
    } else if (e->op == WADI_OP_FLOOR) {
        r = wadi_int(wadi_rat_floor(x));
    } else {
        r = (wadi_rat_cmp(x, y) < 0) == (e->op == WADI_OP_MIN) ? x : y;
    }
    number(r, out);
    return true;
}

static bool make_field(const wad_expr *e, const wadi_poly_env *env, wadi_fraction *out)
{
    wad_rational value;
    int var = -1;
    if (!env->field(env->ctx, e, &value, &var))
        return false;
    number(var < 0 ? value : wadi_int(0), out);
    if (var >= 0)
        out->num.term[1u << var] = 1;
    if (var >= 0)
        out->den.term[0] = 1;
    return true;
}

static bool make_pick(const wad_expr *e, const wadi_poly_env *env, wadi_fraction *out)
{
    wad_rational code;
    int var = -1;
    if (!env->field(env->ctx, e, &code, &var) || var >= 0)
        return false;
    for (unsigned i = 0; i < e->n_picks; i++)
        if (code.den == 1 && (uint64_t)code.num >= e->picks[i].code &&
            (uint64_t)code.num <= e->picks[i].last)
            return wadi_poly_make(e->picks[i].value, env, out);
    return false;
}

bool wadi_poly_make(const wad_expr *e, const wadi_poly_env *env, wadi_fraction *out)
{
    wadi_fraction a, b;
    wad_rational hz;
    if (e->value) /* split, but one number here */
        return make_field(e, env, out);
    switch (e->op) {
    case WADI_OP_NUM:
        number(e->num, out);
        return true;
    case WADI_OP_CLOCK:
        if (!env->clock(env->ctx, e->clock, &hz))
            return false;
        number(hz, out);
        return true;
    case WADI_OP_FIELD:
        return make_field(e, env, out);
    case WADI_OP_PICK:
        return make_pick(e, env, out);
    default:
        break;
    }
    bool two = e->op != WADI_OP_NEG && e->op != WADI_OP_FLOOR;
    if (!wadi_poly_make(e->a, env, &a) || (two && !wadi_poly_make(e->b, env, &b)))
        return false;
    switch (e->op) {
    case WADI_OP_NEG:
        number(wadi_int(0), &b);
        return sum(&b, &a, true, out);
    case WADI_OP_ADD:
    case WADI_OP_SUB:
        return sum(&a, &b, e->op == WADI_OP_SUB, out);
    case WADI_OP_MUL:
        return product(&a, &b.num, &b.den, out);
    case WADI_OP_DIV:
        return product(&a, &b.den, &b.num, out);
    default:
        return of_numbers(e, &a, two ? &b : NULL, out);
    }
}
