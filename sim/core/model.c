/* SPDX-License-Identifier: MIT */
#include "model.h"

#include <string.h>

#include "advance.h"
#include "block.h"
#include "clock.h"
#include "lang/rational.h"
#include "line.h"
#include "report.h"
#include "sheet/laws/evaluate.h"

bool wadi_model_is(const wad_model *m, const char *kind)
{
    return m && m->built_in && !strcmp(m->cls->kind, kind);
}

bool wadi_model_lies_in(const wad_model *m, unsigned role, unsigned i, const wad_write *w)
{
    const wadi_binding *b = &m->roles[role];
    unsigned n = i >= b->count ? 0 : b->odd ? b->odd[i].n_parts : b->n_parts;
    for (unsigned k = 0; k < n; k++) {
        const wadi_slot *slot = b->parts[(size_t)i * b->n_parts + k].slot;
        if (slot->reg == w->reg && slot->index == w->reg_index)
            return true;
    }
    return false;
}

void *wad_model_state(wad_model *m)
{
    return m->state;
}

wad_sim *wad_model_sim(wad_model *m)
{
    return m->sim;
}

const wad_instance *wad_model_block(wad_model *m)
{
    return m->block->inst;
}

bool wad_model_has(const wad_model *m, unsigned role)
{
    const wadi_binding *b = &m->roles[role];
    return b->count != 0 || (b->role && b->role->law);
}

unsigned wad_model_count(const wad_model *m, unsigned role)
{
    return m->roles[role].count;
}

unsigned wad_model_width(const wad_model *m, unsigned role)
{
    const wadi_binding *b = &m->roles[role];
    const wad_role *r = b->chosen ? b->chosen[0] : b->role;
    return r ? wad_role_width(r) : 0;
}

static inline uint32_t part_get(const wadi_part *p)
{
    return (p->slot->value >> p->lsb ^ p->flip) & p->mask;
}

static inline void part_put(const wadi_part *p, uint32_t value)
{
    uint32_t mask = p->mask << p->lsb;
    wadi_slot_store(p->slot, (p->slot->value & ~mask) | ((value ^ p->flip) << p->lsb & mask));
}

static uint64_t get_parts(const wadi_binding *b, unsigned i)
{
    uint64_t value = 0;
    const wadi_part *p = b->parts ? &b->parts[(size_t)i * b->n_parts] : NULL;
    unsigned n = b->odd ? b->odd[i].n_parts : b->n_parts;
    if (b->odd && (b->odd[i].form == WAD_PLACE_ALWAYS || b->odd[i].form == WAD_PLACE_EVENT))
        return b->odd[i].always; /* of an event: 1 while the model is told of it */
    if (!p)
        return 0;
    if (b->odd && b->odd[i].form == WAD_PLACE_ALL) {
        for (unsigned k = 0; k < n; k++)
            if (part_get(&p[k]) != p[k].mask)
                return 0;
        return 1;
    }
    for (unsigned k = 0; k < n; k++)
        value |= (uint64_t)part_get(&p[k]) << p[k].shift;
    return value;
}

/* Of several codes for one word models see the first. */
static uint64_t first_code(const wad_role *role, uint64_t value)
{
    const wad_role_meaning *m = wad_role_meaning_of(role, value);
    for (unsigned i = 0; m && m->word && i < role->n_meanings; i++)
        if (role->meanings[i].word && !strcmp(role->meanings[i].word, m->word))
            return role->meanings[i].is == m->is ? role->meanings[i].first : value;
    return value;
}

#define WORD_APART UINT64_C(0xFFFF0000) /* no field of a word is as wide */

/* Ways may have different codes for a word: models see that of the first way that has it. */
static uint64_t code_of_word(const wadi_binding *b, const char *word)
{
    uint64_t code, k = 0;
    for (const wad_role *r = b->role; r; r = r->otherwise, k++)
        if (wad_role_code_value(r, word, &code))
            return r == b->role ? code : WORD_APART + (k << 12) + code;
    return UINT64_MAX;
}

static uint64_t as_spoken(const wadi_binding *b, const wad_role *r, uint64_t value)
{
    const wad_role_meaning *m = wad_role_meaning_of(r, value);
    const wad_enumerator *e =
        r->field && !r->n_meanings ? wad_bitfield_enum(r->field, value) : NULL;
    const char *word = m ? m->word : e ? e->name : NULL;
    return word ? code_of_word(b, word) : value;
}

/* Where there are ways, the one that is meant now says what codes are. */
static inline const wad_role *role_of(const wadi_binding *b, unsigned i)
{
    return b->chosen ? b->chosen[i] : b->role;
}

