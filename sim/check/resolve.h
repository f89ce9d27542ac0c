/* SPDX-License-Identifier: MIT */
/* Findings of a run that is over. */
#ifndef WADI_RESOLVE_H
#define WADI_RESOLVE_H

#include "wadium/host/sim.h"

/** Looks the source lines of all findings up. */
void wadi_findings_resolve(wad_sim *sim);

#endif
