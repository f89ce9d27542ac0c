/* SPDX-License-Identifier: MIT */
/* `acts as KIND`: which field plays which role. */
#include <string.h>

#include "build.h"
#include "codes.h"
#include "lang/rational.h"
#include "lang/suggest.h"
#include "own_kind.h"
#include "path.h"
#include "place.h"
#include "renames.h"
#include "sheet/chip/kinds.h"
#include "wadium/kinds.h"

static const char kinds[] = ""
#define WAD_KIND(kind, list) " " #kind
#include "wadium/kinds/all.h"
#undef WAD_KIND
    ;

static void unknown_role(wadi_build *b, const wad_where *where, const wad_kind *kind,
                         const char *name)
{
    GPtrArray *names = g_ptr_array_new();
    for (unsigned i = 0; i < kind->n_roles; i++)
        g_ptr_array_add(names, (gpointer)kind->roles[i].name);
    wadi_error(b->src, where, "kind '%s' has no role '%s'%s", kind->name, name,
               wadi_suggest(b->arena, name, (const char *const *)names->pdata, names->len));
    g_ptr_array_free(names, TRUE);
}

/* `as event`, `as level`: how a flag behaves that other chips have otherwise. */
static void parse_as(wadi_build *b, wadi_cursor *c, const wad_kind *kind, wad_role *role)
{
    wad_where where = c->tok->where;
    int place = wad_kind_role_index(kind, role->name);
    if (wadi_take_word(c, "event"))
        role->as = WAD_AS_EVENT;
    else if (wadi_take_word(c, "level"))
        role->as = WAD_AS_LEVEL;
    c->failed = c->failed || !role->as;
    if (!role->as)
        wadi_error(b->src, &where, "write 'as event' or 'as level'");
    else if (kind->own)
        wadi_error(
            b->src, &where,
            "kind '%s' is the sheet's own: its model says when '%s' is set, and for how long",
            kind->name, role->name);
    else if (!wad_kind_flag(kind, (unsigned)place))
        wadi_error(b->src, &where, "role '%s' is no flag: nothing sets it as an event or a level",
                   role->name);
    else if (role->as == WAD_AS_LEVEL && !wad_kind_is_level(kind, role->name))
        wadi_error(b->src, &where,
                   "the model of kind '%s' sets '%s' when it happens, and knows no level of it: "
                   "leave 'as level' out, and say how the flag goes at its field",
                   kind->name, role->name);
}

/* `tx_data D.V depth 8`; of what is sent 0: what is written goes into the shift register. */
static void check_depth(wadi_build *b, const wad_where *where, const char *role, int64_t depth)
{
    bool sent = !strncmp(role, "tx_", 3);
    if (depth > WADI_DEEPEST_QUEUE)
        wadi_error(b->src, where, "queues of models hold %d items at most: depth %lld does not fit",
                   WADI_DEEPEST_QUEUE, (long long)depth);
    else if (!depth && !sent)
        wadi_error(b->src, where,
                   "what arrives stands somewhere until it is read: depth 1, or more");
}

static void parse_codes(wadi_build *b, wadi_cursor *c, const wadi_env *env, const wad_kind *kind,
                        wad_role *role)
{
    GArray *codes = g_array_new(FALSE, FALSE, sizeof(wad_role_code));
    while (!c->failed && !wadi_at_end(c) && !wadi_at_word(c, "when")) {
        wad_role_code code;
        int64_t value;
        if (wadi_take_word(c, "as")) {
            parse_as(b, c, kind, role);
            continue;
        }
        code.name = wadi_need_name(c, "an attribute: NAME VALUE");
        if (code.name && !strcmp(code.name, "first") &&
            (wadi_at_word(c, "high") || wadi_at_word(c, "low"))) {
            code.value = wadi_at_word(c, "high");
            c->tok++;
            g_array_append_val(codes, code);
            continue;
        }
        wad_where where = c->tok->where;
        if (!code.name || !wadi_parse_int(b, c, env, "the attribute's value", 0, 65535, &value))
            break;
        if (!kind->own && !strcmp(code.name, "depth"))
            check_depth(b, &where, role->name, value);
        code.value = (uint64_t)value;
        g_array_append_val(codes, code);
    }
    role->n_codes = codes->len;
    role->codes = wadi_arena_copy(b->arena, codes->data, codes->len, sizeof(wad_role_code));
    g_array_free(codes, TRUE);
}

