/* SPDX-License-Identifier: MIT */
/* Layouts: registers, locks, split values, rates. */
#include "layout.h"

#include <string.h>

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
    static const char *const words[] = {"", "sets", "clears", "toggles"};
    for (unsigned i = 1; i < G_N_ELEMENTS(words); i++) {
        if (!wadi_take_word(c, words[i]))
            continue;
        waiting w = {.at = *c, .alias = reg};
        reg->alias = (wad_alias)i;
        reg->access = WAD_ACCESS_WO;
        g_array_append_val(lb->waiting, w);
        wadi_need_name(c, "the register it acts on");
        if (!c->failed && c->tok->type == WADI_T_STRING)
            reg->text = (c->tok++)->text;
        wadi_need_end(c);
        return true;
    }
    return false;
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
    if (!g_hash_table_add(lb->names, (gpointer)reg->name)) {
        wadi_error(c->src, &reg->where, "register '%s' stands twice in this layout", reg->name);
        return;
    }
    if (!parse_alias(lb, c, reg)) {
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
    if (!wadi_change_register(lb, reg))
        return;
    if (reg->offset % wad_register_bytes(reg))
        wadi_error(c->src, &reg->where, "offset 0x%x is not a multiple of the register's %u bytes",
                   reg->offset, wad_register_bytes(reg));
    g_ptr_array_add(lb->regs, reg);
    lb->layout->regs = (const wad_register *const *)lb->regs->pdata;
    lb->layout->n_regs = lb->regs->len;
}

/* ---- locks ---- */

static void parse_key(layout_build *lb, wadi_cursor *c, wad_lock *lock)
{
    GArray *sequence = g_array_new(FALSE, FALSE, sizeof(uint32_t));
    wad_where where = c->tok->where;
    const char *name = wadi_need_name(c, "the register that the key is written to");
    int64_t value, writes = 0;
    lock->key = name ? wad_layout_register(lb->layout, name) : NULL;
    if (name && !lock->key) {
        wadi_error(c->src, &where, "this layout has no register '%s'", name);
        c->failed = true;
    }
    while (!c->failed && !wadi_at_end(c) && !wadi_at_word(c, "relocks") &&
           wadi_parse_int(lb->b, c, lb->env, "a value of the key", 0, UINT32_MAX, &value)) {
        uint32_t key = (uint32_t)value;
        g_array_append_val(sequence, key);
    }
    if (!c->failed && !sequence->len)
        wadi_expected(c, "the values of the key");
    if (wadi_take_word(c, "relocks") && wadi_need_word(c, "after"))
        wadi_parse_int(lb->b, c, lb->env, "after how many writes it closes", 1, 255, &writes);
    lock->writes = (unsigned)writes;
    lock->n_sequence = sequence->len;
    lock->sequence = wadi_arena_copy(lb->b->arena, sequence->data, sequence->len, sizeof(uint32_t));
    g_array_free(sequence, TRUE);
}

/* `lock NAME "text" while COND` or `lock NAME "text" key REG VALUE VALUE ... [relocks after N]` */
static void parse_lock(layout_build *lb, wadi_cursor *c)
{
    wad_lock *lock = WADI_NEW(lb->b->arena, wad_lock);
    lock->where = c->tok->where;
    lock->name = wadi_need_name(c, "the lock's name");
    if (!c->failed && c->tok->type == WADI_T_STRING)
        lock->text = (c->tok++)->text;
    if (wadi_take_word(c, "while")) {
        wad_instance scope = {.layout = lb->layout};
        wad_cond *cond = WADI_NEW(lb->b->arena, wad_cond);
        if (!wadi_parse_cond(lb->b, c, lb->env, &scope, cond))
            return;
        for (unsigned k = 0; k < cond->n; k++)
            ((wad_cond_term *)&cond->terms[k])->ref.block = NULL;
        lock->open = cond;
    } else if (wadi_take_word(c, "key")) {
        parse_key(lb, c, lock);
    } else {
        wadi_expected(c, "'while CONDITION' or 'key REGISTER VALUE ...'");
    }
    if (wadi_need_end(c))
        g_ptr_array_add(lb->locks, lock);
}

static void finish_locked(layout_build *lb, waiting *w)
{
    const char *name = wadi_need_name(&w->at, "the lock's name");
    for (guint i = 0; name && i < lb->locks->len && !w->locked->lock; i++) {
        const wad_lock *lock = lb->locks->pdata[i];
        if (!strcmp(lock->name, name))
            w->locked->lock = lock;
    }
    if (name && !w->locked->lock)
        wadi_error(w->at.src, &w->locked->where, "this layout has no lock '%s'", name);
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
    const wad_register *of = name ? wad_layout_register(lb->layout, name) : NULL;
    if (!of || of->alias) {
        wadi_error(w->at.src, &w->alias->where, "'%s' is no register of this layout to act on",
                   name ? name : "?");
        w->alias->alias = WAD_ALIAS_NONE;
        wadi_whole_field(lb, w->alias);
        return;
    }
    w->alias->alias_of = of;
    w->alias->width = of->width;
    w->alias->fields = of->fields;
    w->alias->n_fields = of->n_fields;
    w->alias->count = of->count;
    w->alias->step = of->step;
    if (!w->alias->text)
        w->alias->text = of->text;
}

