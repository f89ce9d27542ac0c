/* SPDX-License-Identifier: MIT */
#include "register.h"

#include "block.h"
#include "happen.h"
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
            h->model->cls->refresh(h->model, h->live);
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
    if (__builtin_expect(slot->rises != NULL, 0))
        wadi_bit_rose(slot, changed & ~fell);
    for (guint i = 0; slot->noted && i < slot->noted->len; i++) /* a note goes with its flag */
        ((wadi_clearing *)slot->noted->pdata[i])->noted &= ~fell;
    if (slot->touched || !sim->touched.slots)
        return;
    slot->touched = true;
    sim->touched.slots[sim->touched.n++] = slot;
}

wadi_slot *wadi_find_slot(wad_sim *sim, const wad_instance *inst, const wad_register *reg,
                          unsigned index)
{
    wadi_block *block = &sim->blocks[inst->index];
    unsigned at = reg->first + index;
    if (at >= block->n_slots)
        return NULL;
    const wad_register *there = block->slots[at].reg;
    bool same = there == reg || there->array == reg || (reg->array && reg->array == there);
    return same ? &block->slots[at] : NULL;
}

wadi_slot *wadi_field_slot(wad_sim *sim, const wad_instance *own, unsigned element,
                           wad_fieldref *ref)
{
    const wad_behaviour *more = ref->field ? ref->field->more : NULL;
    ref->block = ref->block ? ref->block : own;
    ref->reg_index = ref->reg_index == UINT32_MAX ? element : ref->reg_index;
    if (ref->reg->alias)
        ref->reg = ref->reg->alias_of;
    if (more && more->alias) {
        wad_fieldref to = more->alias_of;
        to.block = to.block ? to.block : ref->block;
        to.reg_index = to.reg_index == UINT32_MAX ? ref->reg_index : to.reg_index;
        to.lsb = (uint8_t)(to.lsb + (ref->lsb - ref->field->lsb));
        to.width = ref->width;
        *ref = to;
    }
    return wadi_find_slot(sim, ref->block, ref->reg, ref->reg_index);
}

uint64_t wadi_field_value(wad_sim *sim, const wad_instance *own, unsigned element,
                          const wad_fieldref *ref)
{
    bool plain = !ref->reg->alias && !(ref->field && ref->field->more) && ref->block &&
                 ref->reg_index != UINT32_MAX;
    if (__builtin_expect(plain, 1)) {
        wadi_slot *direct = wadi_find_slot(sim, ref->block, ref->reg, ref->reg_index);
        if (direct->flags & WADI_SLOT_LIVE)
            wadi_slot_refresh(direct);
        return (direct->value & wad_fieldref_mask(ref)) >> ref->lsb;
    }
    wad_fieldref at = *ref;
    wadi_slot *slot = wadi_field_slot(sim, own, element, &at);
    wadi_slot_refresh(slot);
    return (slot->value & wad_fieldref_mask(&at)) >> at.lsb;
}

static uint64_t own_field(void *ctx, const wad_fieldref *ref)
{
    const wadi_block *block = ctx;
    return wadi_field_value(block->sim, block->inst, 0, ref);
}

bool wadi_cond_holds(const wadi_block *block, const wad_cond *cond)
{
    return !wad_cond_broken(cond, own_field, (wadi_block *)block);
}
