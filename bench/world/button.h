/* SPDX-License-Identifier: MIT */
/* A button's contact. */
#ifndef WADI_BUTTON_H
#define WADI_BUTTON_H

#include <glib.h>

#include "wadium/host/board.h"
#include "wadium/host/sim.h"

/** A button's contact: how it stands pressed, and at rest. */
wad_level wadi_button_level(const wad_part_def *button, bool pressed);

/** Times of an even number of extra changes within `length` of `ps`, ascending; how many. */
unsigned wadi_bounce_times(GRand *rand, uint64_t ps, uint64_t length, uint64_t times[8]);

#endif
