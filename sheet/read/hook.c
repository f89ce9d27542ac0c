/* SPDX-License-Identifier: MIT */
/* `on EVENT when CONDITION { FIELD = EXPRESSION, after 20 ms { ... }, reset }`. */
#include <string.h>

#include "behaviour.h"
#include "hook.h"
#include "path.h"
#include "sheet/chip/query.h"

#define DEEPEST 4

typedef struct hook_reader {
    layout_build *lb;  /* `layout` NULL: of the chip */
    unsigned elements; /* of the array whose event it is: its element is meant */
    unsigned depth;
} hook_reader;

static bool parse_acts(hook_reader *r, const wadi_group *group, const wad_act **acts, unsigned *n);

static bool parse_later(hook_reader *r, wadi_cursor *c, wad_act *act)
{
    if (!wadi_parse_delay(r->lb, c, &act->delay))
        return false;
    const wadi_group *group = wadi_need_group(c, "'{' and what happens then");
    if (!group || !wadi_need_end(c))
        return false;
    if (r->depth >= DEEPEST) {
        wadi_error(c->src, &act->where, "hooks nest at most %u deep", DEEPEST);
        return false;
    }
    r->depth++;
    bool good = parse_acts(r, group, &act->acts, &act->n_acts);
    r->depth--;
    return good;
}

static bool parse_assign(hook_reader *r, wadi_cursor *c, wad_act *act)
{
    layout_build *lb = r->lb;
    wadi_path path;
    wadi_names names = {.build = lb->b,
                        .env = lb->env,
                        .layout = lb->layout,
                        .bits = true,
                        .hook = true,
                        .plain = true,
                        .elements = r->elements};
    if (!wadi_parse_path(c, lb->env, &path) ||
        !wadi_resolve(lb->b, lb->layout, NULL, &path, &act->ref))
        return false;
    bool own = r->elements && act->ref.reg->count == r->elements;
    if (own && !wadi_path_indexed(&path, &act->ref))
        act->ref.reg_index = UINT32_MAX;
    if (!wadi_need_punct(c, "="))
        return false;
    act->value = wadi_parse_expr(c, &names);
    if (act->value)
        wadi_check_law(lb->b, act->value);
    return act->value && wadi_need_end(c);
}

static bool parse_act(hook_reader *r, const wadi_stmt *stmt, wad_act *act)
{
    wadi_cursor c = wadi_cursor_at(r->lb->b->src, stmt);
    act->where = c.tok->where;
    if (wadi_take_word(&c, "after"))
        return parse_later(r, &c, act);
    if (wadi_at_word(&c, "reset") && c.tok[1].type == WADI_T_END)
        return true;
    return parse_assign(r, &c, act);
}

static bool parse_acts(hook_reader *r, const wadi_group *group, const wad_act **acts, unsigned *n)
{
    GArray *list = g_array_new(FALSE, TRUE, sizeof(wad_act));
    bool good = true;
    for (unsigned i = 0; i < group->n; i++) {
        wad_act act = {0};
        good = parse_act(r, &group->stmts[i], &act) && good;
        g_array_append_val(list, act);
    }
    if (!group->n) {
        wadi_error(r->lb->b->src, &group->where, "say what happens: FIELD = VALUE, reset or after");
        good = false;
    }
    *n = list->len;
    *acts = wadi_arena_copy(r->lb->b->arena, list->data, list->len, sizeof(wad_act));
    g_array_free(list, TRUE);
    return good;
}

static unsigned elements_of(const wad_hook *hook)
{
    for (unsigned i = 0; i < hook->n_on; i++)
        if (hook->on[i].last.by_element)
            return hook->on[i].last.reg->count;
    return 0;
}

bool wadi_parse_hook(layout_build *lb, const wadi_stmt *stmt, wad_hook *hook)
{
    wadi_cursor c = wadi_cursor_at(lb->b->src, stmt);
    c.tok++;
    hook->where = c.tok->where;
    if (!wadi_parse_events(lb, &c, NULL, NULL, &hook->on, &hook->n_on))
        return false;
    if (wadi_take_word(&c, "when")) {
        wad_instance scope = {.layout = lb->layout};
        wad_cond *cond = WADI_NEW(lb->b->arena, wad_cond);
        if (!wadi_parse_cond(lb->b, &c, lb->env, lb->layout ? &scope : NULL, cond))
            return false;
        hook->when = cond;
    }
    const wadi_group *group = wadi_need_group(&c, "'{' and what happens");
    hook_reader r = {lb, elements_of(hook), 0};
    return group && wadi_need_end(&c) && parse_acts(&r, group, &hook->acts, &hook->n_acts);
}

void wadi_build_hooks(wadi_build *b, const wadi_group *body)
{
    GArray *list = g_array_new(FALSE, TRUE, sizeof(wad_hook));
    layout_build chip = {.b = b};
    for (unsigned i = 0; i < body->n; i++) {
        wadi_cursor c = wadi_cursor_at(b->src, &body->stmts[i]);
        wad_hook hook = {0};
        if (wadi_at_word(&c, "on") && !wadi_is_core_step(&body->stmts[i]) &&
            wadi_parse_hook(&chip, &body->stmts[i], &hook))
            g_array_append_val(list, hook);
    }
    b->sheet->n_hooks = list->len;
    b->sheet->hooks = wadi_arena_copy(b->arena, list->data, list->len, sizeof(wad_hook));
    g_array_free(list, TRUE);
}

/* ---- events by role: when the units are known ---- */

static bool has_role(const wad_layout *l, const wad_bus_event *e)
{
    const wad_role *role = l->kind ? wad_layout_role(l, e->role) : NULL;
    int place = role ? wad_kind_role_index(l->kind, e->role) : -1;
    return place >= 0 && wad_kind_flag(l->kind, (unsigned)place) &&
           e->element < wad_role_count(role);
}

static bool is_there(const wadi_build *b, const wad_layout *layout, const wad_bus_event *e)
{
    for (unsigned i = 0; i < b->blocks->len; i++) {
        const wad_instance *unit = b->blocks->pdata[i];
        const wad_layout *home = wad_instance_home(unit)->layout;
        const char *own = strchr(unit->name, '.');
        bool inside = layout && !strcmp(home->base, layout->base);
        bool named =
            e->unit ? !strcmp(unit->name, e->unit) || (inside && own && !strcmp(own + 1, e->unit))
                    : inside && !unit->home;
        if (named && has_role(unit->layout, e))
            return true;
    }
    return false;
}

void wadi_check_events(wadi_build *b)
{
    for (unsigned i = 0; i < b->role_events->len; i++) {
        const wadi_role_event *r = &g_array_index(b->role_events, wadi_role_event, i);
        if (!is_there(b, r->layout, &r->event))
            wadi_error(b->src, &r->event.where,
                       "'%s%s%s' is no register here and no flag of a unit: say 'read REGISTER', "
                       "'write REGISTER', 'entry', or a flag by its role, as in wrap or T0.wrap",
                       r->event.unit ? r->event.unit : "", r->event.unit ? "." : "", r->event.role);
    }
}
