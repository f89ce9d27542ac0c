/* SPDX-License-Identifier: MIT */
/* `memory ...` */
#ifndef WADI_LANGUAGE_MEMORY_H
#define WADI_LANGUAGE_MEMORY_H

#include "bench.h"
#include "lang/cursor.h"

/** `memory NAME from T to T`; false: it is something else. */
bool wadi_say_memory(wad_bench *bench, wadi_cursor *c);

#endif
