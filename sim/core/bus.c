/* SPDX-License-Identifier: MIT */
/* Register accesses: what the access kinds mean. */
#include "bus.h"

#include "block.h"
#include "clock.h"
#include "fault.h"
#include "feed.h"
#include "line.h"
#include "lock.h"
#include "model.h"
#include "pin.h"
#include "register.h"
#include "report.h"

static void check_alignment(wad_sim *sim, uint64_t address, unsigned bytes)
{
    if (sim->sheet->cpu.aligned && address & (bytes - 1) && !sim->bus.master)
        wadi_misaligned(sim, address, bytes);
}

/* ---- accesses ---- */

/* The cell that holds a byte address, its register found from a byte inside it. */
static wadi_slot *slot_at(wad_sim *sim, uint64_t address, bool write, uint64_t *base)
{
    wadi_cell *cell = wadi_find_cell(sim, address);
    wadi_slot *slot = cell ? (write ? cell->wr : cell->rd) : NULL;
    *base = slot ? slot->address : 0;
    return slot;
}

static void act_on_read(wadi_slot *slot, uint32_t value)
{
    const wadi_hearer *h;
    for (unsigned i = 0; slot->flags & WADI_SLOT_POPS && (h = wadi_hearer_at(slot, i)); i++)
        if (h->reads)
            h->model->cls->read(h->model, slot->reg);
    if (slot->flags & WADI_SLOT_CLEARS)
        wadi_slot_accessed(slot, false, value, UINT32_MAX);
}

static void tell_odd(wad_sim *sim, wadi_odd odd, wadi_slot *slot, bool write, uint32_t value)
{
    wadi_tell(sim,
              &(wadi_told){
                  .ear = WADI_EAR_ODD, .odd = odd, .slot = slot, .write = write, .value = value});
}

static void tell_width(wad_sim *sim, wadi_slot *slot, uint64_t address, unsigned bytes)
{
    wadi_tell(sim, &(wadi_told){.ear = WADI_EAR_ODD,
                                .odd = WADI_ODD_WIDTH,
                                .slot = slot,
                                .address = address,
                                .bytes = bytes});
}

/* Done, by the firmware. */
static __attribute__((noinline)) void tell_access(wad_sim *sim, wadi_slot *slot, bool write,
                                                  uint32_t value, uint32_t before, uint32_t after)
{
    if (sim->bus.master)
        return;
    wadi_tell(sim, &(wadi_told){.ear = WADI_EAR_ACCESS,
                                .write = write,
                                .slot = slot,
                                .value = value,
                                .before = before,
                                .after = after});
}

/* Bits that somebody else owns: silicon keeps them as they are, and says nothing. */
static uint32_t keep_foreign(wad_sim *sim, wadi_slot *slot, uint32_t value)
{
    uint32_t touched = (value ^ slot->value) & slot->foreign & slot->plain;
    touched |= value & slot->foreign & (slot->w1c | slot->w1s);
    if (!touched)
        return value;
    wadi_tell(sim, &(wadi_told){.ear = WADI_EAR_ODD,
                                .odd = WADI_ODD_FOREIGN,
                                .slot = slot,
                                .value = value,
                                .bits = touched});
    return (value & ~slot->foreign) | (slot->value & slot->foreign & slot->plain);
}

/* Fields that must be stable now, or that must not hold this value. */
static void tell_fields(wad_sim *sim, wadi_slot *slot, uint32_t value)
{
    bool touches = (value ^ slot->value) & slot->stable;
    bool lacks = slot->not_zero && (slot->flags & WADI_SLOT_SEVERAL || !(value & slot->not_zero));
    if (touches || lacks)
        wadi_tell(sim, &(wadi_told){.ear = WADI_EAR_FIELDS, .slot = slot, .value = value});
}

