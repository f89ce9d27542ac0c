/* SPDX-License-Identifier: MIT */
/*
 * Who masks a line, and says how urgent it is: a unit of kind interrupts, places of the line's own
 * (`line 1 { enabled ENA.T0 }`), or nobody; and the global mask.
 */
#ifndef WADI_CONTROLLER_H
#define WADI_CONTROLLER_H

#include "sim.h"

/* What registers say of a line, or of all. */
typedef struct wadi_gate {
    enum { WADI_GATE_ENABLED, WADI_GATE_PRIORITY, WADI_GATE_GLOBAL } what;
    const wad_line_def *line;
    wadi_slot *slots[4]; /* one a part */
    wad_role_place place;
} wadi_gate;

/* What hardware writes into a register. */
typedef struct wadi_set {
    wadi_slot *slot;
    uint32_t mask, bits;
} wadi_set;
/** Writes what `on entry` or `on exit` says; models are told. */
void wadi_cpu_write(wad_sim *sim, const GArray *sets);

/** After the reset of the registers. */
void wadi_controller_reset(wad_sim *sim);
/** A register of a line's places, or of the global mask, has changed. */
void wadi_controller_settle(wad_sim *sim, const wadi_slot *slot);

/** The global mask is closed or opened: the port's, or the sheet's field. */
void wadi_cpu_mask(wad_sim *sim, bool closed);

#endif
