/* SPDX-License-Identifier: MIT */
/* Why a step is made, from what the sheet says of its fields; and whether it comes too early. */
#include <string.h>

#include "lang/rational.h"
#include "record.h"

static void clause(GString *text, const char *format, ...) G_GNUC_PRINTF(2, 3);
static void clause(GString *text, const char *format, ...)
{
    va_list args;
    if (text->len)
        g_string_append(text, "; ");
    va_start(args, format);
    g_string_append_vprintf(text, format, args);
    va_end(args);
}

static const wad_register *own_register(const wad_step *step)
{
    return step->reg->alias ? step->reg->alias_of : step->reg;
}

/* The field's value under a word, when it lies in the step's register. */
static bool lies_here(const wad_step *step, const wad_fieldref *ref)
{
    return ref->reg == own_register(step) && ref->block == step->block &&
           ref->reg_index == step->reg_index;
}

static uint64_t value_in(const wad_fieldref *ref, uint32_t word)
{
    return (word & wad_fieldref_mask(ref)) >> ref->lsb;
}

static bool term_holds(const wad_cond_term *t, uint64_t value)
{
    return wad_cond_term_met(t, value);
}

/* ---- clocks ---- */

/* Does the step turn a condition of one register from unmet to met (or back)? */
static int turned(const wad_step *step, const wad_cond_term *t)
{
    if (!lies_here(step, &t->ref))
        return 0;
    bool was = term_holds(t, value_in(&t->ref, step->before)),
         is = term_holds(t, value_in(&t->ref, step->after));
    return (int)is - (int)was;
}

static void explain_sources(const wad_steps *s, const wad_step *step, GString *text)
{
    for (unsigned i = 0; i < s->sheet->n_clocks; i++) {
        const wad_clock *c = s->sheet->clocks[i];
        for (unsigned k = 0; k < c->on.n && step->kind == WAD_STEP_WRITE; k++)
            if (turned(step, &c->on.terms[k]))
                clause(text, "switches clock %s %s", c->name,
                       turned(step, &c->on.terms[k]) > 0 ? "on" : "off");
        if (step->kind == WAD_STEP_WAIT && c->ready.reg && lies_here(step, &c->ready) &&
            (step->count == 1 || value_in(&c->ready, step->before ^ step->after)))
            clause(text, value_in(&c->ready, step->after) ? "clock %s runs" : "clock %s is off",
                   c->name);
    }
}

static bool law_uses(const wad_clock *c, const wad_step *step, wad_regs *with, const wad_sheet *s,
                     wad_rational *was, wad_rational *is)
{
    wad_fieldref ref = {
        .block = step->block, .reg = own_register(step), .reg_index = step->reg_index};
    bool known = wad_clock_rate(s, c, wad_regs_read, with, was, NULL);
    wad_regs_put(with, &ref, step->after);
    known = wad_clock_rate(s, c, wad_regs_read, with, is, NULL) && known;
    wad_regs_put(with, &ref, step->before);
    return known && wadi_rat_cmp(*was, *is) != 0;
}

static void explain_rates(const wad_steps *s, const wad_step *step, GString *text)
{
    for (unsigned i = 0; i < s->sheet->n_clocks && step->before != step->after; i++) {
        const wad_clock *c = s->sheet->clocks[i];
        wad_rational was, is;
        char a[32], b[32];
        if (!c->law || !law_uses(c, step, s->regs, s->sheet, &was, &is))
            continue;
        wad_format_hz(a, sizeof a, was);
        wad_format_hz(b, sizeof b, is);
        clause(text, "%s %s to %s", c->name, a, b);
    }
}

/* ---- what blocks need ---- */

typedef enum need_kind { NEED_OTHER, NEED_GATE, NEED_RESET, NEED_DONE } need_kind;

static need_kind kind_of(const wad_cond_term *t)
{
    const wad_layout *l = t->ref.block->layout;
    const struct {
        const char *role;
        need_kind kind;
    } roles[] = {{"gates", NEED_GATE}, {"resets", NEED_RESET}, {"resets_done", NEED_DONE}};
    for (unsigned i = 0; wad_acts_as(l, "clocks") && i < G_N_ELEMENTS(roles); i++) {
        const wad_role *role = wad_layout_role(l, roles[i].role);
        if (role && role->reg == t->ref.reg)
            return roles[i].kind;
    }
    return NEED_OTHER;
}

static const char *const met[] = {"meets a need of", "opens the clock gate of",
                                  "releases the reset of", "out of reset:"};
static const char *const unmet[] = {"takes away a need of", "closes the clock gate of", "resets",
                                    "in reset:"};

/* An earlier need of the block that does not hold yet: the order is the sheet's. */
static const wad_cond_term *unmet_before(const wad_steps *s, const wad_instance *b, unsigned k)
{
    for (unsigned i = 0; i < k; i++)
        if (!term_holds(&b->needs.terms[i], wad_regs_get(s->regs, &b->needs.terms[i].ref)) &&
            b->needs.terms[i].ref.field && b->needs.terms[i].ref.field->access != WAD_ACCESS_RO)
            return &b->needs.terms[i];
    return NULL;
}

