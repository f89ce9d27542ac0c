/* SPDX-License-Identifier: MIT */
/* How deep the core sleeps, and the way back. */
#ifndef WADI_SLEEP_H
#define WADI_SLEEP_H

#include "wadium/host/sim.h"

/** The core stops: clocks of the level that is set stop with it. */
void wadi_sleep_enter(wad_sim *sim);

/** A request has come: the time to wake passes, the clocks are back. */
void wadi_sleep_leave(wad_sim *sim);

/** The last handler has returned: does the core go back to sleep? */
bool wadi_sleep_again(wad_sim *sim);
/** Do the bits of the status register that entries save say so? */
bool wadi_sleep_by_status(const wad_sim *sim);

/** The same where main was not asleep: only a bit that asks for it does that. */
bool wadi_sleep_on_exit(const wad_sim *sim);

#endif
