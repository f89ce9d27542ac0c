/* SPDX-License-Identifier: MIT */
/* `acts as KIND`: which field plays which role. */
#include <string.h>

#include "build.h"
#include "lang/suggest.h"
#include "path.h"
#include "renames.h"
#include "wadium/kinds.h"

static const char kinds[] = ""
#define WAD_KIND(kind, list) " " #kind
#include "wadium/kinds/all.h"
#undef WAD_KIND
    ;

static void unknown_role(wadi_build *b, const wad_where *where, const char *kind, const char *name)
{
    unsigned n;
    const wad_role_info *roles = wad_kind_roles(kind, &n);
    GPtrArray *names = g_ptr_array_new();
    for (unsigned i = 0; i < n; i++)
        g_ptr_array_add(names, (gpointer)roles[i].name);
    wadi_error(b->src, where, "kind '%s' has no role '%s'%s", kind, name,
               wadi_suggest(b->arena, name, (const char *const *)names->pdata, names->len));
    g_ptr_array_free(names, TRUE);
}

static void parse_codes(wadi_build *b, wadi_cursor *c, const wadi_env *env, wad_role *role)
{
    GArray *codes = g_array_new(FALSE, FALSE, sizeof(wad_role_code));
    while (!wadi_at_end(c)) {
        wad_role_code code;
        int64_t value;
        code.name = wadi_need_name(c, "an attribute: NAME VALUE");
        if (!code.name || !wadi_parse_int(b, c, env, "the attribute's value", 0, 65535, &value))
            break;
        code.value = (uint64_t)value;
        g_array_append_val(codes, code);
    }
    role->n_codes = codes->len;
    role->codes = wadi_arena_copy(b->arena, codes->data, codes->len, sizeof(wad_role_code));
    g_array_free(codes, TRUE);
}

/* `compare[n] CC[n].VALUE`: the index name stands once in the path, at a register or a field. */
static bool check_index(wadi_cursor *c, const wad_role *role, const char *index,
                        const wadi_path *path)
{
    unsigned uses = 0;
    for (unsigned i = 0; i < path->n; i++)
        if (path->index_name[i]) {
            uses++;
            if (!index || strcmp(path->index_name[i], index)) {
                wadi_error(c->src, &path->where, "'%s' is no index of role '%s'",
                           path->index_name[i], role->name);
                return false;
            }
        }
    if (uses != (index ? 1u : 0u)) {
        wadi_error(c->src, &path->where, "the index of role '%s' must stand once in its path",
                   role->name);
        return false;
    }
    return true;
}

static const wad_value *find_value(const wad_layout *layout, const wadi_path *path)
{
    for (unsigned i = 0; path->n == 1 && i < layout->n_values; i++)
        if (!strcmp(layout->values[i]->name, path->name[0]))
            return layout->values[i];
    return NULL;
}

static bool bind_path(wadi_build *b, wadi_cursor *c, wad_layout *layout, wad_role *role,
                      const char *index)
{
    wadi_path path;
    wad_fieldref ref;
    if (!wadi_parse_path(c, NULL, &path) || !check_index(c, role, index, &path))
        return false;
    role->value = find_value(layout, &path);
    if (role->value) {
        role->sort = WAD_ROLE_VALUE;
        return true;
    }
    if (!wadi_resolve(b, layout, NULL, &path, &ref))
        return false;
    if (ref.block) {
        wadi_error(
            b->src, &path.where,
            "role '%s' names a register of block %s: a role is bound to a register of its own "
            "layout",
            role->name, ref.block->name);
        return false;
    }
    role->reg = ref.reg;
    role->field = ref.field;
    role->sort = ref.field ? WAD_ROLE_FIELD : WAD_ROLE_REG;
    return true;
}

