/* SPDX-License-Identifier: MIT */
/* Data movers during a run: what each channel did, and signals of channels and requests. */
#ifndef WADI_MOVERS_H
#define WADI_MOVERS_H

#include <glib.h>

#include "bench/language/said.h"
#include "wadium/host/bench.h"

typedef struct wadi_movers wadi_movers;

/** A signal has this level from `ps` on. */
typedef void (*wadi_mover_fn)(void *ctx, uint64_t ps, wad_level level);

wadi_movers *wadi_movers_new(wad_sim *sim);
void wadi_movers_free(wadi_movers *movers);
void wadi_movers_listen(wadi_movers *movers, const wadi_mover_signal *signal, wadi_mover_fn fn,
                        void *ctx);
/** By block and channel, of those that were armed. */
const wad_mover_stats *wadi_movers_table(const wadi_movers *movers, unsigned *n);
const wad_mover_stats *wadi_movers_channel(const wadi_movers *movers, const wad_instance *block,
                                           unsigned channel);

#endif
