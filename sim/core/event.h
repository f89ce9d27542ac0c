/* SPDX-License-Identifier: MIT */
#ifndef WADI_EVENT_H
#define WADI_EVENT_H

#include "sim.h"

/** A run begins: what was asked for by wad_sim_at is due. */
void wadi_user_events_begin(wad_sim *sim);

#endif
