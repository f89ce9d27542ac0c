/* SPDX-License-Identifier: MIT */
/* The bench language's words for serial lines. */
#ifndef WADI_SERIAL_SAY_H
#define WADI_SERIAL_SAY_H

#include "bench/language/bench.h"
#include "bench/language/said.h"
#include "lang/cursor.h"

/** A statement about serial lines; false: it is none. */
bool wadi_say_serial(wad_bench *bench, wadi_cursor *c);

/** A part of the board with wires TX and RX. */
void wadi_peer_on_part(wadi_peer_def *def, const wad_part_def *part);

#endif