static bool is_stopped(const wad_model *m, const wadi_binding *b, unsigned i)
{
    for (unsigned k = 0; k < b->n_stops; k++) {
        const wadi_binding *by = &m->roles[b->stops[k].role];
        uint64_t code = get_parts(by, i < by->count ? i : 0);
        const wad_role_meaning *says = wad_role_meaning_of(by->role, code);
        bool stopped = says ? says->word && !strcmp(says->word, "stopped")
                            : !by->role->n_meanings && code == b->stops[k].code;
        if (stopped)
            return true;
    }
    return false;
}

/* `enable XT.ENABLE { 0xC36 on, 0x39A off }`; another code is neither: off. */
static bool is_on(const wad_role *role, uint64_t code)
{
    const wad_role_meaning *m = role ? wad_role_meaning_of(role, code) : NULL;
    return m && m->word && !strcmp(m->word, "on");
}

uint64_t wad_model_get64(const wad_model *m, unsigned role, unsigned i)
{
    const wadi_binding *b = &m->roles[role];
    if (i >= b->count)
        return 0;
    uint64_t value = get_parts(b, i);
    if (__builtin_expect(!b->odd, 1))
        return value;
    if (b->n_stops && value && is_stopped(m, b, i))
        return 0;
    const wad_role *r = role_of(b, i);
    if (b->is_switch)
        return is_on(r, value);
    if (b->spoken && r)
        return as_spoken(b, r, value);
    return r && r->n_meanings ? first_code(r, value) : value;
}

uint32_t wad_model_get(const wad_model *m, unsigned role, unsigned i)
{
    const wadi_binding *b = &m->roles[role];
    if (i >= b->count)
        return 0;
    if (b->n_parts == 1 && !b->odd)
        return part_get(&b->parts[i]);
    return (uint32_t)wad_model_get64(m, role, i);
}

/* ---- numbers that codes and laws say ---- */

typedef struct numbers {
    const wad_model *m;
} numbers;

static bool field_says(void *ctx, const wad_fieldref *ref, uint64_t *code)
{
    const wad_model *m = ((const numbers *)ctx)->m;
    *code = wadi_field_value(m->sim, wad_instance_home(m->block->inst), 0, ref);
    return true;
}

static bool clock_says(void *ctx, const wad_clock *clock, wad_rational *hz)
{
    const wad_model *m = ((const numbers *)ctx)->m;
    const wad_clock *of = clock ? clock : m->block->inst->clock;
    *hz = m->sim->clocks[(of ? of : m->sim->sheet->core)->index].hz;
    return hz->num > 0;
}

/* `plus 1 times 2 power 8`, of one way. */
static bool scaled_by(const wad_role *r, uint64_t code, wad_rational *number)
{
    uint64_t plus = 0, times = 1, power = 0, scale = 1;
    wad_role_code_value(r, "plus", &plus);
    wad_role_code_value(r, "times", &times);
    wad_role_code_value(r, "power", &power);
    for (uint64_t k = 0; power && k < code && scale < UINT32_MAX; k++)
        scale *= power;
    *number = wadi_int((int64_t)(plus + times * (power ? scale : code)));
    return true;
}

bool wad_model_says(const wad_model *m, unsigned role, unsigned i, wad_rational *number)
{
    const wadi_binding *b = &m->roles[role];
    const wad_role *r = b->chosen ? b->chosen[i < b->count ? i : 0] : b->role;
    numbers ctx = {m};
    wadi_eval env = {.field = field_says, .clock = clock_says, .ctx = &ctx};
    if (!r) { /* no way is meant */
        *number = wadi_int(0);
        return b->scaled;
    }
    if (r->law)
        return wadi_expr_eval(r->law, &env, number);
    if (!b->count)
        return false;
    uint64_t code = get_parts(b, i < b->count ? i : 0);
    const wad_role_meaning *says = wad_role_meaning_of(r, code);
    if (says)
        return says->is && wadi_expr_eval(says->is, &env, number);
    if (b->scaled)
        return scaled_by(r, code, number);
    const wad_enumerator *en =
        r->field && !r->n_codes && !r->n_meanings ? wad_bitfield_enum(r->field, code) : NULL;
    if (en && en->has_meaning)
        *number = en->meaning;
    return en && en->has_meaning;
}

bool wad_model_whole(const wad_model *m, unsigned role, unsigned i, uint64_t *number)
{
    wad_rational said;
    if (!wad_model_says(m, role, i, &said) || said.num < 0)
        return false;
    *number = (uint64_t)wadi_rat_floor(said);
    if (said.den != 1)
        wadi_model_rounds(m, role, i, said, (double)*number);
    return true;
}