static inline uint32_t read_slot(wad_sim *sim, wadi_slot *slot)
{
    if (__builtin_expect(slot->block->blocked, 0)) {
        tell_odd(sim, WADI_ODD_BLOCKED, slot, false, 0);
        return 0;
    }
    sim->last_read.slot = slot;
    if (__builtin_expect(sim->ears & WADI_EAR_READ && !sim->bus.master, 0))
        wadi_tell_access(sim, WADI_EAR_READ, slot, false);
    if (__builtin_expect(sim->cpu.active_line != WADI_NO_LINE && !sim->bus.master, 0))
        wadi_tell_access(sim, WADI_EAR_HANDLER_READ, slot, false);
    if (slot->flags & WADI_SLOT_QUIET && !(sim->ears & WADI_EAR_ACCESS))
        return slot->value & slot->readable;
    if (slot->flags & WADI_SLOT_LIVE)
        wadi_slot_refresh(slot);
    if (__builtin_expect(slot->flags & WADI_SLOT_SPLIT && !sim->bus.master, 0))
        wadi_tell(sim, &(wadi_told){.ear = WADI_EAR_PART_READ, .slot = slot});
    uint32_t value = slot->value & slot->readable, before = slot->value;
    if (slot->rc & slot->value) {
        wad_write w = {0, slot->reg, slot->index, slot->value, slot->value & ~slot->rc, 0};
        wadi_slot_store(slot, w.after);
        wadi_tell_models(slot, &w);
    }
    if (__builtin_expect(slot->rs & ~slot->value, 0)) {
        wad_write w = {0, slot->reg, slot->index, slot->value, slot->value | slot->rs, 0};
        wadi_slot_store(slot, w.after);
        wadi_tell_models(slot, &w);
    }
    if (__builtin_expect(slot->flags & (WADI_SLOT_CLEARS | WADI_SLOT_POPS), 0))
        act_on_read(slot, value);
    sim->last_read.value = value;
    sim->last_read.pc = sim->call.pc;
    if (__builtin_expect(sim->ears & WADI_EAR_ACCESS, 0))
        tell_access(sim, slot, false, value, before, slot->value);
    wadi_settle(sim);
    return value;
}

static uint32_t read_odd(wad_sim *sim, uint64_t address, unsigned bytes)
{
    uint64_t base;
    wadi_slot *slot = slot_at(sim, address, false, &base);
    if (!slot) {
        wadi_slot *other = slot_at(sim, address, true, &base);
        if (!other) {
            wadi_unmapped(sim, address, "read of");
        } else {
            tell_odd(sim, WADI_ODD_WRITE_ONLY, other, false, 0);
        }
        return 0;
    }
    tell_width(sim, slot, address, bytes);
    check_alignment(sim, address, bytes);
    uint32_t mask = bytes >= 4 ? 0xFFFFFFFFu : (1u << bytes * 8) - 1;
    return read_slot(sim, slot) >> (address - base) % 4 * 8 & mask;
}

uint32_t wadi_bus_fetch(wad_sim *sim, uint64_t address, unsigned bytes)
{
    wadi_cell *cell = wadi_find_cell(sim, address);
    if (!cell || !cell->rd || cell->rd->bytes != bytes || cell->rd->address != address)
        return read_odd(sim, address, bytes);
    return read_slot(sim, cell->rd);
}

static void note_configured(wad_sim *sim, wadi_block *block)
{
    block->configured = true;
    block->config_trace = wadi_trace_here(sim);
}

/* Units of other blocks, or several of one, whose bits in the register have changed. */
static void note_unit(wad_sim *sim, const wadi_slot *slot, unsigned i, uint32_t changed)
{
    const wadi_hearer *h = wadi_hearer_at(slot, i);
    if (h && h->bits & changed && h->model->block != slot->block && !h->model->block->was_enabled &&
        !sim->bus.master)
        note_configured(sim, h->model->block);
}

