/* SPDX-License-Identifier: MIT */
/* Services of interrupts. */
#ifndef WADI_INTERRUPT_H
#define WADI_INTERRUPT_H

#include "wadium/host/sim.h"

/** Serves what is deliverable, and what comes meanwhile. */
void wadi_irq_deliver(wad_sim *sim);

/* One service of the line that the controller chose, for whoever runs handlers himself. */
typedef struct wadi_service {
    unsigned outer_priority, outer_line;
    wad_irq_record record;
    uint32_t saved, *outer_saved; /* of the core's status register */
} wadi_service;

void wadi_irq_take(wad_sim *sim, wadi_service *s);

/** Hardware forgets what it serves: requests by software or by an edge. */
void wadi_irq_forget(wad_sim *sim, wadi_service *s);
void wadi_irq_leave(wad_sim *sim, wadi_service *s);

#endif
