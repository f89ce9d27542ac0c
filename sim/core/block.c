/* SPDX-License-Identifier: MIT */
/* Blocks at run time: registers, role bindings, needs. */
#include "block.h"

#include "bus.h"
#include "clock.h"
#include "lock.h"
#include "model.h"
#include "pin.h"
#include "rare.h"
#include "register.h"
#include "schedule.h"
#include "sheet/chip/query.h"

/* ---- registers ---- */

/* What software can set by kinds that are not of every chip. */
static uint32_t rare_bits(const wad_register *reg)
{
    static const wad_access kinds[] = {WAD_ACCESS_W1T,  WAD_ACCESS_W0S,  WAD_ACCESS_W0T,
                                       WAD_ACCESS_RS,   WAD_ACCESS_WS,   WAD_ACCESS_WC,
                                       WAD_ACCESS_ONCE, WAD_ACCESS_PULSE};
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

/* Of several at one address those with a condition are asked first, as the sheet lists them. */
static void lay(wadi_slot **at, wadi_slot *slot, bool write)
{
    if (!slot->reg->more || !slot->reg->more->when) {
        while (*at && *at != slot && (*at)->rare && (*at)->rare->when)
            at = &(*at)->rare->next[write];
        *at = slot;
        return;
    }
    wadi_rare *rare = wadi_rare_of(slot);
    rare->when = slot->reg->more->when;
    while (*at && *at != slot && (*at)->rare && (*at)->rare->when)
        at = &(*at)->rare->next[write];
    if (*at == slot)
        return;
    rare->next[write] = *at;
    *at = slot;
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
            lay(&cell->rd, slot, false);
        if (is_writable(slot->reg))
            lay(&cell->wr, slot, true);
    }
}

/* A write of it stores nothing, and may be an event. */
static void map_write_of_read_only(wad_sim *sim, wadi_slot *slot)
{
    if (!slot->reg || is_writable(slot->reg) || (slot->reg->more && slot->reg->more->when))
        return;
    for (unsigned i = 0; i < slot->bytes; i += 1u << sim->word_shift) {
        wadi_cell *cell = wadi_find_cell(sim, slot->address + i);
        if (!cell->wr)
            cell->wr = slot;
    }
}

static bool shows(const wad_window *w, const wadi_block *block)
{
    for (unsigned i = 0; i < w->n_blocks; i++)
        if (w->blocks[i] == block->inst)
            return true;
    return false;
}

static unsigned count_windows(const wadi_block *block)
{
    const wad_sheet *s = block->sim->sheet;
    unsigned n = 0;
    for (unsigned i = 0; i < s->n_windows; i++)
        n += shows(&s->windows[i], block);
    return n;
}

/* Its first `n` slots once more. */
static void add_windows(wadi_block *block, const wad_window *w, unsigned n)
{
    for (unsigned i = 0; shows(w, block) && i < n; i++) {
        wadi_slot *real = &block->slots[i];
        if (real->alias) /* a named one stands for itself alone */
            continue;
        wadi_slot *slot = &block->slots[block->n_slots++];
        *slot = *real;
        slot->address += w->at;
        slot->alias = w->verb;
        slot->alias_of = real;
        slot->flags = WADI_SLOT_WINDOW;
        slot->more = NULL;
        slot->rare = NULL;
        map_slot(block->sim, slot);
    }
}

