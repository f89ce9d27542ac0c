/* SPDX-License-Identifier: MIT */
/* Fields of registers. */
#include <string.h>

#include "behaviour.h"
#include "lang/rational.h"
#include "layout.h"
#include "path.h"

bool wadi_parse_bits(layout_build *lb, wadi_cursor *c, const wad_register *reg, int64_t *lsb,
                     int64_t *msb)
{
    wadi_build *b = lb->b;
    wad_where where = c->tok->where;
    if (!wadi_parse_int(b, c, lb->env, "a bit number", 0, 63, msb))
        return false;
    *lsb = *msb;
    if (wadi_take_punct(c, ":") && !wadi_parse_int(b, c, lb->env, "a bit number", 0, 63, lsb))
        return false;
    if (*lsb > *msb) {
        wadi_error(c->src, &where, "bits are written high:low, as %lld:%lld", (long long)*lsb,
                   (long long)*msb);
        c->failed = true;
    } else if (*msb >= reg->width) {
        wadi_error(c->src, &where, "bit %lld lies outside register '%s', which has %u bits",
                   (long long)*msb, reg->name, reg->width);
        c->failed = true;
    }
    return !c->failed;
}

static void parse_enumerator(layout_build *lb, const wadi_stmt *stmt, const wad_bitfield *field,
                             GArray *enums)
{
    wadi_cursor c = wadi_cursor_at(lb->b->src, stmt);
    wad_enumerator e = {.where = c.tok->where};
    int64_t code, max = field->width >= 63 ? INT64_MAX : (INT64_C(1) << field->width) - 1;
    if (!wadi_parse_int(lb->b, &c, lb->env, "the field's value", 0, max, &code))
        return;
    e.code = (uint64_t)code;
    e.name = wadi_need_name(&c, "the value's name");
    if (wadi_take_word(&c, "is")) {
        int64_t meaning;
        if (wadi_parse_int(lb->b, &c, lb->env, "the value used in laws", 0, INT64_MAX, &meaning)) {
            e.has_meaning = true;
            e.meaning = wadi_int(meaning);
        }
    }
    for (unsigned i = 0; i < enums->len; i++) {
        const wad_enumerator *other = &g_array_index(enums, wad_enumerator, i);
        if (!c.failed && (other->code == e.code || !strcmp(other->name, e.name))) {
            wadi_error(c.src, &e.where, "value %lld or name '%s' stands twice in this list",
                       (long long)code, e.name);
            c.failed = true;
        }
    }
    if (wadi_need_end(&c))
        g_array_append_val(enums, e);
}

static void parse_enums(layout_build *lb, const wadi_group *group, wad_bitfield *field)
{
    GArray *enums = g_array_new(FALSE, FALSE, sizeof(wad_enumerator));
    for (unsigned i = 0; i < group->n; i++)
        parse_enumerator(lb, &group->stmts[i], field, enums);
    field->n_enums = enums->len;
    field->enums = wadi_arena_copy(lb->b->arena, enums->data, enums->len, sizeof(wad_enumerator));
    g_array_free(enums, TRUE);
}

/* Skips a condition now; it is read when all registers exist. */
static void defer_cond(layout_build *lb, wadi_cursor *c, wad_bitfield *field, const wad_cond **cond)
{
    waiting w = {.at = *c, .field = field, .cond = cond};
    g_array_append_val(lb->waiting, w);
    wadi_skip_cond(c, lb->env);
}

/* `cleared at entry`, `cleared by read CAP` */
static void parse_cleared(layout_build *lb, wadi_cursor *c, wad_bitfield *field)
{
    if (wadi_take_word(c, "at")) {
        wadi_need_word(c, "entry");
        field->cleared_at_entry = true;
    } else if (wadi_need_word(c, "by")) {
        waiting w = {.at = *c, .cleared = field};
        g_array_append_val(lb->waiting, w);
        wadi_skip_events(lb, c);
    }
}

void wadi_take_text(wadi_cursor *c, const char **text)
{
    if (*text)
        wadi_error(c->src, &c->tok->where, "a second description: one is \"%s\"", *text);
    *text = (c->tok++)->text;
}

void wadi_parse_field_attrs(layout_build *lb, wadi_cursor *c, wad_bitfield *field)
{
    while (!wadi_at_end(c) && c->tok->type != WADI_T_GROUP) {
        int64_t zero;
        if (c->tok->type == WADI_T_STRING)
            wadi_take_text(c, &field->text);
        else if (wadi_take_word(c, "ref"))
            field->ref = wadi_need_string(c, "a reference in quotes");
        else if (wadi_take_word(c, "not"))
            field->not_zero = wadi_parse_int(lb->b, c, lb->env, "a forbidden value", 0, 0, &zero);
        else if (wadi_take_word(c, "stable"))
            defer_cond(lb, c, field, &field->stable);
        else if (wadi_take_word(c, "when"))
            defer_cond(lb, c, field, &field->when);
        else if (wadi_take_word(c, "cleared"))
            parse_cleared(lb, c, field);
        else if (wadi_take_word(c, "volatile"))
            field->is_volatile = true;
        else if (wadi_take_word(c, "fixed"))
            field->is_volatile = false;
        else if (!wadi_take_common(lb, c, (wad_register *)field->reg, field) &&
                 !wadi_take_field_word(lb, c, field))
            wadi_expected(c, "'ref', 'not 0', 'stable', 'when', 'cleared at entry', 'cleared by', "
                             "'reads', 'held', 'after', 'is', 'sets', 'clears', 'toggles', "
                             "'masks', 'key', 'number', 'volatile', 'fixed' or a list of values");
    }
    const wadi_group *group = wadi_take_group(c);
    if (group)
        parse_enums(lb, group, field);
    wadi_need_end(c);
}

