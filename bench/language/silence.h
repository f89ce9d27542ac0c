/* SPDX-License-Identifier: MIT */
/* `silence ...` */
#ifndef WADI_LANGUAGE_SILENCE_H
#define WADI_LANGUAGE_SILENCE_H

#include "bench.h"
#include "lang/cursor.h"

/** `W304 at "main.c:17" in FUNCTION "reason"`, or the name of a file of such lines. */
void wadi_say_silence(wad_bench *bench, wadi_cursor *c);

#endif
