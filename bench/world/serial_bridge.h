/* SPDX-License-Identifier: MIT */
/* Somebody real at the other end of a serial line. */
#ifndef WADI_BRIDGE_H
#define WADI_BRIDGE_H

#include "bench/language/bench.h"
#include "bench/language/said.h"
#include "serial_peer.h"

typedef struct wadi_bridge wadi_bridge;

/** The number of the peer on that line, made when the bench says nothing of it. -1: `why`. */
int wadi_bridge_line(wad_bench *bench, const char *line, char **why);

/** `with` and `peer` must outlive it. */
wadi_bridge *wadi_bridge_new(wad_sim *sim, wad_part *peer, const wad_bridge *with);
void wadi_bridge_free(wadi_bridge *bridge);

#endif
