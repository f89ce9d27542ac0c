/* SPDX-License-Identifier: MIT */
#include "register.h"

#include "block.h"
#include "model.h"

char *wadi_slot_name(const wadi_slot *slot)
{
    wad_fieldref ref = {.block = slot->block->inst, .reg = slot->reg, .reg_index = slot->index};
    return wad_fieldref_name(&ref);
}

void wadi_slot_refresh(wadi_slot *slot)
{
    wad_model *m = slot->block->model;
    if (slot->flags & WADI_SLOT_LIVE)
        m->cls->refresh(m, slot->roles);
}

/* Flags of the block that go now. */
void wadi_take_flags(wadi_slot *flag, uint32_t mask)
{
    wad_write w = {flag->roles, flag->reg, flag->index, flag->value, flag->value & ~mask, 0};
    if (!(flag->value & mask))
        return;
    flag->value = w.after;
    wadi_tell_model(flag, &w);
}

void wadi_block_entered(wadi_block *block)
{
    for (unsigned i = 0; i < block->n_slots; i++)
        if (block->slots[i].at_entry)
            wadi_take_flags(&block->slots[i], block->slots[i].at_entry);
}
