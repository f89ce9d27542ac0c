/* SPDX-License-Identifier: MIT */
/* Blocks at run time: registers, role bindings, needs. */
#include "block.h"

#include "bus.h"
#include "clock.h"
#include "lock.h"
#include "model.h"
#include "pin.h"
#include "register.h"
#include "sheet/chip/query.h"

/* ---- registers ---- */

/* What software can set by kinds that are not of every chip. */
static uint32_t rare_bits(const wad_register *reg)
{
    static const wad_access kinds[] = {WAD_ACCESS_W1T,  WAD_ACCESS_W0S, WAD_ACCESS_W0T,
                                       WAD_ACCESS_RS,   WAD_ACCESS_WS,  WAD_ACCESS_ONCE,
                                       WAD_ACCESS_PULSE};
    uint64_t bits = 0;
    for (unsigned i = 0; i < G_N_ELEMENTS(kinds); i++)
        bits |= wad_register_mask(reg, kinds[i]);
    return (uint32_t)bits;
}

static wadi_slot *add_slot(wadi_block *block, const wad_register *reg, unsigned index)
{
    wadi_slot *slot = &block->slots[block->n_slots++];
    *slot = (wadi_slot){.block = block,
                        .reg = reg,
                        .index = (uint16_t)index,
                        .bytes = (uint8_t)wad_register_bytes(reg),
                        .alias = reg->alias,
                        .address = block->inst->base + reg->offset + (uint64_t)index * reg->step};
    slot->plain =
        (uint32_t)(wad_register_mask(reg, WAD_ACCESS_RW) | wad_register_mask(reg, WAD_ACCESS_WO));
    slot->w1c = (uint32_t)wad_register_mask(reg, WAD_ACCESS_W1C);
    slot->w0c = (uint32_t)wad_register_mask(reg, WAD_ACCESS_W0C);
    slot->w1s = (uint32_t)wad_register_mask(reg, WAD_ACCESS_W1S);
    slot->rc = (uint32_t)wad_register_mask(reg, WAD_ACCESS_RC);
    slot->rs = (uint32_t)wad_register_mask(reg, WAD_ACCESS_RS);
    slot->once = (uint32_t)wad_register_mask(reg, WAD_ACCESS_ONCE);
    slot->pulse = (uint32_t)wad_register_mask(reg, WAD_ACCESS_PULSE);
    slot->settable = rare_bits(reg);
    if (slot->settable || wad_register_mask(reg, WAD_ACCESS_WC))
        slot->flags |= WADI_SLOT_KINDS;
    slot->read_only = (uint32_t)wad_register_mask(reg, WAD_ACCESS_RO) | slot->rc;
    if (slot->w0c) /* there 1 leaves alone, whatever the bit is */
        slot->read_only = 0;
    slot->reserved = (uint32_t)wad_register_mask(reg, WAD_ACCESS_RESERVED);
    slot->readable = ~(uint32_t)(wad_register_mask(reg, WAD_ACCESS_WO) |
                                 wad_register_mask(reg, WAD_ACCESS_RESERVED));
    for (unsigned i = 0; i < reg->n_fields; i++) {
        const wad_bitfield *f = reg->fields[i];
        wad_fieldref ref = {.reg = reg, .field = f, .lsb = f->lsb, .width = f->width};
        slot->must |= (uint32_t)(f->must << f->lsb);
        slot->stable |= f->stable ? (uint32_t)wad_fieldref_mask(&ref) : 0;
        if (f->not_zero && slot->not_zero)
            slot->flags |= WADI_SLOT_SEVERAL;
        slot->not_zero |= f->not_zero ? (uint32_t)wad_fieldref_mask(&ref) : 0;
    }
    slot->readable |= slot->must;
    for (unsigned i = 0; i < block->inst->n_owned; i++) {
        const wad_fieldref *ref = &block->inst->owned[i].ref;
        if (ref->reg == reg && ref->reg_index == index)
            slot->foreign |= (uint32_t)wad_fieldref_mask(ref);
    }
    if (slot->stable || slot->not_zero)
        slot->flags |= WADI_SLOT_CHECKS;
    return slot;
}

static bool is_readable(const wad_register *reg)
{
    return reg->access != WAD_ACCESS_WO;
}

static bool is_writable(const wad_register *reg)
{
    return reg->access != WAD_ACCESS_RO && reg->access != WAD_ACCESS_RC;
}

