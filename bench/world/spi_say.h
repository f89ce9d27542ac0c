/* SPDX-License-Identifier: MIT */
/* The bench language's words for SPI, jumpers and the power. */
#ifndef WADI_SPI_SAY_H
#define WADI_SPI_SAY_H

#include "bench/language/bench.h"
#include "lang/cursor.h"

void wadi_buses_init(wad_bench *bench);
void wadi_buses_clear(wad_bench *bench);

/** A statement about exchange buses, jumpers or the power; false: it is none. */
bool wadi_say_bus(wad_bench *bench, wadi_cursor *c);

#endif
