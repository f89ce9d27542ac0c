/* SPDX-License-Identifier: MIT */
/* Layouts: registers, locks, split values, rates. */
#include "layout.h"

#include <string.h>

#include "behaviour.h"
#include "hook.h"
#include "lang/rational.h"
#include "path.h"
#include "register_words.h"

/* ---- registers ---- */

static void parse_reg_dim(layout_build *lb, wadi_cursor *c, wad_register *reg)
{
    int64_t count, step;
    if (!wadi_take_punct(c, "["))
        return;
    if (wadi_parse_int(lb->b, c, lb->env, "the number of registers", 1, 4096, &count) &&
        wadi_need_punct(c, "]"))
        reg->count = (uint32_t)count;
    if (wadi_take_word(c, "step") &&
        wadi_parse_int(lb->b, c, lb->env, "bytes between registers", 1, 65536, &step))
        reg->step = (uint32_t)step;
}

static bool parse_alias(layout_build *lb, wadi_cursor *c, wad_register *reg)
{
    for (unsigned i = WAD_ALIAS_SETS; i <= WAD_ALIAS_IS; i++) {
        if (!wadi_take_word(c, wad_alias_word((wad_alias)i)))
            continue;
        waiting w = {.at = *c, .alias = reg};
        reg->alias = (wad_alias)i;
        reg->access = WAD_ACCESS_RW; /* it reads as the other one does */
        int64_t width;
        wadi_need_name(c, "the register it acts on");
        if (wadi_take_word(c, "wo"))
            reg->access = WAD_ACCESS_WO;
        if (wadi_take_word(c, "width") &&
            wadi_parse_int(lb->b, c, lb->env, "the width in bits", 8, 32, &width))
            w.width = (uint8_t)width;
        g_array_append_val(lb->waiting, w);
        if (!c->failed && c->tok->type == WADI_T_STRING)
            reg->text = (c->tok++)->text;
        wadi_need_end(c);
        return true;
    }
    return false;
}

/* Of an array in a group each element of the group has one. */
static void name_member(layout_build *lb, wad_register *reg)
{
    const wad_group *g = lb->group;
    reg->group = g;
    reg->member = reg->name;
    reg->offset += g->offset;
    if (reg->count) {
        reg->is_array_member = g->count != 0;
        reg->group_index = lb->group_index;
        reg->offset += lb->group_index * g->step;
        reg->name = g->count ? wadi_arena_printf(lb->b->arena, "%s%u_%s", g->name, lb->group_index,
                                                 reg->member)
                             : wadi_arena_printf(lb->b->arena, "%s_%s", g->name, reg->member);
        return;
    }
    reg->name = wadi_arena_printf(lb->b->arena, "%s_%s", g->name, reg->member);
    reg->count = g->count;
    reg->step = g->count ? g->step : 0;
}

/* What stands behind the offset. */
static void parse_content(layout_build *lb, wadi_cursor *c, wad_register *reg)
{
    reg->access = wadi_parse_access(c);
    wadi_parse_reg_attrs(lb, c, reg);
    const wadi_group *group = wadi_take_group(c);
    if (reg->count && !reg->step)
        reg->step = reg->width / 8u;
    if (group && !c->failed)
        wadi_parse_fields(lb, group, reg);
    else
        wadi_whole_field(lb, reg);
    wadi_need_end(c);
}

/* Elements that are changed are registers of their own: as the array is, then changed. */
static void change_elements(layout_build *lb, const wadi_cursor *content, const wad_register *bare,
                            wad_register *reg)
{
    const wad_register **elements = NULL;
    for (uint32_t i = 0; i < reg->count; i++) {
        if (!wadi_changes_element(lb, reg, i))
            continue;
        if (!elements)
            elements = wadi_arena_alloc(lb->b->arena, reg->count * sizeof *elements);
        wad_register *own = WADI_NEW(lb->b->arena, wad_register);
        wadi_cursor again = *content;
        *own = *bare;
        parse_content(lb, &again, own);
        wadi_change_register(lb, own, i);
        own->array = reg;
        elements[i] = own;
    }
    reg->elements = elements;
}

