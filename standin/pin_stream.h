/* SPDX-License-Identifier: MIT */
/* Pins to a VCD file as they change, so that it can be read while the board runs. */
#ifndef WADI_BOARD_STREAM_H
#define WADI_BOARD_STREAM_H

#include "wadium/host/bench.h"

typedef struct wadi_stream wadi_stream;

/** The pins that the bench captures, and all others that the board's parts are wired to, named as a
 * bench names them. NULL: `why`. */
wadi_stream *wadi_stream_new(const char *path, const wad_bench *bench, wad_sim *sim, char **why);
/** What came so far is in the file; false: `why` (g_free). */
bool wadi_stream_flush(wadi_stream *s, char **why);
bool wadi_stream_free(wadi_stream *s, uint64_t end_ps, char **why);

#endif
