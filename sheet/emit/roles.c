/* SPDX-License-Identifier: MIT */
/* `wadium emit roles`: const tables for the drivers. */
#include <string.h>

#include "emit.h"
#include "forms.h"
#include "lang/rational.h"
#include "roles.h"
#include "sheet/chip/c_name.h"
#include "sheet/chip/expression.h"
#include "sheet/chip/query.h"
#include "sheet/chip/served.h"
#include "sheet/chip/value.h"

static void emit_table(wadi_emitter *e, const wad_layout *layout)
{
    const char *name = layout->kind->name;
    char *kind = wadi_emit_upper(name);
    fprintf(e->out, "\n/* layout %s acts as %s */\n", layout->name, name);
    fprintf(e->out, "static const wad_%s_roles %s_%s_roles = {\n", name, e->lower, layout->name);
    wadi_emit_roles_of(e, layout);
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

/* A setting behind a wait, or more needs than are joined. */
static bool goes_in_order(const wad_instance *b)
{
    bool waits = false;
    for (unsigned i = 0; i < b->needs.n; i++) {
        const wad_fieldref *ref = &b->needs.terms[i].ref;
        bool wait = !ref->field || !wadi_emit_writable(ref->field);
        if (waits && !wait)
            return true;
        waits = waits || wait;
    }
    return b->needs.n > 4;
}

/* The compiler says at its use what is missing, not the board. */
static bool emit_unserved(wadi_emitter *e, const wad_instance *b, const char *name)
{
    char *why = wadi_unserved(b);
    if (!why)
        return false;
    fprintf(e->out,
            "\n#define %s_%s \\\n    (_Pragma(\"GCC error \\\"no driver serves this form yet: "
            "%s\\\"\") * (const %s *)0)\n",
            e->lower, name, why, wadi_unit_type(b->layout->kind));
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
    bool forms = wadi_has_forms(b->layout->kind);
    fprintf(e->out, "static const %s %s_%s = {\n%s    .base = %s_%s_BASE,\n",
            wadi_unit_type(b->layout->kind), e->lower, name, forms ? "    .block = {\n" : "",
            e->upper, b->name);
    const wad_clock *clock = b->clock ? b->clock : e->sheet->core;
    fprintf(e->out, "    .clock_hz = %s_%s_hz,\n", e->lower, clock->name);
    if (b->needs.n)
        fprintf(e->out, "    .needs = %s_%s_needs,\n    .n_needs = %u,\n", e->lower, name,
                b->needs.n);
    fprintf(e->out, "    .bits = %u,\n", block_bits(b));
    if (b->clock && law_reads(b->clock->law, b))
        fprintf(e->out, "    .chooses_clock = 1,\n");
    if (goes_in_order(b))
        fprintf(e->out, "    .in_order = 1,\n");
    fprintf(e->out, "    .irq = %d,\n", b->n_irqs ? b->irqs[0] : -1);
    if (forms)
        fprintf(e->out, "    },\n    .form = %u,\n", wadi_form_of(e, b));
    if (forms && wad_acts_as(b->layout, "counter"))
        fprintf(e->out, "    .channels = %u,\n", wadi_channels(b->layout));
    fprintf(e->out, "};\n");
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
        fprintf(e->out, "static const wad_pin_unit *const wad_pin_ports[] = {");
    for (guint i = 0; i < ports->len; i++) {
        char *name = wadi_emit_lower(((wad_instance *)ports->pdata[i])->name);
        char *why = wadi_unserved(ports->pdata[i]);
        if (why || !wad_acts_as(((wad_instance *)ports->pdata[i])->layout, "gpio"))
            fprintf(e->out, "%s0", i ? ", " : "");
        else
            fprintf(e->out, "%s&%s_%s", i ? ", " : "", e->lower, name);
        g_free(why);
        g_free(name);
    }
    fprintf(e->out, ports->len ? "};\n\n" : "\n");
    for (unsigned i = 0; i < s->n_pins; i++) {
        guint port;
        g_ptr_array_find(ports, s->pins[i].port, &port);
        char *why = wadi_unserved(s->pins[i].port);
        if (why) {
            fprintf(
                e->out,
                "#define %s_%s (_Pragma(\"GCC error \\\"no driver serves this form yet: %s\\\"\") "
                "(wad_pin)0)\n",
                e->upper, s->pins[i].name, why);
            g_free(why);
            continue;
        }
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
    wadi_emit_text(e->sheet, "#ifndef @_ROLES_H\n#define @_ROLES_H\n\n", e->out);
    fprintf(e->out, "#define WADI_BUS_BITS %u\n", e->sheet->bus_bits);
    wadi_emit_text(e->sheet, "#include \"`.h\"\n\n", e->out);
    wadi_emit_form_counts(e);
    wadi_emit_text(
        e->sheet,
        "#define WADI_CHIP_SAYS 1 /* how many forms it has of each kind that drivers know */\n\n"
        "#include <wadium/clock.h>\n#include <wadium/irq.h>\n"
        "#include <wadium/pin.h>\n"
        "#include <wadium/encoder.h>\n#include <wadium/sleep.h>\n#include "
        "<wadium/tick.h>\n#include "
        "<wadium/unit.h>\n#include "
        "<wadium/watchdog.h>\n\n"
        "#if WAD_ROLES_FORMAT != 8\n"
        "#error \"these tables do not fit the installed wadium headers: run wadium emit roles "
        "again\"\n#endif\n",
        e->out);
    wadi_emit_form_headers(e);
}

static void emit_controller(wadi_emitter *e)
{
    for (unsigned i = 0; i < e->sheet->n_blocks; i++) {
        const wad_layout *layout = e->sheet->blocks[i]->layout;
        if (wad_acts_as(layout, "interrupts"))
            fprintf(e->out, "\n#define WAD_INTERRUPTS_BASE %s_%s_BASE\n", e->upper,
                    e->sheet->blocks[i]->name);
    }
}

/* The drivers of things that a chip has once find their block by this name. */
static void emit_only(wadi_emitter *e, const char *kind, const char *macro)
{
    for (unsigned i = 0; i < e->sheet->n_blocks; i++) {
        const wad_instance *b = e->sheet->blocks[i];
        if (!wad_acts_as(b->layout, kind) || !is_served(e->sheet, b->layout))
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
        if (wad_acts_as(b->layout, "clocks"))
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

static const wad_instance *first_served(const wadi_emitter *e, const char *kind)
{
    for (unsigned i = 0; i < e->sheet->n_blocks; i++)
        if (wad_acts_as(e->sheet->blocks[i]->layout, kind) &&
            is_served(e->sheet, e->sheet->blocks[i]->layout))
            return e->sheet->blocks[i];
    return NULL;
}

/* What drivers of constant handles need besides their unit. */
static void emit_chip(wadi_emitter *e)
{
    bool ports = false;
    for (unsigned i = 0; i < e->sheet->n_blocks; i++)
        ports = ports || e->sheet->blocks[i]->n_carries;
    fprintf(e->out,
            "\n/* ---- the chip, for drivers ---- */\n\nstatic const wad_chip %s_chip = {\n",
            e->lower);
    if (ports)
        fprintf(e->out, "    .ports = wad_pin_ports,\n    .n_ports = WAD_PIN_PORTS,\n");
    if (first_served(e, "interrupts"))
        fprintf(e->out, "    .interrupts_base = WAD_INTERRUPTS_BASE,\n"
                        "    .interrupts = &WAD_INTERRUPTS_TABLE,\n");
    if (!ports && !first_served(e, "interrupts"))
        fprintf(e->out, "    .ports = 0,\n");
    fprintf(e->out,
            "};\n\nWADI_INLINE const wad_chip *wadi_chip(void)\n{\n    return &%s_chip;\n}\n",
            e->lower);
}

void wad_emit_roles(const wad_sheet *sheet, FILE *out)
{
    wadi_emitter e = {sheet, out, wadi_emit_upper(sheet->name), wadi_emit_lower(sheet->name)};
    GPtrArray *layouts = wadi_emit_layouts(sheet);
    emit_prologue(&e);
    for (guint i = 0; i < layouts->len; i++) {
        wadi_emit_fields(&e, layouts->pdata[i]);
        wadi_emit_locks(&e, layouts->pdata[i]);
    }
    fprintf(out, "\n/* ---- roles ---- */\n");
    for (guint i = 0; i < layouts->len; i++)
        if (is_served(sheet, layouts->pdata[i]) &&
            !wadi_has_forms(((const wad_layout *)layouts->pdata[i])->kind))
            emit_table(&e, layouts->pdata[i]);
    wadi_emit_forms(&e);
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
    emit_chip(&e);
    wadi_emit_form_bodies(&e);
    fprintf(out, "\n#endif\n");
    g_ptr_array_free(layouts, TRUE);
    g_free(e.upper);
    g_free(e.lower);
}
