/* SPDX-License-Identifier: MIT */
/* Running values that are read in parts. */
#ifndef WADI_SPLIT_H
#define WADI_SPLIT_H

#include "sim/core/register.h"

/** A part of a running value that nothing holds was read. */
void wadi_split_read(wad_sim *sim, const wadi_slot *slot);

/** The run is over: a read that nobody checked is told. */
void wadi_split_end(wad_sim *sim);

#endif
