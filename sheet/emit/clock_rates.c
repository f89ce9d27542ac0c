/* SPDX-License-Identifier: MIT */
/* Clocks as functions in C, by their laws. */
#include <string.h>

#include "emit.h"
#include "lang/rational.h"
#include "roles.h"
#include "sheet/chip/c_name.h"
#include "sheet/chip/expression.h"
#include "sheet/chip/value.h"
#include "sheet/laws/extent.h"

/*
 * A law as one fraction, so that a division in the middle loses nothing: what divides gathers in
 * the denominator, and one division at the end makes whole hertz of it. In 64 bits where the law
 * can reach beyond 32.
 */
typedef struct fraction {
    char *num, *den; /* C; den NULL: 1 */
} fraction;

static fraction fraction_of(const wadi_emitter *e, const wad_expr *x, bool wide);

static char *whole(int64_t n, bool wide)
{
    return g_strdup_printf("UINT%d_C(%lld)", wide ? 64 : 32, (long long)n);
}

static char *read_field(const wadi_emitter *e, const wad_fieldref *ref, bool wide)
{
    char *reg = wadi_emit_lower(ref->reg->name);
    char *field = wadi_emit_lower(ref->field ? ref->field->name : "value");
    bool element = (ref->field && ref->field->count) || ref->reg->count;
    char *name = g_strdup_printf("%s_%s_%s_%s", e->lower, ref->block->layout->name, reg, field);
    char *place =
        element ? g_strdup_printf("wad_at(%s, %u)", name,
                                  ref->field && ref->field->count ? ref->index : ref->reg_index)
                : g_strdup(name);
    char *text = g_strdup_printf("%swad_get(%s_%s_BASE, %s)", wide ? "(uint64_t)" : "", e->upper,
                                 ref->block->name, place);
    g_free(reg);
    g_free(field);
    g_free(name);
    g_free(place);
    return text;
}

/* A field in a law: its value, or what the sheet says a value `is`. */
static fraction of_field(const wadi_emitter *e, const wad_fieldref *ref, bool wide)
{
    int64_t den = wadi_meanings_denominator(ref->field);
    char *value = read_field(e, ref, wide);
    GString *text = g_string_new("(");
    for (unsigned i = 0; ref->field && i < ref->field->n_enums; i++) {
        const wad_enumerator *en = &ref->field->enums[i];
        if (!en->has_meaning)
            continue;
        char *means = whole(en->meaning.num * (den / en->meaning.den), wide);
        g_string_append_printf(text, "%s == %lluu ? %s : ", value, (unsigned long long)en->code,
                               means);
        g_free(means);
    }
    g_string_append(text, value);
    if (den > 1)
        g_string_append_printf(text, " * %lldu", (long long)den);
    g_string_append_c(text, ')');
    g_free(value);
    return (fraction){g_string_free(text, FALSE), den > 1 ? whole(den, wide) : NULL};
}

/* `a` op `b`, each gone afterwards; NULL is 1. */
static char *joined(char *a, const char *op, char *b)
{
    char *text = g_strdup_printf("(%s%s%s)", a, op, b);
    g_free(a);
    g_free(b);
    return text;
}

static char *product(char *a, char *b)
{
    return !a ? b : !b ? a : joined(a, " * ", b);
}

/* Both over one denominator. */
static char *to_common(fraction *a, fraction *b)
{
    char *den = a->den;
    if (g_strcmp0(a->den, b->den)) {
        a->num = product(a->num, g_strdup(b->den));
        b->num = product(b->num, g_strdup(a->den));
        den = product(a->den, b->den);
    } else {
        g_free(b->den);
    }
    a->den = b->den = NULL;
    return den;
}

static char *integer(fraction f)
{
    return f.den ? joined(f.num, " / ", f.den) : f.num;
}

