/* SPDX-License-Identifier: MIT */
/* Time goes on: events run when they are due. */
#ifndef WADI_ADVANCE_H
#define WADI_ADVANCE_H

#include "feed.h"
#include "schedule.h"

static inline void wadi_set_due(wad_sim *sim)
{
    const wad_event *first = wadi_queue_first(&sim->queue);
    sim->due = first ? first->ps : UINT64_MAX;
}

static inline void wadi_run_events(wad_sim *sim)
{
    uint64_t until = sim->now;
    wad_event *e;
    while ((e = wadi_queue_first(&sim->queue)) && e->ps <= until) {
        wadi_queue_remove(&sim->queue, e);
        sim->now = e->ps;
        e->fn(e);
        wadi_settle(sim);
    }
    sim->now = until;
}

void wadi_cpu_set_core(wad_sim *sim);

void wadi_cpu_advance(wad_sim *sim, uint64_t cycles);

/** Time passes, events run, no handler is entered. */
void wadi_cpu_let_pass(wad_sim *sim, uint64_t ps);

#endif
