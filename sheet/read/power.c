/* SPDX-License-Identifier: MIT */
/* The supply, what draws from it, and how deep the core sleeps. */
#include <string.h>

#include "build.h"
#include "lang/rational.h"

void wadi_parse_supply(wadi_build *b, wadi_cursor *c)
{
    wad_sheet *s = b->sheet;
    if (!wadi_parse_quantity(b, c, NULL, WAD_UNIT_V, &s->supply))
        return;
    s->supply_min = s->supply_max = s->supply;
    if (wadi_take_word(c, "within"))
        (void)(wadi_parse_quantity(b, c, NULL, WAD_UNIT_V, &s->supply_min) &&
               wadi_need_punct(c, "..") &&
               wadi_parse_quantity(b, c, NULL, WAD_UNIT_V, &s->supply_max));
    wadi_need_end(c);
}

bool wadi_take_draws(wadi_build *b, wadi_cursor *c, wad_draws *draws)
{
    if (wadi_take_word(c, "draws"))
        return wadi_parse_quantity(b, c, NULL, WAD_UNIT_A, &draws->base);
    if (wadi_take_word(c, "per_mhz"))
        return wadi_parse_quantity(b, c, NULL, WAD_UNIT_A, &draws->per_mhz);
    if (wadi_take_word(c, "active"))
        return wadi_parse_quantity(b, c, NULL, WAD_UNIT_A, &draws->active);
    return false;
}

/* ---- `sleep stop when PWR.CTRL.LEVEL = 1 stops internal xtal wakes after 8 us draws 1.2 uA` ----
 */

static const wad_clock *clock_named(const wadi_build *b, const char *name)
{
    for (guint i = 0; i < b->clocks->len; i++)
        if (!strcmp(((const wad_clock *)b->clocks->pdata[i])->name, name))
            return b->clocks->pdata[i];
    return NULL;
}

static bool is_next_word(const wadi_cursor *c)
{
    return wadi_at_word(c, "when") || wadi_at_word(c, "wakes") || wadi_at_word(c, "draws") ||
           wadi_at_word(c, "again") || wadi_at_word(c, "stops");
}

static void parse_stops(wadi_build *b, wadi_cursor *c, wad_sleep_def *level)
{
    GPtrArray *list = g_ptr_array_new();
    do {
        wad_where where = c->tok->where;
        const char *name = wadi_need_name(c, "a clock that stops");
        const wad_clock *clock = name ? clock_named(b, name) : NULL;
        if (clock)
            g_ptr_array_add(list, (gpointer)clock);
        else if (name)
            wadi_error(c->src, &where, "there is no clock '%s'", name);
    } while (!c->failed && c->tok->type == WADI_T_NAME && !is_next_word(c));
    level->n_stops = list->len;
    level->stops = wadi_arena_copy(b->arena, list->pdata, list->len, sizeof(gpointer));
    g_ptr_array_free(list, TRUE);
}

static void parse_sleep(wadi_build *b, const wadi_stmt *stmt, GArray *levels)
{
    wadi_cursor c = wadi_cursor_at(b->src, stmt);
    wad_sleep_def level = {.wake_s = {0, 1}, .draws = {0, 1}};
    c.tok++;
    level.where = c.tok->where;
    level.name = wadi_need_name(&c, "the sleep level's name");
    while (!wadi_at_end(&c)) {
        if (wadi_take_word(&c, "when")) {
            wadi_parse_cond(b, &c, NULL, NULL, &level.when);
        } else if (wadi_take_word(&c, "stops")) {
            parse_stops(b, &c, &level);
        } else if (wadi_take_word(&c, "wakes")) {
            if (wadi_need_word(&c, "after"))
                wadi_parse_quantity(b, &c, NULL, WAD_UNIT_S, &level.wake_s);
        } else if (wadi_take_word(&c, "draws")) {
            wadi_parse_quantity(b, &c, NULL, WAD_UNIT_A, &level.draws);
        } else if (wadi_take_word(&c, "again")) {
            level.again = true;
        } else {
            wadi_expected(&c, "'when', 'stops', 'wakes after', 'draws' or 'again'");
        }
    }
    for (guint i = 0; level.name && i < levels->len; i++)
        if (!strcmp(g_array_index(levels, wad_sleep_def, i).name, level.name))
            wadi_error(b->src, &level.where, "sleep level '%s' stands twice", level.name);
    if (!c.failed)
        g_array_append_val(levels, level);
}

void wadi_build_sleeps(wadi_build *b, const wadi_group *body)
{
    GArray *levels = g_array_new(FALSE, FALSE, sizeof(wad_sleep_def));
    for (unsigned i = 0; i < body->n; i++) {
        wadi_cursor c = wadi_cursor_at(b->src, &body->stmts[i]);
        if (wadi_at_word(&c, "sleep"))
            parse_sleep(b, &body->stmts[i], levels);
    }
    b->sheet->n_sleeps = levels->len;
    b->sheet->sleeps = wadi_arena_copy(b->arena, levels->data, levels->len, sizeof(wad_sleep_def));
    g_array_free(levels, TRUE);
}
