/* SPDX-License-Identifier: MIT */
/* `wadium emit roles`, what stands by layout: fields by name, locks, role tables. */
#include <string.h>

#include "emit.h"
#include "lang/rational.h"
#include "roles.h"
#include "sheet/chip/c_name.h"
#include "sheet/chip/expression.h"
#include "sheet/chip/query.h"
#include "sheet/chip/value.h"

/* ---- one field descriptor ---- */

static const char *how_word(const wad_register *r, const wad_bitfield *f)
{
    if (f->cleared_at_entry)
        return "WAD_HOW_ENTRY";
    if (wad_bitfield_cleared_by_read(f))
        return "WAD_HOW_DATA";
    if (r->alias || f->access == WAD_ACCESS_W1C || f->access == WAD_ACCESS_W1S)
        return "WAD_HOW_ONE";
    if (f->access == WAD_ACCESS_W0C)
        return "WAD_HOW_ZERO";
    if (!wadi_emit_writable(f))
        return "WAD_HOW_READ";
    if (f->access == WAD_ACCESS_WO)
        return "WAD_HOW_ALONE";
    unsigned others = f->count > 1 && f->per_reg > 1;
    for (unsigned i = 0; i < r->n_fields; i++)
        others += r->fields[i] != f && wadi_emit_writable(r->fields[i]);
    return others ? "WAD_HOW_MERGE" : "WAD_HOW_ALONE";
}

/* The bits of a register that 0 clears, and those that must be written as 1. */
static uint64_t zeros_clear(const wad_register *r)
{
    uint64_t ones = wad_register_mask(r, WAD_ACCESS_W0C);
    for (unsigned i = 0; i < r->n_fields; i++)
        ones |= r->fields[i]->must << r->fields[i]->lsb;
    return ones;
}

/* Has it bits beside them that a write would change? */
static bool has_settings(const wad_register *r)
{
    return wad_register_mask(r, WAD_ACCESS_RW) != 0;
}

/* As wad_field declares its members: off, step, lsb, width, size, how, lstep, n, high, ones. */
static void emit_field(FILE *out, const wad_register *r, const wad_bitfield *field)
{
    const wad_bitfield *f = field ? field : r->fields[0];
    bool whole = !field || r->alias, array = field && f->count;
    bool spills = array && f->count > f->per_reg;
    const wad_register *data = field ? wad_bitfield_cleared_by_read(f) : NULL;
    uint32_t step = data ? data->step /* of the registers that clear it */
                    : spills || (r->count && !array) ? r->step
                                                     : 0;
    bool zero = !strcmp(how_word(r, f), "WAD_HOW_ZERO");
    fprintf(out, "{0x%02X, %u, %u, %u, %u, %s%s%s, %u, %u, %d", r->offset, step,
            whole ? 0u : f->lsb, whole ? r->width + 0u : f->width, wad_register_bytes(r),
            how_word(r, f), r->lock ? " | WAD_HOW_LOCKED" : "",
            zero && has_settings(r) ? " | WAD_HOW_BESIDE" : "", array ? f->step : 0u,
            array ? f->per_reg : 1u, data ? (int)data->offset - (int)r->offset : 0);
    if (zero)
        fprintf(out, ", 0x%llXu}", (unsigned long long)zeros_clear(r));
    else
        fprintf(out, ", 0}");
}

/* A value of two registers: the low one's place, and how far off the high one lies. */
static void emit_value(FILE *out, const wad_value *v)
{
    const wad_bitfield *high = v->parts[0], *low = v->parts[1];
    bool alone = !strcmp(how_word(low->reg, low), "WAD_HOW_ALONE") &&
                 !strcmp(how_word(high->reg, high), "WAD_HOW_ALONE");
    fprintf(out, "{0x%02X, %u, %u, %u, %u, %s%s%s%s, 0, 1, %d, 0}", low->reg->offset,
            v->count ? low->reg->step : 0, low->lsb, v->width, wad_register_bytes(low->reg),
            alone ? "WAD_HOW_ALONE" : "WAD_HOW_MERGE",
            v->write_high_first ? " | WAD_HOW_HIGH_FIRST" : "",
            v->latch_low ? " | WAD_HOW_LATCHES" : "", low->reg->lock ? " | WAD_HOW_LOCKED" : "",
            (int)high->reg->offset - (int)low->reg->offset);
}