/* One look was enough: it was for the blocks that have all but this, and were not up yet. */
static int looked_at_once(const wad_steps *s, const wad_step *step, const wad_instance *b,
                          const wad_cond_term *t)
{
    return lies_here(step, &t->ref) && term_holds(t, value_in(&t->ref, step->after)) &&
           !s->stages[b->index].up && !unmet_before(s, b, b->needs.n);
}

static void explain_needs(wad_steps *s, const wad_step *step, GString *text, GString *warning)
{
    for (unsigned i = 0; i < s->sheet->n_blocks; i++) {
        const wad_instance *b = s->sheet->blocks[i];
        for (unsigned k = 0; k < b->needs.n; k++) {
            const wad_cond_term *t = &b->needs.terms[k];
            bool wait = step->kind == WAD_STEP_WAIT;
            int way = wait && step->count == 1 ? looked_at_once(s, step, b, t) : turned(step, t);
            if (!way)
                continue;
            s->stages[i].up |= wait && way > 0;
            clause(text, "%s %s", (way > 0 ? met : unmet)[kind_of(t)], b->name);
            const wad_cond_term *before = way > 0 && !wait ? unmet_before(s, b, k) : NULL;
            if (!before)
                continue;
            char *name = wad_fieldref_name(&before->ref);
            clause(warning, "%s first needs %s %s %llu", b->name, name,
                   before->equal ? "=" : "!=", (unsigned long long)before->value);
            g_free(name);
        }
    }
}

/* ---- pins ---- */

static void explain_function(const wad_steps *s, const wad_step *step, GString *text)
{
    const wad_instance *port = step->block;
    const wad_role *role = port->n_carries ? wad_layout_role(port->layout, "function") : NULL;
    for (unsigned n = 0; role && n < port->n_carries; n++) {
        wad_fieldref ref = wad_role_ref(port, role, n);
        if (!lies_here(step, &ref) || value_in(&ref, step->before) == value_in(&ref, step->after))
            continue;
        uint64_t fn = value_in(&ref, step->after);
        const char *owner = NULL, *name = NULL;
        for (unsigned i = 0; i < s->sheet->n_blocks; i++)
            for (unsigned k = 0; k < s->sheet->blocks[i]->n_signals; k++)
                for (unsigned o = 0; o < s->sheet->blocks[i]->signals[k].n_options; o++) {
                    const wad_pin_option *opt = &s->sheet->blocks[i]->signals[k].options[o];
                    if (opt->pin->port == port && opt->pin->number == n && opt->fn == fn &&
                        !s->sheet->blocks[i]->route.reg) {
                        owner = s->sheet->blocks[i]->name;
                        name = s->sheet->blocks[i]->signals[k].name;
                    }
                }
        if (fn && owner)
            clause(text, "%s%u becomes %s.%s", port->carries, n, owner, name);
        else
            clause(text, fn ? "%s%u gets function %llu" : "%s%u goes back to its port",
                   port->carries, n, (unsigned long long)fn);
    }
}

static void explain_groups(const wad_steps *s, const wad_step *step, GString *text)
{
    for (unsigned i = 0; i < s->sheet->n_blocks; i++) {
        const wad_instance *b = s->sheet->blocks[i];
        if (!b->route.reg || !lies_here(step, &b->route) ||
            value_in(&b->route, step->before) == value_in(&b->route, step->after))
            continue;
        uint64_t group = value_in(&b->route, step->after);
        clause(text,
               group ? "signals of %s come out at group %llu" : "signals of %s leave the pins",
               b->name, (unsigned long long)group);
    }
}

/* ---- roles, and what the sheet says of a field ---- */

static const wad_role *role_of(const wad_layout *l, const wad_register *reg,
                               const wad_bitfield *field)
{
    for (unsigned i = 0; i < l->n_roles; i++) {
        const wad_role *r = &l->roles[i];
        for (unsigned e = 0; e < r->n_places; e++)
            for (unsigned k = 0; k < r->places[e].n_parts; k++) {
                const wad_fieldref *ref = &r->places[e].parts[k].ref;
                if (ref->reg == reg && (ref->field == field || !field))
                    return r;
            }
    }
    return NULL;
}

static bool is_flag(const wad_bitfield *f)
{
    return f->access == WAD_ACCESS_W1C || f->access == WAD_ACCESS_W0C;
}

/* A field that was written on purpose: it changed, is a flag to be cleared, or acts when written.
 */
static bool was_meant(const wad_step *step, const wad_bitfield *f, uint32_t mask)
{
    bool strobe = f->access == WAD_ACCESS_WO || f->access == WAD_ACCESS_W1C ||
                  f->access == WAD_ACCESS_W1S || f->access == WAD_ACCESS_W1T ||
                  f->access == WAD_ACCESS_PULSE;
    if (f->access == WAD_ACCESS_W0C || f->access == WAD_ACCESS_W0S || f->access == WAD_ACCESS_W0T)
        return (~step->value & mask) != 0;
    return ((step->before ^ step->after) & mask) || (strobe && (step->value & mask));
}

