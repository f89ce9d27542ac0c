/* SPDX-License-Identifier: MIT */
/* Exploration: call-ins are counted, and at chosen ones the firmware waits for the next interrupt.
 */
#include <string.h>

#include "list.h"
#include "sim/core/cpu.h"

#define MOST_POINTS  (1u << 22)
#define LONGEST_WAIT (WAD_PS_PER_S / 50) /* 20 ms */

typedef struct point {
    uintptr_t key, pc;
    uint32_t context; /* priority of what ran; UINT_MAX in main */
} point;

typedef struct explore {
    GArray *log; /* point; NULL: not kept */
    uint64_t *stops;
    unsigned n_stops, next;
    uint64_t count;
} explore;

static void forget(wadi_observer *o)
{
    explore *x = o->state;
    if (x->log)
        g_array_free(x->log, TRUE);
    g_free(x->stops);
    *x = (explore){.log = NULL};
}

void wad_sim_explore(wad_sim *sim, const uint64_t *stops, unsigned n_stops, bool log)
{
    wadi_observer *o = wadi_observer_of(sim, &wadi_check_explore);
    explore *x = o->state;
    forget(o);
    x->stops = g_memdup2(stops, n_stops * sizeof *stops);
    x->n_stops = n_stops;
    x->log = log ? g_array_new(FALSE, FALSE, sizeof(point)) : NULL;
    wadi_hear(o, WADI_EAR_CALL_IN | WADI_EAR_BEGIN, true);
}

static void begin_again(explore *x)
{
    x->count = x->next = 0;
    if (x->log)
        g_array_set_size(x->log, 0);
}

static void call_in(wad_sim *sim, explore *x, uintptr_t key)
{
    if (sim->cpu.masked) /* nothing can come here */
        return;
    point p = {key, sim->call.pc, sim->cpu.priority};
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

static void hear(wadi_observer *o, const wadi_told *t)
{
    if (t->ear == WADI_EAR_CALL_IN)
        call_in(o->sim, o->state, (uintptr_t)t->address);
    else
        begin_again(o->state);
}

/* Its ears open when exploration is asked for. */
const wadi_observer_class wadi_check_explore = {
    .name = "explore",
    .state_size = sizeof(explore),
    .detach = forget,
    .hear = hear,
};

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
    const explore *x = wadi_observer_of(sim, &wadi_check_explore)->state;
    GArray *found = g_array_new(FALSE, FALSE, sizeof(wad_call_in));
    if (x->log) {
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
