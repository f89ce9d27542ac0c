/* SPDX-License-Identifier: MIT */
/* `expect`: read, measured, judged. */
#ifndef WADI_EXPECT_H
#define WADI_EXPECT_H

#include "bench/language/bench.h"
#include "bench/measure/dma.h"
#include "bench/measure/grid.h"
#include "bench/world/serial_peer.h"
#include "bench/world/spi_bus.h"
#include "lang/cursor.h"
#include "wadium/host/meter.h"

bool wadi_parse_expect(wad_bench *bench, wadi_cursor *c);

/** Behind `expect`; false: it names no data mover. */
bool wadi_parse_mover(wad_bench *bench, wadi_cursor *c, wadi_expect *e);

/* Meters of one expectation. */
typedef struct wadi_gauge {
    const wadi_expect *expect;
    wad_meter meter;
    wad_stats period, latency;
    wadi_grid_meter grid;
    uint64_t count, last_entry;
    const wadi_peer *peer;
    const wadi_bus_set *buses;
    const wadi_movers *movers;
    wad_level level_then;
    double charge_then; /* coulombs at the window's begin */
} wadi_gauge;

/* Takes one more edge of the gauge's probe into what its expectation measures. */
void wadi_gauge_edge(wadi_gauge *gauge, uint64_t ps, wad_level level);

typedef struct wadi_judged {
    char *measured;
    bool passed;
} wadi_judged;

/* ---- expect.c, for expect_analog.c ---- */
bool wadi_expect_wanted(wadi_cursor *c, wadi_expect *e, wad_unit unit);
bool wadi_expect_within(wadi_cursor *c, wadi_expect *e, wad_unit unit);
bool wadi_expect_close(const wadi_expect *e, double value);

/* ---- say_dma.c ---- */
wadi_judged wadi_judge_mover(const wadi_gauge *gauge, wad_sim *sim, const wad_run_result *run);

/* ---- expect_analog.c ---- */
void wadi_parse_volts(wadi_cursor *c, wadi_expect *e);
void wadi_parse_current(wadi_cursor *c, wadi_expect *e);

wadi_judged wadi_judge_volts(const wadi_gauge *gauge, const wad_capture *capture,
                             const wad_run_result *run);
wadi_judged wadi_judge_current(const wadi_gauge *gauge, wad_sim *sim, const wad_run_result *run);

wadi_judged wadi_judge(const wadi_gauge *gauge, wad_sim *sim, const wad_capture *capture,
                       const wad_run_result *run);

#endif
