/* SPDX-License-Identifier: MIT */
/* Firmware as a shared object of the host. */
#ifndef WADI_FIRMWARE_H
#define WADI_FIRMWARE_H

#include "sim/core/carrier.h"
#include "wadium/host/sim.h"

void wadi_firmware_unload(wad_sim *sim);
void wadi_firmware_restore(wad_sim *sim);

/** The handler of a line, NULL without one. */
wad_handler wadi_firmware_handler(const wad_sim *sim, unsigned line);

/** Firmware that is a shared object of this process. */
extern const wadi_carrier wadi_host_carrier;

#endif