static void after_write(wad_sim *sim, wadi_slot *slot, uint32_t before, uint32_t wrote)
{
    wadi_block *block = slot->block;
    if (!block->was_enabled && block->model && !sim->bus.master)
        note_configured(sim, block);
    if (__builtin_expect(slot->flags & WADI_SLOT_FAR, 0))
        for (unsigned i = 0; i <= slot->n_more; i++)
            note_unit(sim, slot, i, before ^ slot->value);
    wad_write w = {0, slot->reg, slot->index, before, slot->value, wrote};
    if (__builtin_expect(slot->changed & slot->enables, 0))
        wadi_feeds_enabled(slot);
    bool clocks = slot->flags & WADI_SLOT_CLOCKS && slot->value != before;
    /* a block that chooses its own clock has it by the time that the same write starts it */
    bool own = block->model && strcmp(block->model->cls->kind, "clocks");
    if (clocks && own)
        wadi_clocks_update(sim);
    wadi_tell_models(slot, &w);
    if (clocks && !own)
        wadi_clocks_update(sim);
    if (slot->flags & WADI_SLOT_ROUTES && slot->value != before)
        wadi_pins_regroup(sim);
    wadi_settle(sim);
}

/* Of a field that is stored once any bit uses it up. */
static uint32_t spend_once(wad_sim *sim, wadi_slot *slot, uint32_t value, uint32_t touched)
{
    uint32_t refused = slot->once_done & slot->once;
    if ((value ^ slot->value) & refused & touched) {
        char *name = wadi_slot_name(slot);
        wadi_report(sim, WAD_FINDING_LOCKED, slot,
                    "write of 0x%x to %s is ignored: it was written once since its reset, and can "
                    "be no more",
                    value, name);
        g_free(name);
    }
    for (unsigned i = 0; i < slot->reg->n_fields; i++) {
        const wad_bitfield *f = slot->reg->fields[i];
        for (unsigned k = 0; f->access == WAD_ACCESS_ONCE && k < f->per_reg; k++) {
            wad_fieldref ref = {.lsb = (uint8_t)(f->lsb + k * f->step), .width = f->width};
            uint32_t bits = (uint32_t)wad_fieldref_mask(&ref);
            slot->once_done |= bits & touched ? bits : 0;
        }
    }
    return touched & ~refused;
}

/* A pulse has been told; it reads 0 again. */
static void end_pulses(wadi_slot *slot)
{
    if (slot->pulse & slot->value)
        wadi_slot_store(slot, slot->value & ~slot->pulse);
}

/* `touched`: bits of the bytes that are written. */
static void write_slot(wad_sim *sim, wadi_slot *slot, uint32_t value, uint32_t touched)
{
    if (slot->block->blocked) {
        tell_odd(sim, WADI_ODD_BLOCKED, slot, true, 0);
        return;
    }
    if (__builtin_expect(sim->ears & WADI_EAR_WRITE && !sim->bus.master, 0))
        wadi_tell_access(sim, WADI_EAR_WRITE, slot, true);
    if (__builtin_expect(sim->cpu.active_line != WADI_NO_LINE && !sim->bus.master, 0))
        wadi_tell_access(sim, WADI_EAR_HANDLER_WRITE, slot, true);
    wadi_slot *asked = slot;
    uint32_t wrote = value;
    if (slot->alias_of) {
        wadi_slot *to = slot->alias_of;
        if (value & to->reserved)
            tell_odd(sim, WADI_ODD_BITS, to, true, value | to->must);
        value = slot->alias == WAD_ALIAS_SETS     ? to->value | value
                : slot->alias == WAD_ALIAS_CLEARS ? to->value & ~value
                                                  : to->value ^ value;
        value = (value & ~to->reserved) | to->must;
        slot = to;
    } else if (((value ^ slot->must) & slot->reserved) || value & slot->read_only ||
               slot->reg->access == WAD_ACCESS_RO) {
        tell_odd(sim, WADI_ODD_BITS, slot, true, value);
    }
    if (__builtin_expect(slot->foreign, 0))
        value = keep_foreign(sim, slot, value);
    if ((slot->w1c | slot->w0c) && sim->last_read.slot == slot)
        wadi_tell(sim, &(wadi_told){.ear = WADI_EAR_REWRITE, .slot = slot, .value = value});
    if (slot->flags & (WADI_SLOT_LOCKED | WADI_SLOT_KEY) && !wadi_locks_allow(sim, slot, value))
        return;
    if (slot->flags & WADI_SLOT_CHECKS)
        tell_fields(sim, slot, value);
    if (slot->flags & WADI_SLOT_LIVE)
        wadi_slot_refresh(slot);
    uint32_t before = slot->value;
    if (asked != slot) { /* by an alias: these bits, whatever writing them there would do */
        uint32_t takes = slot->plain | slot->w1s |
                         slot->settable; /* what software can set; clearing reaches flags */
        if (asked->alias == WAD_ALIAS_CLEARS)
            takes |= slot->w1c | slot->w0c | slot->raised;
        if (__builtin_expect(slot->once != 0, 0))
            takes &= spend_once(sim, slot, value, wrote) | ~slot->once;
        wadi_slot_store(slot, (before & ~takes) | (value & takes));
    } else if (__builtin_expect(slot->flags & WADI_SLOT_KINDS, 0)) {
        wadi_slot_store(slot, (uint32_t)wad_register_after(slot->reg, before, value,
                                                           spend_once(sim, slot, value, touched)));
    } else {
        uint32_t stored = ((before & ~slot->plain) | (value & slot->plain)) & ~(value & slot->w1c) &
                          (value | ~slot->w0c);
        wadi_slot_store(slot, stored | (value & slot->w1s));
    }
    sim->last_read.slot = NULL;
    if (__builtin_expect(sim->ears & WADI_EAR_ACCESS, 0))
        tell_access(sim, asked, true, wrote, before, slot->value);
    if (__builtin_expect(asked->flags & WADI_SLOT_CLEARS, 0))
        wadi_slot_accessed(asked, true, wrote, touched);
    after_write(sim, slot, before, wrote);
    if (__builtin_expect(slot->pulse != 0, 0))
        end_pulses(slot);
}