/* `capacitor 8 pF` */
static bool parse_quantity(wadi_build *b, wadi_cursor *c, const wadi_env *env, wad_unit unit,
                           wad_role *role)
{
    role->sort = WAD_ROLE_QUANTITY;
    role->unit = unit;
    return wadi_parse_quantity(b, c, env, unit, &role->quantity) && wadi_need_end(c);
}

/* `compare[n] CC[n].V when MODE.DIR[n] = 0`: a condition for each element. */
static void parse_when(wadi_build *b, wadi_cursor *c, const wadi_env *env, const wad_layout *layout,
                       const char *index, wad_role *role)
{
    wad_instance scope = {.layout = layout};
    wadi_cursor start = *c;
    unsigned n = MAX(role->n_places, 1);
    wad_cond *when = wadi_arena_alloc(b->arena, n * sizeof *when);
    for (unsigned i = 0; i < n && !c->failed; i++) {
        wadi_env element = {index, wadi_int(i), env};
        *c = start;
        wadi_parse_cond(b, c, index ? &element : env, layout ? &scope : NULL, &when[i]);
    }
    role->when = when;
}

/* `divider law 16 * (INT.V + 1) + FRAC.V`: a number, by other fields. */
static bool parse_law(wadi_build *b, wadi_cursor *c, const wadi_env *env, const wad_layout *layout,
                      const char *index, wad_role *role)
{
    wadi_names names = {.build = b, .env = env, .layout = layout, .plain = true};
    if (index) {
        wadi_error(c->src, &role->where, "a law gives one number: write %s law ...", role->name);
        return false;
    }
    role->sort = WAD_ROLE_LAW;
    role->law = wadi_parse_expr(c, &names);
    if (role->law)
        wadi_check_law(b, role->law);
    if (role->law && wadi_take_word(c, "when"))
        parse_when(b, c, env, layout, NULL, role);
    return role->law && wadi_need_end(c);
}

/* What sort of place the kind wants, and whether this is one. */
static bool check_sort(wadi_build *b, const wad_kind *kind, const wad_role_info *info,
                       wad_role *role)
{
    bool want_signal = !strcmp(info->sort, "SIGNAL") || !strcmp(info->sort, "OUTPUT");
    bool want_register = !strcmp(info->sort, "REG"), whole = true, one = true;
    for (unsigned i = 0; i < role->n_places; i++)
        for (unsigned k = 0; k < role->places[i].n_parts; k++) {
            const wad_fieldref *ref = &role->places[i].parts[k].ref;
            whole = whole && (!ref->field || ref->reg->n_fields == 1);
            one = one && ref->field;
        }
    if (want_signal != (role->sort == WAD_ROLE_SIGNAL) || (want_register && !whole) ||
        (!want_signal && !want_register && !one && !kind->own)) {
        wadi_error(b->src, &role->where, "role '%s' takes a %s", role->name,
                   want_signal     ? "pin function: pins NAME"
                   : want_register ? "whole register"
                                   : "field: REGISTER.FIELD");
        return false;
    }
    if (want_register && role->reg) {
        role->field = NULL;
        role->sort = WAD_ROLE_REG;
    }
    return true;
}

/* `{ pins A, pins B }` */
static bool lists_pins(const wadi_cursor *c)
{
    const wadi_group *group = c->tok->type == WADI_T_GROUP ? c->tok->group : NULL;
    const wadi_tok *first = group && group->n ? group->stmts[0].toks : NULL;
    return first && first->type == WADI_T_NAME && !strcmp(first->text, "pins") &&
           first[1].type == WADI_T_NAME;
}

