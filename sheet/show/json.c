/* SPDX-License-Identifier: MIT */
/* `wadium show CHIP --json`: the whole description for a machine. */

#include <stdlib.h>

#include "behaviour.h"
#include "files/json.h"
#include "sheet/chip/expression.h"
#include "sheet/chip/query.h"
#include "units.h"
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

/* What it does besides storing, as `wadium show` says it; nothing: no member. */
static void add_behaviour(JsonBuilder *b, const wad_behaviour *more)
{
    char *text = NULL;
    size_t size;
    FILE *out = open_memstream(&text, &size);
    wadi_show_behaviour(more, out);
    fclose(out);
    if (size > 2)
        member(b, "does", text + 2); /* behind "; " */
    free(text);
}

static void add_clearings(JsonBuilder *b, const wad_bitfield *f)
{
    char *text = NULL;
    size_t size;
    FILE *out = open_memstream(&text, &size);
    if (f->cleared_at_entry)
        fputs(f->n_clearings ? "entry or " : "entry", out);
    wadi_show_events(f->clearings, f->n_clearings, out);
    fclose(out);
    if (size)
        member(b, "cleared_by", text);
    free(text);
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
    add_clearings(b, f);
    add_behaviour(b, f->more);
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

static void add_register(JsonBuilder *b, const wad_register *r, const wadi_registers *at)
{
    json_builder_begin_object(b);
    member(b, "name", r->name);
    if (at->is_element) /* one of the array before it, which differs */
        number(b, "element", at->element);
    number(b, "offset", r->offset);
    number(b, "width", r->width);
    number(b, "reset", r->reset);
    if (r->count) {
        number(b, "count", r->count);
        number(b, "step", r->step);
    }
    member(b, "text", r->text);
    member(b, "ref", r->ref);
    if (r->alias) {
        member(b, "verb", wad_alias_word(r->alias));
        member(b, "of", r->alias_of->name);
    }
    if (r->lock)
        member(b, "locked", r->lock->name);
    add_behaviour(b, r->more);
    json_builder_set_member_name(b, "fields");
    json_builder_begin_array(b);
    for (unsigned i = 0; i < r->n_fields; i++)
        add_field(b, r->fields[i]);
    json_builder_end_array(b);
    json_builder_end_object(b);
}

/* {"role": "reload", "element": 0, "lies_in": "TIM.TOP.V  plus 1"} */
static void add_role(JsonBuilder *b, const wad_instance *unit, const wad_role *role, unsigned k)
{
    char *text = NULL, *law = role->law ? wadi_expr_text(role->law) : NULL;
    size_t size;
    FILE *out = open_memstream(&text, &size);
    if (k < role->n_places)
        wadi_show_element(unit, role, k, out);
    else if (law)
        fprintf(out, "law %s", law);
    else if (role->sort == WAD_ROLE_SIGNAL)
        wadi_show_signals(role, out);
    fclose(out);
    json_builder_begin_object(b);
    member(b, "role", role->name);
    if (role->indexed)
        number(b, "element", k);
    if (role->sort != WAD_ROLE_QUANTITY)
        member(b, "lies_in", text);
    json_builder_end_object(b);
    free(text);
    g_free(law);
}

static void add_roles(JsonBuilder *b, const wad_instance *unit)
{
    json_builder_set_member_name(b, "roles");
    json_builder_begin_array(b);
    for (unsigned i = 0; i < unit->layout->n_roles; i++)
        for (const wad_role *r = &unit->layout->roles[i]; r; r = r->otherwise)
            for (unsigned k = 0; k < MAX(r->n_places, 1); k++)
                add_role(b, unit, r, k);
    json_builder_end_array(b);
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
    if (block->space) {
        member(b, "space", block->space->name);
        number(b, "address_in_space", block->base - block->space->at);
    }
    member(b, "layout", block->layout->name);
    if (block->home)
        member(b, "unit_of", block->home->name);
    member(b, "kind", block->layout->kind ? block->layout->kind->name : NULL);
    member(b, "text", block->text);
    json_builder_set_member_name(b, "irqs");
    json_builder_begin_array(b);
    for (unsigned i = 0; i < block->n_irqs; i++)
        json_builder_add_int_value(b, block->irqs[i]);
    json_builder_end_array(b);
    add_sources(b, "triggers", block->triggers, block->n_triggers);
    add_sources(b, "requests", block->requests, block->n_requests);
    add_roles(b, block);
    json_builder_set_member_name(b, "registers");
    json_builder_begin_array(b);
    wadi_registers at = {0};
    for (const wad_register *r; (r = wadi_next_register(block->layout, &at)) != NULL;)
        add_register(b, r, &at);
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
