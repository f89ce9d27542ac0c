/* SPDX-License-Identifier: MIT */
#include "path.h"

#include <string.h>

#include "build.h"
#include "lang/suggest.h"
#include "sheet/chip/query.h"

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

bool wadi_path_indexed(const wadi_path *path, const wad_fieldref *ref)
{
    unsigned level = ref->block ? 1 : 0;
    const wad_register *r = ref->reg;
    if (level && strcmp(path->name[0], ref->block->name)) /* the scope's own */
        level = 0;
    if (r->group && r->is_array_member)
        level++;
    return path->index[level] >= 0;
}

/* A lookup under way; `beyond` NULL: an index beyond its array is an error. */
typedef struct lookup {
    wadi_build *b;
    const wadi_path *path;
    wad_fieldref *ref;
    bool *beyond;
} lookup;

static bool too_far(const lookup *l, const char *what, const char *name, int64_t index)
{
    if (l->beyond)
        *l->beyond = true;
    else
        wadi_error(l->b->src, &l->path->where, "%s'%s' has no element %lld", what, name,
                   (long long)index);
    return false;
}

static bool place_field(const lookup *l, unsigned level)
{
    const wadi_path *path = l->path;
    const wad_register *reg = l->ref->reg;
    const wad_bitfield *field = wad_register_field(reg, path->name[level]);
    if (!field) {
        GPtrArray *names = g_ptr_array_new();
        for (unsigned i = 0; i < reg->n_fields; i++)
            if (reg->fields[i]->name)
                g_ptr_array_add(names, (gpointer)reg->fields[i]->name);
        return unknown(l->b, path, "field", path->name[level],
                       wadi_arena_printf(l->b->arena, "register '%s'", reg->name), names);
    }
    int64_t index = path->index[level];
    if (index >= (field->count ? field->count : 1) || (index >= 0 && !field->count))
        return too_far(l, "", field->name, index);
    l->ref->field = field;
    l->ref->index = index < 0 ? 0 : (uint32_t)index;
    wadi_place_element(l->ref);
    return true;
}

/* `CH[n].READ` takes two of the path. */
static const wad_register *find_grouped(const wad_layout *layout, const wadi_path *path,
                                        unsigned level, int64_t *index)
{
    if (level + 1 >= path->n)
        return NULL;
    return wad_layout_group_register(layout, path->name[level], path->index[level],
                                     path->name[level + 1], path->index[level + 1], index);
}

bool wadi_is_group(const wad_layout *layout, const char *name)
{
    for (unsigned i = 0; i < layout->n_regs; i++)
        if (layout->regs[i]->group && !strcmp(layout->regs[i]->group->name, name))
            return true;
    return false;
}

static bool place_register(const lookup *l, const wad_layout *layout, unsigned level)
{
    const wadi_path *path = l->path;
    wad_fieldref *ref = l->ref;
    int64_t index = path->index[level];
    ref->reg = find_grouped(layout, path, level, &index);
    level += ref->reg != NULL;
    if (!ref->reg && wadi_is_group(layout, path->name[level])) {
        wadi_error(l->b->src, &path->where, "group '%s' has no %s", path->name[level],
                   level + 1 < path->n
                       ? wadi_arena_printf(l->b->arena, "register '%s'", path->name[level + 1])
                       : "value of its own: name a register in it");
        return false;
    }
    if (!ref->reg)
        ref->reg = find_register(l->b, layout, path, path->name[level]);
    if (!ref->reg)
        return false;
    if (index >= (int64_t)(ref->reg->count ? ref->reg->count : 1))
        return too_far(l, "register ", ref->reg->name, index);
    ref->reg_index = index < 0 ? 0 : (uint32_t)index;
    if (index >= 0)
        ref->reg = wad_register_element(ref->reg, ref->reg_index);
    ref->width = ref->reg->width;
    if (level + 1 == path->n)
        return true;
    if (level + 2 < path->n) {
        wadi_error(l->b->src, &path->where, "'%s' goes on behind a field",
                   wadi_path_text(l->b->arena, path));
        return false;
    }
    return place_field(l, level + 1);
}

static bool is_block(const wadi_build *b, const char *name)
{
    for (unsigned i = 0; i < b->blocks->len; i++)
        if (!strcmp(((const wad_instance *)b->blocks->pdata[i])->name, name))
            return true;
    return false;
}

/* Would the path do in this layout, with its register at `level`? */
static bool would_do(const wad_layout *layout, const wadi_path *path, unsigned level)
{
    int64_t index;
    const wad_register *reg =
        layout && level < path->n ? wad_layout_register(layout, path->name[level]) : NULL;
    if (!reg && layout && (reg = find_grouped(layout, path, level, &index)))
        level++;
    return reg && (level + 1 == path->n ||
                   (level + 2 == path->n && wad_register_field(reg, path->name[level + 1])));
}

/* Does a path that stands in a layout leave it? Both ways is an error. */
static bool leaves(wadi_build *b, const wad_layout *layout, const wadi_path *path, bool *failed)
{
    if (path->n == 1 || !is_block(b, path->name[0]))
        return path->n >= 3 && !wad_layout_register(layout, path->name[0]) &&
               !wadi_is_group(layout, path->name[0]);
    bool inside = would_do(layout, path, 0), outside = false;
    for (unsigned i = 0; i < b->blocks->len; i++) {
        const wad_instance *block = b->blocks->pdata[i];
        outside =
            outside || (!strcmp(block->name, path->name[0]) && would_do(block->layout, path, 1));
    }
    if (inside && outside) {
        wadi_error(b->src, &path->where,
                   "'%s' is a register of this layout and of block %s: name one of them otherwise",
                   wadi_path_text(b->arena, path), path->name[0]);
        *failed = true;
    }
    return !inside && (outside || (!wad_layout_register(layout, path->name[0]) &&
                                   !wadi_is_group(layout, path->name[0])));
}

static bool resolve(const lookup *l, const wad_layout *layout)
{
    wadi_build *b = l->b;
    const wadi_path *path = l->path;
    bool failed = false;
    if (layout ? leaves(b, layout, path, &failed) : path->n > 1) {
        l->ref->block = failed ? NULL : find_block(b, path);
        if (!l->ref->block || !l->ref->block->layout) /* that is broken and was reported */
            return false;
        return place_register(l, l->ref->block->layout, 1);
    }
    if (!layout)
        wadi_error(b->src, &path->where,
                   "'%s' is no clock; a field is written BLOCK.REGISTER.FIELD", path->name[0]);
    return layout && !failed && place_register(l, layout, 0);
}

bool wadi_resolve(wadi_build *b, const wad_layout *layout, const wad_instance *scope,
                  const wadi_path *path, wad_fieldref *ref)
{
    *ref = (wad_fieldref){.block = scope};
    return resolve(&(lookup){b, path, ref, NULL}, layout);
}

bool wadi_resolve_element(wadi_build *b, const wad_layout *layout, const wad_instance *scope,
                          const wadi_path *path, wad_fieldref *ref, bool *beyond)
{
    *ref = (wad_fieldref){.block = scope};
    return resolve(&(lookup){b, path, ref, beyond}, layout);
}
