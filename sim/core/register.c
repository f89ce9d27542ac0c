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

void wadi_touch(wadi_slot *slot)
{
    wad_sim *sim = slot->block->sim;
    if (slot->touched)
        return;
    slot->touched = true;
    sim->touched.slots[sim->touched.n++] = slot;
}
