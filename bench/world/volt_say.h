/* SPDX-License-Identifier: MIT */
/* The bench language's words for volts. */
#ifndef WADI_VOLT_SAY_H
#define WADI_VOLT_SAY_H

#include "bench/language/bench.h"
#include "bench/language/said.h"
#include "lang/cursor.h"

void wadi_volts_init(wad_bench *bench);
void wadi_volts_clear(wad_bench *bench);

/** `PRESSURE level 1.2 V behind 10 kohm noise 2 mV at 3 s` */
void wadi_parse_source(wad_bench *bench, wadi_cursor *c, wadi_analog_def *def);

/** "50 mV", perhaps with a minus. */
bool wadi_parse_volts_amount(wadi_cursor *c, double *volts);

/** Behind `capture PIN` (NULL: `capture current`); false: it is no analog capture. */
bool wadi_capture_volts(wad_bench *bench, wadi_cursor *c, const wad_pin_def *pin, const char *name);

#endif
