/* SPDX-License-Identifier: MIT */
/* `wadium emit roles`: const tables for the drivers. */
#include <string.h>

#include "emit.h"
#include "lang/rational.h"
#include "roles.h"
#include "sheet/chip/c_name.h"
#include "sheet/chip/expression.h"
#include "sheet/chip/served.h"
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

/* As wad_field declares its members: off, step, lsb, width, size, how, lstep, n, high. */
static void emit_field(FILE *out, const wad_register *r, const wad_bitfield *field)
{
    const wad_bitfield *f = field ? field : r->fields[0];
    bool whole = !field || r->alias, array = field && f->count;
    bool spills = array && f->count > f->per_reg;
    const wad_register *data = field ? wad_bitfield_cleared_by_read(f) : NULL;
    uint32_t step = data ? data->step /* of the registers that clear it */
                    : spills || (r->count && !array) ? r->step
                                                     : 0;
    fprintf(out, "{0x%02X, %u, %u, %u, %u, %s%s, %u, %u, %d}", r->offset, step, whole ? 0u : f->lsb,
            whole ? r->width + 0u : f->width, wad_register_bytes(r), how_word(r, f),
            r->lock ? " | WAD_HOW_LOCKED" : "", array ? f->step : 0u, array ? f->per_reg : 1u,
            data ? (int)data->offset - (int)r->offset : 0);
}

/* A value of two registers: the low one's place, and how far off the high one lies. */
static void emit_value(FILE *out, const wad_value *v)
{
    const wad_bitfield *high = v->parts[0], *low = v->parts[1];
    bool alone = !strcmp(how_word(low->reg, low), "WAD_HOW_ALONE") &&
                 !strcmp(how_word(high->reg, high), "WAD_HOW_ALONE");
    fprintf(out, "{0x%02X, %u, %u, %u, %u, %s%s%s%s, 0, 1, %d}", low->reg->offset,
            v->count ? low->reg->step : 0, low->lsb, v->width, wad_register_bytes(low->reg),
            alone ? "WAD_HOW_ALONE" : "WAD_HOW_MERGE",
            v->write_high_first ? " | WAD_HOW_HIGH_FIRST" : "",
            v->latch_low ? " | WAD_HOW_LATCHES" : "", low->reg->lock ? " | WAD_HOW_LOCKED" : "",
            (int)high->reg->offset - (int)low->reg->offset);
}

/* ---- every field of a layout by name, for drivers of one's own ---- */