static void parse_signals(wadi_build *b, wadi_cursor *c, wad_role *role)
{
    const wadi_group *group = wadi_take_group(c);
    if (!group)
        return;
    const char **names = wadi_arena_alloc(b->arena, group->n * sizeof *names);
    role->sort = WAD_ROLE_SIGNAL;
    for (unsigned i = 0; i < group->n; i++) {
        wadi_cursor item = wadi_cursor_at(c->src, &group->stmts[i]);
        wadi_need_word(&item, "pins");
        names[i] = wadi_need_name(&item, "the pin function's name");
        wadi_need_end(&item);
        c->failed = c->failed || item.failed;
    }
    role->signals = names;
    role->n_signals = group->n;
    role->signal = names[0];
}

static bool parse_role(wadi_build *b, const wadi_stmt *stmt, const wadi_env *env,
                       const wad_layout *layout, const wad_kind *kind, wad_role *role)
{
    wadi_cursor c = wadi_cursor_at(b->src, stmt);
    const char *index = NULL;
    role->where = c.tok->where;
    role->name = wadi_need_name(&c, "a role");
    if (!role->name)
        return false;
    int place = wad_kind_role_index(kind, role->name);
    if (place < 0) {
        unknown_role(b, &role->where, kind, role->name);
        return false;
    }
    const wad_role_info *info = &kind->roles[place];
    const wad_quantity_sort *quantity = wad_quantity_sort_of(info);
    if (quantity)
        return parse_quantity(b, &c, env, quantity->unit, role);
    if (wadi_take_punct(&c, "[")) {
        index = wadi_need_name(&c, "the index's name");
        wadi_need_punct(&c, "]");
        role->indexed = true;
    }
    if (c.tok->type == WADI_T_NUMBER) {
        wadi_error(b->src, &role->where, "role '%s' is no quantity: name its field, or 'always %s'",
                   role->name, "N");
        return false;
    }
    if (wadi_take_word(&c, "pins")) {
        role->sort = WAD_ROLE_SIGNAL;
        role->signal = wadi_need_name(&c, "the pin function's name");
    } else if (lists_pins(&c)) {
        if (!index) {
            wadi_error(b->src, &role->where,
                       "role '%s' lists several pins: write %s[n] { pins A, "
                       "pins B }",
                       role->name, role->name);
            return false;
        }
        parse_signals(b, &c, role);
    } else if (wadi_take_word(&c, "law")) {
        return parse_law(b, &c, env, layout, index, role);
    } else if (!c.failed && !wadi_bind_place(b, &c, env, layout, index, role)) {
        return false;
    }
    if (role->n_places && role->places[0].form == WAD_PLACE_EVENT &&
        !wad_kind_is_act(kind, role->name)) {
        wadi_error(b->src, &role->where,
                   "role '%s' is a place, and nothing that happens: name its field", role->name);
        return false;
    }
    const wadi_group *meanings = c.failed ? NULL : wadi_take_group(&c);
    if (meanings && !wadi_parse_meanings(b, meanings, env, layout, kind, role))
        return false;
    parse_codes(b, &c, env, kind, role);
    if (wadi_take_word(&c, "when"))
        parse_when(b, &c, env, layout, index, role);
    wadi_need_end(&c);
    return !c.failed && check_sort(b, kind, info, role);
}

/* ---- units ---- */

/* Another way to bind a role that is bound under a condition already. */
static bool join_way(wadi_build *b, GArray *roles, const wad_role *role)
{
    for (guint i = 0; i < roles->len; i++) {
        wad_role *first = &g_array_index(roles, wad_role, i);
        if (strcmp(first->name, role->name) || (!first->when && !role->when))
            continue;
        const wad_role **end = &first->otherwise;
        const wad_role *last = first;
        for (; *end; end = (const wad_role **)&(*end)->otherwise)
            last = *end;
        if (!last->when || first->sort == WAD_ROLE_SIGNAL || role->sort == WAD_ROLE_SIGNAL)
            wadi_error(b->src, &role->where,
                       "role '%s' is bound above for all other cases: of several only the last "
                       "may lack its 'when', and none is a signal",
                       role->name);
        wad_role *way = WADI_NEW(b->arena, wad_role);
        *way = *role;
        *end = way;
        return true;
    }
    return false;
}