/* `capacitor 8 pF` */
static bool parse_quantity(wadi_build *b, wadi_cursor *c, const wadi_env *env, wad_unit unit,
                           wad_role *role)
{
    role->sort = WAD_ROLE_QUANTITY;
    role->unit = unit;
    return wadi_parse_quantity(b, c, env, unit, &role->quantity) && wadi_need_end(c);
}

static bool parse_role(wadi_build *b, const wadi_stmt *stmt, const wadi_env *env,
                       wad_layout *layout, wad_role *role)
{
    wadi_cursor c = wadi_cursor_at(b->src, stmt);
    const char *index = NULL;
    role->where = c.tok->where;
    role->name = wadi_need_name(&c, "a role");
    if (!role->name)
        return false;
    int place = wad_kind_role_index(layout->kind, role->name);
    if (place < 0) {
        unknown_role(b, &role->where, layout->kind, role->name);
        return false;
    }
    const wad_role_info *info = &wad_kind_roles(layout->kind, &(unsigned){0})[place];
    const wad_quantity_sort *quantity = wad_quantity_sort_of(info);
    if (quantity)
        return parse_quantity(b, &c, env, quantity->unit, role);
    if (wadi_take_punct(&c, "[")) {
        index = wadi_need_name(&c, "the index's name");
        wadi_need_punct(&c, "]");
        role->indexed = true;
    }
    if (wadi_take_word(&c, "pins")) {
        role->sort = WAD_ROLE_SIGNAL;
        role->signal = wadi_need_name(&c, "the pin function's name");
    } else if (!c.failed && !bind_path(b, &c, layout, role, index)) {
        return false;
    }
    parse_codes(b, &c, env, role);
    if (c.failed)
        return false;
    bool want_signal = !strcmp(info->sort, "SIGNAL") || !strcmp(info->sort, "OUTPUT");
    bool want_field = !strcmp(info->sort, "FIELD") || !strcmp(info->sort, "FLAG");
    bool is_signal = role->sort == WAD_ROLE_SIGNAL;
    if (want_signal != is_signal || (!strcmp(info->sort, "REG") && role->sort != WAD_ROLE_REG) ||
        (want_field && role->sort == WAD_ROLE_REG && role->reg->n_fields > 1)) {
        wadi_error(b->src, &role->where, "role '%s' takes a %s", role->name,
                   want_signal                  ? "pin function: pins NAME"
                   : !strcmp(info->sort, "REG") ? "whole register"
                                                : "field: REGISTER.FIELD");
        return false;
    }
    if (role->sort == WAD_ROLE_REG && want_field) {
        role->field = role->reg->fields[0];
        role->sort = WAD_ROLE_FIELD;
    }
    return true;
}

void wadi_build_roles(wadi_build *b, wadi_cursor *c, const wadi_env *env, wad_layout *layout)
{
    unsigned n;
    wadi_need_word(c, "acts");
    wadi_need_word(c, "as");
    wad_where where = c->tok->where;
    const char *kind = wadi_need_name(c, "a kind");
    const wadi_group *group = wadi_need_group(c, "'{' and the roles");
    if (!group)
        return;
    const char *now = wadi_renamed_kind(kind);
    if (now) {
        wadi_note(b->src, &where,
                  "kind '%s' is called '%s' now: 'wadium emit sheet FILE' writes it so", kind, now);
        kind = now;
    }
    if (!wad_kind_roles(kind, &n)) {
        wadi_error(b->src, &where, "there is no kind '%s'; there are%s", kind, kinds);
        return;
    }
    layout->kind = kind;
    GArray *roles = g_array_new(FALSE, TRUE, sizeof(wad_role));
    for (unsigned i = 0; i < group->n; i++) {
        wad_role role = {0};
        if (parse_role(b, &group->stmts[i], env, layout, &role))
            g_array_append_val(roles, role);
    }
    layout->n_roles = roles->len;
    layout->roles = wadi_arena_copy(b->arena, roles->data, roles->len, sizeof(wad_role));
    g_array_free(roles, TRUE);
}
