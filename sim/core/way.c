/* SPDX-License-Identifier: MIT */
#include "way.h"

#include <string.h>

#include "block.h"

static const wadi_way *true_way(const wad_model *m, const wadi_binding *b, unsigned i)
{
    const wadi_block *home = m->block->home ? m->block->home : m->block;
    for (unsigned k = 0; k < b->n_ways; k++) {
        const wadi_way *w = &b->ways[k];
        if ((i < w->count || w->role->law) &&
            (!w->role->when || wadi_cond_holds(home, &w->role->when[i])))
            return w;
    }
    return NULL;
}

static void choose(const wad_model *m, wadi_binding *b)
{
    for (unsigned i = 0; i < b->count; i++) {
        const wadi_way *w = true_way(m, b, i);
        b->chosen[i] = w ? w->role : NULL;
        if (!w) {
            b->odd[i] = (wadi_odd_place){WAD_PLACE_ALWAYS, 0, 0};
            continue;
        }
        memcpy(&b->parts[(size_t)i * b->n_parts], &w->parts[(size_t)i * b->n_parts],
               b->n_parts * sizeof *b->parts);
        b->odd[i] = w->odd[i];
    }
}

void wadi_ways_choose(wad_model *m)
{
    for (unsigned r = 0; r < m->n_roles; r++)
        if (m->roles[r].n_ways)
            choose(m, &m->roles[r]);
}

void wadi_ways_free(wadi_binding *b)
{
    for (unsigned k = 0; k < b->n_ways; k++) {
        g_free(b->ways[k].parts);
        g_free(b->ways[k].odd);
    }
    g_free(b->ways);
    g_free(b->chosen);
}
