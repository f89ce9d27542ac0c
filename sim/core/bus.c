/* SPDX-License-Identifier: MIT */
/* Register accesses: what the access kinds mean, and what is wrong with an access. */
#include "bus.h"

#include "block.h"
#include "clock.h"
#include "fault.h"
#include "line.h"
#include "lock.h"
#include "model.h"
#include "pin.h"
#include "register.h"
#include "report.h"
#include "sim/check/habit.h"
#include "sim/check/race.h"
#include "sim/check/split.h"
#include "sim/host/source.h"

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

/* ---- complaints ---- */

static void report_blocked(wad_sim *sim, const wadi_slot *slot, bool write)
{
    const wadi_block *block = slot->block;
    char *name = wadi_slot_name(slot);
    for (unsigned i = 0; i < block->n_needs; i++) {
        const wadi_need *need = &block->needs[i];
        if (((need->slot->value & need->mask) == need->value) == need->equal)
            continue;
        char *field = wad_fieldref_name(&need->term->ref);
        wadi_report(sim, need->finding, slot, "%s %s is ignored: %s is %u, must be %llu",
                    write ? "write to" : "read of", name, field,
                    (need->slot->value & need->mask) >> need->term->ref.lsb,
                    (unsigned long long)need->term->value);
        g_free(field);
        g_free(name);
        return;
    }
    wadi_report(sim, WAD_FINDING_GATED, slot, "%s %s is ignored: its clock '%s' does not run",
                write ? "write to" : "read of", name,
                block->clock ? block->clock->def->name : "core");
    g_free(name);
}

static void report_width(wad_sim *sim, const wadi_slot *slot, uint64_t address, unsigned bytes)
{
    if (sim->master) /* said when the transfer began */
        return;
    /* compilers narrow accesses to bit-fields: in plain firmware a part of a register is no mistake
     */
    if (sim->fw.plain && address >= slot->address && address + bytes <= slot->address + slot->bytes)
        return;
    char *name = wadi_slot_name(slot);
    wadi_report(sim, WAD_FINDING_WIDTH, slot,
                "%u-bit access at 0x%08llx to %s, a %u-bit register at 0x%08llx", bytes * 8,
                (unsigned long long)address, name, slot->bytes * 8,
                (unsigned long long)slot->address);
    g_free(name);
}

static void check_alignment(wad_sim *sim, uint64_t address, unsigned bytes)
{
    if (sim->sheet->cpu.aligned && address & (bytes - 1) && !sim->master)
        wadi_misaligned(sim, address, bytes);
}

/* "RXOVER, TXREADY" for the fields that `bits` touch. */
static char *fields_of(const wad_register *reg, uint32_t bits)
{
    GString *text = g_string_new(NULL);
    for (unsigned i = 0; i < reg->n_fields; i++) {
        const wad_bitfield *f = reg->fields[i];
        for (unsigned k = 0; f->name && k < (f->count ? f->per_reg : 1u); k++) {
            wad_fieldref ref = {
                .field = f, .lsb = (uint8_t)(f->lsb + k * f->step), .width = f->width};
            if (!(wad_fieldref_mask(&ref) & bits))
                continue;
            g_string_append_printf(text, "%s%s", text->len ? ", " : "", f->name);
            if (f->count)
                g_string_append_printf(text, "[%u]", k);
        }
    }
    return g_string_free(text, FALSE);
}

static void check_written_bits(wad_sim *sim, const wadi_slot *slot, uint32_t value)
{
    char *name = wadi_slot_name(slot);
    uint32_t wrong = (value ^ slot->value) & slot->read_only & value;
    wadi_mark(sim, value, wrong);
    if (slot->reg->access == WAD_ACCESS_RO)
        wadi_report(sim, WAD_FINDING_READ_ONLY, slot, "write of 0x%x to %s, which is read-only",
                    value, name);
    else if (wrong) {
        char *fields = fields_of(slot->reg, wrong);
        wadi_report(sim, WAD_FINDING_READ_ONLY, slot, "write of 0x%x to %s: %s is read-only", value,
                    name, fields);
        g_free(fields);
    }
    wadi_mark(sim, value, (value ^ slot->must) & slot->reserved);
    uint32_t wrong_reserved = (value ^ slot->must) & slot->reserved;
    if (wrong_reserved & ~slot->must)
        wadi_report(sim, WAD_FINDING_RESERVED, slot, "write of 0x%x to %s sets reserved bits 0x%x",
                    value, name, wrong_reserved & ~slot->must);
    else if (wrong_reserved)
        wadi_report(sim, WAD_FINDING_RESERVED, slot,
                    "write of 0x%x to %s clears reserved bits 0x%x, which must be written as 1",
                    value, name, wrong_reserved);
    wadi_mark(sim, 0, 0);
    g_free(name);
}

