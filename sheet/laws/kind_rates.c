/* SPDX-License-Identifier: MIT */
/*
 * Laws of rates that a kind gives. A role is a number by its own law, by its codes (`2 is 8`), by
 * what its field's values mean, or by its bits with `plus`, `times` and `power`: as the kind's
 * model in kinds/ reads it. Where a role lies in several ways, it is the one whose condition holds.
 */
#include "kind_rates.h"

#include <string.h>

/* ---- trees ---- */

static wad_expr *node(wad_rate_law *law, wadi_op op, const wad_expr *a, const wad_expr *b)
{
    wad_expr *e = g_new0(wad_expr, 1);
    g_ptr_array_add(law->nodes, e);
    e->op = op;
    e->a = (wad_expr *)a;
    e->b = (wad_expr *)b;
    return e;
}

static wad_expr *constant(wad_rate_law *law, int64_t n)
{
    wad_expr *e = node(law, WADI_OP_NUM, NULL, NULL);
    e->num = wadi_int(n);
    return e;
}

static const wad_expr *plus(wad_rate_law *law, const wad_expr *e, uint64_t n)
{
    return n ? node(law, WADI_OP_ADD, e, constant(law, (int64_t)n)) : e;
}

static const wad_expr *times(wad_rate_law *law, uint64_t n, const wad_expr *e)
{
    return n == 1 ? e : node(law, WADI_OP_MUL, constant(law, (int64_t)n), e);
}

static const wad_expr *power(wad_rate_law *law, uint64_t base, const wad_expr *e)
{
    return node(law, WADI_OP_POW, constant(law, (int64_t)base), e);
}

static const wad_expr *of_clock(wad_rate_law *law, const wad_expr *edges)
{
    const wad_expr *clock = node(law, WADI_OP_CLOCK, NULL, NULL);
    return edges ? node(law, WADI_OP_DIV, clock, edges) : clock;
}

/* ---- where a role lies ---- */

/* By what settings say, else as after reset. */
static bool holds(wad_rate_law *law, const wad_cond *cond)
{
    for (const wad_cond *c = cond; c; c = c->or_else) {
        bool all = true;
        for (unsigned i = 0; i < c->n; i++)
            all &= wad_cond_term_met(&c->terms[i], wadi_rate_field_now(law, &c->terms[i].ref));
        if (all)
            return true;
    }
    return false;
}

static const wad_role *role_of(wad_rate_law *law, const char *name, unsigned *element)
{
    const wad_role *role = wad_layout_role(law->block->layout, name);
    unsigned i = role && role->indexed ? law->element : 0;
    for (; role; role = role->otherwise) {
        if (!role->law && i >= wad_role_count(role))
            continue;
        if (role->when && !holds(law, &role->when[i]))
            continue;
        if (role->when)
            wadi_rate_is_so_while(law, &role->when[i]);
        break;
    }
    *element = i;
    return role;
}

static uint64_t code(const wad_role *role, const char *name, uint64_t otherwise)
{
    for (unsigned i = 0; i < role->n_codes; i++)
        if (!strcmp(role->codes[i].name, name))
            return role->codes[i].value;
    return otherwise;
}

/* Its bits; NULL: it has none, and the law is none. */
static wad_expr *bits_of(wad_rate_law *law, const wad_role *role, unsigned i)
{
    const wad_role_place *place = i < role->n_places ? &role->places[i] : NULL;
    if (place && place->form == WAD_PLACE_ALWAYS)
        return constant(law, (int64_t)place->always);
    if (!place || place->form != WAD_PLACE_BITS) {
        if (!law->why)
            law->why = g_strdup_printf("%s of %s is no number that fields hold: no rate follows",
                                       role->name, law->block->name);
        return NULL;
    }
    wad_expr *e = node(law, WADI_OP_FIELD, NULL, NULL);
    e->field = place->parts[0].ref;
    if (place->n_parts > 1 && role->value)
        e->value = role->value;
    else if (place->n_parts > 1 || place->parts[0].low)
        e->place = place;
    return e;
}

/* ---- what its codes are worth ---- */

typedef struct worth {
    const char *word;
    int64_t number;
} worth;

static const wad_expr *worth_of(wad_rate_law *law, const worth *words, const char *word)
{
    for (; words && word && words->word; words++)
        if (!strcmp(words->word, word))
            return constant(law, words->number);
    return NULL;
}

/* `{ 0 stopped, 1 is 8, 2 .. 7 is 64 }`, and words that are numbers: only those codes are offered.
 * NULL: none is a number. */