static void explain_field(const wad_step *step, const wad_bitfield *f, GString *text)
{
    const wad_layout *l = step->block->layout;
    const wad_role *role = role_of(l, own_register(step), f);
    const char *what = f->text;
    if (is_flag(f)) {
        clause(text, "clears flag %s", f->name);
        return;
    }
    if (role && l->kind && !what) {
        int at = wad_kind_role_index(l->kind, role->name);
        what = at >= 0 && *l->kind->roles[at].text ? l->kind->roles[at].text : NULL;
    }
    if (what)
        clause(text, "%s", what);
}

static void explain_fields(const wad_step *step, GString *text)
{
    const wad_register *reg = own_register(step);
    unsigned told = 0;
    for (unsigned i = 0; i < reg->n_fields && told < 4; i++) {
        const wad_bitfield *f = reg->fields[i];
        bool meant = false;
        for (unsigned k = 0; f->name && k < (f->count ? f->per_reg : 1u); k++) {
            wad_fieldref ref = {
                .field = f, .lsb = (uint8_t)(f->lsb + k * f->step), .width = f->width};
            meant |= was_meant(step, f, (uint32_t)wad_fieldref_mask(&ref));
        }
        if (!meant)
            continue;
        explain_field(step, f, text);
        told++;
    }
}

/* ---- order within a block ---- */

/* Settings are written before the enable bit: the first write to one of them afterwards is late. */
static void check_stage(wad_steps *s, const wad_step *step, GString *warning)
{
    const wad_instance *b = step->block;
    const wad_role *enable = b->layout->kind ? wad_layout_role(b->layout, "enable") : NULL;
    wadi_stage *stage = &s->stages[b->index];
    if (!enable || enable->indexed || !enable->field)
        return;
    wad_fieldref ref = wad_role_ref(b, enable, 0);
    bool here = lies_here(step, &ref);
    static const char *const settings[] = {"prescale", "reload",   "start", "mode",
                                           "one_shot", "autoload", "shadow"};
    for (unsigned i = 0; i < G_N_ELEMENTS(settings); i++) {
        const wad_role *role = wad_layout_role(b->layout, settings[i]);
        if (!role || !role->field || here)
            continue;
        wad_fieldref set = wad_role_ref(b, role, 0);
        if (!lies_here(step, &set))
            continue;
        if (stage->enabled && !g_hash_table_contains(stage->configured, role->reg))
            clause(warning, "%s was enabled before this was set", b->name);
        g_hash_table_add(stage->configured, (gpointer)role->reg);
    }
    if (here)
        stage->enabled = value_in(&ref, step->after) != 0;
}

/* ---- all of it ---- */

static void explain_wait(const wad_step *step, GString *text, GString *warning)
{
    if (step->count > 1 && step->before == step->after && !text->len)
        clause(warning, "looked at %u times without a change", step->count);
    if (text->len)
        return;
    const wad_register *reg = step->reg;
    for (unsigned i = 0; i < reg->n_fields; i++) {
        const wad_bitfield *f = reg->fields[i];
        wad_fieldref ref = {.field = f, .lsb = f->lsb, .width = f->width};
        if (f->text && (step->before ^ step->after) & (uint32_t)wad_fieldref_mask(&ref))
            clause(text, "%s", f->text);
    }
}

static const char *keep(wad_steps *s, GString *text, const char *ref)
{
    if (text->len && ref)
        g_string_append_printf(text, " (%s)", ref);
    const char *kept = text->len ? g_string_chunk_insert_const(s->texts, text->str) : NULL;
    g_string_free(text, TRUE);
    return kept;
}

void wadi_step_explain(wad_steps *s, wad_step *step)
{
    GString *text = g_string_new(NULL), *warning = g_string_new(NULL);
    explain_sources(s, step, text);
    explain_needs(s, step, text, warning);
    if (step->kind == WAD_STEP_WAIT) {
        explain_wait(step, text, warning);
    } else {
        explain_rates(s, step, text);
        explain_function(s, step, text);
        explain_groups(s, step, text);
        if (!text->len)
            explain_fields(step, text);
        if (!text->len)
            clause(text, "%s",
                   step->before == step->after ? "as it was already"
                   : step->reg->text           ? step->reg->text
                                               : "no description in the sheet");
        check_stage(s, step, warning);
    }
    step->reason = keep(s, text, own_register(step)->ref);
    step->warning = keep(s, warning, NULL);
}

void wadi_steps_finish(wad_steps *s)
{
    for (unsigned i = 0; i < s->sheet->n_blocks && !s->judged; i++) {
        const wad_instance *b = s->sheet->blocks[i];
        if (s->stages[i].enabled || !g_hash_table_size(s->stages[i].configured))
            continue;
        char *text = g_strdup_printf("%s was set up but never enabled", b->name);
        wad_step step = {.kind = WAD_STEP_FINDING,
                         .count = 1,
                         .warning = g_string_chunk_insert_const(s->texts, text)};
        g_array_append_val(s->list, step);
        s->warnings++;
        g_free(text);
    }
}