void wadi_model_rounds(const wad_model *m, unsigned role, unsigned i, wad_rational said,
                       double taken)
{
    const wadi_binding *b = &m->roles[role];
    wadi_slot stand_in = {.address = m->block->inst->base};
    const wadi_slot *slot = b->parts && i < b->count ? b->parts[(size_t)i * b->n_parts].slot : NULL;
    wadi_report(m->sim, WAD_FINDING_FRACTION, slot ? slot : &stand_in,
                "typed, but not simulated: %s of %s says %.6g, and the model takes %.6g",
                m->kind->roles[role].name, m->block->inst->name, wadi_rat_double(said), taken);
}

bool wad_model_quantity(const wad_model *m, unsigned role, wad_rational *quantity)
{
    const wad_role *r = m->roles[role].role;
    if (!r || r->sort != WAD_ROLE_QUANTITY)
        return false;
    *quantity = r->quantity;
    return true;
}

/* Of `A and B` a 1 sets both, a 0 clears the last. */
static void put_all(const wadi_part *p, unsigned n, bool on)
{
    for (unsigned k = on ? 0 : n - 1; k < n; k++)
        part_put(&p[k], on ? p[k].mask : 0);
}

void wad_model_put64(wad_model *m, unsigned role, unsigned i, uint64_t value)
{
    const wadi_binding *b = &m->roles[role];
    if (i >= b->count)
        return;
    if (!b->parts && b->n_stops && !value) { /* it stops itself by what can say so */
        wad_model_put64(m, b->stops[0].role, 0, b->stops[0].code);
        return;
    }
    if (!b->parts)
        return;
    if (b->is_switch && role_of(b, i))
        wad_role_code_value(role_of(b, i), value ? "on" : "off", &value);
    if (b->events) {
        const wad_role *r = role_of(b, i);
        bool begins = value && !b->events[i] && !m->resetting;
        b->events[i] = value != 0;
        if (r && r->as == WAD_AS_EVENT && !begins) /* what is set stays set */
            return;
    }
    const wadi_part *p = &b->parts[(size_t)i * b->n_parts];
    unsigned n = b->odd ? b->odd[i].n_parts : b->n_parts;
    if (b->odd && b->odd[i].form != WAD_PLACE_BITS) {
        if (n)
            put_all(p, n, value != 0);
        return;
    }
    for (unsigned k = 0; k < n; k++)
        part_put(&p[k], (uint32_t)(value >> p[k].shift));
}

void wad_model_put(wad_model *m, unsigned role, unsigned i, uint32_t value)
{
    const wadi_binding *b = &m->roles[role];
    if (i >= b->count || b->n_parts != 1 || b->odd)
        wad_model_put64(m, role, i, value);
    else
        part_put(&b->parts[i], value);
}

uint32_t wad_model_code(const wad_model *m, unsigned role, const char *code, uint32_t otherwise)
{
    uint64_t value;
    const wadi_binding *b = &m->roles[role];
    if (b->role && wad_role_code_value(b->role, code, &value))
        return (uint32_t)value;
    value = b->spoken ? code_of_word(b, code) : UINT64_MAX;
    return value == UINT64_MAX ? otherwise : (uint32_t)value;
}

void wad_model_schedule(wad_model *m, wad_event *event, uint64_t ps)
{
    event->model = m;
    wadi_schedule(m->sim, event, ps);
}

void wad_model_cancel(wad_model *m, wad_event *event)
{
    wadi_unschedule(m->sim, event);
}

static wadi_domain *domain_of(const wad_model *m)
{
    wadi_clock *clock = m->block->clock ? m->block->clock : m->sim->cpu.core;
    return &clock->domain;
}

bool wad_model_clocked(const wad_model *m)
{
    return !(m->block->blocked & (WADI_BLOCKED_GATE | WADI_BLOCKED_CLOCK)) && domain_of(m)->runs;
}

uint64_t wad_model_edges(const wad_model *m)
{
    return wadi_domain_count(domain_of(m), m->sim->now);
}

uint64_t wad_model_edge(const wad_model *m, uint64_t k)
{
    return wadi_domain_edge(domain_of(m), k);
}

void wad_model_enabled(wad_model *m)
{
    m->block->was_enabled = true;
    for (unsigned i = 0; i < m->block->inst->n_irqs; i++)
        wadi_line_enabled(m->sim, (unsigned)m->block->inst->irqs[i]);
}

void wad_model_active(wad_model *m, bool on)
{
    if (m->block->active == on)
        return;
    m->block->active = on;
    if (m->sim->ears & WADI_EAR_CLOCKS)
        wadi_tell(m->sim, &(wadi_told){.ear = WADI_EAR_CLOCKS});
}
