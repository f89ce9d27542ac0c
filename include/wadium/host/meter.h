/* SPDX-License-Identifier: MIT */
/*
 * Instruments. They take edges one by one and keep sums only, so that a capture
 * of any length is measured in constant memory.
 *
 *     wad_meter m;
 *     wad_meter_init(&m, 0, UINT64_MAX);
 *     wad_meter_edge(&m, ps, WAD_HIGH);  ...
 *     wad_meter_end(&m, end_ps);
 *     printf("%g Hz, %g %%\n", wad_meter_hz(&m), wad_meter_duty(&m) * 100);
 */
#ifndef WADIUM_HOST_METER_H
#define WADIUM_HOST_METER_H

#include "sim.h"

/** Of durations in picoseconds. */
typedef struct wad_stats {
    uint64_t n;
    uint64_t min, max;
    uint64_t first; /**< deviations are summed from here: equal values give exactly no jitter */
    double sum_dev;
    double sum_squares;
} wad_stats;

void wad_stats_add(wad_stats *stats, uint64_t value);
double wad_stats_mean(const wad_stats *stats);
/** Standard deviation of the values; 0 for fewer than two. */
double wad_stats_deviation(const wad_stats *stats);

typedef struct wad_meter {
    uint64_t from_ps, to_ps; /**< edges outside are not counted */
    uint64_t edges; /**< changes between low and high; a pin that begins to be driven has none */
    uint64_t first_rise, last_rise, last_fall;
    uint64_t rises, falls;
    uint64_t high_ps;    /**< high time from the first rise to the last one */
    wad_stats period;    /**< rise to rise */
    wad_stats high, low; /**< pulse widths */
    wad_level level;     /**< the last one */
    wad_level driven;    /* private: the last one that was not floating */
    uint64_t since;      /* private: when `level` began, within the window */
    uint64_t all_high;   /* private: high time in the whole window */
    uint64_t end_ps;
} wad_meter;

void wad_meter_init(wad_meter *meter, uint64_t from_ps, uint64_t to_ps);
void wad_meter_edge(wad_meter *meter, uint64_t ps, wad_level level);
void wad_meter_end(wad_meter *meter, uint64_t end_ps);

/** Mean frequency over whole periods, in hertz; 0 with fewer than two rising edges. */
double wad_meter_hz(const wad_meter *meter);
/** Share of high time over whole periods, 0 to 1; without a period, over the whole window. */
double wad_meter_duty(const wad_meter *meter);

#endif
