/* SPDX-License-Identifier: MIT */
/*
 * Register values for wanted clocks: every setting of the fields that the laws ask for. A field is
 * tried only when the law, under the fields tried so far, asks for it: with the core on its
 * internal oscillator nothing of the PLL is.
 */
#include <glib.h>
#include <math.h>
#include <string.h>

#include "lang/rational.h"
#include "sheet/chip/expression.h"
#include "sheet/chip/query.h"
#include "sheet/laws/evaluate.h"
#include "wadium/host/clocktree.h"

#define MOST_FIELDS   12
#define MOST_SETTINGS (1u << 24)

typedef struct trial {
    wad_fieldref field;
    uint64_t value;
    bool bound; /* it has a value; else it is the one the laws ask for next */
} trial;

typedef struct search {
    const wad_sheet *sheet;
    const wad_clock_wish *wishes;
    unsigned n_wishes;
    const wad_clock_setting *held;
    unsigned n_held;
    trial trials[MOST_FIELDS];
    unsigned n;
    bool asks;         /* the evaluation met a field without a value ... */
    wad_fieldref next; /* ... this one */
    bool too_many;
    unsigned tried;
    /* clocks that the evaluation passed */
    const wad_clock *used[32];
    unsigned n_used;
    /* the best so far */
    trial best[MOST_FIELDS];
    unsigned n_best;
    const wad_clock *best_used[32];
    unsigned n_best_used, best_changes;
    double best_error;
    bool any;
} search;

static bool field_value(void *ctx, const wad_fieldref *ref, uint64_t *code)
{
    search *s = ctx;
    for (unsigned i = 0; i < s->n; i++)
        if (wadi_same_field(&s->trials[i].field, ref)) {
            *code = s->trials[i].value;
            return true;
        }
    if (!s->asks) {
        s->asks = true;
        s->next = *ref;
    }
    return false;
}

/* Limits may rest on fields that are to be tried still. */
static bool within(const search *s, const wad_clock *clock, const wadi_eval *env, wad_rational hz)
{
    bool asked = s->asks;
    bool beyond = wadi_clock_beyond(clock, env, hz);
    return !beyond && s->asks == asked;
}

static bool clock_value(void *ctx, const wad_clock *clock, wad_rational *hz)
{
    search *s = ctx;
    wadi_eval env = {.field = field_value, .clock = clock_value, .ctx = s};
    if (s->n_used < G_N_ELEMENTS(s->used))
        s->used[s->n_used++] = clock;
    if (!clock->law) {
        *hz = clock->hz;
        return true;
    }
    return wadi_expr_eval(clock->law, &env, hz) && hz->num > 0 && within(s, clock, &env, *hz);
}

/* ---- judging a setting ---- */

static uint64_t reset_value(const wad_fieldref *ref)
{
    return (ref->reg->reset & wad_fieldref_mask(ref)) >> ref->lsb;
}

static unsigned changes(const trial *trials, unsigned n)
{
    unsigned changed = 0;
    for (unsigned i = 0; i < n; i++)
        changed += trials[i].value != reset_value(&trials[i].field);
    return changed;
}

static bool better(const search *s, double error, unsigned changed)
{
    if (!s->any || error < s->best_error - 1e-12)
        return true;
    return error <= s->best_error + 1e-12 && changed < s->best_changes;
}

static void keep(search *s, double error)
{
    unsigned changed = changes(s->trials, s->n);
    if (!better(s, error, changed))
        return;
    s->any = true;
    s->best_error = error;
    s->best_changes = changed;
    s->n_best = s->n;
    s->n_best_used = s->n_used;
    memcpy(s->best, s->trials, sizeof s->best);
    memcpy(s->best_used, s->used, sizeof s->best_used);
}

/* All wishes under the fields tried so far: `asks` when one more is needed first. */
static bool evaluate(search *s, double *error)
{
    s->asks = false;
    s->n_used = 0;
    *error = 0;
    for (unsigned i = 0; i < s->n_wishes; i++) {
        wad_rational hz;
        if (!clock_value(s, s->wishes[i].clock, &hz))
            return false;
        double off = wadi_rat_cmp(hz, s->wishes[i].hz) == 0
                         ? 0
                         : wadi_rat_double(hz) / wadi_rat_double(s->wishes[i].hz) - 1;
        *error = MAX(*error, fabs(off));
    }
    return true;
}

