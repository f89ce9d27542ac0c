/* SPDX-License-Identifier: MIT */
/* Memory that DMA works on. */
#ifndef WADI_OWNED_H
#define WADI_OWNED_H

#include "wadium/host/sim.h"

void wadi_owned_access(wad_sim *sim, uintptr_t address, size_t bytes, bool write);

#endif