static void map_slot(wad_sim *sim, wadi_slot *slot)
{
    for (unsigned i = 0; i < slot->bytes; i += 1u << sim->word_shift) {
        uint64_t word = (slot->address + i) >> sim->word_shift;
        wadi_page **page = &sim->pages[word >> WADI_PAGE_BITS];
        if (!*page)
            *page = g_new0(wadi_page, 1);
        wadi_cell *cell = &(*page)->cell[word & ((1u << WADI_PAGE_BITS) - 1)];
        if (is_readable(slot->reg))
            cell->rd = slot;
        if (is_writable(slot->reg))
            cell->wr = slot;
    }
}

void wadi_build_slots(wadi_block *block)
{
    const wad_layout *layout = block->inst->layout;
    unsigned n = 0;
    for (unsigned i = 0; i < layout->n_regs; i++)
        n += layout->regs[i]->count ? layout->regs[i]->count : 1;
    block->slots = g_new0(wadi_slot, n + 1);
    for (unsigned i = 0; i < layout->n_regs; i++) {
        const wad_register *reg = layout->regs[i];
        for (unsigned k = 0; k < (reg->count ? reg->count : 1); k++)
            map_slot(block->sim, add_slot(block, reg, k));
    }
    for (unsigned i = 0; i < block->n_slots; i++)
        if (block->slots[i].alias)
            block->slots[i].alias_of = wadi_find_slot(
                block->sim, block->inst, block->slots[i].reg->alias_of, block->slots[i].index);
}

static wadi_bus_event bus_event(const wadi_block *block, const wad_bus_event *e, unsigned element)
{
    unsigned index = e->by_element ? element : e->reg_index;
    return (wadi_bus_event){wadi_find_slot(block->sim, block->inst, e->reg, index), e->write,
                            (uint32_t)e->mask, (uint32_t)e->value};
}

static void add_to(GPtrArray **list, wadi_clearing *c)
{
    if (!*list)
        *list = g_ptr_array_new();
    if (!g_ptr_array_find(*list, c, NULL))
        g_ptr_array_add(*list, c);
}

static void add_clearing(wadi_block *block, const wad_bitfield *f, const wad_clearing *def,
                         unsigned element, unsigned reg_index)
{
    wad_fieldref ref = {
        .reg = f->reg, .field = f, .index = f->count ? element : 0, .reg_index = reg_index};
    wadi_clearing *c = g_new0(wadi_clearing, 1);
    wadi_place_element(&ref);
    c->flag = wadi_find_slot(block->sim, block->inst, f->reg, ref.reg_index);
    c->mask = (uint32_t)wad_fieldref_mask(&ref);
    c->then = def->then;
    c->last = bus_event(block, &def->last, element);
    if (!block->clearings)
        block->clearings = g_ptr_array_new_with_free_func(g_free);
    g_ptr_array_add(block->clearings, c);
    add_to(&c->last.slot->accessed, c);
    c->last.slot->flags |= WADI_SLOT_CLEARS;
    if (!def->then)
        return;
    c->first = bus_event(block, &def->first, element);
    add_to(&c->first.slot->accessed, c);
    c->first.slot->flags |= WADI_SLOT_CLEARS;
    add_to(&c->flag->noted, c);
}

/* Flags that go by themselves: with a read of another register, or with the handler's entry. */
void wadi_build_clearings(wadi_block *block)
{
    for (unsigned i = 0; i < block->n_slots; i++) {
        wadi_slot *slot = &block->slots[i];
        const wad_register *reg = slot->reg;
        for (unsigned k = 0; reg && k < reg->n_fields; k++) {
            const wad_bitfield *f = reg->fields[k];
            for (unsigned n = 0; n < f->n_clearings; n++) { /* by fields or by registers */
                for (unsigned e = 0; e < f->count && !slot->index; e++)
                    add_clearing(block, f, &f->clearings[n], e, 0);
                if (!f->count)
                    add_clearing(block, f, &f->clearings[n], slot->index, slot->index);
            }
            if (!f->cleared_at_entry)
                continue;
            for (unsigned e = 0; e < (f->count ? f->per_reg : 1u); e++)
                slot->at_entry |= ((UINT32_C(1) << f->width) - 1) << (f->lsb + e * f->step);
        }
    }
}

wadi_slot *wadi_find_slot(wad_sim *sim, const wad_instance *inst, const wad_register *reg,
                          unsigned index)
{
    wadi_block *block = &sim->blocks[inst->index];
    for (unsigned i = 0; i < block->n_slots; i++)
        if (block->slots[i].reg == reg && block->slots[i].index == index)
            return &block->slots[i];
    return NULL;
}

