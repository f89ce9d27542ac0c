/* SPDX-License-Identifier: MIT */
/* What of a block names other blocks' roles or its own bits: triggers, requests, and what others
 * own. */
#include <string.h>

#include "build.h"
#include "lang/suggest.h"
#include "path.h"

/* ---- triggers and requests ---- */

/* The block or unit that the path begins with; `parts`: how many parts of it are the name. */
static const wad_instance *find_source(wadi_build *b, const wadi_path *path, unsigned *parts)
{
    GPtrArray *names = g_ptr_array_new();
    const wad_instance *found = NULL;
    char unit[160];
    g_snprintf(unit, sizeof unit, path->n > 1 && path->index[1] >= 0 ? "%s.%s[%d]" : "%s.%s",
               path->name[0], path->n > 1 ? path->name[1] : "", (int)path->index[1]);
    for (unsigned i = 0; i < b->blocks->len; i++) {
        const wad_instance *block = b->blocks->pdata[i];
        g_ptr_array_add(names, (gpointer)block->name);
        if (path->n > 2 && !strcmp(block->name, unit)) {
            found = block;
            *parts = 2;
        } else if (!found && !strcmp(block->name, path->name[0])) {
            found = block;
            *parts = 1;
        }
    }
    if (!found)
        wadi_error(
            b->src, &path->where, "there is no block '%s'%s", path->name[0],
            wadi_suggest(b->arena, path->name[0], (const char *const *)names->pdata, names->len));
    g_ptr_array_free(names, TRUE);
    return found;
}

static unsigned elements(const wad_instance *block, const wad_role *role)
{
    unsigned n = 0;
    if (role->sort != WAD_ROLE_SIGNAL)
        return wad_role_count(role);
    for (bool there = true; there;) {
        char *name = wad_role_signal(role, n);
        there = name && wad_instance_signal(block, name);
        n += there;
        g_free(name);
    }
    return n;
}

/* `CNT0.wrap`, `CNT0.match[1]`, `CNT0.output[1]` */
static bool parse_source(wadi_build *b, wadi_cursor *c, wad_trigger *t)
{
    wadi_path path;
    if (!wadi_parse_path(c, NULL, &path))
        return false;
    unsigned at;
    t->from = find_source(b, &path, &at);
    if (!t->from)
        return false;
    const wad_kind *kind = t->from->layout->kind;
    const char *name = path.n == at + 1 ? path.name[at] : "";
    int place = kind ? wad_kind_role_index(kind, name) : -1;
    t->role = place < 0 ? NULL : wad_layout_role(t->from->layout, name);
    if (!t->role || !wad_role_is_event(&kind->roles[place])) {
        wadi_error(b->src, &path.where,
                   "'%s' is no event: write BLOCK.ROLE, a flag such as wrap or match[1], or "
                   "output[1]",
                   wadi_path_text(b->arena, &path));
        return false;
    }
    t->index = path.index[at] < 0 ? 0 : (unsigned)path.index[at];
    if (t->index < elements(t->from, t->role) && (path.index[at] >= 0) == t->role->indexed)
        return true;
    wadi_error(b->src, &path.where, "%s.%s has %u elements: %s", t->from->name, name,
               elements(t->from, t->role), t->role->indexed ? "name one" : "name none");
    return false;
}

/* The greatest number that the selector may hold, by its bits or by what it always is. */
static int64_t most_of(const wad_role *selector)
{
    int64_t most = 0;
    for (unsigned i = 0; i < selector->n_places; i++) {
        const wad_role_place *p = &selector->places[i];
        int64_t one = p->form == WAD_PLACE_ALWAYS ? (int64_t)p->always
                                                  : (INT64_C(1) << MIN(p->width, 32)) - 1;
        most = MAX(most, one);
    }
    return most;
}

