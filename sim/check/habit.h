/* SPDX-License-Identifier: MIT */
/* What handlers and loops should not do. */
#ifndef WADI_HABIT_H
#define WADI_HABIT_H

#include "sim/core/carrier.h"
#include "sim/core/register.h"
#include "sim/core/sim.h"

void wadi_handler_entered(wad_sim *sim);
void wadi_handler_sleeps(wad_sim *sim);

/** A function that prints was called, by its name. */
void wadi_handler_prints(const char *function, uintptr_t pc, void *frame);

/** Where the running firmware's standard output and input go; NULL: none runs. */
wadi_stdio *wadi_firmware_stdio(void);
void wadi_handler_reads(wad_sim *sim, const wadi_slot *slot);

static inline void wadi_handler_writes(wad_sim *sim)
{
    sim->waits.reads = 0;
}

/** Handlers of the firmware that no vector calls. */
void wadi_check_handler_names(wad_sim *sim);

/** A variable that handlers write was read outside of them. */
void wadi_ticks_read(wad_sim *sim, uintptr_t address, size_t bytes);
void wadi_ticks_end(wad_sim *sim);
void wadi_ticks_reset(wad_sim *sim);

#endif