/*
 * `STAT |= FLAG`: the value just read comes back with a bit more, on one source line. Writing back
 * exactly what was read, on another line, acknowledges all flags seen, and is right.
 */
static void check_rmw(wad_sim *sim, const wadi_slot *slot, uint32_t value)
{
    uint32_t back = sim->last_read.value;
    if (sim->last_read.slot != slot || (value & back) != back)
        return;
    if (!wadi_source_same_line(sim, sim->last_read.pc, sim->pc))
        return;
    char *name = wadi_slot_name(slot);
    char *fields = fields_of(slot->reg, back & slot->w1c);
    wadi_mark(sim, value, back & slot->w1c ? back & slot->w1c : value & slot->w1c);
    if (back & slot->w1c)
        wadi_report(sim, WAD_FINDING_RMW_W1C, slot,
                    "%s read as 0x%x and written back as 0x%x: clears %s", name, back, value,
                    fields);
    else
        wadi_report(sim, WAD_FINDING_RMW_W1C, slot,
                    "%s read and written back as 0x%x: would clear every flag that is set", name,
                    value);
    g_free(fields);
    g_free(name);
}

/* `STAT &= ~FLAG` on write-0-to-clear flags: one that came between read and write is lost. */
static void check_lost(wad_sim *sim, const wadi_slot *slot, uint32_t value)
{
    uint32_t lost = slot->value & ~value & ~sim->last_read.value & slot->w0c;
    if (!lost || !wadi_source_same_line(sim, sim->last_read.pc, sim->pc))
        return;
    char *name = wadi_slot_name(slot), *fields = fields_of(slot->reg, lost);
    wadi_mark(sim, value, lost);
    wadi_report(sim, WAD_FINDING_FLAG_LOST, slot,
                "%s read as 0x%x, then written back as 0x%x: clears %s, which was set in between",
                name, sim->last_read.value, value, fields);
    g_free(fields);
    g_free(name);
}

