/* SPDX-License-Identifier: MIT */
#ifndef WADI_CHAIN_H
#define WADI_CHAIN_H

#include "wadium/host/sim.h"

/** The run is over: which link of the line's chain is missing. */
void wadi_check_line(wad_sim *sim, unsigned line);

#endif
