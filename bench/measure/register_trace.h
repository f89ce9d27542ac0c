/* SPDX-License-Identifier: MIT */
#ifndef WADI_BENCH_TRACE_H
#define WADI_BENCH_TRACE_H

#include "bench/language/bench.h"

typedef struct wadi_trace_writer wadi_trace_writer;

wadi_trace_writer *wadi_trace_start(wad_sim *sim, wad_capture *capture,
                                    const wad_trace_options *options);
void wadi_trace_end(wadi_trace_writer *trace);

#endif
