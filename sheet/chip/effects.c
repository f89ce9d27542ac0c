/* SPDX-License-Identifier: MIT */
/* What reading a register does besides reading it. */
#include <glib.h>
#include <string.h>

#include "sheet/chip/query.h"
#include "wadium/host/sheet.h"

/* Roles whose registers give a frame away when they are read. */
static const struct {
    const char *kind, *role, *what;
} takers[] = {{"uart", "rx_data", "takes the byte out of the receiver"},
              {"spi", "rx_data", "takes the frame out of the receiver"},
              {"adc", "data", "takes the result, and its flag with it"}};

static void add(GString *text, const char *what, const char *name)
{
    g_string_append_printf(text, "%s%s%s%s", text->len ? ", " : "", what, name ? " " : "",
                           name ? name : "");
}

static void by_fields(const wad_layout *layout, const wad_register *reg, GString *text)
{
    wadi_registers at = {0};
    for (const wad_register *r; (r = wadi_next_register(layout, &at)) != NULL;)
        for (unsigned k = 0; k < r->n_fields; k++) {
            const wad_bitfield *f = r->fields[k];
            if (wad_bitfield_cleared_by_read(f) == reg ||
                (f->reg == reg && f->access == WAD_ACCESS_RC))
                add(text, "clears", f->name);
            else if (f->reg == reg && f->access == WAD_ACCESS_RS)
                add(text, "sets", f->name);
        }
}

static bool lies_in(const wad_role *role, const wad_register *reg)
{
    return role->places[0].parts[role->places[0].n_parts - 1].ref.reg == reg; /* the low part */
}

static void by_roles(const wad_layout *layout, const wad_register *reg, GString *text)
{
    for (unsigned i = 0; layout->kind && i < G_N_ELEMENTS(takers); i++) {
        const wad_role *role =
            wad_acts_as(layout, takers[i].kind) ? wad_layout_role(layout, takers[i].role) : NULL;
        if (role && role->n_places && role->places[0].n_parts && lies_in(role, reg))
            add(text, takers[i].what, NULL);
    }
}

static void by_values(const wad_layout *layout, const wad_register *reg, GString *text)
{
    for (unsigned i = 0; i < layout->n_values; i++) {
        const wad_value *v = layout->values[i];
        if (v->latch_low && v->parts[v->n_parts - 1]->reg == reg)
            add(text, "holds the rest of", v->name);
    }
}

char *wad_register_read_effect(const wad_fieldref *ref)
{
    GString *text = g_string_new(NULL);
    by_fields(ref->block->layout, ref->reg, text);
    by_roles(ref->block->layout, ref->reg, text);
    by_values(ref->block->layout, ref->reg, text);
    return g_string_free(text, text->len == 0);
}