static void parse_register(layout_build *lb, wadi_cursor *c)
{
    wad_register *reg = WADI_NEW(lb->b->arena, wad_register);
    int64_t offset;
    reg->where = c->tok->where;
    reg->width = lb->b->sheet->bus_bits;
    reg->name = wadi_need_name(c, "the register's name");
    parse_reg_dim(lb, c, reg);
    if (!wadi_need_word(c, "at") ||
        !wadi_parse_int(lb->b, c, lb->env, "the offset in bytes", 0, 65535, &offset))
        return;
    reg->offset = (uint32_t)offset;
    bool in_array = reg->count != 0;
    if (lb->group && lb->group_index && !in_array)
        return; /* it was read with the group's first element */
    if (lb->group)
        name_member(lb, reg);
    if (!g_hash_table_add(lb->names, (gpointer)reg->name)) {
        wadi_error(c->src, &reg->where, "register '%s' stands twice in this layout", reg->name);
        return;
    }
    const wad_register bare = *reg;
    const wadi_cursor content = *c;
    if (!parse_alias(lb, c, reg))
        parse_content(lb, c, reg);
    if (lb->group && lb->group->count &&
        (uint32_t)offset + (in_array ? (reg->count - 1) * reg->step : 0) + wad_register_bytes(reg) >
            lb->group->step)
        wadi_error(c->src, &reg->where,
                   "register '%s' reaches beyond its group's step of 0x%x bytes", reg->member,
                   lb->group->step);
    if (!wadi_change_register(lb, reg, -1))
        return;
    if (!c->failed && !reg->alias)
        change_elements(lb, &content, &bare, reg);
    if (reg->offset % wad_register_bytes(reg))
        wadi_error(c->src, &reg->where, "offset 0x%x is not a multiple of the register's %u bytes",
                   reg->offset, wad_register_bytes(reg));
    g_ptr_array_add(lb->regs, reg);
    lb->layout->regs = (const wad_register *const *)lb->regs->pdata;
    lb->layout->n_regs = lb->regs->len;
}

/* ---- groups ---- */

/* `group CH[12] step 0x40 at 0x00 { reg READ at 0x00 ... }` */
static void parse_group(layout_build *lb, wadi_cursor *c)
{
    wad_group *g = WADI_NEW(lb->b->arena, wad_group);
    int64_t count = 0, step = 0, at;
    g->where = c->tok->where;
    g->name = wadi_need_name(c, "the group's name");
    if (wadi_take_punct(c, "[")) {
        wadi_parse_int(lb->b, c, lb->env, "the number of elements", 1, 256, &count);
        wadi_need_punct(c, "]");
        if (wadi_need_word(c, "step"))
            wadi_parse_int(lb->b, c, lb->env, "bytes between elements", 1, 65536, &step);
    }
    if (!wadi_need_word(c, "at") ||
        !wadi_parse_int(lb->b, c, lb->env, "the offset in bytes", 0, 65535, &at))
        return;
    const wadi_group *body = wadi_need_group(c, "'{' and the registers");
    if (!body || !wadi_need_end(c))
        return;
    g->count = (uint32_t)count;
    g->step = (uint32_t)step;
    g->offset = (uint32_t)at;
    for (guint i = 0; i < lb->regs->len; i++) {
        const wad_register *r = lb->regs->pdata[i];
        if (!strcmp(r->group ? r->group->name : r->name, g->name)) {
            wadi_error(c->src, &g->where, "'%s' stands twice in this layout", g->name);
            return;
        }
    }
    lb->group = g;
    for (lb->group_index = 0; lb->group_index < MAX(g->count, 1); lb->group_index++)
        for (unsigned i = 0; i < body->n; i++) {
            wadi_cursor item = wadi_cursor_at(lb->b->src, &body->stmts[i]);
            if (wadi_take_word(&item, "reg"))
                parse_register(lb, &item);
            else if (!lb->group_index)
                wadi_expected(&item, "'reg': a group is of registers");
        }
    lb->group = NULL;
}

/* ---- split values ---- */

/* `value CMP[n] = HIGH[n].V : LOW[n].V`: the index, NULL for a single value. */
static const char *parse_value_dim(wadi_cursor *c)
{
    if (!wadi_take_punct(c, "["))
        return NULL;
    const char *index = wadi_need_name(c, "the index's name");
    wadi_need_punct(c, "]");
    return index;
}

static bool check_value_part(wadi_cursor *c, wad_value *value, unsigned n, const wadi_path *path,
                             const char *index, const wad_bitfield *field)
{
    bool indexed = false;
    for (unsigned i = 0; i < path->n; i++)
        indexed |= index && path->index_name[i] && !strcmp(path->index_name[i], index);
    if (index && field->reg->elements) {
        wadi_error(c->src, &path->where,
                   "'%s' is a row of alike registers for a value: one of '%s' is changed",
                   value->name, field->reg->name);
        c->failed = true;
        return false;
    }
    if (index && (!indexed || !field->reg->count || (n && value->count != field->reg->count))) {
        wadi_error(c->src, &path->where,
                   "each part of '%s[%s]' lies in an array of registers of one length, by [%s]",
                   value->name, index, index);
        c->failed = true;
        return false;
    }
    value->count = index ? field->reg->count : 0;
    return true;
}