/* `7 UART0.rx_ready`, `8 UART1.rx_ready TIM.match[2]`: any of them. */
static void parse_trigger(wadi_build *b, const wad_role *selector, const wadi_stmt *stmt,
                          GArray *list)
{
    wadi_cursor c = wadi_cursor_at(b->src, stmt);
    wad_trigger t = {.where = c.tok->where};
    int64_t code;
    if (!wadi_parse_int(b, &c, NULL, "the selector's value", 0, most_of(selector), &code))
        return;
    t.code = (uint32_t)code;
    for (guint i = 0; i < list->len; i++)
        if (g_array_index(list, wad_trigger, i).code == t.code) {
            wadi_error(b->src, &t.where,
                       "value %u stands twice in this list: several sources of one stand behind "
                       "it, `%u UART0.rx_ready TIM.match[2]`",
                       t.code, t.code);
            return;
        }
    do {
        t.where = c.tok->where;
        if (!parse_source(b, &c, &t))
            return;
        g_array_append_val(list, t);
    } while (!wadi_at_end(&c));
}

/* What the values of the field mean that plays `role`: `triggers { 1 CNT0.wrap }`. */
static const wad_trigger *link_sources(wadi_build *b, const wad_layout *layout, const char *role,
                                       wadi_cursor *c, unsigned *n)
{
    wad_where where = c->tok->where;
    const wadi_group *group = wadi_need_group(c, "'{' and what the values mean: VALUE BLOCK.ROLE");
    const wad_role *selector = wad_layout_role(layout, role);
    if (!group || !wadi_need_end(c))
        return NULL;
    if (!selector || !selector->n_places) {
        wadi_error(b->src, &where, "layout '%s' binds no role '%s', the field that selects one",
                   layout->name, role);
        return NULL;
    }
    GArray *list = g_array_new(FALSE, FALSE, sizeof(wad_trigger));
    for (unsigned i = 0; i < group->n; i++)
        parse_trigger(b, selector, &group->stmts[i], list);
    *n = list->len;
    const wad_trigger *all = wadi_arena_copy(b->arena, list->data, *n, sizeof(wad_trigger));
    g_array_free(list, TRUE);
    return all;
}

/* ---- what others own ---- */

/* `owned CMPL[3] CMPH[3] IRQEN.MATCH[3] by "the boot ROM"` */
static void link_owned(wadi_build *b, wad_instance *block, wadi_cursor *c, GArray *list)
{
    unsigned first = list->len;
    do {
        wad_owned o = {.where = c->tok->where};
        wadi_path path;
        if (!wadi_parse_path(c, NULL, &path) ||
            !wadi_resolve(b, block->layout, block, &path, &o.ref))
            return;
        g_array_append_val(list, o);
    } while (!wadi_at_word(c, "by") && !wadi_at_end(c));
    wadi_need_word(c, "by");
    const char *by = wadi_need_string(c, "who owns it, in quotes");
    wadi_need_end(c);
    for (guint i = first; i < list->len; i++)
        g_array_index(list, wad_owned, i).by = by ? by : "";
}

static unsigned n_statements(const wadi_block_body *body)
{
    unsigned n = 0;
    for (unsigned g = 0; g < body->n; g++)
        n += body->groups[g]->n;
    return n;
}

static const wadi_stmt *statement(const wadi_block_body *body, unsigned i)
{
    unsigned g = 0;
    for (; i >= body->groups[g]->n; g++)
        i -= body->groups[g]->n;
    return &body->groups[g]->stmts[i];
}

void wadi_link_block(wadi_build *b, wad_instance *block, const wadi_block_body *body)
{
    GArray *owned = g_array_new(FALSE, FALSE, sizeof(wad_owned));
    for (unsigned i = 0; i < n_statements(body); i++) {
        wadi_cursor c = wadi_cursor_at(b->src, statement(body, i));
        if (wadi_take_word(&c, "triggers"))
            block->triggers = link_sources(b, block->layout, "trigger", &c, &block->n_triggers);
        else if (wadi_take_word(&c, "requests"))
            block->requests = link_sources(b, block->layout, "request", &c, &block->n_requests);
        else if (wadi_take_word(&c, "owned"))
            link_owned(b, block, &c, owned);
    }
    block->n_owned = owned->len;
    block->owned = wadi_arena_copy(b->arena, owned->data, owned->len, sizeof(wad_owned));
    g_array_free(owned, TRUE);
}
