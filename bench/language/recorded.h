/* SPDX-License-Identifier: MIT */
/* `recorded ...`: how captures made elsewhere are taken. */
#ifndef WADI_RECORDED_H
#define WADI_RECORDED_H

#include "bench.h"
#include "lang/cursor.h"

/** `recorded ...`; false when it is none. */
bool wadi_say_recorded(wad_bench *bench, wadi_cursor *c);

#endif
