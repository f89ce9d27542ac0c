/* SPDX-License-Identifier: MIT */
/* Findings that are not to be told. */
#ifndef WADI_SILENCE_H
#define WADI_SILENCE_H

#include "wadium/host/sim.h"

/* A finding that is not to be told, and how many the last run left out for it. */
typedef struct wadi_silence {
    wad_silence rule;
    unsigned hits;
} wadi_silence;

bool wadi_silenced(wad_sim *sim, const wad_finding *finding);

#endif
