/* SPDX-License-Identifier: MIT */
/* Paths, conditions and constants. */
#include <string.h>

#include "build.h"
#include "lang/rational.h"

bool wadi_parse_int(wadi_build *b, wadi_cursor *c, const wadi_env *env, const char *what,
                    int64_t min, int64_t max, int64_t *value)
{
    wadi_names names = {.build = b, .env = env, .constant = true, .plain = true};
    wad_where where = c->tok->where;
    wad_rational r;
    if (c->failed)
        return false;
    if (wadi_at_end(c) || c->tok->type == WADI_T_GROUP || c->tok->type == WADI_T_STRING) {
        wadi_expected(c, what);
        return false;
    }
    wad_expr *e = wadi_parse_expr(c, &names);
    if (!e)
        return false;
    if (!wadi_expr_eval(e, &(wadi_eval){0}, &r) || r.den != 1 || r.num < min || r.num > max) {
        wadi_error(c->src, &where, "%s must be a whole number from %lld to %lld", what,
                   (long long)min, (long long)max);
        c->failed = true;
        return false;
    }
    *value = r.num;
    return true;
}

static const char *unit_example(wad_unit unit)
{
    static const char *const examples[] = {"a plain number",
                                           "a frequency such as 8 MHz",
                                           "a time such as 2 ms",
                                           "a share such as 1 % or 30 ppm",
                                           "percentage points such as 0.1 points",
                                           "a size such as 32 KiB",
                                           "a voltage such as 3.3 V",
                                           "a number of cycles",
                                           "a resistance such as 10 kohm",
                                           "a capacity such as 8 pF",
                                           "a current such as 12 uA"};
    return examples[unit];
}

bool wadi_parse_quantity(wadi_build *b, wadi_cursor *c, const wadi_env *env, wad_unit unit,
                         wad_rational *value)
{
    wadi_names names = {.build = b, .env = env, .constant = true};
    if (c->failed)
        return false;
    wad_where where = c->tok->where;
    wad_expr *e = wadi_parse_expr(c, &names);
    if (!e)
        return false;
    if (e->op != WADI_OP_NUM || e->unit != unit) {
        wadi_error(c->src, &where, "expected %s", unit_example(unit));
        c->failed = true;
        return false;
    }
    *value = e->num;
    return true;
}

static const struct {
    const char *word;
    wad_access access;
} accesses[] = {{"rw", WAD_ACCESS_RW},   {"ro", WAD_ACCESS_RO},   {"wo", WAD_ACCESS_WO},
                {"w1c", WAD_ACCESS_W1C}, {"w1s", WAD_ACCESS_W1S}, {"w0c", WAD_ACCESS_W0C},
                {"rc", WAD_ACCESS_RC}};

bool wadi_at_access(const wadi_cursor *c)
{
    for (unsigned i = 0; i < G_N_ELEMENTS(accesses); i++)
        if (wadi_at_word(c, accesses[i].word))
            return true;
    return false;
}

wad_access wadi_parse_access(wadi_cursor *c)
{
    for (unsigned i = 0; i < G_N_ELEMENTS(accesses); i++)
        if (wadi_take_word(c, accesses[i].word))
            return accesses[i].access;
    wadi_expected(c, "an access kind (rw, ro, wo, w1c, w1s, w0c, rc)");
    return WAD_ACCESS_RESERVED;
}

/* ---- paths ---- */

static bool parse_index(wadi_cursor *c, const wadi_env *env, wadi_path *path, unsigned i)
{
    path->index[i] = -1;
    path->index_name[i] = NULL;
    if (!wadi_take_punct(c, "["))
        return true;
    if (c->tok->type == WADI_T_NUMBER && c->tok->number.den == 1) {
        path->index[i] = c->tok->number.num;
        c->tok++;
    } else if (c->tok->type == WADI_T_NAME) {
        path->index_name[i] = c->tok->text;
        for (const wadi_env *v = env; v; v = v->next)
            if (!strcmp(v->name, c->tok->text) && v->value.den == 1)
                path->index[i] = v->value.num;
        c->tok++;
    } else {
        wadi_expected(c, "an index");
    }
    return wadi_need_punct(c, "]");
}

bool wadi_parse_path(wadi_cursor *c, const wadi_env *env, wadi_path *path)
{
    *path = (wadi_path){.where = c->tok->where};
    do {
        if (path->n == 3) {
            wadi_expected(c, "at most BLOCK.REGISTER.FIELD");
            return false;
        }
        path->name[path->n] = wadi_need_name(c, "a name");
        if (!path->name[path->n] || !parse_index(c, env, path, path->n))
            return false;
        path->n++;
    } while (wadi_take_punct(c, "."));
    return true;
}

const char *wadi_path_text(wadi_arena *arena, const wadi_path *path)
{
    GString *text = g_string_new(NULL);
    for (unsigned i = 0; i < path->n; i++) {
        g_string_append_printf(text, "%s%s", i ? "." : "", path->name[i]);
        if (path->index[i] >= 0)
            g_string_append_printf(text, "[%lld]", (long long)path->index[i]);
    }
    char *copy = wadi_arena_strndup(arena, text->str, text->len);
    g_string_free(text, TRUE);
    return copy;
}

static bool unknown(const wadi_build *b, const wadi_path *path, const char *what, const char *name,
                    const char *owner, GPtrArray *names)
{
    const char *hint = wadi_suggest(b->arena, name, (const char *const *)names->pdata, names->len);
    wadi_error(b->src, &path->where, "%s has no %s '%s'%s", owner, what, name, hint);
    g_ptr_array_free(names, TRUE);
    return false;
}

