/* SPDX-License-Identifier: MIT */
#include "register.h"

#include "block.h"
#include "model.h"
#include "sim.h"

char *wadi_slot_name(const wadi_slot *slot)
{
    wad_fieldref ref = {.block = slot->block->inst, .reg = slot->reg, .reg_index = slot->index};
    return wad_fieldref_name(&ref);
}

void wadi_slot_refresh(wadi_slot *slot)
{
    const wadi_hearer *h;
    if (!(slot->flags & WADI_SLOT_LIVE))
        return;
    for (unsigned i = 0; (h = wadi_hearer_at(slot, i)); i++)
        if (h->live)
            h->model->cls->refresh(h->model, h->roles);
}

wad_role_set wadi_slot_roles(const wadi_slot *slot, const wad_model *m)
{
    const wadi_hearer *h;
    for (unsigned i = 0; (h = wadi_hearer_at(slot, i)); i++)
        if (h->model == m)
            return h->roles;
    return 0;
}

/* Flags of the block that go now. */
void wadi_take_flags(wadi_slot *flag, uint32_t mask)
{
    wad_write w = {0, flag->reg, flag->index, flag->value, flag->value & ~mask, 0};
    if (!(flag->value & mask))
        return;
    wadi_slot_store(flag, w.after);
    wadi_tell_models(flag, &w);
}

void wadi_touch(wadi_slot *slot, uint32_t changed, uint32_t fell)
{
    wad_sim *sim = slot->block->sim;
    slot->changed |= changed;
    for (guint i = 0; slot->noted && i < slot->noted->len; i++) /* a note goes with its flag */
        ((wadi_clearing *)slot->noted->pdata[i])->noted &= ~fell;
    if (slot->touched || !sim->touched.slots)
        return;
    slot->touched = true;
    sim->touched.slots[sim->touched.n++] = slot;
}

static bool happens(const wadi_bus_event *e, const wadi_slot *slot, bool write, uint32_t value,
                    uint32_t touched)
{
    return e->slot == slot && e->write == write &&
           (!e->mask || (touched & e->mask && (value & e->mask) == e->value));
}

/* What is cleared acts on notes from before; then this access notes. */
void wadi_slot_accessed(wadi_slot *slot, bool write, uint32_t value, uint32_t touched)
{
    for (guint i = 0; i < slot->accessed->len; i++) {
        wadi_clearing *c = slot->accessed->pdata[i];
        if (!happens(&c->last, slot, write, value, touched))
            continue;
        uint32_t goes = c->then ? c->noted : c->mask;
        c->noted = 0;
        if (goes)
            wadi_take_flags(c->flag, goes);
    }
    for (guint i = 0; i < slot->accessed->len; i++) {
        wadi_clearing *c = slot->accessed->pdata[i];
        if (c->then && happens(&c->first, slot, write, value, touched))
            c->noted = c->flag->value & c->mask;
    }
}