static const wad_expr *by_codes(wad_rate_law *law, const wad_role *role, unsigned element,
                                wad_expr *bits, const worth *words)
{
    unsigned n = 0, room = role->n_meanings;
    for (const worth *w = words; w && w->word; w++)
        room++;
    wadi_pick *picks = g_new0(wadi_pick, room + 1);
    g_ptr_array_add(law->nodes, picks);
    for (unsigned i = 0; i < role->n_meanings; i++) {
        const wad_role_meaning *m = &role->meanings[i];
        const wad_expr *is = m->is ? m->is : worth_of(law, words, m->word);
        if (is)
            picks[n++] = (wadi_pick){m->first, m->last, (wad_expr *)is};
    }
    for (const worth *w = words; w && w->word && !role->n_meanings; w++) {
        uint64_t value;
        if (wad_role_code_value(role, w->word, &value))
            picks[n++] = (wadi_pick){value, value, constant(law, w->number)};
    }
    if (!n)
        return NULL;
    bits->op = WADI_OP_PICK;
    if (bits->value)
        bits->place = &role->places[element];
    bits->value = NULL;
    bits->picks = picks;
    bits->n_picks = n;
    return bits;
}

static bool field_means_numbers(const wad_role *role)
{
    const wad_bitfield *f = role->n_codes || role->n_meanings ? NULL : role->field;
    for (unsigned i = 0; f && i < f->n_enums; i++)
        if (f->enums[i].has_meaning)
            return true;
    return false;
}

/* How bits count where nothing says what they are worth: times * (value + plus), or, `plus_last`,
 * plus + times * value; `value` may be a power, to which some kinds add nothing. */
typedef struct coding {
    uint64_t base; /* of a power in any case; the plus is in its exponent */
    bool plus_last, power_alone;
    const worth *words;
} coding;

static const wad_expr *coded(wad_rate_law *law, const wad_role *role, const wad_expr *bits,
                             const coding *c)
{
    uint64_t base = code(role, "power", 0), by = code(role, "times", 1) * code(role, "step", 1),
             more = code(role, "plus", 0);
    if (c->base)
        return power(law, c->base, plus(law, bits, more));
    const wad_expr *e = base ? power(law, base, bits) : bits;
    if (base && c->power_alone)
        return e;
    return c->plus_last ? plus(law, times(law, by ? by : 1, e), more)
                        : times(law, by ? by : 1, plus(law, e, more));
}

/* NULL: the block has no such role; or it is no number, and `law->why` says so. */
static const wad_expr *number(wad_rate_law *law, const char *name, const coding *c)
{
    unsigned i;
    const wad_role *role = role_of(law, name, &i);
    if (!role || role->law)
        return role ? role->law : NULL;
    wad_expr *bits = bits_of(law, role, i);
    if (!bits)
        return NULL;
    const wad_expr *said = by_codes(law, role, i, bits, c->words);
    if (said)
        return said;
    return field_means_numbers(role) ? bits : coded(law, role, bits, c);
}

static unsigned width_of(wad_rate_law *law, const char *name)
{
    unsigned i;
    const wad_role *role = role_of(law, name, &i);
    return role && i < role->n_places ? role->places[i].width : 0;
}

/* ---- the kinds ---- */

static bool has(const wad_rate_law *law, const char *name)
{
    return wad_layout_role(law->block->layout, name) != NULL;
}

/* Counts of a period; of a way up and down, whose top is one less, twice that. */
static const wad_expr *counts_of(wad_rate_law *law, bool up_and_down)
{
    const coding how = {.power_alone = true};
    unsigned i;
    const wad_role *top = role_of(law, "reload", &i), *start = role_of(law, "start", &i);
    unsigned width = width_of(law, top ? "reload" : start ? "start" : "count");
    if (top && up_and_down && !top->law && code(top, "plus", 0) == 1 && !top->n_meanings)
        return times(law, 2, bits_of(law, top, i)); /* 2 * (V + 1 - 1) */
    const wad_expr *counts = number(law, "reload", &how);
    if (top && counts && up_and_down)
        return times(law, 2, node(law, WADI_OP_SUB, counts, constant(law, 1)));
    if (top || up_and_down)
        return counts;
    const wad_expr *from = start ? number(law, "start", &how) : NULL;
    if (!width || width > 62 || (start && !from))
        return NULL;
    counts = constant(law, INT64_C(1) << width);
    return from ? node(law, WADI_OP_SUB, counts, from) : counts;
}

