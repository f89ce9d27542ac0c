/* SPDX-License-Identifier: MIT */
/* The bench language's statements. */
#ifndef WADI_STATEMENTS_H
#define WADI_STATEMENTS_H

#include "bench/language/bench.h"
#include "bench/language/statement.h"
#include "lang/cursor.h"

/** Carries one statement out; messages go to `src`. */
bool wadi_bench_statement(wad_bench *bench, const wadi_source *src, const wadi_stmt *stmt);

/** Begins what was said, class by class in the list's order. False: `why`. */
bool wadi_bench_begin(const wadi_setting *s, wadi_phase phase, char **why);
/** What one should know beside the results. */
void wadi_bench_notes(const wadi_setting *s, GPtrArray *notes);

#endif
