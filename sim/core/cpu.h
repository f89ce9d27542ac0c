/* SPDX-License-Identifier: MIT */
/* The core: its time. */
#ifndef WADI_CPU_H
#define WADI_CPU_H

#include "sim.h"

/** Takes `cycles` of core time: events that fall due run, interrupts are delivered. */
void wadi_cpu_spend(wad_sim *sim, uint64_t cycles);

/** The slow half of an access: events and interrupts that are due. */
void wadi_cpu_service(wad_sim *sim);
void wadi_cpu_recheck(wad_sim *sim);
void wadi_cpu_sleep(wad_sim *sim);
/** In a handler: bits of what its exit restores. */
void wadi_cpu_saved(wad_sim *sim, uint32_t clear, uint32_t set);

/** Waits for an interrupt to be served, `limit_ps` at the most. */
void wadi_cpu_hold(wad_sim *sim, uint64_t limit_ps);

/** Never returns: main is an empty loop, or a default handler has parked. */
void wadi_cpu_idle(wad_sim *sim) __attribute__((noreturn));

/** The default handler: reports that the line has none, and parks. */
void wadi_cpu_no_handler(wad_sim *sim, unsigned line) __attribute__((noreturn));
void wadi_cpu_reset(wad_sim *sim);
static inline void wadi_cpu_access(wad_sim *sim)
{
    sim->now += sim->cost.access_ps;
    sim->cost.access_carry += sim->cost.access_rem;
    if (sim->cost.access_carry >= sim->cost.access_den) {
        sim->cost.access_carry -= sim->cost.access_den;
        sim->now++;
    }
    if (sim->now >= sim->due)
        wadi_cpu_service(sim);
}
/** Calls who asked for a look. */
void wadi_look(wad_sim *sim);

#endif
