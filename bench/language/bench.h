/* SPDX-License-Identifier: MIT */
/* A bench as data: all that was said. */
#ifndef WADI_BENCH_H
#define WADI_BENCH_H

#include <glib.h>

#include "lang/arena.h"
#include "said.h"
#include "wadium/host/bench.h"

typedef enum wadi_expect_type {
    WADI_EXPECT_FREQUENCY,
    WADI_EXPECT_DUTY,
    WADI_EXPECT_HIGH,
    WADI_EXPECT_LOW,
    WADI_EXPECT_PERIOD,
    WADI_EXPECT_EDGES,
    WADI_EXPECT_GRID,
    WADI_EXPECT_LEVEL,
    WADI_EXPECT_IRQ_PERIOD,
    WADI_EXPECT_IRQ_GRID,
    WADI_EXPECT_IRQ_LATENCY,
    WADI_EXPECT_IRQ_COUNT,
    WADI_EXPECT_AWAKE,
    WADI_EXPECT_SAYS,
    WADI_EXPECT_BYTES,
    WADI_EXPECT_PEER_ERRORS,
    WADI_EXPECT_SPI_FRAMES,
    WADI_EXPECT_SPI_SELECTS,
    WADI_EXPECT_SPI_REFUSALS,
    WADI_EXPECT_TONE,
    WADI_EXPECT_AMPLITUDE,
    WADI_EXPECT_MEAN,
    WADI_EXPECT_DISTORTION,
    WADI_EXPECT_SAMPLES,
    WADI_EXPECT_STAYS,
    WADI_EXPECT_CURRENT,
    WADI_EXPECT_CURRENT_BELOW,
    WADI_EXPECT_ELEMENTS,
    WADI_EXPECT_ELEMENT_LATENCY,
    WADI_EXPECT_BUS,
    WADI_EXPECT_NO_FINDINGS,
    WADI_EXPECT_FINDING
} wadi_expect_type;

typedef struct wadi_expect {
    wadi_expect_type type;
    wad_where where;
    unsigned probe; /* of a pin */
    unsigned line;  /* of an interrupt; of a serial line's peer, or a device, its number */
    const wad_instance *mover; /* of its channel `line` */
    const char *says;
    const char *subject;
    wad_rational wanted; /* in base units: Hz, s, share */
    wad_rational within;
    wad_unit within_unit; /* the wanted value's own unit, or WAD_UNIT_PART of it */
    wad_level level;
    uint64_t at_ps;
    uint64_t from_ps, to_ps;
    const char *file; /* of a finding: where it must stand */
    unsigned file_line;
    const char *text; /* as wanted, for the report */
} wadi_expect;

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
    GArray *expects;        /* wadi_expect */
    GArray *memories;       /* wadi_memory_def */
    wadi_analog_said analog;
    GPtrArray *point_lists; /* of analog sources, GArray of wad_sample */
};

#endif
