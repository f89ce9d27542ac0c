/* SPDX-License-Identifier: MIT */
/* Pins that several things outside of the chip drive: who drives what, and what comes of it. */
#ifndef WADI_WORLD_H
#define WADI_WORLD_H

#include <glib.h>

#include "wadium/host/sim.h"

typedef struct wadi_world wadi_world;
typedef struct wadi_driver wadi_driver;

wadi_world *wadi_world_new(wad_sim *sim);
void wadi_world_free(wadi_world *world);
/** Something that can drive the pin; it does not yet. Lives as long as the world. */
wadi_driver *wadi_world_driver(wadi_world *world, const wad_pin_def *pin);
/** Its level, WAD_FLOATING to let go. Where two drive against each other low wins. */
void wadi_drive(wadi_driver *driver, wad_level level);

#endif
