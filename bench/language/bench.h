/* SPDX-License-Identifier: MIT */
/* A bench as data: all that was said. */
#ifndef WADI_BENCH_H
#define WADI_BENCH_H

#include <glib.h>

#include "expectation.h"
#include "lang/arena.h"
#include "said.h"
#include "wadium/host/bench.h"

struct wad_bench {
    wadi_arena *arena;
    const char *title;
    const char *file; /* NULL when said in C */
    const wad_board *board;
    const wad_sheet *sheet;
    wad_board *own_board; /* read because the bench names it */
    wad_sheet *own_sheet;
    const char *firmware;
    uint64_t run_ps;
    uint32_t seed;
    unsigned load;        /* percent */
    GArray *said;         /* wadi_said: what statements keep for a run's begin */
    GPtrArray *parts;     /* wadi_part_said, in the arena */
    GPtrArray *libraries; /* of parts in C, of dlopen */
    GArray *recorded;     /* wadi_recorded */
    wadi_recording recording;
    GArray *irq_probes; /* wadi_irq_probe */
    GArray *probes;     /* wadi_probe */
    GArray *expects;    /* wadi_expectation */
    GArray *memories;   /* wadi_memory_def */
    wadi_analog_said analog;
    GPtrArray *point_lists; /* of analog sources, GArray of wad_sample */
};

#endif
