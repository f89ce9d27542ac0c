/* SPDX-License-Identifier: MIT */
#include "gauges.h"

#include "bench/measure/text.h"

/* What one expectation has heard; those of one subject stand in a row. */
typedef struct gauge {
    const wadi_expectation *expect;
    void *state;
    struct gauge *next;
} gauge;

struct wadi_gauges {
    const wadi_scene *scene;
    gauge *list;
    unsigned n;
    gauge **first[WADI_ABOUTS]; /* by the subject's number */
    unsigned room[WADI_ABOUTS];
};

static void put_in_row(wadi_gauges *all, gauge *g)
{
    const wadi_expectation *e = g->expect;
    wadi_about about = e->cls->about;
    if (e->number >= all->room[about]) {
        unsigned room = e->number + 1;
        all->first[about] = g_renew(gauge *, all->first[about], room);
        for (unsigned i = all->room[about]; i < room; i++)
            all->first[about][i] = NULL;
        all->room[about] = room;
    }
    g->next = all->first[about][e->number];
    all->first[about][e->number] = g;
}

wadi_gauges *wadi_gauges_new(const wad_bench *b, const wadi_scene *scene)
{
    wadi_gauges *all = g_new0(wadi_gauges, 1);
    all->scene = scene;
    all->n = b->expects->len;
    all->list = g_new0(gauge, all->n + 1);
    for (unsigned i = 0; i < all->n; i++) {
        gauge *g = &all->list[i];
        g->expect = &g_array_index(b->expects, wadi_expectation, i);
        g->state = g_malloc0(g->expect->cls->state_size);
        put_in_row(all, g);
        if (g->expect->cls->begin)
            g->expect->cls->begin(g->expect, g->state, scene);
    }
    return all;
}

void wadi_gauges_free(wadi_gauges *all)
{
    if (!all)
        return;
    for (unsigned i = 0; i < all->n; i++)
        g_free(all->list[i].state);
    for (unsigned i = 0; i < WADI_ABOUTS; i++)
        g_free(all->first[i]);
    g_free(all->list);
    g_free(all);
}

unsigned wadi_gauges_count(const wadi_gauges *all)
{
    return all ? all->n : 0;
}

const wadi_expectation *wadi_gauges_at(const wadi_gauges *all, unsigned i)
{
    return all->list[i].expect;
}

void wadi_gauges_hear(wadi_gauges *all, wadi_about about, unsigned number, const wadi_heard *h)
{
    if (number >= all->room[about])
        return;
    for (gauge *g = all->first[about][number]; g; g = g->next)
        if (g->expect->cls->hear)
            g->expect->cls->hear(g->expect, g->state, h);
}

/* Nothing was measured where an expectation asks: neither met nor broken, and so not met. */
static char *not_there(const wadi_expectation *e, uint64_t end_ps)
{
    bool at_time = e->cls->operands & WADI_TAKES_AT && e->at_ps > end_ps;
    bool behind =
        (e->from_ps && e->from_ps >= end_ps) || (e->to_ps != UINT64_MAX && e->to_ps > end_ps);
    if (!at_time && !behind)
        return NULL;
    char *end = wadi_seconds((double)end_ps / 1e12);
    char *text = g_strdup_printf("not measured: the end is at %s already", end);
    g_free(end);
    return text;
}

wadi_judged wadi_gauges_judge(wadi_gauges *all, unsigned i)
{
    gauge *g = &all->list[i];
    char *why = not_there(g->expect, all->scene->run->end_ps);
    return why ? (wadi_judged){why, false} : g->expect->cls->judge(g->expect, g->state, all->scene);
}
