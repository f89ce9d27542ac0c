/* SPDX-License-Identifier: MIT */
#ifndef WADI_HANDLER_H
#define WADI_HANDLER_H

#include "wadium/host/sim.h"

/** A handler has returned: `falls` of its line before it ran. */
void wadi_check_storm(wad_sim *sim, unsigned line, unsigned falls, wad_handler handler);
void wadi_check_period(wad_sim *sim, unsigned line, unsigned falls, wad_handler handler,
                       const wad_irq_record *record);

#endif
