/* SPDX-License-Identifier: MIT */
#include "grid.h"

#include <math.h>

#include "bench/language/value.h"
#include "bench/measure/text.h"
#include "lang/rational.h"
#include "sheet/read/number.h"

bool wadi_parse_grid(wad_bench *b, wadi_cursor *c, wadi_expectation *e)
{
    wad_where where = c->tok->where;
    wad_unit unit;
    (void)b;
    if (!wadi_take_amount(c, &e->wanted, &unit))
        return false;
    bool ok = e->wanted.num > 0 && (unit == WAD_UNIT_S || unit == WAD_UNIT_HZ);
    if (ok && unit == WAD_UNIT_HZ)
        e->wanted = (wad_rational){e->wanted.den, e->wanted.num};
    where = ok ? c->tok->where : where;
    if (!ok || !wadi_need_word(c, "within") || !wadi_take_amount(c, &e->within, &e->within_unit) ||
        e->within_unit != WAD_UNIT_S)
        wadi_fail(c, &where, "a grid is a rate and a time: grid 3 Hz within 62 us");
    return !c->failed;
}

void wadi_begin_grid(const wadi_expectation *e, void *state, const wadi_scene *scene)
{
    (void)scene;
    wadi_grid_init(state, e->wanted);
}

/* "all 120 within -1.2 us and +3.4 us of it, drift 0.02 ppm" */
wadi_judged wadi_judge_grid(const wadi_expectation *e, void *state, const wadi_scene *scene)
{
    const wadi_grid_meter *g = state;
    (void)scene;
    if (g->n < 2)
        return (wadi_judged){g_strdup_printf("%llu edges: no grid", (unsigned long long)g->n),
                             false};
    double most = wadi_rat_double(e->within) * 1e12 * (1 + 1e-9);
    bool ok =
        !g->missing && !g->doubled && (double)g->latest <= most && (double)-g->earliest <= most;
    char *early = wadi_seconds((double)-g->earliest / 1e12),
         *late = wadi_seconds((double)g->latest / 1e12);
    GString *text = g_string_new(NULL);
    g_string_append_printf(text, g->earliest || g->latest ? "%llu, up to " : "all %llu on it",
                           (unsigned long long)g->n);
    if (g->earliest)
        g_string_append_printf(text, "%s early%s", early, g->latest ? " to " : "");
    if (g->latest)
        g_string_append_printf(text, "%s late", late);
    if (g->earliest || g->latest) {
        char *rms = wadi_seconds(floor(wadi_grid_rms(g) + 0.5) / 1e12);
        g_string_append_printf(text, ", rms %s, drift %.3g ppm", rms, wadi_grid_drift(g) * 1e6);
        g_free(rms);
    }
    if (g->missing)
        g_string_append_printf(text, ", %llu missing", (unsigned long long)g->missing);
    if (g->doubled)
        g_string_append_printf(text, ", %llu too many", (unsigned long long)g->doubled);
    g_free(early);
    g_free(late);
    return (wadi_judged){g_string_free(text, FALSE), ok};
}
