/* SPDX-License-Identifier: MIT */
#ifndef WADI_KINDS_H
#define WADI_KINDS_H

#include "wadium/host/sheet.h"

/** So many items does a model's queue hold at most: `depth 64`. */
#define WADI_DEEPEST_QUEUE 64

/** Of each role the place of its interrupt enable, or -1: `n_roles` of them. */
void wadi_find_enables(const wad_kind *kind, int16_t *places);

#endif