static char *case_of(const wadi_emitter *e, const wadi_pick *p, const wad_fieldref *ref)
{
    char *value = read_field(e, ref, false);
    unsigned long long first = p->code, last = p->last;
    char *text = first == last ? g_strdup_printf("%s == %lluu", value, first)
                 : !first
                     ? g_strdup_printf("%s <= %lluu", value, last)
                     : g_strdup_printf("(%s >= %lluu && %s <= %lluu)", value, first, value, last);
    g_free(value);
    return text;
}

/* The last is for all other codes. */
static fraction of_pick(const wadi_emitter *e, const wad_expr *x, bool wide)
{
    fraction all = fraction_of(e, x->picks[x->n_picks - 1].value, wide);
    for (unsigned i = x->n_picks - 1; i-- > 0;) {
        fraction one = fraction_of(e, x->picks[i].value, wide);
        char *is = case_of(e, &x->picks[i], &x->field), *num = all.num, *den = all.den;
        bool same = !g_strcmp0(one.den, den);
        all.num = g_strdup_printf("(%s ? %s\n            : %s)", is, one.num, num);
        if (!same)
            all.den =
                g_strdup_printf("(%s ? %s : %s)", is, one.den ? one.den : "1u", den ? den : "1u");
        g_free(is);
        g_free(num);
        if (!same)
            g_free(den);
        g_free(one.num);
        g_free(one.den);
    }
    return all;
}

static char *power(char *base, const char *to, bool two, bool wide)
{
    char *text = !base ? NULL
                 : two
                     ? g_strdup_printf("(%s << %s)", wide ? "(uint64_t)1" : "(uint32_t)1", to)
                     : g_strdup_printf("%s(%s, %s)", wide ? "wad_power64" : "wad_power", base, to);
    g_free(base);
    return text;
}

static fraction of_power(const wadi_emitter *e, const wad_expr *x, bool wide)
{
    bool two = x->a->op == WADI_OP_NUM && x->a->num.num == 2 && x->a->num.den == 1;
    fraction base = fraction_of(e, x->a, wide);
    char *to = integer(fraction_of(e, x->b, false));
    fraction all = {power(base.num, to, two, wide), power(base.den, to, false, wide)};
    g_free(to);
    return all;
}

static fraction of_smaller(const wad_expr *x, fraction a, fraction b)
{
    char *den = to_common(&a, &b);
    char *num = g_strdup_printf("(%s %c %s ? %s : %s)", a.num, x->op == WADI_OP_MIN ? '<' : '>',
                                b.num, a.num, b.num);
    g_free(a.num);
    g_free(b.num);
    return (fraction){num, den};
}

static fraction of_two(const wadi_emitter *e, const wad_expr *x, bool wide)
{
    fraction a = fraction_of(e, x->a, wide), b = fraction_of(e, x->b, wide);
    char *den;
    switch (x->op) {
    case WADI_OP_MUL:
        return (fraction){product(a.num, b.num), product(a.den, b.den)};
    case WADI_OP_DIV:
        return (fraction){product(a.num, b.den), product(a.den, b.num)};
    case WADI_OP_ADD:
    case WADI_OP_SUB:
        den = to_common(&a, &b);
        return (fraction){joined(a.num, x->op == WADI_OP_ADD ? " + " : " - ", b.num), den};
    default:
        return of_smaller(x, a, b);
    }
}

static fraction fraction_of(const wadi_emitter *e, const wad_expr *x, bool wide)
{
    fraction a;
    switch (x->op) {
    case WADI_OP_NUM:
        return (fraction){whole(x->num.num, wide), x->num.den > 1 ? whole(x->num.den, wide) : NULL};
    case WADI_OP_CLOCK:
        return (fraction){
            g_strdup_printf("%s%s_%s_hz()", wide ? "(uint64_t)" : "", e->lower, x->clock->name),
            NULL};
    case WADI_OP_FIELD:
        return of_field(e, &x->field, wide);
    case WADI_OP_NEG: /* unsigned arithmetic wraps: -a + b comes out right */
        a = fraction_of(e, x->a, wide);
        return (fraction){joined(whole(0, wide), " - ", a.num), a.den};
    case WADI_OP_PICK:
        return of_pick(e, x, wide);
    case WADI_OP_FLOOR:
        return (fraction){integer(fraction_of(e, x->a, wide)), NULL};
    case WADI_OP_POW:
        return of_power(e, x, wide);
    default:
        return of_two(e, x, wide);
    }
}

