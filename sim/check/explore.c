/* SPDX-License-Identifier: MIT */
#include "explore.h"

#include <string.h>

#include "sim/core/cpu.h"

#define MOST_POINTS  (1u << 22)
#define LONGEST_WAIT (WAD_PS_PER_S / 50) /* 20 ms */

typedef struct point {
    uintptr_t key, pc;
    uint32_t context; /* priority of what ran; UINT_MAX in main */
} point;

struct wadi_explore {
    GArray *log; /* point; NULL: not kept */
    uint64_t *stops;
    unsigned n_stops, next;
    uint64_t count;
};

void wad_sim_explore(wad_sim *sim, const uint64_t *stops, unsigned n_stops, bool log)
{
    wadi_explore_free(sim);
    struct wadi_explore *x = g_new0(struct wadi_explore, 1);
    x->stops = g_memdup2(stops, n_stops * sizeof *stops);
    x->n_stops = n_stops;
    x->log = log ? g_array_new(FALSE, FALSE, sizeof(point)) : NULL;
    sim->explore = x;
    sim->watch |= WADI_WATCH_POINTS;
}

void wadi_explore_free(wad_sim *sim)
{
    struct wadi_explore *x = sim->explore;
    if (!x)
        return;
    if (x->log)
        g_array_free(x->log, TRUE);
    g_free(x->stops);
    g_free(x);
    sim->explore = NULL;
    sim->watch &= ~(unsigned)WADI_WATCH_POINTS;
}

void wadi_explore_reset(wad_sim *sim)
{
    struct wadi_explore *x = sim->explore;
    if (!x)
        return;
    x->count = x->next = 0;
    if (x->log)
        g_array_set_size(x->log, 0);
}

void wadi_explore_point(wad_sim *sim, uintptr_t key)
{
    struct wadi_explore *x = sim->explore;
    if (sim->masked) /* nothing can come here */
        return;
    point p = {key, sim->pc, sim->priority};
    if (x->log && x->count < MOST_POINTS)
        g_array_append_val(x->log, p);
    if (x->next < x->n_stops && x->count == x->stops[x->next]) {
        x->next++;
        x->count++;
        wadi_cpu_hold(sim, LONGEST_WAIT);
        return;
    }
    x->count++;
}

static gint by_key(gconstpointer a, gconstpointer b)
{
    const point *x = a, *y = b;
    return x->key < y->key ? -1 : x->key > y->key;
}

/* Keys that more than one context touched. */
static GHashTable *shared_keys(const GArray *log)
{
    GHashTable *shared = g_hash_table_new(NULL, NULL);
    GArray *sorted = g_array_copy((GArray *)log);
    g_array_sort(sorted, by_key);
    for (guint i = 1; i < sorted->len; i++) {
        const point *a = &g_array_index(sorted, point, i - 1);
        const point *b = &g_array_index(sorted, point, i);
        if (a->key == b->key && a->context != b->context)
            g_hash_table_add(shared, (gpointer)a->key);
    }
    g_array_free(sorted, TRUE);
    return shared;
}

wad_call_in *wad_sim_explore_points(const wad_sim *sim, unsigned *n)
{
    const struct wadi_explore *x = sim->explore;
    GArray *found = g_array_new(FALSE, FALSE, sizeof(wad_call_in));
    if (x && x->log) {
        GHashTable *shared = shared_keys(x->log);
        for (guint i = 0; i < x->log->len; i++) {
            const point *p = &g_array_index(x->log, point, i);
            wad_call_in at = {i, p->pc};
            if (g_hash_table_contains(shared, (gpointer)p->key))
                g_array_append_val(found, at);
        }
        g_hash_table_destroy(shared);
    }
    *n = found->len;
    return (wad_call_in *)g_array_free(found, FALSE);
}