static void parse_field_dim(layout_build *lb, wadi_cursor *c, const wad_register *reg,
                            wad_bitfield *field)
{
    int64_t count, step = field->width;
    if (!wadi_take_punct(c, "["))
        return;
    wad_where where = c->tok->where;
    if (!wadi_parse_int(lb->b, c, lb->env, "the number of elements", 1, 256, &count) ||
        !wadi_need_punct(c, "]"))
        return;
    if (wadi_take_word(c, "step"))
        wadi_parse_int(lb->b, c, lb->env, "bits between elements", field->width, 32, &step);
    field->count = (uint16_t)count;
    field->step = (uint8_t)step;
    unsigned room = (unsigned)(reg->width - field->lsb - field->width) / (unsigned)step + 1;
    field->per_reg = (uint16_t)MIN((unsigned)count, room);
    unsigned regs = ((unsigned)count + field->per_reg - 1) / field->per_reg;
    if (regs > (reg->count ? reg->count : 1)) {
        wadi_error(c->src, &where, "%lld elements of %u bits need %u registers, '%s' has %u",
                   (long long)count, field->width, regs, reg->name, reg->count ? reg->count : 1);
        c->failed = true;
    }
}

/* Status and flags are the chip's; what can be written stays as it was written, unless the sheet
 * says otherwise. */
static bool changes_by_itself(wad_access access)
{
    return access != WAD_ACCESS_RW && access != WAD_ACCESS_WO && access != WAD_ACCESS_RESERVED &&
           access != WAD_ACCESS_ONCE && access != WAD_ACCESS_W1T && access != WAD_ACCESS_W0T;
}

wad_bitfield *wadi_parse_field(layout_build *lb, wadi_cursor *c, wad_register *reg)
{
    wad_bitfield *field = WADI_NEW(lb->b->arena, wad_bitfield);
    int64_t lsb, msb;
    field->where = c->tok->where;
    field->reg = reg;
    if (!wadi_parse_bits(lb, c, reg, &lsb, &msb))
        return NULL;
    field->lsb = (uint8_t)lsb;
    field->width = (uint8_t)(msb - lsb + 1);
    field->per_reg = 1;
    field->name = wadi_need_name(c, "the field's name, or '_' for reserved bits");
    if (!field->name)
        return NULL;
    if (!strcmp(field->name, "_")) {
        field->name = NULL;
        field->access = WAD_ACCESS_RESERVED;
        int64_t must = 0, most = (INT64_C(1) << MIN(field->width, 62)) - 1;
        if (wadi_take_word(c, "must"))
            wadi_parse_int(lb->b, c, lb->env, "the value of reserved bits", 0, most, &must);
        field->must = (uint64_t)must;
        return wadi_need_end(c) ? field : NULL;
    }
    parse_field_dim(lb, c, reg, field);
    field->access = wadi_at_access(c) ? wadi_parse_access(c) : reg->access;
    if (!c->failed && c->tok->type == WADI_T_STRING)
        field->text = (c->tok++)->text;
    field->is_volatile = changes_by_itself(field->access) || reg->is_volatile;
    wadi_parse_field_attrs(lb, c, field);
    return c->failed ? NULL : field;
}

static int by_lsb(const void *a, const void *b)
{
    const wad_bitfield *x = *(const wad_bitfield *const *)a, *y = *(const wad_bitfield *const *)b;
    return x->lsb - y->lsb;
}

void wadi_set_fields(layout_build *lb, wad_register *reg, GPtrArray *fields)
{
    if (fields->len)
        qsort(fields->pdata, fields->len, sizeof(gpointer), by_lsb);
    reg->n_fields = fields->len;
    reg->fields = wadi_arena_copy(lb->b->arena, fields->pdata, fields->len, sizeof(gpointer));
}

void wadi_parse_fields(layout_build *lb, const wadi_group *group, wad_register *reg)
{
    GPtrArray *fields = g_ptr_array_new();
    for (unsigned i = 0; i < group->n; i++) {
        wadi_cursor c = wadi_cursor_at(lb->b->src, &group->stmts[i]);
        wad_bitfield *field = wadi_parse_field(lb, &c, reg);
        if (!field)
            continue;
        for (unsigned k = 0; field->name && k < fields->len; k++) {
            const wad_bitfield *other = fields->pdata[k];
            if (other->name && !strcmp(other->name, field->name))
                wadi_error(lb->b->src, &field->where, "field '%s' stands twice in register '%s'",
                           field->name, reg->name);
        }
        g_ptr_array_add(fields, field);
    }
    wadi_set_fields(lb, reg, fields);
    g_ptr_array_free(fields, TRUE);
}

/* A register without fields is one field of its own name: bits of it can be bound and shown. */
void wadi_whole_field(layout_build *lb, wad_register *reg)
{
    wad_bitfield *field = WADI_NEW(lb->b->arena, wad_bitfield);
    const wad_bitfield **list = wadi_arena_alloc(lb->b->arena, sizeof *list);
    *field = (wad_bitfield){.name = "VALUE",
                            .text = reg->text,
                            .where = reg->where,
                            .reg = reg,
                            .access = reg->access,
                            .width = reg->width,
                            .is_volatile = changes_by_itself(reg->access) || reg->is_volatile,
                            .per_reg = 1};
    list[0] = field;
    reg->fields = list;
    reg->n_fields = 1;
}
