/* SPDX-License-Identifier: MIT */
/* Register accesses: what the access kinds mean. */
#include "bus.h"

#include "block.h"
#include "clock.h"
#include "fault.h"
#include "feed.h"
#include "happen.h"
#include "line.h"
#include "lock.h"
#include "model.h"
#include "pin.h"
#include "rare.h"
#include "register.h"
#include "report.h"
#include "schedule.h"

static void check_alignment(wad_sim *sim, uint64_t address, unsigned bytes)
{
    if (sim->sheet->cpu.aligned && address & (bytes - 1) && !sim->bus.master)
        wadi_misaligned(sim, address, bytes);
}

/* ---- accesses ---- */

/* A window is the register that it shows. */
static inline wadi_slot *itself(wadi_slot *slot)
{
    return slot->flags & WADI_SLOT_WINDOW ? slot->alias_of : slot;
}

/* The cell that holds a byte address, its register found from a byte inside it. */
static wadi_slot *slot_at(wad_sim *sim, uint64_t address, bool write, uint64_t *base)
{
    wadi_cell *cell = wadi_find_cell(sim, address);
    wadi_slot *slot = cell ? (write ? cell->wr : cell->rd) : NULL;
    if (slot && slot->flags & WADI_SLOT_RARE)
        slot = wadi_rare_there(slot, write);
    *base = slot ? slot->address : 0;
    return slot;
}

/* Registers lie there, and the condition of none holds. */
static void none_there(wad_sim *sim, wadi_slot *first, bool write)
{
    GString *names = g_string_new(NULL);
    for (const wadi_slot *s = first; s; s = s->rare ? s->rare->next[write] : NULL) {
        char *cond = s->rare && s->rare->when ? wad_cond_text(s->rare->when) : NULL;
        g_string_append_printf(names, "%s%s while %s", names->len ? ", " : "", s->reg->name,
                               cond ? cond : "always");
        g_free(cond);
    }
    char at[64];
    wad_format_address(sim->sheet, first->address, at, sizeof at);
    wadi_report(sim, WAD_FINDING_UNMAPPED, first, "%s %s: no register is there now (%s)",
                write ? "write to" : "read of", at, names->str);
    g_string_free(names, TRUE);
}

/* Where the bytes of a narrow access lie in the register. */
static unsigned lane(const wad_sim *sim, const wadi_slot *slot, uint64_t offset, unsigned bytes)
{
    unsigned at = (unsigned)(offset % 4);
    if (!sim->sheet->big_endian)
        return at * 8;
    return at + bytes <= slot->bytes ? (slot->bytes - bytes - at) * 8 : 0;
}

static void act_on_read(wadi_slot *slot, uint32_t value)
{
    const wadi_hearer *h;
    for (unsigned i = 0; slot->flags & WADI_SLOT_POPS && (h = wadi_hearer_at(slot, i)); i++)
        if (h->reads)
            h->model->cls->read(h->model, slot->reg);
    if (slot->flags & WADI_SLOT_RARE)
        wadi_rare_take_numbers(slot);
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
    if (touches || lacks || slot->coded)
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
    if (__builtin_expect(slot->flags & WADI_SLOT_RARE, 0)) {
        value = wadi_rare_reads(slot);
        wadi_rare_through_read(slot);
    }
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
    if (__builtin_expect(slot->flags & (WADI_SLOT_CLEARS | WADI_SLOT_POPS | WADI_SLOT_RARE), 0))
        act_on_read(slot, value);
    sim->last_read.value = value;
    sim->last_read.pc = sim->call.pc;
    if (__builtin_expect(sim->ears & WADI_EAR_ACCESS, 0))
        tell_access(sim, slot, false, value, before, slot->value);
    wadi_settle(sim);
    return value;
}

/* A window that shows an address range bit by bit: which byte and bit is meant. */
static bool bit_window(const wad_sim *sim, uint64_t address, uint64_t *byte, unsigned *bit)
{
    for (unsigned i = 0; i < sim->sheet->n_windows; i++) {
        const wad_window *w = &sim->sheet->windows[i];
        if (!w->bits || address < w->at || address >= w->at + w->size * 8 * w->step)
            continue;
        uint64_t n = (address - w->at) / w->step;
        *byte = w->of + n / 8;
        *bit = (unsigned)(n % 8);
        return true;
    }
    return false;
}

/* All bytes of the register are read, and one bit shown. */
static uint32_t read_bit(wad_sim *sim, uint64_t address, unsigned bit)
{
    uint64_t base;
    wadi_slot *slot = slot_at(sim, address, false, &base);
    if (!slot) {
        wadi_unmapped(sim, address, "read of one bit of");
        return 0;
    }
    bit += lane(sim, slot, address - base, 1);
    return read_slot(sim, itself(slot)) >> bit & 1;
}

