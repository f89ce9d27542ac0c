/* SPDX-License-Identifier: MIT */
/* Interrupts that are to be served within a time. */
#ifndef WADI_LATENCY_H
#define WADI_LATENCY_H

#include "wadium/host/sim.h"

void wadi_latency_reset(wad_sim *sim);
void wadi_latency_free(wad_sim *sim);
void wadi_latency_entered(wad_sim *sim, const wad_irq_record *record);
void wadi_latency_left(wad_sim *sim, const wad_irq_record *record, wad_handler handler);

/** The global mask was closed, or opened. */
void wadi_latency_mask(wad_sim *sim, bool closed);

#endif