static void try_fields(search *s)
{
    double error;
    if (s->tried++ > MOST_SETTINGS) {
        s->too_many = true;
        return;
    }
    if (evaluate(s, &error)) {
        keep(s, error);
        return;
    }
    if (!s->asks) /* outside a limit, or no such choice */
        return;
    if (s->n == MOST_FIELDS) {
        s->too_many = true;
        return;
    }
    wad_fieldref ref = s->next;
    uint64_t max = (UINT64_C(1) << MIN(ref.width, 32)) - 1;
    trial *t = &s->trials[s->n++];
    uint64_t from = ref.field && ref.field->not_zero;
    for (unsigned i = 0; i < s->n_held; i++)
        if (wadi_same_field(&s->held[i].field, &ref))
            from = max = s->held[i].value;
    for (uint64_t value = from; value <= max && !s->too_many; value++) {
        if (ref.field && ref.field->n_enums && !wad_bitfield_enum(ref.field, value))
            continue;
        *t = (trial){ref, value, true};
        try_fields(s);
    }
    s->n--;
}

/* ---- the plan ---- */

static void add_setting(GArray *list, const wad_fieldref *field, uint64_t value)
{
    wad_clock_setting setting = {*field, value};
    if (value == reset_value(field))
        return;
    for (unsigned i = 0; i < list->len; i++)
        if (wadi_same_field(&g_array_index(list, wad_clock_setting, i).field, field))
            return;
    g_array_append_val(list, setting);
}

static void add_law_fields(const search *s, const wad_expr *e, GArray *list)
{
    if (!e)
        return;
    if (e->op == WADI_OP_FIELD || e->op == WADI_OP_PICK)
        for (unsigned i = 0; i < s->n_best; i++)
            if (wadi_same_field(&s->best[i].field, &e->field))
                add_setting(list, &s->best[i].field, s->best[i].value);
    for (unsigned i = 0; i < e->n_picks; i++)
        add_law_fields(s, e->picks[i].value, list);
    add_law_fields(s, e->a, list);
    add_law_fields(s, e->b, list);
}

/* In the order in which they can be written: sources before what comes from them (they were met
 * after it), and of each its fields before its switch. */
static void make_plan(const search *s, wad_clock_plan *plan)
{
    GArray *list = g_array_new(FALSE, FALSE, sizeof(wad_clock_setting));
    for (unsigned i = 0; i < s->n_best_used; i++) { /* what allows a rate is set before */
        add_law_fields(s, s->best_used[i]->least, list);
        add_law_fields(s, s->best_used[i]->most, list);
    }
    for (unsigned i = s->n_best_used; i-- > 0;) {
        const wad_clock *clock = s->best_used[i];
        add_law_fields(s, clock->law, list);
        for (unsigned k = 0; k < clock->on.n; k++)
            if (clock->on.terms[k].equal)
                add_setting(list, &clock->on.terms[k].ref, clock->on.terms[k].value);
    }
    plan->worst_ppm = s->best_error * 1e6;
    plan->n_settings = list->len;
    plan->settings = (wad_clock_setting *)g_array_free(list, FALSE);
}

bool wad_clock_solve(const wad_sheet *sheet, const wad_clock_wish *wishes, unsigned n,
                     const wad_clock_setting *held, unsigned n_held, wad_clock_plan *plan,
                     char **why)
{
    search *s = g_new0(search, 1);
    s->sheet = sheet;
    s->wishes = wishes;
    s->n_wishes = n;
    s->held = held;
    s->n_held = n_held;
    *plan = (wad_clock_plan){0};
    *why = NULL;
    try_fields(s);
    if (s->too_many)
        *why = g_strdup_printf("more than %u settings would have to be tried", MOST_SETTINGS);
    else if (!s->any)
        *why = g_strdup("no setting keeps all clocks within their limits");
    else
        make_plan(s, plan);
    g_free(s);
    return *why == NULL;
}

void wad_clock_plan_clear(wad_clock_plan *plan)
{
    g_free(plan->settings);
    *plan = (wad_clock_plan){0};
}