static void read_roles(wadi_build *b, const wadi_group *group, const wadi_env *env,
                       const wad_layout *inside, wad_layout *layout)
{
    GArray *roles = g_array_new(FALSE, TRUE, sizeof(wad_role));
    for (unsigned i = 0; i < group->n; i++) {
        wad_role role = {0};
        if (!inside && wadi_is_unit_statement(&group->stmts[i], layout->kind))
            continue;
        if (parse_role(b, &group->stmts[i], env, inside, layout->kind, &role) &&
            !join_way(b, roles, &role))
            g_array_append_val(roles, role);
    }
    wadi_count_always((wad_role *)roles->data, roles->len);
    layout->n_roles = roles->len;
    layout->roles = wadi_arena_copy(b->arena, roles->data, roles->len, sizeof(wad_role));
    g_array_free(roles, TRUE);
}

/* `counter`; `own can`, whose roles are found in `group` later: NULL and `*own`. */
static const wad_kind *need_kind(wadi_build *b, wadi_cursor *c, const char **own)
{
    wad_where where = c->tok->where;
    *own = NULL;
    if (wadi_at_word(c, "own") && c->tok[1].type == WADI_T_NAME) {
        c->tok++;
        where = c->tok->where;
        *own = wadi_need_name(c, "the kind's name");
        if (*own && wad_kind_named(*own)) {
            wadi_error(b->src, &where, "'%s' is a kind of Wadium's: acts as %s, or another name",
                       *own, *own);
            *own = NULL;
        }
        c->failed = c->failed || !*own;
        return NULL;
    }
    const char *name = wadi_need_name(c, "a kind");
    const char *now = name ? wadi_renamed_kind(name) : NULL;
    if (now) {
        wadi_note(b->src, &where,
                  "kind '%s' is called '%s' now: 'wadium emit sheet FILE' writes it so", name, now);
        name = now;
    }
    const wad_kind *kind = name ? wad_kind_named(name) : NULL;
    if (name && !kind) {
        wadi_error(b->src, &where,
                   "there is no kind '%s'; there are%s, and kinds of your own: acts as own %s",
                   name, kinds, name);
        c->failed = true;
    }
    return c->failed ? NULL : kind;
}

/* `acts as counter T0 {`, `acts as counter S[8] {`: all of it but the roles. */
typedef struct acting {
    wad_where where;
    const wad_kind *kind;
    const char *name; /* NULL: the block itself */
    unsigned count;   /* of a row, else 0 */
    const wadi_group *roles;
} acting;

static bool parse_acting(wadi_build *b, const wadi_stmt *stmt, const wadi_env *env, acting *a)
{
    wadi_cursor c = wadi_cursor_at(b->src, stmt);
    int64_t count = 0;
    *a = (acting){.where = c.tok->where};
    wadi_need_word(&c, "acts");
    wadi_need_word(&c, "as");
    const char *own;
    a->kind = need_kind(b, &c, &own);
    if (!a->kind && !own)
        return false;
    if (c.tok->type == WADI_T_NAME) {
        a->name = wadi_need_name(&c, "the unit's name");
        if (wadi_take_punct(&c, "[")) {
            wadi_parse_int(b, &c, env, "how many units", 1, 64, &count);
            wadi_need_punct(&c, "]");
        }
    }
    a->count = (unsigned)count;
    a->roles = wadi_need_group(&c, "'{' and the roles");
    if (a->roles && own)
        a->kind = wadi_own_kind(b, own, a->roles, false);
    return a->roles && wadi_need_end(&c);
}

/* Does a token of the group, or of a group in it, bear this name? */
static bool mentions(const wadi_group *group, const char *name)
{
    for (unsigned i = 0; i < group->n; i++)
        for (unsigned k = 0; k < group->stmts[i].n; k++) {
            const wadi_tok *t = &group->stmts[i].toks[k];
            if ((t->type == WADI_T_NAME && !strcmp(t->text, name)) ||
                (t->type == WADI_T_GROUP && mentions(t->group, name)))
                return true;
        }
    return false;
}