/* ---- every field of a layout by name, for drivers of one's own ---- */

void wadi_emit_fields(wadi_emitter *e, const wad_layout *layout)
{
    fprintf(e->out,
            "\n/* ---- fields of layout %s: offset, array step, lsb, width, bytes, how written,\n"
            " *      bits between elements, elements in a register ---- */\n\n",
            layout->name);
    wadi_registers at = {0};
    for (const wad_register *each; (each = wadi_next_register(layout, &at)) != NULL;) {
        wad_register own = *each; /* of an array that differs: alone, where it lies */
        const wad_register *r = at.is_element ? &own : each;
        own.offset += at.element * own.step;
        own.count = 0;
        char *name = wadi_emit_register(each, at.is_element ? at.element : UINT32_MAX),
             *reg = wadi_emit_lower(name);
        g_free(name);
        if (r->alias) {
            fprintf(e->out, "static const wad_field %s_%s_%s = ", e->lower, layout->name, reg);
            emit_field(e->out, r, NULL);
            fprintf(e->out, ";\n");
        }
        for (unsigned k = 0; !r->alias && k < r->n_fields; k++) {
            if (!r->fields[k]->name)
                continue;
            char *field = wadi_emit_lower(r->fields[k]->name);
            fprintf(e->out, "static const wad_field %s_%s_%s_%s = ", e->lower, layout->name, reg,
                    field);
            emit_field(e->out, r, r->fields[k]);
            fprintf(e->out, ";\n");
            g_free(field);
        }
        g_free(reg);
    }
}

/* ---- locks ---- */

static void emit_key_writes(wadi_emitter *e, const wad_lock *lock)
{
    for (unsigned i = 0; i < lock->n_sequence; i++)
        fprintf(e->out, "    wadi_write(base, 0x%02X, %u, 0x%Xu);\n",
                lock->key->offset + lock->key_index * lock->key->step,
                wad_register_bytes(lock->key), lock->sequence[i] << lock->key_lsb);
}

static void emit_cond_writes(wadi_emitter *e, const wad_layout *layout, const wad_lock *lock,
                             bool open)
{
    for (unsigned i = 0; i < lock->open->n; i++) {
        const wad_cond_term *t = &lock->open->terms[i];
        const wad_bitfield *f = t->ref.field ? t->ref.field : t->ref.reg->fields[0];
        uint64_t ones = (UINT64_C(1) << f->width) - 1;
        uint64_t reset = t->ref.reg->reset >> f->lsb & ones;
        uint64_t other = reset == t->value ? ~t->value & ones : reset;
        uint64_t value = open == t->equal ? t->value : other;
        char *reg = wadi_emit_lower(t->ref.reg->name), *field = wadi_emit_lower(f->name);
        fprintf(e->out, "    wad_put(base, %s_%s_%s_%s, 0x%llXu);\n", e->lower, layout->name, reg,
                field, (unsigned long long)value);
        g_free(reg);
        g_free(field);
    }
}

/* Opens and closes what keeps the layout's registers from being written. */
void wadi_emit_locks(wadi_emitter *e, const wad_layout *layout)
{
    for (unsigned open = 1; layout->n_locks && open < 2; open--) {
        fprintf(e->out, "\n/* %s %s */\nstatic inline void %s_%s_%s(uintptr_t base)\n{\n",
                open ? "opens the lock of" : "closes the lock of", layout->name, e->lower,
                layout->name, open ? "unlock" : "lock");
        for (unsigned i = 0; i < layout->n_locks; i++) {
            const wad_lock *lock = layout->locks[i];
            if (lock->open)
                emit_cond_writes(e, layout, lock, open);
            else if (open)
                emit_key_writes(e, lock);
        }
        fprintf(e->out, "    (void)base;\n}\n");
    }
}

