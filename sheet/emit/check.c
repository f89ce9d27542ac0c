/* SPDX-License-Identifier: MIT */
/* What the generated C cannot say: clocks beyond 32 bits, what no driver brings about. */
#include <math.h>

#include "lang/rational.h"
#include "sheet/chip/expression.h"
#include "sheet/read/build.h"

typedef struct checker {
    const wad_sheet *sheet;
    wad_diags *diags;
    bool good;
} checker;

#define CANNOT(c, where, ...)                                                                      \
    (wad_diags_add((c)->diags, WAD_ERROR, (where), NULL, __VA_ARGS__), (c)->good = false)

/* ---- laws: the largest value that each part can have ---- */

static double most_of(const wad_expr *e);

static double most_of_clock(const wad_clock *clock)
{
    double most = clock->law ? most_of(clock->law) : wadi_rat_double(clock->hz);
    double limit = clock->most ? most_of(clock->most) : wadi_rat_double(clock->max_hz);
    return clock->bounded ? MIN(most, limit) : most;
}

static double most_of_field(const wad_fieldref *ref)
{
    double most = ref->width >= 63 ? 1.8e19 : (double)((UINT64_C(1) << ref->width) - 1);
    const wad_bitfield *f = ref->field;
    double named = 0;
    for (unsigned i = 0; f && i < f->n_enums; i++)
        named = MAX(named, f->enums[i].has_meaning ? wadi_rat_double(f->enums[i].meaning)
                                                   : (double)f->enums[i].code);
    return f && f->n_enums ? named : most;
}

static double least_of_field(const wad_fieldref *ref)
{
    const wad_bitfield *f = ref->field;
    double least = f && f->n_enums ? 1e300 : f && f->not_zero ? 1 : 0;
    for (unsigned i = 0; f && i < f->n_enums; i++)
        least = MIN(least, f->enums[i].has_meaning ? wadi_rat_double(f->enums[i].meaning)
                                                   : (double)f->enums[i].code);
    return least;
}

/* Of a divisor, which is never 0: a whole one is 1 at least. */
static double least_of(const wad_expr *e)
{
    switch (e->op) {
    case WADI_OP_NUM:
        return wadi_rat_double(e->num);
    case WADI_OP_FIELD:
        return MAX(least_of_field(&e->field), 1);
    case WADI_OP_ADD: /* a field in it may be 0 */
        return (e->a->op == WADI_OP_FIELD ? least_of_field(&e->a->field) : least_of(e->a)) +
               (e->b->op == WADI_OP_FIELD ? least_of_field(&e->b->field) : least_of(e->b));
    case WADI_OP_MUL:
        return least_of(e->a) * least_of(e->b);
    case WADI_OP_DIV:
        return least_of(e->a) / MAX(most_of(e->b), 1);
    default:
        return 1;
    }
}

static double most_of_binary(const wad_expr *e)
{
    double a = most_of(e->a), b = most_of(e->b);
    switch (e->op) {
    case WADI_OP_ADD:
        return a + b;
    case WADI_OP_SUB:
        return a;
    case WADI_OP_MUL:
        return a * b;
    case WADI_OP_POW:
        return pow(a, b);
    case WADI_OP_DIV:
        return a / least_of(e->b);
    case WADI_OP_MIN:
        return MIN(a, b);
    default:
        return MAX(a, b);
    }
}

static double most_of(const wad_expr *e)
{
    double most = 0;
    switch (e->op) {
    case WADI_OP_NUM:
        return ABS(wadi_rat_double(e->num));
    case WADI_OP_CLOCK:
        return most_of_clock(e->clock);
    case WADI_OP_FIELD:
        return e->value ? 4294967295.0 : most_of_field(&e->field);
    case WADI_OP_PICK:
        for (unsigned i = 0; i < e->n_picks; i++)
            most = MAX(most, most_of(e->picks[i].value));
        return most;
    case WADI_OP_NEG:
    case WADI_OP_FLOOR:
        return most_of(e->a);
    default:
        return most_of_binary(e);
    }
}

/* ---- conditions ---- */

/* Of several alternatives the drivers bring about the first. */
static void check_needs(checker *c, const wad_cond *cond, const char *what)
{
    for (unsigned i = 0; i < cond->n; i++)
        if (!cond->terms[i].equal)
            CANNOT(c, &cond->terms[i].where,
                   "the drivers cannot bring about that a field is not something: say which value "
                   "%s needs",
                   what);
}

static void check_clock(checker *c, const wad_clock *clock)
{
    if (clock->law && most_of_clock(clock) > UINT32_MAX)
        CANNOT(c, &clock->law->where,
               "the generated C tells a clock in 32 bits of hertz, and '%s' can reach %.4g: state "
               "its limits",
               clock->name, most_of_clock(clock));
    check_needs(c, &clock->on, clock->name);
    check_needs(c, &clock->watched, clock->name);
    if (clock->on.n > 1)
        CANNOT(c, &clock->on.terms[1].where,
               "the drivers start a clock by one field: '%s' takes %u", clock->name, clock->on.n);
}

bool wad_emit_check(const wad_sheet *sheet, wad_diags *diags)
{
    checker c = {sheet, diags, true};
    for (unsigned i = 0; i < sheet->n_clocks; i++)
        check_clock(&c, sheet->clocks[i]);
    for (unsigned i = 0; i < sheet->n_blocks; i++)
        check_needs(&c, &sheet->blocks[i]->needs, sheet->blocks[i]->name);
    return c.good;
}
