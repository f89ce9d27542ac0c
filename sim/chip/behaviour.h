/* SPDX-License-Identifier: MIT */
/* What registers do beyond storing, looked up once. */
#ifndef WADI_CHIP_BEHAVIOUR_H
#define WADI_CHIP_BEHAVIOUR_H

#include "sim/core/sim.h"

/** Once all blocks and models exist. */
void wadi_behaviour_build(wad_sim *sim);
void wadi_behaviour_free(wad_sim *sim);

#endif
