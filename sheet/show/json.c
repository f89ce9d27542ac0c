/* SPDX-License-Identifier: MIT */
/* `wadium show CHIP --json`: the whole description for a machine. */

#include "files/json.h"
#include "wadium/host/sheet.h"

static void member(JsonBuilder *b, const char *name, const char *text)
{
    json_builder_set_member_name(b, name);
    if (text)
        json_builder_add_string_value(b, text);
    else
        json_builder_add_null_value(b);
}

static void number(JsonBuilder *b, const char *name, uint64_t value)
{
    json_builder_set_member_name(b, name);
    json_builder_add_int_value(b, (gint64)value);
}

static void add_field(JsonBuilder *b, const wad_bitfield *f)
{
    json_builder_begin_object(b);
    member(b, "name", f->name);
    number(b, "lsb", f->lsb);
    number(b, "width", f->width);
    if (f->count)
        number(b, "count", f->count);
    member(b, "access", wad_access_word(f->access));
    member(b, "text", f->text);
    json_builder_set_member_name(b, "values");
    json_builder_begin_array(b);
    for (unsigned i = 0; i < f->n_enums; i++) {
        json_builder_begin_object(b);
        number(b, "code", f->enums[i].code);
        member(b, "name", f->enums[i].name);
        json_builder_end_object(b);
    }
    json_builder_end_array(b);
    json_builder_end_object(b);
}

static void add_register(JsonBuilder *b, const wad_register *r)
{
    json_builder_begin_object(b);
    member(b, "name", r->name);
    number(b, "offset", r->offset);
    number(b, "width", r->width);
    number(b, "reset", r->reset);
    if (r->count) {
        number(b, "count", r->count);
        number(b, "step", r->step);
    }
    member(b, "text", r->text);
    member(b, "ref", r->ref);
    json_builder_set_member_name(b, "fields");
    json_builder_begin_array(b);
    for (unsigned i = 0; i < r->n_fields; i++)
        add_field(b, r->fields[i]);
    json_builder_end_array(b);
    json_builder_end_object(b);
}

/* {"value": 1, "from": "CNT0", "role": "match", "index": 1} */
static void add_sources(JsonBuilder *b, const char *name, const wad_trigger *list, unsigned n)
{
    json_builder_set_member_name(b, name);
    json_builder_begin_array(b);
    for (unsigned i = 0; i < n; i++) {
        const wad_trigger *t = &list[i];
        json_builder_begin_object(b);
        number(b, "value", t->code);
        member(b, "from", t->from->name);
        member(b, "role", t->role->name);
        if (t->role->indexed)
            number(b, "index", t->index);
        json_builder_end_object(b);
    }
    json_builder_end_array(b);
}

static void add_block(JsonBuilder *b, const wad_instance *block)
{
    json_builder_begin_object(b);
    member(b, "name", block->name);
    number(b, "address", block->base);
    member(b, "layout", block->layout->name);
    if (block->home)
        member(b, "unit_of", block->home->name);
    member(b, "kind", block->layout->kind);
    member(b, "text", block->text);
    json_builder_set_member_name(b, "irqs");
    json_builder_begin_array(b);
    for (unsigned i = 0; i < block->n_irqs; i++)
        json_builder_add_int_value(b, block->irqs[i]);
    json_builder_end_array(b);
    add_sources(b, "triggers", block->triggers, block->n_triggers);
    add_sources(b, "requests", block->requests, block->n_requests);
    json_builder_set_member_name(b, "registers");
    json_builder_begin_array(b);
    for (unsigned i = 0; i < block->layout->n_regs; i++)
        add_register(b, block->layout->regs[i]);
    json_builder_end_array(b);
    json_builder_end_object(b);
}

void wad_show_chip_json(const wad_sheet *sheet, FILE *out)
{
    JsonBuilder *b = json_builder_new();
    json_builder_begin_object(b);
    member(b, "chip", sheet->name);
    member(b, "summary", sheet->summary);
    member(b, "hash", sheet->hash);
    number(b, "bus_bits", sheet->bus_bits);
    json_builder_set_member_name(b, "blocks");
    json_builder_begin_array(b);
    for (unsigned i = 0; i < sheet->n_blocks; i++)
        add_block(b, sheet->blocks[i]);
    json_builder_end_array(b);
    json_builder_end_object(b);
    wadi_json_write(json_builder_get_root(b), out);
    g_object_unref(b);
}