/* What a clock can be at most, by its law; on the target these are whole hertz. */
static wadi_extent most_of(const wad_clock *clock)
{
    double hz = clock->law ? wadi_expr_extent(clock->law, most_of).num : wadi_rat_double(clock->hz);
    return (wadi_extent){hz, 1};
}

static void emit_law(const wadi_emitter *e, const wad_expr *law)
{
    bool wide = wadi_expr_beyond(law, most_of, UINT32_MAX) != NULL;
    char *text = integer(fraction_of(e, law, wide));
    fprintf(e->out, "%s%s", wide ? "(uint32_t)" : "", text);
    g_free(text);
}

void wadi_emit_need(wadi_emitter *e, const wad_fieldref *ref, uint64_t value)
{
    bool wait = ref->field && (ref->field->access == WAD_ACCESS_RO);
    fprintf(e->out,
            "{.address = WAD_ADDRESS(0x%08llXu), .mask = 0x%llXu, .value = 0x%llXu, "
            ".size = %u, .wait = %u}",
            (unsigned long long)wad_fieldref_address(ref),
            (unsigned long long)wad_fieldref_mask(ref), (unsigned long long)(value << ref->lsb),
            wad_register_bytes(ref->reg), wait);
}

/* Clocks first used stand first: a law only names functions that exist. */
static void emit_clock(wadi_emitter *e, const wad_clock *clock, bool *done);

static void emit_clocks_of(wadi_emitter *e, const wad_expr *x, bool *done)
{
    if (!x)
        return;
    if (x->op == WADI_OP_CLOCK && x->clock)
        emit_clock(e, x->clock, done);
    for (unsigned i = 0; i < x->n_picks; i++)
        emit_clocks_of(e, x->picks[i].value, done);
    emit_clocks_of(e, x->a, done);
    emit_clocks_of(e, x->b, done);
}

static void emit_clock(wadi_emitter *e, const wad_clock *clock, bool *done)
{
    if (done[clock->index])
        return;
    done[clock->index] = true;
    emit_clocks_of(e, clock->law, done);
    fprintf(e->out, "\nstatic inline uint32_t %s_%s_hz(void)\n{\n    return ", e->lower,
            clock->name);
    if (clock->law)
        emit_law(e, clock->law);
    else
        fprintf(e->out, "%lldu", (long long)(clock->hz.num / clock->hz.den));
    fprintf(e->out, ";\n}\n\nstatic const wad_clock_source %s_clock_%s = {\n    .hz = %s_%s_hz,\n",
            e->lower, clock->name, e->lower, clock->name);
    if (clock->on.n) {
        fprintf(e->out, "    .on = ");
        wadi_emit_need(e, &clock->on.terms[0].ref, clock->on.terms[0].value);
        fprintf(e->out, ",\n");
    }
    if (clock->ready.reg) {
        fprintf(e->out, "    .ready = ");
        wadi_emit_need(e, &clock->ready, 1);
        fprintf(e->out, ",\n");
    }
    if (clock->watched.n) {
        fprintf(e->out, "    .watch = ");
        wadi_emit_need(e, &clock->watched.terms[0].ref, clock->watched.terms[0].value);
        fprintf(e->out, ",\n");
    }
    fprintf(e->out, "};\n");
}

void wadi_emit_clock_rates(wadi_emitter *e)
{
    bool *done = g_new0(bool, e->sheet->n_clocks + 1);
    fprintf(e->out, "\n/* ---- clocks ---- */\n");
    for (unsigned i = 0; i < e->sheet->n_clocks; i++)
        emit_clock(e, e->sheet->clocks[i], done);
    g_free(done);
}
