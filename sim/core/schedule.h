/* SPDX-License-Identifier: MIT */
/* What will happen, and when. */
#ifndef WADI_SCHEDULE_H
#define WADI_SCHEDULE_H

#include "sim.h"

void wadi_schedule(wad_sim *sim, wad_event *e, uint64_t ps);
void wadi_unschedule(wad_sim *sim, wad_event *e);

/** When that much time has passed from now. */
uint64_t wadi_delay_due(wad_sim *sim, const wad_delay *def);

#endif
