/* SPDX-License-Identifier: MIT */
/* Clocks that come out at pins. */
#ifndef WADI_CLOCK_OUT_H
#define WADI_CLOCK_OUT_H

#include "pin.h"

void wadi_clockouts_build(wad_sim *sim);

/** After a clock, or where a signal comes out, changed: the outputs run or stop. */
void wadi_clockouts_update(wad_sim *sim);

#endif
