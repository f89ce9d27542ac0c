/* SPDX-License-Identifier: MIT */
#include "model.h"

#include <string.h>

#include "advance.h"
#include "block.h"
#include "clock.h"
#include "line.h"

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
    return m->roles[role].count != 0;
}

unsigned wad_model_count(const wad_model *m, unsigned role)
{
    return m->roles[role].count;
}

unsigned wad_model_width(const wad_model *m, unsigned role)
{
    const wad_role *r = m->roles[role].role;
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

uint64_t wad_model_get64(const wad_model *m, unsigned role, unsigned i)
{
    const wadi_binding *b = &m->roles[role];
    uint64_t value = 0;
    if (i >= b->count)
        return 0;
    const wadi_part *p = b->parts ? &b->parts[(size_t)i * b->n_parts] : NULL;
    unsigned n = b->odd ? b->odd[i].n_parts : b->n_parts;
    if (b->odd && b->odd[i].form == WAD_PLACE_ALWAYS)
        return b->odd[i].always;
    if (b->odd && b->odd[i].form == WAD_PLACE_ALL) {
        for (unsigned k = 0; k < n; k++)
            if (part_get(&p[k]) != p[k].mask)
                return 0;
        return 1;
    }
    for (unsigned k = 0; p && k < n; k++)
        value |= (uint64_t)part_get(&p[k]) << p[k].shift;
    return value;
}

uint32_t wad_model_get(const wad_model *m, unsigned role, unsigned i)
{
    const wadi_binding *b = &m->roles[role];
    if (i >= b->count || !b->parts)
        return 0;
    if (b->n_parts == 1 && !b->odd)
        return part_get(&b->parts[i]);
    return (uint32_t)wad_model_get64(m, role, i);
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
    if (i >= b->count || !b->parts)
        return;
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
    const wad_role *r = m->roles[role].role;
    return r && wad_role_code_value(r, code, &value) ? (uint32_t)value : otherwise;
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