/* `through TEMP on write`: one part goes by way of a byte. */
static void parse_through(wadi_cursor *c, wad_value *value, unsigned parts)
{
    wad_where where = c->tok->where;
    value->through = wadi_need_name(c, "the byte's name");
    value->through_read = value->through_write = true;
    if (wadi_take_word(c, "on")) {
        value->through_read = wadi_at_word(c, "read");
        value->through_write = wadi_at_word(c, "write");
        if (!wadi_take_word(c, "read") && !wadi_take_word(c, "write"))
            wadi_expected(c, "'read' or 'write'");
    }
    if (parts != 2 && !c->failed) {
        wadi_error(c->src, &where, "through a shared byte goes one of two parts, not of %u", parts);
        c->failed = true;
    }
}

static void parse_value(layout_build *lb, wadi_cursor *c)
{
    wad_value *value = WADI_NEW(lb->b->arena, wad_value);
    GPtrArray *parts = g_ptr_array_new();
    value->where = c->tok->where;
    value->write_high_first = true;
    value->name = wadi_need_name(c, "the value's name");
    const char *index = parse_value_dim(c);
    wadi_env first = {index, wadi_int(0), lb->env};
    wadi_need_punct(c, "=");
    do {
        wadi_path path;
        wad_fieldref ref;
        if (!wadi_parse_path(c, index ? &first : lb->env, &path))
            break;
        if (!wadi_resolve(lb->b, lb->layout, NULL, &path, &ref)) {
            c->failed = true;
            break;
        }
        const wad_bitfield *field = ref.field ? ref.field : ref.reg->fields[0];
        if (!check_value_part(c, value, parts->len, &path, index, field))
            break;
        g_ptr_array_add(parts, (gpointer)field);
        value->width = (uint8_t)(value->width + field->width);
    } while (wadi_take_punct(c, ":"));
    if (!c->failed && c->tok->type == WADI_T_STRING)
        value->text = (c->tok++)->text;
    if (wadi_take_word(c, "write")) {
        value->write_high_first = wadi_at_word(c, "high");
        if (!wadi_take_word(c, "high") && !wadi_take_word(c, "low"))
            wadi_expected(c, "'high first' or 'low first'");
        wadi_need_word(c, "first");
    }
    if (wadi_take_word(c, "latch"))
        value->latch_low = wadi_need_word(c, "low");
    if (wadi_take_word(c, "through"))
        parse_through(c, value, parts->len);
    if (wadi_need_end(c) && value->width > 64)
        wadi_error(c->src, &value->where, "a value has at most 64 bits, this one %u", value->width);
    value->n_parts = parts->len;
    value->parts = wadi_arena_copy(lb->b->arena, parts->pdata, parts->len, sizeof(gpointer));
    g_ptr_array_free(parts, TRUE);
    if (!c->failed)
        g_ptr_array_add(lb->values, value);
    lb->layout->values = (const wad_value *const *)lb->values->pdata;
    lb->layout->n_values = lb->values->len;
}

/* ---- rates ---- */

static void parse_rate(layout_build *lb, wadi_cursor *c, GArray *laws)
{
    wadi_names names = {.build = lb->b, .env = lb->env, .layout = lb->layout};
    wad_law law = {.where = c->tok->where};
    law.name = wadi_need_name(c, "the rate's name");
    if (!wadi_need_word(c, "law"))
        return;
    law.expr = wadi_parse_expr(c, &names);
    if (law.expr)
        wadi_check_law(lb->b, law.expr);
    if (!c->failed && c->tok->type == WADI_T_STRING)
        law.text = (c->tok++)->text;
    for (unsigned i = 0; i < laws->len; i++)
        if (law.name && !strcmp(g_array_index(laws, wad_law, i).name, law.name)) {
            wadi_error(c->src, &law.where, "rate '%s' stands twice in this layout", law.name);
            c->failed = true;
        }
    if (wadi_need_end(c) && law.expr)
        g_array_append_val(laws, law);
}

static void parse_rates(layout_build *lb, const wadi_group *body)
{
    GArray *laws = g_array_new(FALSE, FALSE, sizeof(wad_law));
    for (unsigned i = 0; i < body->n; i++) {
        wadi_cursor c = wadi_cursor_at(lb->b->src, &body->stmts[i]);
        if (wadi_take_word(&c, "rate"))
            parse_rate(lb, &c, laws);
    }
    lb->layout->n_laws = laws->len;
    lb->layout->laws = wadi_arena_copy(lb->b->arena, laws->data, laws->len, sizeof(wad_law));
    g_array_free(laws, TRUE);
}