/* `read CAP`, `write CMD.CLR = 1`: an element each where both are arrays of one length. */
static bool parse_bus_event(layout_build *lb, wadi_cursor *c, const wad_bitfield *field,
                            wad_bus_event *e)
{
    wadi_path path;
    wad_fieldref ref;
    e->write = wadi_at_word(c, "write");
    c->tok++;
    if (!wadi_parse_path(c, lb->env, &path) || !wadi_resolve(lb->b, lb->layout, NULL, &path, &ref))
        return false;
    if (ref.block) {
        wadi_error(c->src, &path.where,
                   "'%s' lies in another block: what clears a flag is an access "
                   "of its own",
                   wadi_path_text(lb->b->arena, &path));
        return false;
    }
    e->reg = ref.reg;
    e->reg_index = ref.reg_index;
    e->by_element = ref.reg->count && path.index[0] < 0;
    unsigned elements = field->count ? field->count : field->reg->count;
    if (e->by_element && ref.reg->count != elements) {
        wadi_error(c->src, &path.where,
                   "'%s' has another number of elements than the field that it clears",
                   ref.reg->name);
        return false;
    }
    if (path.n > 1) {
        int64_t value = 1, most = ref.width >= 32 ? UINT32_MAX : (INT64_C(1) << ref.width) - 1;
        if (!wadi_take_punct(c, "=")) {
            wadi_error(c->src, &path.where, "say which value: %s = 1",
                       wadi_path_text(lb->b->arena, &path));
            return false;
        }
        if (!wadi_parse_int(lb->b, c, lb->env, "the field's value", 0, most, &value))
            return false;
        e->field = ref.field;
        e->mask = wad_fieldref_mask(&ref);
        e->value = (uint64_t)value << ref.lsb;
    }
    return true;
}

/* `cleared by read STAT then read RX or write CLR` */
static void finish_cleared(layout_build *lb, waiting *w)
{
    GArray *list = g_array_new(FALSE, TRUE, sizeof(wad_clearing));
    bool good;
    do {
        wad_clearing one = {0};
        good = parse_bus_event(lb, &w->at, w->cleared, &one.last);
        if (good && wadi_take_word(&w->at, "then")) {
            one.then = true;
            one.first = one.last;
            one.last = (wad_bus_event){0};
            good = parse_bus_event(lb, &w->at, w->cleared, &one.last);
        }
        g_array_append_val(list, one);
    } while (good && wadi_take_word(&w->at, "or"));
    unsigned n = w->cleared->n_clearings; /* several `cleared by` may stand */
    g_array_prepend_vals(list, w->cleared->clearings, n);
    w->cleared->n_clearings = good ? list->len : n;
    w->cleared->clearings =
        wadi_arena_copy(lb->b->arena, list->data, w->cleared->n_clearings, sizeof(wad_clearing));
    g_array_free(list, TRUE);
}

static void finish_waiting(layout_build *lb)
{
    wad_instance scope = {.layout = lb->layout};
    for (unsigned i = 0; i < lb->waiting->len; i++) {
        waiting *w = &g_array_index(lb->waiting, waiting, i);
        if (w->alias)
            finish_alias(lb, w);
        else if (w->locked)
            finish_locked(lb, w);
        else if (w->cleared)
            finish_cleared(lb, w);
        if (!w->field)
            continue;
        wad_cond *cond = WADI_NEW(lb->b->arena, wad_cond);
        if (wadi_parse_cond(lb->b, &w->at, lb->env, &scope, cond)) {
            for (unsigned k = 0; k < cond->n; k++)
                ((wad_cond_term *)&cond->terms[k])->ref.block = NULL;
            *w->cond = cond;
        }
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
    for (unsigned i = 0; i < layout->n_regs; i++) {
        const wad_register *r = layout->regs[i];
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
        else if (wadi_at_word(&c, "acts"))
            g_ptr_array_add(acts, (gpointer)&body->stmts[i]);
        else if (wadi_take_word(&c, "value"))
            parse_value(&lb, &c);
        else if (!wadi_at_word(&c, "lock") && !wadi_at_word(&c, "rate"))
            wadi_expected(&c, "'reg', 'value', 'lock', 'rate' or 'acts as KIND'");
    }
    for (unsigned i = 0; i < body->n; i++) {
        wadi_cursor c = wadi_cursor_at(b->src, &body->stmts[i]);
        if (wadi_take_word(&c, "lock"))
            parse_lock(&lb, &c);
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
