/* SPDX-License-Identifier: MIT */
/* What the chip draws. */
#ifndef WADI_CHARGE_H
#define WADI_CHARGE_H

#include "wadium/host/sim.h"

void wadi_charge_build(wad_sim *sim);
void wadi_charge_free(wad_sim *sim);
void wadi_charge_reset(wad_sim *sim);

/** Clocks, blocks or the core's sleep have changed: the charge up to now is taken. */
void wadi_charge_update(wad_sim *sim);

/** The core has woken for a line (WADI_NO_LINE: the run began), or goes to sleep. */
void wadi_charge_wakes(wad_sim *sim, unsigned line);
void wadi_charge_sleeps(wad_sim *sim);

#endif
