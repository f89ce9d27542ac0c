/* SPDX-License-Identifier: MIT */
/* What a bench says of DMA controllers and of memory: captures, expectations, memory before and
 * after.
 */

#include "memory.h"
#include "bench/language/said.h"
#include "wadium/host/variables.h"

/* ---- memory before and after ---- */

static void look(wad_sim *sim, wadi_memory_view *m, uint8_t **bytes, uint64_t *at)
{
    wad_variable v;
    char *why = NULL;
    *at = wad_sim_now(sim);
    if (wad_variable_find(sim, m->shown.name, &v, &why)) {
        m->shown.bytes = v.bytes;
        *bytes = g_memdup2(v.address, v.bytes);
    } else if (!m->why) {
        m->why = why;
        why = NULL;
    }
    g_free(why);
}

static void look_before(wad_sim *sim, void *ctx)
{
    wadi_memory_view *m = ctx;
    look(sim, m, &m->before, &m->shown.from_ps);
}

static void look_after(wad_sim *sim, void *ctx)
{
    wadi_memory_view *m = ctx;
    look(sim, m, &m->after, &m->shown.to_ps);
}

GPtrArray *wadi_memories_begin(wad_sim *sim, GArray *defs)
{
    GPtrArray *list = g_ptr_array_new();
    for (guint i = 0; i < defs->len; i++) {
        const wadi_memory_def *d = &g_array_index(defs, wadi_memory_def, i);
        wadi_memory_view *m = g_new0(wadi_memory_view, 1);
        m->shown.name = d->name;
        wad_sim_at(sim, d->from_ps, look_before, m);
        if (d->to_ps != UINT64_MAX)
            wad_sim_at(sim, d->to_ps, look_after, m);
        g_ptr_array_add(list, m);
    }
    return list;
}

void wadi_memories_end(wad_sim *sim, GPtrArray *list, GArray *shown, GPtrArray *notes)
{
    for (guint i = 0; i < list->len; i++) {
        wadi_memory_view *m = list->pdata[i];
        if (!m->after)
            look_after(sim, m);
        m->shown.before = m->before;
        m->shown.after = m->after;
        if (m->before && m->after)
            g_array_append_val(shown, m->shown);
        else
            g_ptr_array_add(notes,
                            g_strdup_printf("memory %s: %s", m->shown.name,
                                            m->why ? m->why : "the run ended before that time"));
    }
}

void wadi_memories_free(GPtrArray *list)
{
    for (guint i = 0; list && i < list->len; i++) {
        wadi_memory_view *m = list->pdata[i];
        g_free(m->before);
        g_free(m->after);
        g_free(m->why);
        g_free(m);
    }
    if (list)
        g_ptr_array_free(list, TRUE);
}
