/* SPDX-License-Identifier: MIT */
#include "extent.h"

#include <glib.h>
#include <math.h>

#include "lang/rational.h"

int64_t wadi_meanings_denominator(const wad_bitfield *f)
{
    int64_t all = 1;
    for (unsigned i = 0; f && i < f->n_enums; i++) {
        if (!f->enums[i].has_meaning)
            continue;
        /* the least number that both divide: theirs in lowest terms says what is missing */
        wad_rational share;
        if (wadi_rat_make(f->enums[i].meaning.den, all, &share))
            all = f->enums[i].meaning.den * share.den;
    }
    return all;
}

static wadi_extent of_field(const wad_expr *e)
{
    const wad_bitfield *f = e->field.field;
    double most = ldexp(1, e->field.width) - 1, den = (double)wadi_meanings_denominator(f);
    for (unsigned i = 0; f && i < f->n_enums; i++)
        if (f->enums[i].has_meaning)
            most = MAX(most, wadi_rat_double(f->enums[i].meaning));
    return (wadi_extent){most * den, den};
}

static wadi_extent of_power(const wad_expr *e, wadi_clock_extent clock)
{
    wadi_extent base = wadi_expr_extent(e->a, clock), to = wadi_expr_extent(e->b, clock);
    double n = MIN(to.num, 1024);
    return (wadi_extent){pow(base.num, n), pow(base.den, n)};
}

wadi_extent wadi_expr_extent(const wad_expr *e, wadi_clock_extent clock)
{
    wadi_extent a, b, most = {0, 1};
    if (!e)
        return (wadi_extent){1, 1};
    switch (e->op) {
    case WADI_OP_NUM:
        return (wadi_extent){fabs((double)e->num.num), (double)e->num.den};
    case WADI_OP_CLOCK:
        return clock(e->clock);
    case WADI_OP_FIELD:
        return of_field(e);
    case WADI_OP_WRITTEN:
        return (wadi_extent){UINT32_MAX, 1};
    case WADI_OP_PICK:
        for (unsigned i = 0; i < e->n_picks; i++) {
            a = wadi_expr_extent(e->picks[i].value, clock);
            most = (wadi_extent){MAX(most.num, a.num), MAX(most.den, a.den)};
        }
        return most;
    case WADI_OP_POW:
        return of_power(e, clock);
    case WADI_OP_NEG:
    case WADI_OP_FLOOR:
        return wadi_expr_extent(e->a, clock);
    case WADI_OP_NOT:
    case WADI_OP_ONES:
        return (wadi_extent){UINT32_MAX, 1};
    default:
        break;
    }
    a = wadi_expr_extent(e->a, clock);
    b = wadi_expr_extent(e->b, clock);
    switch (e->op) {
    case WADI_OP_MUL:
        return (wadi_extent){a.num * b.num, a.den * b.den};
    case WADI_OP_DIV:
        return (wadi_extent){a.num * b.den, a.den * b.num};
    case WADI_OP_ADD:
    case WADI_OP_SUB:
        return (wadi_extent){a.num * b.den + b.num * a.den, a.den * b.den};
    default: /* of the two the smaller or the greater, over one denominator */
        return (wadi_extent){MAX(a.num * b.den, b.num * a.den), a.den * b.den};
    }
}

const wad_expr *wadi_expr_beyond(const wad_expr *e, wadi_clock_extent clock, double limit)
{
    if (!e)
        return NULL;
    for (unsigned i = 0; i < e->n_picks; i++) {
        const wad_expr *part = wadi_expr_beyond(e->picks[i].value, clock, limit);
        if (part)
            return part;
    }
    const wad_expr *part = wadi_expr_beyond(e->a, clock, limit);
    part = part ? part : wadi_expr_beyond(e->b, clock, limit);
    wadi_extent x = wadi_expr_extent(e, clock);
    return part ? part : x.num > limit || x.den > limit ? e : NULL;
}
