/* SPDX-License-Identifier: MIT */
/* Exploration: call-ins are counted, and at chosen ones the firmware waits for the next interrupt.
 */
#ifndef WADI_EXPLORE_H
#define WADI_EXPLORE_H

#include "sim/core/sim.h"

/* wadi_explore_point, for the accesses' hot path, stands in internal.h: a call-in that an interrupt
 * could meet, an access to `key`, a variable or a register. */
void wadi_explore_reset(wad_sim *sim);
void wadi_explore_free(wad_sim *sim);

#endif
