/* SPDX-License-Identifier: MIT */
#include "statement.h"

#include <string.h>

void wadi_plan(const wadi_setting *s, uint64_t ps, void (*fn)(wad_sim *sim, void *what),
               const void *what, size_t size)
{
    void *own = g_memdup2(what, size);
    g_ptr_array_add(s->owned, own);
    wad_sim_at(s->sim, ps, fn, own);
}

void wadi_bench_keep(wad_bench *b, const wadi_statement_class *cls, const void *said)
{
    void *own = wadi_arena_alloc(b->arena, cls->said_size);
    memcpy(own, said, cls->said_size);
    wadi_said one = {cls, own};
    g_array_append_val(b->said, one);
}

const void *wadi_bench_said(const wad_bench *b, const wadi_statement_class *cls, unsigned i)
{
    for (guint k = 0; k < b->said->len; k++) {
        const wadi_said *said = &g_array_index(b->said, wadi_said, k);
        if (said->cls == cls && i-- == 0)
            return said->what;
    }
    return NULL;
}