static const wadi_env *behind(wadi_build *b, const wadi_env *own, const wadi_env *env)
{
    wadi_env *one;
    if (!own)
        return env;
    one = WADI_NEW(b->arena, wadi_env);
    *one = (wadi_env){own->name, own->value, env};
    return one;
}

/* The statements of the block that are this unit's: `unit T0 { }`, `unit S[1 .. 3] { }`. */
static void find_bodies(wadi_build *b, unsigned home, const char *name, int64_t row,
                        const wadi_env *env, wadi_block_body *body)
{
    const wadi_block_body *of = &g_array_index(b->block_bodies, wadi_block_body, home);
    GPtrArray *groups = g_ptr_array_new();
    for (unsigned g = 0; g < of->n; g++)
        for (unsigned i = 0; i < of->groups[g]->n; i++) {
            wadi_cursor c = wadi_cursor_at(b->src, &of->groups[g]->stmts[i]);
            wadi_path path;
            int ranged = -1;
            if (!wadi_take_word(&c, "unit") || !wadi_parse_paths(&c, env, &path, &ranged) ||
                path.n != 1 || strcmp(path.name[0], name) ||
                (path.index[0] >= 0 && (row < path.index[0] || row > path.last[0])))
                continue;
            const wadi_group *group = wadi_take_group(&c);
            if (group) /* else the block's own reading says what is wrong */
                g_ptr_array_add(groups, (gpointer)group);
        }
    body->n = groups->len;
    body->groups = wadi_arena_copy(b->arena, groups->pdata, groups->len, sizeof(gpointer));
    g_ptr_array_free(groups, TRUE);
}

static void add_unit(wadi_build *b, unsigned home, const acting *a, int64_t row,
                     const wad_layout *layout)
{
    const wad_instance *block = b->blocks->pdata[home];
    wadi_env *env = WADI_NEW(b->arena, wadi_env);
    const wadi_env *outer = g_array_index(b->block_bodies, wadi_block_body, home).env;
    *env = (wadi_env){"i", wadi_int(row), outer};
    wadi_block_body body = {.env = row < 0 ? outer : env};
    wad_instance *unit = WADI_NEW(b->arena, wad_instance);
    *unit = (wad_instance){.base = block->base,
                           .layout = layout,
                           .home = block,
                           .where = a->where,
                           .draws = {{0, 1}, {0, 1}, {0, 1}}};
    unit->name = row < 0 ? wadi_arena_printf(b->arena, "%s.%s", block->name, a->name)
                         : wadi_arena_printf(b->arena, "%s.%s[%d]", block->name, a->name, (int)row);
    for (unsigned i = 0; i < b->blocks->len; i++)
        if (!strcmp(((const wad_instance *)b->blocks->pdata[i])->name, unit->name)) {
            wadi_error(b->src, &a->where, "unit '%s' is there already", unit->name);
            return;
        }
    find_bodies(b, home, a->name, row, body.env, &body);
    g_ptr_array_add(b->blocks, unit);
    g_array_append_val(b->block_bodies, body);
}