static uint32_t read_odd(wad_sim *sim, uint64_t address, unsigned bytes)
{
    uint64_t base;
    wadi_slot *slot = slot_at(sim, address, false, &base);
    uint64_t byte;
    unsigned bit;
    if (!slot && bit_window(sim, address, &byte, &bit))
        return read_bit(sim, byte, bit);
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
    unsigned shift = lane(sim, slot, address - base, bytes);
    return read_slot(sim, itself(slot)) >> shift & mask;
}

uint32_t wadi_bus_fetch(wad_sim *sim, uint64_t address, unsigned bytes)
{
    wadi_cell *cell = wadi_find_cell(sim, address);
    wadi_slot *slot = cell ? cell->rd : NULL;
    if (!slot)
        return read_odd(sim, address, bytes);
    if (__builtin_expect(slot->flags & (WADI_SLOT_RARE | WADI_SLOT_WINDOW), 0)) {
        slot = wadi_rare_there(slot, false);
        if (!slot) {
            none_there(sim, cell->rd, false);
            return 0;
        }
        if (slot->bytes == bytes && slot->address == address)
            return read_slot(sim, itself(slot));
    }
    if (slot->bytes != bytes || slot->address != address)
        return read_odd(sim, address, bytes);
    return read_slot(sim, slot);
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

static inline __attribute__((always_inline)) void after_write(wad_sim *sim, wadi_slot *slot,
                                                              uint32_t before, uint32_t wrote)
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
    bool before_models = clocks && block->model && strcmp(block->model->cls->kind, "clocks");
    if (before_models)
        wadi_clocks_update(sim);
    wadi_tell_models(slot, &w);
    if (clocks && !before_models)
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

/* What conditions rest on has changed. */
static __attribute__((noinline)) void conditions_turn(wad_sim *sim, const wadi_slot *slot)
{
    wadi_rare_conditions(sim);
    if (slot == sim->cpu.saves)
        sim->due = 0; /* it may put the core to sleep */
}

/* An alias has changed it. */
static __attribute__((noinline)) void told_elsewhere(wad_sim *sim, wadi_slot *slot, uint32_t before,
                                                     uint32_t wrote)
{
    if (slot->flags & WADI_SLOT_ENDS && slot->value != before)
        conditions_turn(sim, slot);
    after_write(sim, slot, before, wrote);
}

/* A pulse has been told; it reads 0 again. */
static void end_pulses(wadi_slot *slot)
{
    if (slot->pulse & slot->value)
        wadi_slot_store(slot, slot->value & ~slot->pulse);
}

static void carry_out(wad_sim *sim, wadi_slot *asked, wadi_slot *slot, uint32_t wrote,
                      uint32_t value, uint32_t touched);

/* A write of it brings something about, whatever it stores. */
static bool write_means(const wadi_slot *slot)
{
    for (guint i = 0; slot->accessed && i < slot->accessed->len; i++) {
        const wadi_clearing *c = slot->accessed->pdata[i];
        if ((c->last.slot == slot && c->last.write) || (c->first.slot == slot && c->first.write))
            return true;
    }
    for (guint i = 0; slot->rare && slot->rare->numbers && i < slot->rare->numbers->len; i++)
        if (((const wadi_number *)slot->rare->numbers->pdata[i])->def->clears)
            return true;
    return false;
}

static inline bool acts_on_bits(const wadi_slot *asked)
{
    return asked->alias != WAD_ALIAS_NONE && asked->alias != WAD_ALIAS_IS;
}

/* What a write through a verb says of the bits that it acts on: 1 by `sets`, 0 by `clears`. */
static uint32_t written_through(const wadi_slot *window, uint32_t before, uint32_t wrote,
                                uint32_t touched)
{
    return window->alias == WAD_ALIAS_SETS     ? touched
           : window->alias == WAD_ALIAS_CLEARS ? 0
           : window->alias == WAD_ALIAS_IS     ? wrote
                                               : ~before & touched;
}

static inline uint32_t verb_makes(wad_alias verb, uint32_t before, uint32_t bits)
{
    return verb == WAD_ALIAS_SETS     ? before | bits
           : verb == WAD_ALIAS_CLEARS ? before & ~bits
                                      : before ^ bits;
}

/* Steps 6 to 13 of a write: now, or when a delayed one arrives. */
static inline __attribute__((always_inline)) void store_and_tell(wad_sim *sim, wadi_slot *asked,
                                                                 wadi_slot *slot, uint32_t wrote,
                                                                 uint32_t value, uint32_t touched)
{
    if (slot->flags & WADI_SLOT_LIVE)
        wadi_slot_refresh(slot);
    uint32_t before = slot->value;
    if (acts_on_bits(asked)) { /* these bits, whatever writing them there would do */
        uint32_t takes = slot->plain | slot->w1s |
                         slot->settable; /* what software can set; clearing reaches flags */
        if (asked->alias == WAD_ALIAS_CLEARS)
            takes |= slot->w1c | slot->w0c | slot->rc | slot->raised;
        if (__builtin_expect(slot->once != 0, 0))
            takes &= spend_once(sim, slot, value, touched) | ~slot->once;
        if (slot->rare) {
            takes &= ~wadi_rare_elsewhere(slot);
            wadi_rare_store(slot, verb_makes(asked->alias, wadi_rare_before(slot), touched & takes),
                            touched & takes);
            wadi_rare_forward(slot, value, touched, told_elsewhere);
        } else {
            wadi_slot_store(slot, verb_makes(asked->alias, before, touched & takes));
        }
    } else if (__builtin_expect(slot->flags & WADI_SLOT_RARE, 0)) {
        uint32_t here = touched & ~wadi_rare_elsewhere(slot);
        here = spend_once(sim, slot, value, here);
        wadi_rare_store(
            slot, (uint32_t)wad_register_after(slot->reg, wadi_rare_before(slot), value, here),
            here);
        wadi_rare_forward(slot, value, touched, told_elsewhere);
    } else if (__builtin_expect(slot->flags & WADI_SLOT_KINDS || asked != slot, 0)) {
        wadi_slot_store(slot, (uint32_t)wad_register_after(slot->reg, before, value,
                                                           spend_once(sim, slot, value, touched)));
    } else {
        uint32_t stored = ((before & ~slot->plain) | (value & slot->plain)) & ~(value & slot->w1c) &
                          (value | ~slot->w0c);
        wadi_slot_store(slot, stored | (value & slot->w1s));
    }
    if (__builtin_expect(slot->flags & WADI_SLOT_ENDS && slot->value != before, 0))
        conditions_turn(sim, slot);
    sim->last_read.slot = NULL;
    if (__builtin_expect(sim->ears & WADI_EAR_ACCESS, 0))
        tell_access(sim, asked, true, wrote, before, slot->value);
    if (__builtin_expect(asked->flags & WADI_SLOT_CLEARS, 0))
        wadi_slot_accessed(asked, true, wrote, touched);
    else if (__builtin_expect(asked->flags & WADI_SLOT_WINDOW && slot->flags & WADI_SLOT_CLEARS, 0))
        wadi_slot_accessed(slot, true, value, touched);
    after_write(sim, slot, before, wrote);
    if (__builtin_expect(slot->pulse != 0, 0))
        end_pulses(slot);
}

/* Steps 3 to 5: the bits that are written now; 0: that is all. `value`: as the register would be
 * by a plain write, `said`: of the bits that are touched. */
static uint32_t goes_on(wad_sim *sim, wadi_slot *asked, wadi_slot *slot, uint32_t wrote,
                        uint32_t value, uint32_t said, uint32_t touched)
{
    uint32_t now = touched;
    if (slot->flags & (WADI_SLOT_LOCKED | WADI_SLOT_KEY) &&
        !wadi_locks_allow(sim, slot, said, touched))
        return 0;
    if (slot->flags & WADI_SLOT_CHECKS)
        tell_fields(sim, slot, value);
    if (slot->flags & WADI_SLOT_RARE) {
        touched = wadi_rare_masked(slot, said, touched);
        if (!wadi_rare_unlocked(sim, slot, said, touched))
            return 0;
        wadi_rare_take_numbers(slot);
        now = wadi_rare_delayed(sim, slot, said, touched);
        if ((now != touched && !now) || wadi_rare_through_write(slot, said, told_elsewhere)) {
            sim->last_read.slot = NULL;
            wadi_settle(sim);
            return 0;
        }
        if (!now) /* nothing is let through, but it is an access all the same */
            carry_out(sim, asked, slot, wrote, said, 0);
    }
    return now;
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
    uint32_t wrote = value, said = value; /* said: of the register's bits, through the verb */
    if (slot->alias_of) {
        slot = slot->alias_of;
        if (value & slot->reserved)
            tell_odd(sim, WADI_ODD_BITS, slot, true, value | slot->must);
        touched &= asked->bytes < 4 ? (1u << asked->bytes * 8) - 1 : UINT32_MAX;
        if (acts_on_bits(asked)) { /* of the bits that are 1 alone */
            touched &= value & ~slot->reserved;
            said = written_through(asked, slot->rare ? wadi_rare_before(slot) : slot->value, value,
                                   touched);
            value = verb_makes(asked->alias, slot->value, touched);
        }
    } else if (((value ^ slot->must) & slot->reserved) ||
               (value & slot->read_only && !write_means(slot)) ||
               (slot->reg->access == WAD_ACCESS_RO && !write_means(slot))) {
        tell_odd(sim, WADI_ODD_BITS, slot, true, value);
    }
    if (__builtin_expect(slot->foreign, 0)) {
        value = keep_foreign(sim, slot, value);
        if (acts_on_bits(asked))
            touched &= ~slot->foreign;
        else
            said = value;
    }
    if ((slot->w1c | slot->w0c) && sim->last_read.slot == slot)
        wadi_tell(sim, &(wadi_told){.ear = WADI_EAR_REWRITE, .slot = slot, .value = value});
    if (__builtin_expect(slot->flags &
                             (WADI_SLOT_LOCKED | WADI_SLOT_KEY | WADI_SLOT_CHECKS | WADI_SLOT_RARE),
                         0)) {
        touched = goes_on(sim, asked, slot, wrote, value, said, touched);
        if (!touched)
            return;
    }
    store_and_tell(sim, asked, slot, wrote, said, touched);
}

/* One bit alone is touched. */
static void write_bit(wad_sim *sim, uint64_t address, unsigned bit, uint32_t value)
{
    uint64_t base;
    wadi_slot *slot = slot_at(sim, address, true, &base);
    if (!slot) {
        wadi_unmapped(sim, address, "write of one bit of");
        return;
    }
    bit += lane(sim, slot, address - base, 1);
    uint32_t rest =
        ((slot->value & slot->plain) | slot->w0c | (slot->must & slot->reserved)) & ~(1u << bit);
    write_slot(sim, slot, rest | value << bit, 1u << bit);
}

static void write_odd(wad_sim *sim, uint64_t address, unsigned bytes, uint32_t value)
{
    uint64_t base;
    wadi_slot *slot = slot_at(sim, address, true, &base);
    uint64_t byte;
    unsigned bit;
    if (!slot && bit_window(sim, address, &byte, &bit)) {
        write_bit(sim, byte, bit, value & 1);
        return;
    }
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
    unsigned shift = lane(sim, slot, address - base, bytes);
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
    if (__builtin_expect(sim->cpu.saves != NULL, 0) && !sim->due)
        wadi_cpu_service(sim); /* it has put the core to sleep */
}

wadi_slot *wadi_bus_slot(wad_sim *sim, uint64_t address, bool write)
{
    uint64_t base;
    wadi_slot *slot = slot_at(sim, address, write, &base);
    bool read_only =
        write && slot && (slot->reg->access == WAD_ACCESS_RO || slot->reg->access == WAD_ACCESS_RC);
    return read_only && !write_means(slot) ? NULL : slot;
}

void wadi_bus_apply(wad_sim *sim, uint64_t address, unsigned bytes, uint32_t value)
{
    wadi_cell *cell = wadi_find_cell(sim, address);
    wadi_slot *slot = cell ? cell->wr : NULL;
    if (__builtin_expect(slot && slot->flags & WADI_SLOT_RARE, 0) &&
        !(slot = wadi_rare_there(slot, true)))
        none_there(sim, cell->wr, true);
    else if (!slot || slot->bytes != bytes || slot->address != address)
        write_odd(sim, address, bytes, value);
    else
        write_slot(sim, slot, value, UINT32_MAX);
}

static __attribute__((noinline)) void carry_out(wad_sim *sim, wadi_slot *asked, wadi_slot *slot,
                                                uint32_t wrote, uint32_t value, uint32_t touched)
{
    store_and_tell(sim, asked, slot, wrote, value, touched);
}

void wadi_bus_arrives(wad_event *e)
{
    wadi_delay *d = (wadi_delay *)((char *)e - offsetof(wadi_delay, event));
    wad_sim *sim = d->slot->block->sim;
    const wadi_clock *clock = d->def->clock ? &sim->clocks[d->def->clock->index] : sim->cpu.core;
    if (d->def->cycles && !clock->domain.runs) {
        wadi_schedule(sim, e, wadi_delay_due(sim, d->def));
        return;
    }
    d->waits = false;
    wadi_delay_busy(d, false);
    carry_out(sim, d->slot, d->slot, d->value, d->value, d->touched);
}

bool wad_sim_peek(wad_sim *sim, uint64_t address, uint32_t *value)
{
    wadi_cell *cell = wadi_find_cell(sim, address);
    wadi_slot *slot = cell && cell->rd ? wadi_rare_there(cell->rd, false) : NULL;
    if (!slot)
        return false;
    slot = itself(slot);
    wadi_slot_refresh(slot);
    *value = slot->rare ? wadi_rare_reads(slot) : slot->value & slot->readable;
    return true;
}
