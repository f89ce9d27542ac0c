/* SPDX-License-Identifier: MIT */
/* What the generated C cannot say yet: 32-bit whole numbers, fields that are equal to something. */
#include "lang/rational.h"
#include "sheet/chip/expression.h"
#include "sheet/read/build.h"

typedef struct checker {
    const wad_sheet *sheet;
    wad_diags *diags;
    bool good;
    unsigned depth; /* of clocks in clocks */
} checker;

#define CANNOT(c, where, ...)                                                                      \
    (wad_diags_add((c)->diags, WAD_ERROR, (where), NULL, __VA_ARGS__), (c)->good = false)

/* ---- laws: the largest value that each part can have ---- */

static double most_of(checker *c, const wad_expr *e);

static double most_of_clock(checker *c, const wad_clock *clock)
{
    if (!clock || c->depth > 32)
        return 0;
    if (!clock->law)
        return wadi_rat_double(clock->hz);
    bool good = c->good; /* its own law is looked at for itself */
    wad_diags *diags = c->diags;
    c->diags = wad_diags_new();
    c->depth++;
    double most = most_of(c, clock->law);
    c->depth--;
    wad_diags_free(c->diags);
    c->diags = diags;
    c->good = good;
    if (clock->bounded)
        most = MIN(most, wadi_rat_double(clock->max_hz));
    return most;
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

/* At least 1, so that a division makes nothing larger. */
static double least_of(const wad_expr *e)
{
    double least = 1;
    if (e->op == WADI_OP_NUM)
        least = wadi_rat_double(e->num);
    else if (e->op == WADI_OP_FIELD)
        least = least_of_field(&e->field);
    else if (e->op == WADI_OP_ADD)
        least = (e->a->op == WADI_OP_FIELD ? least_of_field(&e->a->field) : 0) + least_of(e->b);
    return MAX(least, 1);
}

static bool has_clock(const wad_expr *e)
{
    if (!e)
        return false;
    bool has = e->op == WADI_OP_CLOCK || has_clock(e->a) || has_clock(e->b);
    for (unsigned i = 0; i < e->n_picks && !has; i++)
        has = has_clock(e->picks[i].value);
    return has;
}

static double most_of_binary(checker *c, const wad_expr *e)
{
    double a = most_of(c, e->a), b = most_of(c, e->b);
    switch (e->op) {
    case WADI_OP_ADD:
        return a + b;
    case WADI_OP_SUB:
        return a;
    case WADI_OP_MUL:
        return a * b;
    case WADI_OP_POW: {
        double most = 1;
        for (double i = 0; i < b && most < 1e30; i++)
            most *= a;
        return most;
    }
    case WADI_OP_DIV:
        if (!has_clock(e->a))
            CANNOT(c, &e->where,
                   "the generated C counts in whole numbers, and this quotient has a fraction: "
                   "multiply by the clock first, then divide");
        return a / least_of(e->b);
    case WADI_OP_MIN:
        return MIN(a, b);
    default:
        return MAX(a, b);
    }
}

static double most_of(checker *c, const wad_expr *e)
{
    double most = 0;
    switch (e->op) {
    case WADI_OP_NUM:
        if (e->num.den != 1)
            CANNOT(c, &e->where,
                   "the generated C counts in whole numbers: write %lld / %lld, behind what it is "
                   "multiplied with",
                   (long long)e->num.num, (long long)e->num.den);
        return ABS(wadi_rat_double(e->num));
    case WADI_OP_CLOCK:
        return most_of_clock(c, e->clock);
    case WADI_OP_FIELD:
        return e->value ? 4294967295.0 : most_of_field(&e->field);
    case WADI_OP_PICK:
        for (unsigned i = 0; i < e->n_picks; i++)
            most = MAX(most, most_of(c, e->picks[i].value));
        return most;
    case WADI_OP_NEG:
    case WADI_OP_FLOOR:
        return most_of(c, e->a);
    default:
        most = most_of_binary(c, e);
    }
    if (most > 4294967295.0) {
        CANNOT(c, &e->where,
               "the generated C counts in 32 bits, and this can reach %.4g: divide first, or state "
               "the limits of what it is made of",
               most);
        most = 4294967295.0; /* said once */
    }
    return most;
}

/* ---- conditions ---- */

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
    if (clock->law)
        most_of(c, clock->law);
    check_needs(c, &clock->on, clock->name);
    check_needs(c, &clock->watched, clock->name);
    if (clock->on.n > 1)
        CANNOT(c, &clock->on.terms[1].where,
               "the drivers start a clock by one field: '%s' takes %u", clock->name, clock->on.n);
}

bool wad_emit_check(const wad_sheet *sheet, wad_diags *diags)
{
    checker c = {sheet, diags, true, 0};
    for (unsigned i = 0; i < sheet->n_clocks; i++)
        check_clock(&c, sheet->clocks[i]);
    for (unsigned i = 0; i < sheet->n_blocks; i++)
        check_needs(&c, &sheet->blocks[i]->needs, sheet->blocks[i]->name);
    return c.good;
}
