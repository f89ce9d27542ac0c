/* SPDX-License-Identifier: MIT */
/* What will happen, and when. */
#include "schedule.h"

#include "clock.h"
#include "lang/rational.h"

void wadi_schedule(wad_sim *sim, wad_event *e, uint64_t ps)
{
    wadi_queue_add(&sim->queue, e, ps);
    if (ps < sim->due)
        sim->due = ps;
}

void wadi_unschedule(wad_sim *sim, wad_event *e)
{
    wadi_queue_remove(&sim->queue, e);
}

uint64_t wadi_delay_due(wad_sim *sim, const wad_delay *def)
{
    wadi_clock *clock = def->clock ? &sim->clocks[def->clock->index] : sim->cpu.core;
    if (!def->cycles)
        return sim->now + (uint64_t)(wadi_rat_double(def->amount) * 1e12 + 0.5);
    uint64_t n = (uint64_t)wadi_rat_floor(def->amount);
    if (!clock->domain.runs) /* it would never arrive: look again with the next edge there is */
        return sim->now + UINT64_C(1000000);
    return wadi_domain_edge(&clock->domain, wadi_domain_count(&clock->domain, sim->now) + n);
}
