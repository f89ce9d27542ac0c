/* SPDX-License-Identifier: MIT */
/* Ends and resets from inside a run. */
#ifndef WADI_STOP_H
#define WADI_STOP_H

#include "wadium/host/sim.h"

#define WADI_STACK_SIZE ((size_t)1 << 20) /* of the firmware */

/** Ends the run from inside the firmware: back to wad_sim_run. */
void wadi_run_stop(wad_sim *sim, wad_run_end end, char *story) __attribute__((noreturn));

/** Resets the chip from inside: registers, variables, and main from its beginning; time goes on. */
void wadi_run_reset(wad_sim *sim, const char *by) __attribute__((noreturn));

/** The chip begins anew as by its reset pin: nobody is to blame. */
void wadi_run_again(wad_sim *sim) __attribute__((noreturn));

#endif
