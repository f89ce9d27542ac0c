/* SPDX-License-Identifier: MIT */
/* What a bench says, for whoever asks. */

#include "bench.h"
#include "said.h"

const char *wad_bench_title(const wad_bench *b)
{
    return b->title;
}

const wad_board *wad_bench_board(const wad_bench *b)
{
    return b->board;
}

const wad_pin_def *wad_bench_captured(const wad_bench *b, unsigned i, const char **name)
{
    for (guint k = 0; k < b->probes->len; k++) {
        const wadi_probe *p = &g_array_index(b->probes, wadi_probe, k);
        if (!p->pin || i--)
            continue;
        *name = p->name;
        return p->pin;
    }
    return NULL;
}

const wad_sheet *wad_bench_sheet(const wad_bench *b)
{
    return b->sheet;
}
