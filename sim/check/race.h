/* SPDX-License-Identifier: MIT */
/*
 * The race finder: variables and registers that handlers share with the code they interrupt.
 *
 * Contexts are main and each priority of handlers. Two accesses of different contexts, one of them
 * a write, race when the less urgent one is plain, runs with the interrupt possible, and nothing
 * orders the two: a volatile or atomic variable written in one and read in the other, a register
 * likewise, or the enabling of the interrupt. Order is kept as one clock a context (a vector
 * clock), as race detectors for threads do; but a handler's entry orders nothing.
 */
#ifndef WADI_RACE_H
#define WADI_RACE_H

#include "sim/core/sim.h"

typedef enum wadi_how { WADI_PLAIN, WADI_VOLATILE, WADI_ATOMIC } wadi_how;

#define WADI_CONTEXTS 8 /* main and seven priorities; further ones share the last */

/** An access of the firmware to its own variables; sim->call.pc and sim->call.frame say where. */
void wadi_race_access(wad_sim *sim, uintptr_t address, size_t bytes, bool write, wadi_how how);

#endif
