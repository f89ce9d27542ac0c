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
    return !r ? 0 : r->value ? r->value->width : r->field ? r->field->width : r->reg->width;
}

uint64_t wad_model_get64(const wad_model *m, unsigned role, unsigned i)
{
    const wadi_binding *b = &m->roles[role];
    uint64_t value = 0;
    for (unsigned k = 0; i < b->count && b->parts && k < b->n_parts; k++) {
        const wadi_part *p = &b->parts[i * b->n_parts + k];
        value |= (uint64_t)(p->slot->value >> p->lsb & p->mask) << p->shift;
    }
    return value;
}

uint32_t wad_model_get(const wad_model *m, unsigned role, unsigned i)
{
    const wadi_binding *b = &m->roles[role];
    if (i >= b->count || !b->parts)
        return 0;
    if (b->n_parts == 1)
        return b->parts[i].slot->value >> b->parts[i].lsb & b->parts[i].mask;
    return (uint32_t)wad_model_get64(m, role, i);
}

void wad_model_put64(wad_model *m, unsigned role, unsigned i, uint64_t value)
{
    const wadi_binding *b = &m->roles[role];
    for (unsigned k = 0; i < b->count && k < b->n_parts; k++) {
        const wadi_part *p = &b->parts[i * b->n_parts + k];
        uint32_t bits = (uint32_t)(value >> p->shift & p->mask) << p->lsb;
        p->slot->value = (p->slot->value & ~(p->mask << p->lsb)) | bits;
    }
}

void wad_model_put(wad_model *m, unsigned role, unsigned i, uint32_t value)
{
    const wadi_binding *b = &m->roles[role];
    if (i >= b->count || b->n_parts != 1) {
        wad_model_put64(m, role, i, value);
        return;
    }
    const wadi_part *p = &b->parts[i];
    uint32_t mask = p->mask << p->lsb;
    p->slot->value = (p->slot->value & ~mask) | (value << p->lsb & mask);
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