/* ---- role tables ---- */

/* A code is the attribute or the enumerator of the role it begins with: mode_up of mode. */
static bool find_code(const wad_layout *layout, const char *name, uint64_t *value)
{
    for (unsigned i = 0; i < layout->n_roles; i++) {
        size_t n = strlen(layout->roles[i].name);
        if (!strncmp(name, layout->roles[i].name, n) && name[n] == '_' &&
            wad_role_code_value(&layout->roles[i], name + n + 1, value))
            return true;
    }
    return false;
}

/* What drivers take where nothing else is asked for: 0 where the sheet has no word for it; and
 * numbers that belong to a field, which are none of its settings. */
static bool may_be_left_out(const char *name)
{
    static const char *const plain[] = {"mode_up", "stop_one", "over_x16", "reference_supply",
                                        NULL};
    static const char *const ends[] = {"plus",  "times", "power", "step",   "most",
                                       "depth", "value", "first", "sticks", "off",
                                       "none",  "port",  "flags", "cycles"};
    const char *last = strrchr(name, '_');
    if (g_strv_contains(plain, name))
        return true;
    for (unsigned i = 0; last && i < G_N_ELEMENTS(ends); i++)
        if (!strcmp(last + 1, ends[i]))
            return true;
    return false;
}

/* Is it a setting of a field that the chip has? */
static bool has_its_field(const wad_layout *layout, const char *name)
{
    for (unsigned i = 0; i < layout->n_roles; i++) {
        size_t n = strlen(layout->roles[i].name);
        if (!strncmp(name, layout->roles[i].name, n) && name[n] == '_' &&
            layout->roles[i].sort == WAD_ROLE_FIELD)
            return true;
    }
    return false;
}

static void emit_role(const wadi_emitter *e, const wad_layout *layout, const wad_role_info *info)
{
    uint64_t code;
    if (!strcmp(info->sort, "CODE")) {
        if (find_code(layout, info->name, &code))
            fprintf(e->out, "    .%s = %llu,\n", info->name, (unsigned long long)code);
        else if (!may_be_left_out(info->name) && has_its_field(layout, info->name))
            fprintf(e->out, "    .%s = WAD_NO_CODE,\n", info->name);
        return;
    }
    const wad_role *role = wad_layout_role(layout, info->name);
    const wad_quantity_sort *quantity = wad_quantity_sort_of(info);
    if (quantity) {
        wad_rational scaled;
        if (role && wadi_rat_mul(role->quantity, wadi_int(quantity->scale), &scaled))
            fprintf(e->out, "    .%s = %lldu, /* %s */\n", info->name,
                    (long long)wadi_rat_floor(scaled), quantity->driver_unit);
        return;
    }
    if (role && role->value && wadi_value_is_pair(role->value)) {
        fprintf(e->out, "    .%s = ", info->name);
        emit_value(e->out, role->value);
        fprintf(e->out, ",\n");
    }
    if (!role || !role->reg || role->sort == WAD_ROLE_SIGNAL)
        return;
    fprintf(e->out, "    .%s = ", info->name);
    emit_field(e->out, role->reg, role->sort == WAD_ROLE_REG ? NULL : role->field);
    fprintf(e->out, ",\n");
}

void wadi_emit_roles_of(const wadi_emitter *e, const wad_layout *layout)
{
    const wad_role_info *roles = layout->kind->roles;
    for (unsigned i = 0; i < layout->kind->n_roles; i++)
        emit_role(e, layout, &roles[i]);
    if (!layout->n_roles) /* C wants one */
        fprintf(e->out, "    .%s = {0, 0, 0, 0, 0, 0, 0, 0, 0, 0},\n", roles[0].name);
}