static const wad_expr *counter_rate(wad_rate_law *law, int64_t twice, bool up_and_down)
{
    const coding how = {.power_alone = true};
    const wad_expr *prescaler = has(law, "prescale") ? number(law, "prescale", &how) : NULL;
    const wad_expr *counts = counts_of(law, up_and_down);
    if (!counts || (has(law, "prescale") && !prescaler))
        return NULL;
    counts = prescaler ? node(law, WADI_OP_MUL, prescaler, counts) : counts;
    return of_clock(law, times(law, (uint64_t)twice, counts));
}

static const wad_expr *counter_wrap(wad_rate_law *law)
{
    return counter_rate(law, 1, false);
}

static const wad_expr *counter_toggle(wad_rate_law *law)
{
    return counter_rate(law, 2, false);
}

static const wad_expr *counter_updown(wad_rate_law *law)
{
    uint64_t value;
    const wad_role *mode = wad_layout_role(law->block->layout, "mode");
    bool can = mode && wad_role_code_value(mode, "updown", &value) && has(law, "reload");
    return can ? counter_rate(law, 1, true) : NULL;
}

static const wad_expr *by(wad_rate_law *law, const char *role, const coding *how)
{
    const wad_expr *n = number(law, role, how);
    return n ? of_clock(law, n) : NULL;
}

/* A reload value of 0 counts nothing. */
static const wad_expr *tick_wrap(wad_rate_law *law)
{
    const wad_expr *counts = number(law, "reload", &(coding){0}), *bits = counts;
    if (counts && counts->op == WADI_OP_ADD)
        bits = counts->a;
    law->not_zero = bits && bits->op == WADI_OP_FIELD ? bits : NULL;
    return counts ? of_clock(law, counts) : NULL;
}

static const wad_expr *timebase_count(wad_rate_law *law)
{
    return has(law, "prescale") ? by(law, "prescale", &(coding){0}) : NULL;
}

static const wad_expr *bitrate(wad_rate_law *law)
{
    return by(law, "divider", &(coding){0});
}

static const wad_expr *watchdog_timeout(wad_rate_law *law)
{
    return by(law, "timeout", &(coding){.base = 2});
}

static const wad_expr *uart_baud(wad_rate_law *law)
{
    static const worth samples[] = {{"x16", 16}, {"x8", 8}, {0}};
    const wad_expr *over = constant(law, 16), *divider = number(law, "divider", &(coding){0});
    unsigned bits = width_of(law, "divider_fraction");
    if (has(law, "over"))
        over = number(law, "over", &(coding){.words = samples});
    if (divider && bits) {
        const wad_expr *fraction = number(law, "divider_fraction", &(coding){0});
        const wad_expr *part =
            fraction ? node(law, WADI_OP_DIV, fraction, constant(law, INT64_C(1) << bits)) : NULL;
        divider = part ? node(law, WADI_OP_ADD, divider, part) : NULL;
    }
    return divider && over ? of_clock(law, node(law, WADI_OP_MUL, over, divider)) : NULL;
}

static const wad_expr *adc_clock(wad_rate_law *law)
{
    return has(law, "prescale") ? by(law, "prescale", &(coding){.power_alone = true}) : NULL;
}

static const struct {
    const char *kind, *name;
    const wad_expr *(*make)(wad_rate_law *law);
} rates[] = {{"counter", "wrap", counter_wrap},
             {"counter", "toggle", counter_toggle},
             {"counter", "updown", counter_updown},
             {"tick", "wrap", tick_wrap},
             {"timebase", "count", timebase_count},
             {"uart", "baud", uart_baud},
             {"spi", "bitrate", bitrate},
             {"frames", "bitrate", bitrate},
             {"watchdog", "timeout", watchdog_timeout},
             {"adc", "clock", adc_clock}};

const char *wadi_kind_rate_name(const wad_layout *layout, unsigned i)
{
    for (unsigned k = 0; k < G_N_ELEMENTS(rates); k++)
        if (wad_acts_as(layout, rates[k].kind) && i-- == 0)
            return rates[k].name;
    return NULL;
}

const wad_expr *wadi_kind_rate(wad_rate_law *law, const char *name)
{
    const wad_layout *layout = law->block->layout;
    for (unsigned k = 0; k < G_N_ELEMENTS(rates); k++)
        if (wad_acts_as(layout, rates[k].kind) && !strcmp(rates[k].name, name))
            return rates[k].make(law);
    return NULL;
}