static void emit_fields(wadi_emitter *e, const wad_layout *layout)
{
    fprintf(e->out,
            "\n/* ---- fields of layout %s: offset, array step, lsb, width, bytes, how written,\n"
            " *      bits between elements, elements in a register ---- */\n\n",
            layout->name);
    for (unsigned i = 0; i < layout->n_regs; i++) {
        const wad_register *r = layout->regs[i];
        char *reg = wadi_emit_lower(r->name);
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
        fprintf(e->out, "    wadi_write(base, 0x%02X, %u, 0x%Xu);\n", lock->key->offset,
                wad_register_bytes(lock->key), lock->sequence[i]);
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
static void emit_locks(wadi_emitter *e, const wad_layout *layout)
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

static void emit_role(wadi_emitter *e, const wad_layout *layout, const wad_role_info *info)
{
    uint64_t code;
    if (!strcmp(info->sort, "CODE")) {
        if (find_code(layout, info->name, &code))
            fprintf(e->out, "    .%s = %llu,\n", info->name, (unsigned long long)code);
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

static void emit_table(wadi_emitter *e, const wad_layout *layout)
{
    unsigned n;
    const wad_role_info *roles = wad_kind_roles(layout->kind, &n);
    char *kind = wadi_emit_upper(layout->kind);
    fprintf(e->out, "\n/* layout %s acts as %s */\n", layout->name, layout->kind);
    fprintf(e->out, "static const wad_%s_roles %s_%s_roles = {\n", layout->kind, e->lower,
            layout->name);
    for (unsigned i = 0; i < n; i++)
        emit_role(e, layout, &roles[i]);
    if (!layout->n_roles) /* C wants one */
        fprintf(e->out, "    .%s = {0, 0, 0, 0, 0, 0, 0, 0, 0},\n", roles[0].name);
    fprintf(e->out, "};\n#ifndef WAD_%s_TABLE\n#define WAD_%s_TABLE %s_%s_roles\n", kind, kind,
            e->lower, layout->name);
    const char *words[] = {"UNLOCK", "LOCK"}, *calls[] = {"unlock", "lock"};
    for (unsigned i = 0; i < 2; i++)
        if (layout->n_locks)
            fprintf(e->out, "#define WAD_%s_%s(base) %s_%s_%s(base)\n", kind, words[i], e->lower,
                    layout->name, calls[i]);
        else
            fprintf(e->out, "#define WAD_%s_%s(base) ((void)(base))\n", kind, words[i]);
    fprintf(e->out, "#endif\n");
    g_free(kind);
}

/* By a block that has it, at least. */
static bool is_served(const wad_sheet *sheet, const wad_layout *layout)
{
    bool served = false;
    for (unsigned i = 0; i < sheet->n_blocks && !served; i++) {
        char *why = sheet->blocks[i]->layout == layout ? wadi_unserved(sheet->blocks[i]) : NULL;
        served = sheet->blocks[i]->layout == layout && !why && layout->kind;
        g_free(why);
    }
    return served;
}

/* ---- blocks, pins, routes ---- */

static unsigned block_bits(const wad_instance *b)
{
    const wad_role *reload = wad_layout_role(b->layout, "reload");
    if (!reload)
        reload = wad_layout_role(b->layout, "start");
    if (reload && reload->value)
        return reload->value->width;
    if (reload && reload->field)
        return reload->field->width;
    return b->layout->n_regs ? b->layout->regs[0]->width : 0;
}

static bool law_reads(const wad_expr *x, const wad_instance *b)
{
    if (!x)
        return false;
    bool reads = (x->op == WADI_OP_FIELD || x->op == WADI_OP_PICK) && x->field.block == b;
    for (unsigned i = 0; i < x->n_picks && !reads; i++)
        reads = law_reads(x->picks[i].value, b);
    return reads || law_reads(x->a, b) || law_reads(x->b, b);
}

/* The compiler says at its use what is missing, not the board. */
static bool emit_unserved(wadi_emitter *e, const wad_instance *b, const char *name)
{
    char *why = wadi_unserved(b);
    if (!why)
        return false;
    fprintf(e->out,
            "\n#define %s_%s \\\n    (_Pragma(\"GCC error \\\"no driver serves this form yet: "
            "%s\\\"\") * (const wad_block *)0)\n",
            e->lower, name, why);
    g_free(why);
    return true;
}

static void emit_block(wadi_emitter *e, const wad_instance *b)
{
    char *name = wadi_emit_lower(b->name);
    if (emit_unserved(e, b, name)) {
        g_free(name);
        return;
    }
    if (b->needs.n) {
        fprintf(e->out, "\nstatic const wad_need %s_%s_needs[] = {\n", e->lower, name);
        for (unsigned i = 0; i < b->needs.n; i++) {
            fprintf(e->out, "    ");
            wadi_emit_need(e, &b->needs.terms[i].ref, b->needs.terms[i].value);
            fprintf(e->out, ",\n");
        }
        fprintf(e->out, "};\n");
    }
    fprintf(e->out, "static const wad_block %s_%s = {\n    .base = %s_%s_BASE,\n", e->lower, name,
            e->upper, b->name);
    const wad_clock *clock = b->clock ? b->clock : e->sheet->core;
    fprintf(e->out, "    .clock_hz = %s_%s_hz,\n", e->lower, clock->name);
    if (b->needs.n)
        fprintf(e->out, "    .needs = %s_%s_needs,\n    .n_needs = %u,\n", e->lower, name,
                b->needs.n);
    fprintf(e->out, "    .bits = %u,\n", block_bits(b));
    if (b->clock && law_reads(b->clock->law, b))
        fprintf(e->out, "    .chooses_clock = 1,\n");
    fprintf(e->out, "    .irq = %d,\n};\n", b->n_irqs ? b->irqs[0] : -1);
    g_free(name);
}

static void emit_pins(wadi_emitter *e)
{
    const wad_sheet *s = e->sheet;
    GPtrArray *ports = g_ptr_array_new();
    for (unsigned i = 0; i < s->n_blocks; i++)
        if (s->blocks[i]->n_carries)
            g_ptr_array_add(ports, (gpointer)s->blocks[i]);
    fprintf(e->out, "\n/* ---- pins ---- */\n\n#define WAD_PIN_PORTS %uu\n", ports->len);
    if (ports->len)
        fprintf(e->out, "static const wad_block *const wad_pin_ports[] = {");
    for (guint i = 0; i < ports->len; i++) {
        char *name = wadi_emit_lower(((wad_instance *)ports->pdata[i])->name);
        fprintf(e->out, "%s&%s_%s", i ? ", " : "", e->lower, name);
        g_free(name);
    }
    fprintf(e->out, ports->len ? "};\n\n" : "\n");
    for (unsigned i = 0; i < s->n_pins; i++) {
        guint port;
        g_ptr_array_find(ports, s->pins[i].port, &port);
        fprintf(e->out, "#define %s_%s ((wad_pin)0x%03X)\n", e->upper, s->pins[i].name,
                port << 8 | s->pins[i].number);
    }
    g_ptr_array_free(ports, TRUE);
}

/* Blocks whose signals move together: the field that moves them, by number. */
static void emit_route_groups(wadi_emitter *e)
{
    unsigned n = 0;
    for (unsigned i = 0; i < e->sheet->n_blocks; i++) {
        const wad_instance *b = e->sheet->blocks[i];
        if (!b->route.reg)
            continue;
        fprintf(e->out, "%s    ", n++ ? "" : "static const wad_need wad_route_groups[] = {\n");
        wadi_emit_need(e, &b->route, 0);
        fprintf(e->out, ", /* %u: %s */\n", n, b->name);
    }
    fprintf(e->out, "%s#define WAD_ROUTE_GROUPS %uu\n\n", n ? "};\n" : "", n);
}

static void emit_routes(wadi_emitter *e)
{
    unsigned group = 0;
    fprintf(e->out,
            "\n/* ---- routes: which function brings a signal out on which pin ---- */\n\n");
    emit_route_groups(e);
    for (unsigned i = 0; i < e->sheet->n_blocks; i++) {
        const wad_instance *b = e->sheet->blocks[i];
        group += b->route.reg != NULL;
        for (unsigned k = 0; k < b->n_signals; k++)
            for (unsigned o = 0; o < b->signals[k].n_options; o++) {
                const wad_pin_option *opt = &b->signals[k].options[o];
                char *name = wadi_emit_name(b->name);
                fprintf(e->out, "#define %s_ROUTE_%s_%s_%s ", e->upper, name, b->signals[k].name,
                        opt->pin->name);
                g_free(name);
                if (b->route.reg)
                    fprintf(e->out, "WAD_ROUTE_GROUP(%uu, %s_%s, %u)\n", group, e->upper,
                            opt->pin->name, opt->fn);
                else
                    fprintf(e->out, "WAD_ROUTE(%s_%s, %u)\n", e->upper, opt->pin->name, opt->fn);
            }
    }
}

static void emit_prologue(wadi_emitter *e)
{
    wadi_emit_banner(e->sheet, "role tables for the Wadium drivers", e->out);
    wadi_emit_text(
        e->sheet,
        "#ifndef @_ROLES_H\n#define @_ROLES_H\n\n"
        "#include \"`.h\"\n\n#include <wadium/clock.h>\n#include <wadium/irq.h>\n#include "
        "<wadium/pin.h>\n"
        "#include <wadium/adc.h>\n#include <wadium/dac.h>\n"
        "#include <wadium/encoder.h>\n#include <wadium/sleep.h>\n#include <wadium/spi.h>\n#include "
        "<wadium/tick.h>\n#include "
        "<wadium/timebase.h>\n#include <wadium/timer.h>\n#include <wadium/uart.h>\n#include "
        "<wadium/watchdog.h>\n\n"
        "#if WAD_ROLES_FORMAT != 6\n"
        "#error \"these tables do not fit the installed wadium headers: run wadium emit roles "
        "again\"\n#endif\n",
        e->out);
}

static void emit_controller(wadi_emitter *e)
{
    for (unsigned i = 0; i < e->sheet->n_blocks; i++) {
        const wad_layout *layout = e->sheet->blocks[i]->layout;
        if (layout->kind && !strcmp(layout->kind, "interrupts"))
            fprintf(e->out, "\n#define WAD_INTERRUPTS_BASE %s_%s_BASE\n", e->upper,
                    e->sheet->blocks[i]->name);
    }
}

/* The drivers of things that a chip has once find their block by this name. */
static void emit_only(wadi_emitter *e, const char *kind, const char *macro)
{
    for (unsigned i = 0; i < e->sheet->n_blocks; i++) {
        const wad_instance *b = e->sheet->blocks[i];
        if (!b->layout->kind || strcmp(b->layout->kind, kind) || !is_served(e->sheet, b->layout))
            continue;
        char *name = wadi_emit_lower(b->name);
        fprintf(e->out, "\n#define %s %s_%s\n", macro, e->lower, name);
        g_free(name);
        return;
    }
}

static void emit_clock_block(wadi_emitter *e)
{
    for (unsigned i = 0; i < e->sheet->n_blocks; i++) {
        const wad_instance *b = e->sheet->blocks[i];
        if (b->layout->kind && !strcmp(b->layout->kind, "clocks"))
            fprintf(e->out, "\n#define WAD_CLOCKS_BASE %s_%s_BASE\n#define WAD_CLOCKS_IRQ  %d\n",
                    e->upper, b->name, b->n_irqs ? b->irqs[0] : -1);
    }
}

static void emit_sources(wadi_emitter *e, const char *word, const wad_instance *b,
                         const wad_trigger *list, unsigned n)
{
    for (unsigned k = 0; k < n; k++) {
        char *role = wadi_emit_upper(list[k].role->name), *block = wadi_emit_name(b->name),
             *from = wadi_emit_name(list[k].from->name);
        fprintf(e->out, "#define %s_%s_%s_%s_%s", e->upper, word, block, from, role);
        if (list[k].role->indexed)
            fprintf(e->out, "%u", list[k].index);
        fprintf(e->out, " %uu\n", list[k].code);
        g_free(role);
        g_free(block);
        g_free(from);
    }
}

/* What a block's selectors of triggers and requests take for each source. */
static void emit_triggers(wadi_emitter *e)
{
    unsigned n = 0, m = 0;
    for (unsigned i = 0; i < e->sheet->n_blocks; i++) {
        const wad_instance *b = e->sheet->blocks[i];
        if (b->n_triggers && !n++)
            fprintf(e->out, "\n/* ---- triggers: what a block's selector takes ---- */\n\n");
        emit_sources(e, "TRIGGER", b, b->triggers, b->n_triggers);
    }
    for (unsigned i = 0; i < e->sheet->n_blocks; i++) {
        const wad_instance *b = e->sheet->blocks[i];
        if (b->n_requests && !m++)
            fprintf(e->out, "\n/* ---- requests: what a channel's selector takes ---- */\n\n");
        emit_sources(e, "REQUEST", b, b->requests, b->n_requests);
    }
}

void wad_emit_roles(const wad_sheet *sheet, FILE *out)
{
    wadi_emitter e = {sheet, out, wadi_emit_upper(sheet->name), wadi_emit_lower(sheet->name)};
    GPtrArray *layouts = wadi_emit_layouts(sheet);
    emit_prologue(&e);
    for (guint i = 0; i < layouts->len; i++) {
        emit_fields(&e, layouts->pdata[i]);
        emit_locks(&e, layouts->pdata[i]);
    }
    fprintf(out, "\n/* ---- roles ---- */\n");
    for (guint i = 0; i < layouts->len; i++)
        if (is_served(sheet, layouts->pdata[i]))
            emit_table(&e, layouts->pdata[i]);
    emit_controller(&e);
    emit_clock_block(&e);
    wadi_emit_clock_rates(&e);
    fprintf(out, "\n/* ---- blocks ---- */\n");
    for (unsigned i = 0; i < sheet->n_blocks; i++)
        emit_block(&e, sheet->blocks[i]);
    fprintf(out, "\n/* ---- dividers: rates for wad_divider_solve ---- */\n");
    for (unsigned i = 0; i < sheet->n_blocks; i++)
        if (is_served(sheet, sheet->blocks[i]->layout))
            wadi_emit_dividers(sheet, sheet->blocks[i], out);
    emit_only(&e, "watchdog", "WAD_WATCHDOG_BLOCK");
    emit_only(&e, "tick", "WAD_TICK_BLOCK");
    emit_only(&e, "power", "WAD_POWER_BLOCK");
    emit_triggers(&e);
    emit_pins(&e);
    emit_routes(&e);
    fprintf(out, "\n#endif\n");
    g_ptr_array_free(layouts, TRUE);
    g_free(e.upper);
    g_free(e.lower);
}
