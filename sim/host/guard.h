/* SPDX-License-Identifier: MIT */
/* Watches over a run from the host's side: crashes, and loops that touch nothing. */
#ifndef WADI_GUARD_H
#define WADI_GUARD_H

#include "sim/core/sim.h"

/** Installs fault handlers and the host timer for this thread; false: `why` (g_free). */
bool wadi_guard_enter(wad_sim *sim, char **why);
void wadi_guard_leave(wad_sim *sim);
/** What of the firmware's is going on, a wad_busy or 0, for who watches this process. */
void wadi_guard_busy(int busy);
/** At a call-in that the host timer asked for: says what the loop was, and ends one for ever. */
void wadi_guard_alarm(wad_sim *sim);

#endif
