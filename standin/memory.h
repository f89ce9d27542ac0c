/* SPDX-License-Identifier: MIT */
#ifndef WADI_BOARD_DEBUG_H
#define WADI_BOARD_DEBUG_H

#include "wadium/host/sim.h"

/** `memory` is where the range lies as bytes, NULL: it is not memory. False: nothing is there. */
bool wadi_debug_read(wad_sim *sim, const uint8_t *memory, uint64_t address, uint8_t *bytes,
                     size_t n);
bool wadi_debug_write(wad_sim *sim, uint8_t *memory, uint64_t address, const uint8_t *bytes,
                      size_t n);

#endif
