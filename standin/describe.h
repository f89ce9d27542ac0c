/* SPDX-License-Identifier: MIT */
/* What a debugger is told of the core's registers. */
#ifndef WADI_BOARD_DESCRIBE_H
#define WADI_BOARD_DESCRIBE_H

#include "wadium/host/sim.h"

#define WADI_ARM_REGISTERS    21u
#define WADI_NATIVE_REGISTERS 40u

extern const char wadi_describe_arm[], wadi_describe_native[];

/** Of firmware that runs on the host's own core: where it is, and its frame; the others have no
 * value between two accesses. How many bytes. */
unsigned wadi_native_register(const wad_sim *sim, unsigned number, uint8_t *bytes, unsigned *size);

#endif