/* ---- the layout ---- */

static void finish_alias(layout_build *lb, waiting *w)
{
    const char *name = wadi_need_name(&w->at, "the register it acts on");
    const wad_group *group = w->alias->group;
    const wad_register *of = NULL;
    if (name && group) /* a neighbour */
        of = wad_layout_register(lb->layout,
                                 wadi_arena_printf(lb->b->arena, "%s_%s", group->name, name));
    if (name && !of)
        of = wad_layout_register(lb->layout, name);
    if (!of || of->alias) {
        wadi_error(w->at.src, &w->alias->where, "'%s' is no register of this layout to act on",
                   name ? name : "?");
        w->alias->alias = WAD_ALIAS_NONE;
        wadi_whole_field(lb, w->alias);
        return;
    }
    w->alias->alias_of = of;
    if (w->width > of->width || (w->width != 8 && w->width != 16 && w->width != 32 && w->width))
        wadi_error(w->at.src, &w->alias->where,
                   "another name of '%s' is 8, 16 or 32 bits wide, and not wider than it", name);
    w->alias->width = w->width ? w->width : of->width;
    w->alias->fields = of->fields;
    w->alias->n_fields = of->n_fields;
    w->alias->count = of->count;
    w->alias->step = of->step;
    if (!w->alias->text)
        w->alias->text = of->text;
}

/* `cleared by read STAT then read RX or write CLR` */
static void finish_cleared(layout_build *lb, waiting *w)
{
    const wad_clearing *list;
    unsigned n;
    wad_bitfield *f = w->cleared;
    if (!wadi_parse_events(lb, &w->at, f->reg, f, &list, &n))
        return;
    wad_clearing *all = wadi_arena_alloc(lb->b->arena, (f->n_clearings + n) * sizeof *all);
    if (f->n_clearings) /* several `cleared by` may stand */
        memcpy(all, f->clearings, f->n_clearings * sizeof *all);
    memcpy(all + f->n_clearings, list, n * sizeof *all);
    f->clearings = all;
    f->n_clearings += n;
}

/* It may name other blocks, which are not all there yet. */
static void wait_for_blocks(layout_build *lb, const waiting *w)
{
    late_word late = {{.b = lb->b, .env = lb->env, .layout = lb->layout}, *w};
    g_array_append_val(lb->b->late, late);
}

static void wait_hook(layout_build *lb, const wadi_stmt *stmt)
{
    late_word late = {{.b = lb->b, .env = lb->env, .layout = lb->layout}, {.hook = stmt}};
    g_array_append_val(lb->b->late, late);
}

static void finish_hook(layout_build *lb, const wadi_stmt *stmt)
{
    wad_layout *l = lb->layout;
    wad_hook hook = {0};
    if (!wadi_parse_hook(lb, stmt, &hook))
        return;
    wad_hook *all = wadi_arena_alloc(lb->b->arena, (l->n_hooks + 1) * sizeof *all);
    if (l->n_hooks)
        memcpy(all, l->hooks, l->n_hooks * sizeof *all);
    all[l->n_hooks++] = hook;
    l->hooks = all;
}

void wadi_finish_layouts(wadi_build *b)
{
    for (unsigned i = 0; i < b->late->len; i++) {
        late_word *late = &g_array_index(b->late, late_word, i);
        if (late->w.hook)
            finish_hook(&late->lb, late->w.hook);
        else if (late->w.cleared)
            finish_cleared(&late->lb, &late->w);
        else
            wadi_finish_behaviour(&late->lb, &late->w);
    }
}

GArray *wadi_late_words(void)
{
    return g_array_new(FALSE, FALSE, sizeof(late_word));
}

static void finish_waiting(layout_build *lb)
{
    wad_instance scope = {.layout = lb->layout};
    for (unsigned i = 0; i < lb->waiting->len; i++) {
        waiting *w = &g_array_index(lb->waiting, waiting, i);
        if (w->alias)
            finish_alias(lb, w);
        else if (w->locked)
            wadi_finish_locked(lb, w);
        else if (w->cleared || w->more)
            wait_for_blocks(lb, w);
        if (!w->field)
            continue;
        wad_cond *cond = WADI_NEW(lb->b->arena, wad_cond);
        if (wadi_parse_cond(lb->b, &w->at, lb->env, &scope, cond))
            *w->cond = cond;
    }
}

