/* SPDX-License-Identifier: MIT */
/* Values in statements: times, levels, pins. */
#ifndef WADI_LANGUAGE_VALUE_H
#define WADI_LANGUAGE_VALUE_H

#include "bench.h"
#include "lang/cursor.h"

/** 'high', 'low' or 'floating'. */
bool wadi_parse_level(wadi_cursor *c, wad_level *level);

/** A time in picoseconds. */
bool wadi_parse_ps(wadi_cursor *c, uint64_t *ps);

/** `at T [for T]`; with `must_end` for good is not good enough. */
void wadi_parse_span(wadi_cursor *c, uint64_t *at_ps, uint64_t *for_ps, bool must_end);

/** A pin of the chip, or a part's wire; NULL: a message was given. */
const wad_pin_def *wadi_parse_pin(const wad_bench *bench, wadi_cursor *c);

/** The same, and the part whose wire it is; NULL: a pin of the chip. */
const wad_pin_def *wadi_parse_pin_of(const wad_bench *bench, wadi_cursor *c,
                                     const wad_part_def **part);
/** One message a statement. */
void wadi_fail(wadi_cursor *c, const wad_where *where, const char *message);

/** A file that a bench names: beside it, unless its path is absolute; g_free. */
char *wadi_bench_path(const wad_bench *bench, const char *name);

#endif