static const wad_instance *find_block(wadi_build *b, const wadi_path *path)
{
    GPtrArray *names = g_ptr_array_new();
    for (unsigned i = 0; i < b->blocks->len; i++) {
        const wad_instance *block = b->blocks->pdata[i];
        if (!strcmp(block->name, path->name[0])) {
            g_ptr_array_free(names, TRUE);
            return block;
        }
        g_ptr_array_add(names, (gpointer)block->name);
    }
    unknown(b, path, "block", path->name[0], "the chip", names);
    return NULL;
}

static const wad_register *find_register(wadi_build *b, const wad_layout *layout,
                                         const wadi_path *path, const char *name)
{
    const wad_register *reg = wad_layout_register(layout, name);
    if (reg)
        return reg;
    GPtrArray *names = g_ptr_array_new();
    for (unsigned i = 0; i < layout->n_regs; i++)
        g_ptr_array_add(names, (gpointer)layout->regs[i]->name);
    unknown(b, path, "register", name, wadi_arena_printf(b->arena, "layout '%s'", layout->name),
            names);
    return NULL;
}

static bool place_field(wadi_build *b, const wadi_path *path, unsigned level, wad_fieldref *ref)
{
    const wad_register *reg = ref->reg;
    const wad_bitfield *field = wad_register_field(reg, path->name[level]);
    if (!field) {
        GPtrArray *names = g_ptr_array_new();
        for (unsigned i = 0; i < reg->n_fields; i++)
            if (reg->fields[i]->name)
                g_ptr_array_add(names, (gpointer)reg->fields[i]->name);
        return unknown(b, path, "field", path->name[level],
                       wadi_arena_printf(b->arena, "register '%s'", reg->name), names);
    }
    int64_t index = path->index[level];
    if (index >= (field->count ? field->count : 1) || (index >= 0 && !field->count)) {
        wadi_error(b->src, &path->where, "'%s' has no element %lld", field->name, (long long)index);
        return false;
    }
    ref->field = field;
    ref->index = index < 0 ? 0 : (uint32_t)index;
    wadi_place_element(ref);
    return true;
}

bool wadi_resolve(wadi_build *b, const wad_layout *layout, const wad_instance *scope,
                  const wadi_path *path, wad_fieldref *ref)
{
    unsigned level = 0;
    *ref = (wad_fieldref){.block = scope};
    if (path->n == 3 || (path->n == 2 && !layout)) {
        ref->block = find_block(b, path);
        if (!ref->block)
            return false;
        layout = ref->block->layout;
        level = 1;
    } else if (!layout) {
        wadi_error(b->src, &path->where,
                   "'%s' is no clock; a field is written BLOCK.REGISTER.FIELD", path->name[0]);
        return false;
    }
    if (!layout) /* the block is broken and was reported */
        return false;
    ref->reg = find_register(b, layout, path, path->name[level]);
    if (!ref->reg)
        return false;
    int64_t index = path->index[level];
    if (index >= (int64_t)(ref->reg->count ? ref->reg->count : 1)) {
        wadi_error(b->src, &path->where, "register '%s' has no element %lld", ref->reg->name,
                   (long long)index);
        return false;
    }
    ref->reg_index = index < 0 ? 0 : (uint32_t)index;
    ref->width = ref->reg->width;
    return level + 1 == path->n || place_field(b, path, level + 1, ref);
}

/* ---- conditions ---- */

static bool parse_cond_value(wadi_build *b, wadi_cursor *c, const wadi_env *env,
                             wad_cond_term *term)
{
    const wad_bitfield *field = term->ref.field;
    if (c->tok->type == WADI_T_NAME && field) {
        for (unsigned i = 0; i < field->n_enums; i++)
            if (!strcmp(field->enums[i].name, c->tok->text)) {
                term->value = field->enums[i].code;
                c->tok++;
                return true;
            }
    }
    int64_t value;
    int64_t max = term->ref.width >= 63 ? INT64_MAX : (INT64_C(1) << term->ref.width) - 1;
    if (!wadi_parse_int(b, c, env, "the field's value", 0, max, &value))
        return false;
    term->value = (uint64_t)value;
    return true;
}

bool wadi_parse_cond(wadi_build *b, wadi_cursor *c, const wadi_env *env, const wad_instance *scope,
                     wad_cond *cond)
{
    GArray *terms = g_array_new(FALSE, FALSE, sizeof(wad_cond_term));
    bool ok = true;
    do {
        wad_cond_term term = {.equal = true, .value = 1, .where = c->tok->where};
        wadi_path path;
        ok = wadi_parse_path(c, env, &path) &&
             wadi_resolve(b, scope ? scope->layout : NULL, scope, &path, &term.ref);
        if (ok && wadi_take_punct(c, "=")) {
            ok = parse_cond_value(b, c, env, &term);
        } else if (ok && wadi_take_punct(c, "!=")) {
            term.equal = false;
            ok = parse_cond_value(b, c, env, &term);
        }
        g_array_append_val(terms, term);
    } while (ok && wadi_take_word(c, "and"));
    cond->n = ok ? terms->len : 0;
    cond->terms = wadi_arena_copy(b->arena, terms->data, cond->n, sizeof(wad_cond_term));
    g_array_free(terms, TRUE);
    c->failed = c->failed || !ok;
    return ok;
}
