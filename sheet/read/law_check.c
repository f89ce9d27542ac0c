/* SPDX-License-Identifier: MIT */
/*
 * Laws that divide by what can be 0. A divisor is looked at with its fields at their ends (fields
 * with named values: at each of them): laws are straight lines in each of their fields, so a
 * divisor that is 0 somewhere inside has both signs, or 0, among these.
 */
#include "build.h"
#include "lang/rational.h"
#include "sheet/chip/expression.h"
#include "sheet/chip/query.h"
#include "sheet/laws/evaluate.h"
#include "sheet/laws/extent.h"

#define MOST_FIELDS  8
#define MOST_VALUES  16
#define MOST_CORNERS 65536

typedef struct corner {
    wad_fieldref field;
    uint64_t codes[MOST_VALUES];
    unsigned n, at;
} corner;

typedef struct divisor {
    corner fields[MOST_FIELDS];
    unsigned n;
    bool too_many;
} divisor;

static void fill_codes(corner *c)
{
    const wad_bitfield *f = c->field.field;
    unsigned width = MIN(c->field.width, 62);
    for (unsigned i = 0; f && i < f->n_enums && c->n < MOST_VALUES; i++)
        c->codes[c->n++] = f->enums[i].code;
    if (c->n)
        return;
    c->codes[c->n++] = f && f->not_zero ? 1 : 0;
    c->codes[c->n++] = (UINT64_C(1) << width) - 1;
}

static void collect(divisor *d, const wad_expr *e)
{
    if (!e)
        return;
    if (e->op == WADI_OP_FIELD || e->op == WADI_OP_PICK) {
        unsigned i = 0;
        while (i < d->n && !wadi_same_field(&d->fields[i].field, &e->field))
            i++;
        if (i == MOST_FIELDS) {
            d->too_many = true;
            return;
        }
        if (i == d->n) {
            d->fields[d->n++] = (corner){.field = e->field};
            fill_codes(&d->fields[i]);
        }
    }
    for (unsigned i = 0; i < e->n_picks; i++)
        collect(d, e->picks[i].value);
    collect(d, e->a);
    collect(d, e->b);
}

static bool field_value(void *ctx, const wad_fieldref *ref, uint64_t *code)
{
    divisor *d = ctx;
    for (unsigned i = 0; i < d->n; i++)
        if (wadi_same_field(&d->fields[i].field, ref)) {
            *code = d->fields[i].codes[d->fields[i].at];
            return true;
        }
    return false;
}

static bool clock_value(void *ctx, const wad_clock *clock, wad_rational *hz)
{
    (void)ctx;
    (void)clock;
    *hz = wadi_int(1);
    return true;
}

static bool next_corner(divisor *d)
{
    for (unsigned i = 0; i < d->n; i++) {
        if (++d->fields[i].at < d->fields[i].n)
            return true;
        d->fields[i].at = 0;
    }
    return false;
}

static void check_divisor(const wadi_build *b, const wad_expr *e)
{
    divisor d = {.n = 0};
    wadi_eval env = {.field = field_value, .clock = clock_value, .ctx = &d};
    bool below = false, above = false;
    collect(&d, e);
    if (!d.n || d.too_many)
        return;
    unsigned corners = 0;
    do {
        wad_rational value;
        if (!wadi_expr_eval(e, &env, &value))
            continue;
        below |= value.num <= 0;
        above |= value.num >= 0;
    } while (!(below && above) && ++corners < MOST_CORNERS && next_corner(&d));
    if (!below || !above)
        return;
    char *name = wad_fieldref_name(&d.fields[0].field);
    wadi_error(b->src, &e->where,
               "the law divides by this, which can be 0 (%s = %lld): say 'not 0' of the field, or "
               "add what the datasheet adds",
               name, (long long)d.fields[0].codes[d.fields[0].at]);
    g_free(name);
}

/* ---- sizes ---- */

/* Whole hertz, and thirds of such at most. */
static wadi_extent any_clock(const wad_clock *clock)
{
    (void)clock;
    return (wadi_extent){1e10, 3};
}

static void check_size(const wadi_build *b, const wad_expr *law)
{
    const wad_expr *part = wadi_expr_beyond(law, any_clock, 9.2e18);
    if (!part)
        return;
    wadi_extent x = wadi_expr_extent(part, any_clock);
    char *text = wadi_expr_text(part);
    wadi_error(b->src, &part->where,
               "the law's part %s can reach %.3g, more than 64 bits hold: divide earlier, or say "
               "which values the field may have",
               text, MAX(x.num, x.den));
    g_free(text);
}

static void check_divisors(const wadi_build *b, const wad_expr *law)
{
    if (!law)
        return;
    if (law->op == WADI_OP_DIV)
        check_divisor(b, law->b);
    for (unsigned i = 0; i < law->n_picks; i++)
        check_divisors(b, law->picks[i].value);
    check_divisors(b, law->a);
    check_divisors(b, law->b);
}

void wadi_check_law(const wadi_build *b, const wad_expr *law)
{
    check_divisors(b, law);
    check_size(b, law);
}
