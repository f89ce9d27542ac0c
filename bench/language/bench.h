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
    GArray *clock_errors; /* wadi_clock_error */
    GArray *failures;     /* wadi_clock_failure */
    GArray *pin_defects;  /* wadi_pin_defect */
    GArray *recorded;     /* wadi_recorded */
    wadi_recording recording;
    GArray *requirements;   /* wadi_requirement */
    GArray *peers;          /* wadi_peer_def */
    GArray *says;           /* wadi_peer_say */
    GArray *troubles;       /* wadi_trouble */
    GArray *devices;        /* wadi_spi_def */
    GArray *values;         /* wadi_spi_value */
    GArray *jumpers;        /* wadi_jumper_def */
    GArray *spi_troubles;   /* wadi_spi_trouble */
    GArray *power_failures; /* uint64_t */
    GArray *silences;       /* wadi_silence_rule */
    GArray *irq_probes;     /* wadi_irq_probe */
    GArray *probes;         /* wadi_probe */
    GArray *stimuli;        /* wadi_stimulus */
    GArray *expects;        /* wadi_expectation */
    GArray *memories;       /* wadi_memory_def */
    wadi_analog_said analog;
    GPtrArray *point_lists; /* of analog sources, GArray of wad_sample */
};

#endif
