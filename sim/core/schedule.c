/* SPDX-License-Identifier: MIT */
/* What will happen, and when. */
#include "schedule.h"

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
