/* SPDX-License-Identifier: MIT */
/* What is wrong with an access to a register. */
#include "sim/core/block.h"
#include "sim/core/clock.h"
#include "sim/core/report.h"
#include "sim/host/source.h"

static void report_blocked(wad_sim *sim, const wadi_slot *slot, bool write)
{
    const wadi_block *block = slot->block;
    char *name = wadi_slot_name(slot);
    for (unsigned i = 0; i < block->n_needs; i++) {
        const wadi_need *need = &block->needs[i];
        if (wadi_need_met(need))
            continue;
        char *field = wad_fieldref_name(&need->term->ref);
        wadi_report(sim, need->finding, slot, "%s %s is ignored: %s is %u, must be %llu",
                    write ? "write to" : "read of", name, field,
                    (need->slot->value & need->mask) >> need->lsb,
                    (unsigned long long)need->term->value);
        g_free(field);
        g_free(name);
        return;
    }
    if (block->blocked & WADI_BLOCKED_RESET && block->n_resets) {
        char *cond = wad_cond_text(&block->inst->reset);
        bool released = block->opening[1] && block->opening[1]->asked;
        wadi_report(sim, WAD_FINDING_IN_RESET, slot, "%s %s is ignored: it is in reset %s%s",
                    write ? "write to" : "read of", name,
                    released ? "still, some time after " : "while ", cond);
        g_free(cond);
        g_free(name);
        return;
    }
    if (block->blocked & WADI_BLOCKED_GATE && block->opening[0]) {
        wadi_report(sim, WAD_FINDING_GATED, slot, "%s %s is ignored: it is not ready yet",
                    write ? "write to" : "read of", name);
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
    if (sim->bus.master) /* said when the transfer began */
        return;
    /* compilers narrow accesses to bit-fields: in plain firmware a part of a register is no mistake
     */
    if ((sim->host.fw.plain || slot->reg->bytes) && address >= slot->address &&
        address + bytes <= slot->address + slot->bytes)
        return;
    char *name = wadi_slot_name(slot), at[64], there[64];
    wad_format_address(sim->sheet, address, at, sizeof at);
    wad_format_address(sim->sheet, slot->address, there, sizeof there);
    wadi_report(sim, WAD_FINDING_WIDTH, slot, "%u-bit access at %s to %s, a %u-bit register at %s",
                bytes * 8, at, name, slot->bytes * 8, there);
    g_free(name);
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
    wadi_picture picture = {slot, value, wrong};
    if (slot->reg->access == WAD_ACCESS_RO)
        wadi_report_drawn(sim, WAD_FINDING_READ_ONLY, &picture,
                          "write of 0x%x to %s, which is read-only", value, name);
    else if (wrong) {
        char *fields = fields_of(slot->reg, wrong);
        wadi_report_drawn(sim, WAD_FINDING_READ_ONLY, &picture,
                          "write of 0x%x to %s: %s is read-only", value, name, fields);
        g_free(fields);
    }
    uint32_t wrong_reserved = (value ^ slot->must) & slot->reserved;
    picture.bits = wrong_reserved;
    if (wrong_reserved & ~slot->must)
        wadi_report_drawn(sim, WAD_FINDING_RESERVED, &picture,
                          "write of 0x%x to %s sets reserved bits 0x%x", value, name,
                          wrong_reserved & ~slot->must);
    else if (wrong_reserved)
        wadi_report_drawn(
            sim, WAD_FINDING_RESERVED, &picture,
            "write of 0x%x to %s clears reserved bits 0x%x, which must be written as 1", value,
            name, wrong_reserved);
    g_free(name);
}

/*
 * `STAT |= FLAG`: the value just read comes back with a bit more, in one statement. Writing back
 * exactly what was read, on another line, acknowledges all flags seen, and is right; so is
 * `if (STAT & FLAG) STAT = FLAG;`, whose values are the same where no other flag was set.
 */
static void check_rmw(wad_sim *sim, const wadi_slot *slot, uint32_t value)
{
    uint32_t back = sim->last_read.value;
    if (sim->last_read.slot != slot || (value & back) != back)
        return;
    if (!wadi_source_one_statement(sim, sim->last_read.pc, sim->call.pc, value == back))
        return;
    char *name = wadi_slot_name(slot);
    char *fields = fields_of(slot->reg, back & slot->w1c);
    const wadi_picture picture = {slot, value,
                                  back & slot->w1c ? back & slot->w1c : value & slot->w1c};
    if (back & slot->w1c)
        wadi_report_drawn(sim, WAD_FINDING_RMW_W1C, &picture,
                          "%s read as 0x%x and written back as 0x%x: clears %s", name, back, value,
                          fields);
    else
        wadi_report_drawn(sim, WAD_FINDING_RMW_W1C, &picture,
                          "%s read and written back as 0x%x: would clear every flag that is set",
                          name, value);
    g_free(fields);
    g_free(name);
}

/* `STAT &= ~FLAG` on write-0-to-clear flags: one that came between read and write is lost. */
static void check_lost(wad_sim *sim, const wadi_slot *slot, uint32_t value)
{
    uint32_t lost = slot->value & ~value & ~sim->last_read.value & slot->w0c;
    if (!lost || !wadi_source_same_line(sim, sim->last_read.pc, sim->call.pc))
        return;
    char *name = wadi_slot_name(slot), *fields = fields_of(slot->reg, lost);
    const wadi_picture picture = {slot, value, lost};
    wadi_report_drawn(
        sim, WAD_FINDING_FLAG_LOST, &picture,
        "%s read as 0x%x, then written back as 0x%x: clears %s, which was set in between", name,
        sim->last_read.value, value, fields);
    g_free(fields);
    g_free(name);
}

static void check_codes(wad_sim *sim, const wadi_slot *slot, uint32_t value)
{
    for (guint i = 0; slot->coded && i < slot->coded->len; i++) {
        const wadi_coded *c = &g_array_index(slot->coded, wadi_coded, i);
        uint32_t code = (value & c->mask) >> c->lsb;
        if (!((value ^ slot->value) & c->mask) || wad_role_meaning_of(c->role, code))
            continue;
        char *name = wadi_slot_name(slot), *fields = fields_of(slot->reg, c->mask);
        const wadi_picture picture = {slot, value, c->mask};
        wadi_report_drawn(sim, WAD_FINDING_FORBIDDEN, &picture,
                          "%s.%s set to %u, which the sheet's list of %s does not know", name,
                          fields, code, c->role->name);
        g_free(fields);
        g_free(name);
    }
}

static void check_fields(wad_sim *sim, const wadi_slot *slot, uint32_t value)
{
    check_codes(sim, slot, value);
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
        const wadi_picture picture = {slot, value, mask};
        if (unstable) {
            char *why = wad_fieldref_name(&f->stable->terms[0].ref);
            wadi_report_drawn(sim, WAD_FINDING_NOT_STABLE, &picture,
                              "%s changed from %u to %u while %s is %llu", name,
                              (slot->value & mask) >> f->lsb, (value & mask) >> f->lsb, why,
                              (unsigned long long)f->stable->terms[0].value);
            g_free(why);
        }
        if (forbidden)
            wadi_report_drawn(sim, WAD_FINDING_FORBIDDEN, &picture,
                              "%s set to 0, which is forbidden", name);
        g_free(name);
    }
}

