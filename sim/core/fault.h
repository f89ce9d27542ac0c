/* SPDX-License-Identifier: MIT */
/* Accesses that cannot be completed. */
#ifndef WADI_FAULT_H
#define WADI_FAULT_H

#include "wadium/host/sim.h"

/** After an access that the core cannot complete: takes `story`. */
void wadi_bus_fault(wad_sim *sim, char *story) __attribute__((noreturn));

/** The default handler of bus faults was entered. */
void wadi_bus_fault_unhandled(wad_sim *sim) __attribute__((noreturn));

/** An access ("read of", "write to") where nothing is. */
void wadi_unmapped(wad_sim *sim, uint64_t address, const char *what) __attribute__((noreturn));
void wadi_misaligned(wad_sim *sim, uint64_t address, unsigned bytes) __attribute__((noreturn));

#endif