void wadi_build_slots(wadi_block *block)
{
    const wad_layout *layout = block->inst->layout;
    unsigned n = 0;
    for (unsigned i = 0; i < layout->n_regs; i++)
        n += layout->regs[i]->count ? layout->regs[i]->count : 1;
    unsigned windows = count_windows(block);
    block->slots = g_new0(wadi_slot, n * (1 + windows) + 1);
    for (unsigned i = 0; i < layout->n_regs; i++) {
        const wad_register *reg = layout->regs[i];
        for (unsigned k = 0; k < (reg->count ? reg->count : 1); k++)
            map_slot(block->sim, add_slot(block, wad_register_element(reg, k), k));
    }
    for (unsigned i = 0; i < block->n_slots; i++)
        map_write_of_read_only(block->sim, &block->slots[i]);
    for (unsigned i = 0; windows && i < block->sim->sheet->n_windows; i++)
        add_windows(block, &block->sim->sheet->windows[i], n);
    for (unsigned i = 0; i < block->n_slots; i++)
        if (block->slots[i].alias && !(block->slots[i].flags & WADI_SLOT_WINDOW))
            block->slots[i].alias_of = wadi_find_slot(
                block->sim, block->inst, block->slots[i].reg->alias_of, block->slots[i].index);
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

bool wadi_need_met(const wadi_need *need)
{
    return wad_cond_term_met(need->term, (need->slot->value & need->mask) >> need->lsb);
}

/* Of several alternatives one is enough; what the first lacks is what is told. */
static unsigned unmet(const wadi_need *needs, unsigned n)
{
    unsigned first = 0;
    for (unsigned i = 0; i < n;) {
        unsigned blocked = 0, way = needs[i].way;
        for (; i < n && needs[i].way == way; i++)
            if (!wadi_need_met(&needs[i]))
                blocked |=
                    needs[i].finding == WAD_FINDING_GATED ? WADI_BLOCKED_GATE : WADI_BLOCKED_RESET;
        if (!blocked)
            return 0;
        first = first ? first : blocked;
    }
    return first;
}

void wadi_opening_show(const wadi_opening *o)
{
    if (o->slot)
        wadi_slot_store(o->slot, o->ready ? o->slot->value | o->mask : o->slot->value & ~o->mask);
}

/* What was asked for is there when its time has passed. */
static bool is_ready(wadi_opening *o, bool asked)
{
    if (!o)
        return asked;
    if (asked == o->asked)
        return o->ready;
    o->asked = asked;
    wadi_unschedule(o->block->sim, &o->event);
    o->ready = asked && !o->def->delayed;
    if (asked && o->def->delayed)
        wadi_schedule(o->block->sim, &o->event, wadi_delay_due(o->block->sim, &o->def->delay));
    wadi_opening_show(o);
    return o->ready;
}

void wadi_openings_reset(wadi_block *block)
{
    for (unsigned i = 0; i < 2; i++) {
        wadi_opening *o = block->opening[i];
        if (!o)
            continue;
        wadi_unschedule(block->sim, &o->event);
        o->asked = o->ready = i ? block->n_resets && unmet(block->resets, block->n_resets) != 0
                                : !unmet(block->needs, block->n_needs);
        wadi_opening_show(o);
    }
}

static unsigned what_blocks(const wadi_block *block)
{
    unsigned blocked = unmet(block->needs, block->n_needs);
    if (!is_ready(block->opening[0], !blocked) && !blocked)
        blocked = WADI_BLOCKED_GATE;
    bool released = !block->n_resets || unmet(block->resets, block->n_resets);
    if (!is_ready(block->opening[1], released))
        blocked |= WADI_BLOCKED_RESET;
    if (block->clock && !block->clock->def->own && !block->clock->domain.runs)
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

/* Its registers say by their reset values that it runs: the model is told as of a write. */
static void begin(wadi_block *block)
{
    wad_model *m = block->model;
    int enable = m ? wad_kind_role_index(m->kind, "enable") : -1;
    if (enable < 0 || !m->cls->written || block->blocked & WADI_BLOCKED_RESET)
        return;
    for (unsigned i = 0; i < m->roles[enable].count; i++) {
        const wadi_binding *b = &m->roles[enable];
        const wadi_slot *slot = b->n_parts ? b->parts[(size_t)i * b->n_parts].slot
                                           : (block->home ? block->home : block)->slots;
        if (!wad_model_get(m, (unsigned)enable, i) || !slot->reg)
            continue;
        wad_write w = {WAD_ROLE_BIT(enable), slot->reg, slot->index, 0, slot->value, 0};
        m->cls->written(m, &w);
    }
}

void wadi_blocks_begin(wad_sim *sim)
{
    for (unsigned i = 0; i < sim->sheet->n_blocks; i++)
        begin(&sim->blocks[i]);
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
        if (was & ~block->blocked & WADI_BLOCKED_RESET)
            begin(block);
    }
}

static void registers_to_reset_values(wadi_block *block)
{
    for (unsigned i = 0; i < block->n_slots; i++) {
        wadi_slot *slot = &block->slots[i];
        slot->once_done = 0;
        if (slot->rare)
            wadi_rare_reset(slot);
        wadi_slot_store(slot, ((uint32_t)slot->reg->reset & ~slot->pulse) | slot->must);
    }
    wadi_locks_reset(block);
}

static void reset_model(wadi_block *block)
{
    wad_model *m = block->model;
    if (!m || !m->cls->reset)
        return;
    m->resetting = true;
    m->cls->reset(m);
    m->resetting = false;
}

void wadi_block_to_reset_values(wadi_block *block)
{
    registers_to_reset_values(block);
    for (guint i = 0; block->laters && i < block->laters->len; i++)
        wadi_unschedule(block->sim, block->laters->pdata[i]);
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
    wadi_rare_conditions(sim);
    for (guint i = 0; i < sim->laters->len; i++)
        wadi_unschedule(sim, sim->laters->pdata[i]);
    for (unsigned i = 0; i < sim->sheet->n_blocks; i++)
        for (guint k = 0; sim->blocks[i].laters && k < sim->blocks[i].laters->len; k++)
            wadi_unschedule(sim, sim->blocks[i].laters->pdata[k]);
    for (unsigned i = 0; i < sim->sheet->n_blocks; i++)
        wadi_openings_reset(&sim->blocks[i]);
    for (unsigned i = 0; i < sim->sheet->n_blocks; i++) /* some look at others' registers */
        reset_model(&sim->blocks[i]);
    wadi_pins_regroup(sim);
}
