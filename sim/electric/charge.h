/* SPDX-License-Identifier: MIT */
/* What the chip draws. */
#ifndef WADI_CHARGE_H
#define WADI_CHARGE_H

#include "wadium/host/sim.h"

/** An observer, where the sheet states currents. */
void wadi_charge_attach(wad_sim *sim);

#endif