/* Fields that must be stable now, or that must not hold this value. */
static void check_fields(wad_sim *sim, const wadi_slot *slot, uint32_t value)
{
    bool touches = (value ^ slot->value) & slot->stable;
    bool lacks = slot->not_zero && (slot->flags & WADI_SLOT_SEVERAL || !(value & slot->not_zero));
    if (!touches && !lacks)
        return;
    for (unsigned i = 0; i < slot->reg->n_fields; i++) {
        const wad_bitfield *f = slot->reg->fields[i];
        wad_fieldref ref = {.block = slot->block->inst,
                            .reg = slot->reg,
                            .reg_index = slot->index,
                            .field = f,
                            .lsb = f->lsb,
                            .width = f->width};
        uint32_t mask = (uint32_t)wad_fieldref_mask(&ref);
        bool unstable =
            f->stable && ((value ^ slot->value) & mask) && wadi_cond_holds(slot->block, f->stable);
        bool forbidden = f->not_zero && !(value & mask);
        if (!unstable && !forbidden)
            continue;
        char *name = wad_fieldref_name(&ref);
        wadi_mark(sim, value, mask);
        if (unstable) {
            char *why = wad_fieldref_name(&f->stable->terms[0].ref);
            wadi_report(sim, WAD_FINDING_NOT_STABLE, slot,
                        "%s changed from %u to %u while %s is %llu", name,
                        (slot->value & mask) >> f->lsb, (value & mask) >> f->lsb, why,
                        (unsigned long long)f->stable->terms[0].value);
            g_free(why);
        }
        wadi_mark(sim, value, mask);
        if (forbidden)
            wadi_report(sim, WAD_FINDING_FORBIDDEN, slot, "%s set to 0, which is forbidden", name);
        g_free(name);
    }
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

static inline void tell_model(const wadi_slot *slot, const wad_write *w)
{
    wad_model *m = slot->block->model;
    if (m && slot->flags & WADI_SLOT_HEARD)
        m->cls->written(m, w);
}

/* The trace's hearers, apart from the access itself. */
static __attribute__((noinline)) void tell_watches(wad_sim *sim, const wadi_slot *slot, bool write,
                                                   uint32_t value, uint32_t before, uint32_t after)
{
    if (sim->master) /* the trace is the firmware's */
        return;
    wad_access_record r = {
        .ps = sim->now,
        .write = write,
        .block = slot->block->inst,
        .reg = slot->reg,
        .reg_index = slot->index,
        .bytes = slot->bytes,
        .value = value,
        .before = before,
        .after = after,
    };
    sim->access_fn(sim->access_ctx, &r);
}

void wad_sim_watch_access(wad_sim *sim, wad_access_fn fn, void *ctx)
{
    sim->access_fn = fn;
    sim->access_ctx = ctx;
    sim->watch = fn ? sim->watch | WADI_WATCH_TRACE : sim->watch & ~(unsigned)WADI_WATCH_TRACE;
}

/* Flags of the block that go now. */
static void take_flags(wadi_slot *flag, uint32_t mask)
{
    wad_write w = {flag->roles, flag->reg, flag->index, flag->value, flag->value & ~mask, 0};
    if (!(flag->value & mask))
        return;
    flag->value = w.after;
    tell_model(flag, &w);
}

static void act_on_read(const wadi_slot *slot)
{
    if (slot->flags & WADI_SLOT_POPS)
        slot->block->model->cls->read(slot->block->model, slot->reg);
    if (!(slot->flags & WADI_SLOT_CLEARS))
        return;
    for (guint i = 0; i < slot->block->clearings->len; i++) {
        const wadi_clearing *c = &g_array_index(slot->block->clearings, wadi_clearing, i);
        if (c->read == slot)
            take_flags(c->flag, c->mask);
    }
}

void wadi_block_entered(wadi_block *block)
{
    for (unsigned i = 0; i < block->n_slots; i++)
        if (block->slots[i].at_entry)
            take_flags(&block->slots[i], block->slots[i].at_entry);
}

/* Bits that somebody else owns: silicon keeps them as they are, and says nothing. */
static uint32_t keep_foreign(wad_sim *sim, const wadi_slot *slot, uint32_t value)
{
    uint32_t touched = (value ^ slot->value) & slot->foreign & slot->plain;
    touched |= value & slot->foreign & (slot->w1c | slot->w1s);
    if (!touched)
        return value;
    const wad_instance *inst = slot->block->inst;
    const char *by = "?";
    for (unsigned i = 0; i < inst->n_owned; i++)
        if (inst->owned[i].ref.reg == slot->reg && inst->owned[i].ref.reg_index == slot->index &&
            wad_fieldref_mask(&inst->owned[i].ref) & touched)
            by = inst->owned[i].by;
    char *name = wadi_slot_name(slot), *fields = fields_of(slot->reg, touched);
    wadi_mark(sim, value, touched);
    wadi_report(sim, WAD_FINDING_OWNED, slot, "write of 0x%x to %s: %s belongs to %s", value, name,
                fields, by);
    g_free(fields);
    g_free(name);
    return (value & ~slot->foreign) | (slot->value & slot->foreign & slot->plain);
}

static inline uint32_t read_slot(wad_sim *sim, wadi_slot *slot)
{
    if (__builtin_expect(slot->block->blocked, 0)) {
        report_blocked(sim, slot, false);
        return 0;
    }
    sim->last_read.slot = slot;
    if (__builtin_expect(sim->watch & WADI_WATCH_RACES && !sim->master, 0))
        wadi_race_register(sim, slot, false);
    if (__builtin_expect(sim->active_line != WADI_NO_LINE && !sim->master, 0))
        wadi_handler_reads(sim, slot);
    if (slot->flags & WADI_SLOT_QUIET && !(sim->watch & WADI_WATCH_TRACE))
        return slot->value & slot->readable;
    if (slot->flags & WADI_SLOT_LIVE)
        wadi_slot_refresh(slot);
    if (__builtin_expect(slot->flags & WADI_SLOT_SPLIT && !sim->master, 0))
        wadi_split_read(sim, slot);
    uint32_t value = slot->value & slot->readable, before = slot->value;
    if (slot->rc & slot->value) {
        wad_write w = {
            slot->roles, slot->reg, slot->index, slot->value, slot->value & ~slot->rc, 0};
        slot->value = w.after;
        tell_model(slot, &w);
    }
    if (__builtin_expect(slot->flags & (WADI_SLOT_CLEARS | WADI_SLOT_POPS), 0))
        act_on_read(slot);
    sim->last_read.value = value;
    sim->last_read.pc = sim->pc;
    if (__builtin_expect(sim->watch & WADI_WATCH_TRACE, 0))
        tell_watches(sim, slot, false, value, before, slot->value);
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
            char *name = wadi_slot_name(other);
            wadi_report(sim, WAD_FINDING_WRITE_ONLY, other, "read of %s, which is write-only",
                        name);
            g_free(name);
        }
        return 0;
    }
    report_width(sim, slot, address, bytes);
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

