/* SPDX-License-Identifier: MIT */
/* What models and lines bring about is noted here, and served when the access or event is over. */
#include "happen.h"

#include "block.h"
#include "model.h"
#include "sim.h"

void wadi_event_noted(wadi_clearing *c)
{
    if (c->then)
        c->noted = c->takes == WADI_TAKES_FLAG ? c->flag->value & c->mask : c->mask;
}

static void queue(wad_sim *sim, wadi_clearing *c, bool last)
{
    if (!last) {
        wadi_event_noted(c);
        return;
    }
    if (c->queued)
        return;
    c->queued = true;
    g_ptr_array_add(sim->happened, c);
    sim->touched.happened = true;
}

void wadi_bit_rose(wadi_slot *slot, uint32_t bits)
{
    for (guint i = 0; i < slot->rises->len; i++) {
        wadi_clearing *c = slot->rises->pdata[i];
        if (c->then && c->first.sort == WAD_EVENT_FLAG && c->first.slot == slot &&
            c->first.mask & bits)
            queue(slot->block->sim, c, false);
        if (c->last.sort == WAD_EVENT_FLAG && c->last.slot == slot && c->last.mask & bits)
            queue(slot->block->sim, c, true);
    }
}

static bool is_role(const wadi_bus_event *e, const wad_model *m, unsigned role, unsigned element)
{
    return e->sort == WAD_EVENT_ROLE && e->model == m && e->role == role && e->element == element;
}

void wadi_role_happened(wad_model *m, unsigned role, unsigned element)
{
    for (guint i = 0; i < m->fires->len; i++) {
        wadi_clearing *c = m->fires->pdata[i];
        if (c->then && is_role(&c->first, m, role, element))
            queue(m->sim, c, false);
        if (is_role(&c->last, m, role, element))
            queue(m->sim, c, true);
    }
}

static bool is_line(const wadi_bus_event *e, unsigned line, wad_event_sort sort)
{
    if (e->sort != sort)
        return false;
    for (unsigned i = 0; e->unit && i < e->unit->inst->n_irqs; i++)
        if ((unsigned)e->unit->inst->irqs[i] == line)
            return true;
    return !e->unit;
}

void wadi_line_happened(wad_sim *sim, unsigned line, wad_event_sort sort)
{
    for (guint i = 0; i < sim->at_lines->len; i++) {
        wadi_clearing *c = sim->at_lines->pdata[i];
        if (c->then && is_line(&c->first, line, sort))
            queue(sim, c, false);
        if (is_line(&c->last, line, sort))
            queue(sim, c, true);
    }
}
