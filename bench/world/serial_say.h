/* SPDX-License-Identifier: MIT */
/* Serial lines of a bench. */
#ifndef WADI_SERIAL_SAY_H
#define WADI_SERIAL_SAY_H

#include "bench/language/bench.h"

extern const wad_part_class wadi_part_peer;

/** The other end at a part of the board with wires TX or RX; false: it has none. */
bool wadi_serial_on_part(wadi_part_said *said, const wad_part_def *part);
/** One more line of the bench, set as the chip is; its number, -1: the part has no such wires. */
int wadi_serial_add(wad_bench *bench, const wad_part_def *part);

#endif