static void write_odd(wad_sim *sim, uint64_t address, unsigned bytes, uint32_t value)
{
    uint64_t base;
    wadi_slot *slot = slot_at(sim, address, true, &base);
    if (!slot) {
        wadi_slot *other = slot_at(sim, address, false, &base);
        if (other && other->block->blocked)
            tell_odd(sim, WADI_ODD_BLOCKED, other, true, 0);
        else if (other)
            tell_odd(sim, WADI_ODD_BITS, other, true, value);
        else
            wadi_unmapped(sim, address, "write to");
        return;
    }
    tell_width(sim, slot, address, bytes);
    check_alignment(sim, address, bytes);
    unsigned shift = (unsigned)(address - base) % 4 * 8;
    uint32_t mask = (bytes >= 4 ? 0xFFFFFFFFu : (1u << bytes * 8) - 1) << shift;
    /* the other bytes are not written: what would act there is written so that it does not */
    uint32_t rest =
        ((slot->value & slot->plain) | slot->w0c | (slot->must & slot->reserved)) & ~mask;
    write_slot(sim, slot, rest | (value << shift & mask), mask);
}

void wadi_bus_write(wad_sim *sim, uint64_t address, unsigned bytes, uint32_t value)
{
    if (__builtin_expect(sim->ears & WADI_EAR_CALL_IN, 0))
        wadi_tell(sim, &(wadi_told){.ear = WADI_EAR_CALL_IN, .address = address});
    wadi_cpu_access(sim);
    wadi_bus_apply(sim, address, bytes, value);
}

wadi_slot *wadi_bus_slot(wad_sim *sim, uint64_t address, bool write)
{
    uint64_t base;
    return slot_at(sim, address, write, &base);
}

void wadi_bus_apply(wad_sim *sim, uint64_t address, unsigned bytes, uint32_t value)
{
    wadi_cell *cell = wadi_find_cell(sim, address);
    if (!cell || !cell->wr || cell->wr->bytes != bytes || cell->wr->address != address)
        write_odd(sim, address, bytes, value);
    else
        write_slot(sim, cell->wr, value, UINT32_MAX);
}

bool wad_sim_peek(wad_sim *sim, uint64_t address, uint32_t *value)
{
    wadi_cell *cell = wadi_find_cell(sim, address);
    if (!cell || !cell->rd)
        return false;
    wadi_slot_refresh(cell->rd);
    *value = cell->rd->value & cell->rd->readable;
    return true;
}
