/* SPDX-License-Identifier: MIT */
/* Pins that are stuck, pulls that are missing. */
#ifndef WADI_PIN_DEFECT_H
#define WADI_PIN_DEFECT_H

#include "bench/language/bench.h"
#include "lang/cursor.h"

/** `stick LEVEL1 low`, `pull TEST missing`: false when it is neither. */
bool wadi_say_defect(wad_bench *bench, wadi_cursor *c);
void wadi_set_up_defects(const wad_bench *bench, wad_sim *sim, GPtrArray *steps);

/** The bench says that a board's or the chip's pull at this pin is missing. */
bool wadi_pull_is_missing(const wad_bench *bench, const wad_pin_def *pin);

#endif