static void after_write(wad_sim *sim, wadi_slot *slot, uint32_t before, uint32_t wrote)
{
    wadi_block *block = slot->block;
    if (!block->was_enabled && block->model && !sim->master) {
        block->configured = true;
        block->config_trace = wadi_trace_here(sim);
    }
    wad_write w = {slot->roles, slot->reg, slot->index, before, slot->value, wrote};
    bool clocks = slot->flags & WADI_SLOT_CLOCKS && slot->value != before;
    /* a block that chooses its own clock has it by the time that the same write starts it */
    bool own = block->model && strcmp(block->model->cls->kind, "clocks");
    if (clocks && own)
        wadi_clocks_update(sim);
    tell_model(slot, &w);
    if (clocks && !own)
        wadi_clocks_update(sim);
    if (slot->flags & WADI_SLOT_ROUTES && slot->value != before)
        wadi_pins_regroup(sim);
}

static void write_slot(wad_sim *sim, wadi_slot *slot, uint32_t value)
{
    if (slot->block->blocked) {
        report_blocked(sim, slot, true);
        return;
    }
    if (__builtin_expect(sim->watch & WADI_WATCH_RACES && !sim->master, 0))
        wadi_race_register(sim, slot, true);
    if (!sim->master)
        wadi_handler_writes(sim);
    const wadi_slot *asked = slot;
    uint32_t wrote = value;
    if (slot->alias_of) {
        wadi_slot *to = slot->alias_of;
        if (value & to->reserved)
            check_written_bits(sim, to, value | to->must);
        value = slot->alias == WAD_ALIAS_SETS     ? to->value | value
                : slot->alias == WAD_ALIAS_CLEARS ? to->value & ~value
                                                  : to->value ^ value;
        value = (value & ~to->reserved) | to->must;
        slot = to;
    } else if (((value ^ slot->must) & slot->reserved) || value & slot->read_only ||
               slot->reg->access == WAD_ACCESS_RO) {
        check_written_bits(sim, slot, value);
    }
    if (__builtin_expect(slot->foreign, 0))
        value = keep_foreign(sim, slot, value);
    if (slot->w1c && sim->last_read.slot == slot)
        check_rmw(sim, slot, value);
    if (slot->w0c && sim->last_read.slot == slot)
        check_lost(sim, slot, value);
    if (slot->flags & (WADI_SLOT_LOCKED | WADI_SLOT_KEY) && !wadi_locks_allow(sim, slot, value))
        return;
    if (slot->flags & WADI_SLOT_CHECKS)
        check_fields(sim, slot, value);
    if (slot->flags & WADI_SLOT_LIVE)
        wadi_slot_refresh(slot);
    uint32_t before = slot->value;
    if (asked != slot) { /* by an alias: these bits, whatever writing them there would do */
        uint32_t takes = slot->plain | slot->w1c | slot->w0c | slot->w1s;
        slot->value = (before & ~takes) | (value & takes);
    } else {
        slot->value = ((before & ~slot->plain) | (value & slot->plain)) & ~(value & slot->w1c) &
                      (value | ~slot->w0c);
        slot->value |= value & slot->w1s;
    }
    sim->last_read.slot = NULL;
    if (__builtin_expect(sim->watch & WADI_WATCH_TRACE, 0))
        tell_watches(sim, asked, true, wrote, before, slot->value);
    after_write(sim, slot, before, wrote);
}

static void write_odd(wad_sim *sim, uint64_t address, unsigned bytes, uint32_t value)
{
    uint64_t base;
    wadi_slot *slot = slot_at(sim, address, true, &base);
    if (!slot) {
        wadi_slot *other = slot_at(sim, address, false, &base);
        if (other && other->block->blocked)
            report_blocked(sim, other, true);
        else if (other)
            check_written_bits(sim, other, value);
        else
            wadi_unmapped(sim, address, "write to");
        return;
    }
    report_width(sim, slot, address, bytes);
    check_alignment(sim, address, bytes);
    unsigned shift = (unsigned)(address - base) % 4 * 8;
    uint32_t mask = (bytes >= 4 ? 0xFFFFFFFFu : (1u << bytes * 8) - 1) << shift;
    /* the other bytes are not written: what would act there is written so that it does not */
    uint32_t rest =
        ((slot->value & slot->plain) | slot->w0c | (slot->must & slot->reserved)) & ~mask;
    write_slot(sim, slot, rest | (value << shift & mask));
}

void wadi_bus_write(wad_sim *sim, uint64_t address, unsigned bytes, uint32_t value)
{
    if (__builtin_expect(sim->watch & WADI_WATCH_POINTS, 0))
        wadi_explore_point(sim, address);
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
        write_slot(sim, cell->wr, value);
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
