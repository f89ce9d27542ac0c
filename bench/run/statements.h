/* SPDX-License-Identifier: MIT */
/* The bench language's statements. */
#ifndef WADI_STATEMENTS_H
#define WADI_STATEMENTS_H

#include "bench/language/bench.h"
#include "lang/cursor.h"

/** Carries one statement out; messages go to `src`. */
bool wadi_bench_statement(wad_bench *bench, const wadi_source *src, const wadi_stmt *stmt);

#endif