static int by_offset(const void *a, const void *b)
{
    const wad_register *x = *(const wad_register *const *)a;
    const wad_register *y = *(const wad_register *const *)b;
    if (x->offset != y->offset)
        return x->offset < y->offset ? -1 : 1;
    return strcmp(x->name, y->name);
}

static void seal(layout_build *lb)
{
    wad_layout *layout = lb->layout;
    finish_waiting(lb);
    if (lb->regs->len)
        qsort(lb->regs->pdata, lb->regs->len, sizeof(gpointer), by_offset);
    layout->n_regs = lb->regs->len;
    layout->regs = wadi_arena_copy(lb->b->arena, lb->regs->pdata, lb->regs->len, sizeof(gpointer));
    layout->n_values = lb->values->len;
    layout->values =
        wadi_arena_copy(lb->b->arena, lb->values->pdata, lb->values->len, sizeof(gpointer));
    uint32_t first = 0;
    for (unsigned i = 0; i < layout->n_regs; i++) {
        wad_register *r = g_ptr_array_index(lb->regs, i);
        r->first = first;
        for (uint32_t k = 0; r->elements && k < r->count; k++)
            if (r->elements[k]) { /* they were made as `reg` was, which may have moved since */
                wad_register *own = (wad_register *)r->elements[k];
                own->first = first;
                own->offset = r->offset;
                own->step = r->step;
            }
        first += MAX(r->count, 1);
        uint32_t last = r->count ? (r->count - 1) * r->step : 0;
        layout->size = MAX(layout->size, r->offset + last + wad_register_bytes(r));
    }
    layout->n_locks = lb->locks->len;
    layout->locks =
        wadi_arena_copy(lb->b->arena, lb->locks->pdata, lb->locks->len, sizeof(gpointer));
    g_ptr_array_free(lb->regs, TRUE);
    g_ptr_array_free(lb->values, TRUE);
    g_ptr_array_free(lb->locks, TRUE);
    g_array_free(lb->waiting, TRUE);
    g_hash_table_destroy(lb->names);
}

wad_layout *wadi_build_layout(wadi_build *b, const wadi_stmt *stmt, const char *name,
                              const wadi_env *env, const char *variant, const char *block)
{
    layout_build lb = {b,
                       env,
                       WADI_NEW(b->arena, wad_layout),
                       g_ptr_array_new(),
                       g_ptr_array_new(),
                       g_ptr_array_new(),
                       g_array_new(FALSE, FALSE, sizeof(waiting)),
                       g_hash_table_new(g_str_hash, g_str_equal),
                       NULL,
                       0,
                       block};
    const wadi_group *body = stmt->toks[stmt->n - 1].group;
    GPtrArray *acts = g_ptr_array_new(); /* read when all blocks exist */
    lb.layout->base = lb.layout->name = name;
    if (block) {
        char *lower = g_ascii_strdown(block, -1);
        lb.layout->name = wadi_arena_printf(b->arena, "%s_%s", name, lower);
        g_free(lower);
    }
    lb.layout->variant = variant;
    lb.layout->where = stmt->toks[0].where;
    for (unsigned i = 0; i < body->n; i++) {
        wadi_cursor c = wadi_cursor_at(b->src, &body->stmts[i]);
        if (wadi_take_word(&c, "reg"))
            parse_register(&lb, &c);
        else if (wadi_take_word(&c, "group"))
            parse_group(&lb, &c);
        else if (wadi_at_word(&c, "acts"))
            g_ptr_array_add(acts, (gpointer)&body->stmts[i]);
        else if (wadi_take_word(&c, "value"))
            parse_value(&lb, &c);
        else if (wadi_at_word(&c, "on"))
            wait_hook(&lb, &body->stmts[i]);
        else if (!wadi_at_word(&c, "lock") && !wadi_at_word(&c, "rate") &&
                 !wadi_at_word(&c, "change")) /* read before */
            wadi_expected(&c, "'reg', 'group', 'value', 'lock', 'rate', 'change', 'on EVENT' or "
                              "'acts as KIND'");
    }
    for (unsigned i = 0; i < body->n; i++) {
        wadi_cursor c = wadi_cursor_at(b->src, &body->stmts[i]);
        if (wadi_take_word(&c, "lock"))
            wadi_parse_lock(&lb, &c);
    }
    seal(&lb);
    parse_rates(&lb, body);
    wadi_acts entry = {lb.layout, env,
                       wadi_arena_copy(b->arena, acts->pdata, acts->len, sizeof(gpointer)),
                       acts->len};
    g_array_append_val(b->acts, entry);
    g_ptr_array_free(acts, TRUE);
    return lb.layout;
}
