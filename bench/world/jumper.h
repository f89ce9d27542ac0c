/* SPDX-License-Identifier: MIT */
/* A wire between two pins of the chip. */
#ifndef WADI_JUMPER_H
#define WADI_JUMPER_H

#include "wadium/host/part.h"

extern const wad_part_class wadi_part_jumper;

#endif
