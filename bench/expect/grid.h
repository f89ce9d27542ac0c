/* SPDX-License-Identifier: MIT */
/* `grid`, of a pin's rising edges and of a handler's entries. */
#ifndef WADI_EXPECT_GRID_H
#define WADI_EXPECT_GRID_H

#include "bench/measure/grid.h"
#include "expectation.h"

/** `3 Hz within 62 us`, `500 ms within 10 us`: the wanted value is kept as a period. */
bool wadi_parse_grid(wad_bench *bench, wadi_cursor *c, wadi_expectation *e);
void wadi_begin_grid(const wadi_expectation *e, void *state, const wadi_scene *scene);
wadi_judged wadi_judge_grid(const wadi_expectation *e, void *state, const wadi_scene *scene);

#endif
