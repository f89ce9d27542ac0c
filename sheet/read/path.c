/* SPDX-License-Identifier: MIT */
#include "path.h"

#include <string.h>

#include "build.h"
#include "lang/suggest.h"
#include "sheet/chip/query.h"

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
