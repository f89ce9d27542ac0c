/* SPDX-License-Identifier: MIT */
/* Edges against the ideal grid that begins at the first of them: jitter, drift, what is missing. */
#ifndef WADI_GRID_H
#define WADI_GRID_H

#include "wadium/host/meter.h"

typedef struct wadi_grid_meter {
    wad_rational period; /* in seconds */
    uint64_t n;
    uint64_t first_ps, last; /* the last one's place on the grid */
    uint64_t missing, doubled;
    int64_t earliest, latest, last_off; /* picoseconds off the grid; the first edge is on it */
    double sum_squares;
} wadi_grid_meter;

void wadi_grid_init(wadi_grid_meter *grid, wad_rational period_s);
void wadi_grid_edge(wadi_grid_meter *grid, uint64_t ps);
/** The root of the mean square of what the edges are off, in picoseconds. */
double wadi_grid_rms(const wadi_grid_meter *grid);
/** How far the last edge is off, as a share of the time since the first one. */
double wadi_grid_drift(const wadi_grid_meter *grid);

#endif