/* ---- roles ---- */

void wadi_block_quicken(wadi_block *block)
{
    for (unsigned i = 0; i < block->n_slots; i++) {
        wadi_slot *slot = &block->slots[i];
        slot->quick = slot->flags & WADI_SLOT_QUIET && !block->blocked ? slot->bytes : 0;
    }
}

/* ---- needs ---- */

static unsigned what_blocks(const wadi_block *block)
{
    unsigned blocked = 0;
    for (unsigned i = 0; i < block->n_needs; i++) {
        const wadi_need *need = &block->needs[i];
        if (((need->slot->value & need->mask) == need->value) != need->equal)
            blocked |= need->finding == WAD_FINDING_GATED ? WADI_BLOCKED_GATE : WADI_BLOCKED_RESET;
    }
    if (block->clock && !block->clock->domain.runs)
        blocked |= WADI_BLOCKED_CLOCK;
    if (block->home) /* without it a unit has no registers */
        blocked |= what_blocks(block->home) & (WADI_BLOCKED_GATE | WADI_BLOCKED_RESET);
    return blocked;
}

void wadi_blocks_before(wad_sim *sim)
{
    for (unsigned i = 0; i < sim->sheet->n_blocks; i++) {
        wadi_block *block = &sim->blocks[i];
        const wadi_clock *clock = block->clock ? block->clock : sim->cpu.core;
        bool gate = (what_blocks(block) ^ block->blocked) & WADI_BLOCKED_GATE;
        block->in_change = gate || clock->changes;
        if (block->in_change && block->model && block->model->cls->clock)
            block->model->cls->clock(block->model, true);
    }
}

void wadi_blocks_after(wad_sim *sim)
{
    for (unsigned i = 0; i < sim->sheet->n_blocks; i++) {
        wadi_block *block = &sim->blocks[i];
        unsigned was = block->blocked;
        block->blocked = what_blocks(block);
        if (block->blocked != was)
            wadi_block_quicken(block);
        if (block->in_change && block->model && block->model->cls->clock)
            block->model->cls->clock(block->model, false);
        block->in_change = false;
        if (block->blocked & ~was & WADI_BLOCKED_RESET) {
            wadi_block_to_reset_values(block);
            wadi_pins_regroup(sim);
        }
    }
}

static void registers_to_reset_values(wadi_block *block)
{
    for (unsigned i = 0; i < block->n_slots; i++) {
        wadi_slot *slot = &block->slots[i];
        slot->once_done = 0;
        wadi_slot_store(slot, ((uint32_t)slot->reg->reset & ~slot->pulse) | slot->must);
    }
    wadi_locks_reset(block);
}

static void reset_model(wadi_block *block)
{
    if (block->model && block->model->cls->reset)
        block->model->cls->reset(block->model);
}

void wadi_block_to_reset_values(wadi_block *block)
{
    registers_to_reset_values(block);
    reset_model(block);
}

/* ---- all of them ---- */

void wadi_blocks_reset(wad_sim *sim)
{
    for (unsigned i = 0; i < sim->sheet->n_blocks; i++) {
        wadi_block *block = &sim->blocks[i];
        block->blocked = 0;
        block->configured = block->was_enabled = false;
        wadi_block_quicken(block);
        registers_to_reset_values(block);
    }
    for (unsigned i = 0; i < sim->sheet->n_blocks; i++) /* some look at others' registers */
        reset_model(&sim->blocks[i]);
    wadi_pins_regroup(sim);
}

/* ---- what models call ---- */

bool wadi_cond_holds(const wadi_block *block, const wad_cond *cond)
{
    for (unsigned i = 0; i < cond->n; i++) {
        const wad_cond_term *t = &cond->terms[i];
        const wadi_slot *s = wadi_find_slot(block->sim, block->inst, t->ref.reg, t->ref.reg_index);
        uint64_t bits = (s->value & wad_fieldref_mask(&t->ref)) >> t->ref.lsb;
        if ((bits == t->value) != t->equal)
            return false;
    }
    return true;
}

void wadi_locks_reset(wadi_block *block)
{
    for (unsigned i = 0; i < block->inst->layout->n_locks; i++)
        block->locks[i].at = block->locks[i].writes = block->locks[i].open = 0;
}
