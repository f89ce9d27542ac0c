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