/* One `acts as` of a layout, for all blocks that have it. */
static void build_acting(wadi_build *b, wadi_acts *acts, const wadi_stmt *stmt, unsigned n_blocks)
{
    acting a;
    if (!parse_acting(b, stmt, acts->env, &a))
        return;
    if (!a.name && acts->layout->kind) {
        wadi_error(b->src, &a.where,
                   "layout '%s' acts as %s already: name the further units, as in 'acts as %s T1 { "
                   "... }'",
                   acts->layout->name, acts->layout->kind->name, a.kind->name);
        return;
    }
    bool each = mentions(a.roles, "i"); /* rows and rows of blocks have roles of their own */
    for (unsigned k = 0; k < (a.count ? a.count : 1); k++) {
        wad_layout *shared = NULL;
        for (unsigned i = 0; i < n_blocks; i++) {
            wad_instance *block = b->blocks->pdata[i];
            const wadi_env *row = g_array_index(b->block_bodies, wadi_block_body, i).env;
            if (block->layout != acts->layout)
                continue;
            wadi_env element = {"i", wadi_int(k), NULL};
            const wadi_env *own = a.count ? &element : row;
            if (!shared || each) {
                shared = a.name || (each && row) ? WADI_NEW(b->arena, wad_layout) : acts->layout;
                if (shared != acts->layout) {
                    *shared = (wad_layout){.where = a.where, .variant = ""};
                    if (!a.name) {
                        char *lower = g_ascii_strdown(block->name, -1);
                        *shared = *acts->layout;
                        shared->name =
                            wadi_arena_printf(b->arena, "%s_%s", acts->layout->name, lower);
                        g_free(lower);
                    } else {
                        shared->name = shared->base =
                            wadi_arena_printf(b->arena, "%s.%s", acts->layout->name, a.name);
                    }
                }
                shared->kind = a.kind;
                read_roles(b, a.roles, behind(b, each ? own : NULL, acts->env), acts->layout,
                           shared);
            }
            if (a.name)
                add_unit(b, i, &a, a.count ? (int64_t)k : -1, shared);
            else
                block->layout = shared;
        }
    }
}

/* ---- units of the chip: `unit TICK as timebase { ... }` ---- */

static const wad_instance *home_of(const wad_layout *layout)
{
    for (unsigned i = 0; i < layout->n_roles; i++)
        for (unsigned k = 0; k < layout->roles[i].n_places; k++)
            if (layout->roles[i].places[k].n_parts)
                return layout->roles[i].places[k].parts[0].ref.block;
    return NULL;
}

void wadi_build_chip_unit(wadi_build *b, const wadi_stmt *stmt)
{
    wadi_cursor c = wadi_cursor_at(b->src, stmt);
    c.tok++;
    wad_instance *unit = WADI_NEW(b->arena, wad_instance);
    *unit = (wad_instance){.where = c.tok->where, .draws = {{0, 1}, {0, 1}, {0, 1}}};
    wad_layout *layout = WADI_NEW(b->arena, wad_layout);
    unit->name = wadi_need_name(&c, "the unit's name");
    wadi_need_word(&c, "as");
    const char *own = NULL;
    layout->kind = c.failed ? NULL : need_kind(b, &c, &own);
    const wadi_group *body = layout->kind || own ? wadi_need_group(&c, "'{' and the roles") : NULL;
    if (!body || !wadi_need_end(&c))
        return;
    if (own)
        layout->kind = wadi_own_kind(b, own, body, true);
    for (unsigned i = 0; i < b->blocks->len; i++)
        if (!strcmp(((const wad_instance *)b->blocks->pdata[i])->name, unit->name)) {
            wadi_error(b->src, &unit->where, "a block or unit '%s' is there already", unit->name);
            return;
        }
    layout->name = layout->base = unit->name;
    layout->variant = "";
    layout->where = unit->where;
    read_roles(b, body, NULL, NULL, layout);
    unit->layout = layout;
    unit->home = home_of(layout);
    if (!unit->home) {
        if (wad_diags_errors(b->src->diags) == b->errors_before)
            wadi_error(b->src, &unit->where,
                       "unit '%s' has no role in a register: bind one, as in 'count PSC.FREE.V'",
                       unit->name);
        return;
    }
    unit->base = unit->home->base;
    wadi_block_body entry = {wadi_arena_copy(b->arena, &body, 1, sizeof body), 1, NULL, true};
    g_ptr_array_add(b->blocks, unit);
    g_array_append_val(b->block_bodies, entry);
}

void wadi_build_units(wadi_build *b)
{
    unsigned n_blocks = b->blocks->len;
    for (guint i = 0; i < b->acts->len; i++) {
        wadi_acts *acts = &g_array_index(b->acts, wadi_acts, i);
        for (unsigned k = 0; k < acts->n; k++)
            build_acting(b, acts, acts->stmts[k], n_blocks);
    }
}