static void report_foreign(wad_sim *sim, const wadi_slot *slot, uint32_t value, uint32_t touched)
{
    const wad_instance *inst = slot->block->inst;
    const char *by = "?";
    for (unsigned i = 0; i < inst->n_owned; i++)
        if (inst->owned[i].ref.reg == slot->reg && inst->owned[i].ref.reg_index == slot->index &&
            wad_fieldref_mask(&inst->owned[i].ref) & touched)
            by = inst->owned[i].by;
    char *name = wadi_slot_name(slot), *fields = fields_of(slot->reg, touched);
    const wadi_picture picture = {slot, value, touched};
    wadi_report_drawn(sim, WAD_FINDING_OWNED, &picture, "write of 0x%x to %s: %s belongs to %s",
                      value, name, fields, by);
    g_free(fields);
    g_free(name);
}

static void report_write_only(wad_sim *sim, const wadi_slot *slot)
{
    char *name = wadi_slot_name(slot);
    wadi_report(sim, WAD_FINDING_WRITE_ONLY, slot, "read of %s, which is write-only", name);
    g_free(name);
}

static void hear_odd(wad_sim *sim, const wadi_told *t)
{
    switch (t->odd) {
    case WADI_ODD_BLOCKED:
        report_blocked(sim, t->slot, t->write);
        break;
    case WADI_ODD_WIDTH:
        report_width(sim, t->slot, t->address, t->bytes);
        break;
    case WADI_ODD_WRITE_ONLY:
        report_write_only(sim, t->slot);
        break;
    case WADI_ODD_BITS:
        check_written_bits(sim, t->slot, t->value);
        break;
    case WADI_ODD_FOREIGN:
        report_foreign(sim, t->slot, t->value, t->bits);
        break;
    }
}

static void hear(wadi_observer *o, const wadi_told *t)
{
    if (t->ear == WADI_EAR_ODD) {
        hear_odd(o->sim, t);
    } else if (t->ear == WADI_EAR_FIELDS) {
        check_fields(o->sim, t->slot, t->value);
    } else {
        if (t->slot->w1c)
            check_rmw(o->sim, t->slot, t->value);
        if (t->slot->w0c)
            check_lost(o->sim, t->slot, t->value);
    }
}

const wadi_observer_class wadi_check_register = {
    .name = "register",
    .standing = WADI_EAR_ODD | WADI_EAR_REWRITE | WADI_EAR_FIELDS,
    .hear = hear,
};
