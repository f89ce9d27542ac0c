/* SPDX-License-Identifier: MIT */
/* DMA controllers during a run: what each channel did, and signals of channels and requests. */
#ifndef WADI_MEASURE_DMA_H
#define WADI_MEASURE_DMA_H

#include <glib.h>

#include "bench/language/said.h"
#include "wadium/host/bench.h"

typedef struct wadi_dma_meter wadi_dma_meter;

/** A signal has this level from `ps` on. */
typedef void (*wadi_dma_signal_fn)(void *ctx, uint64_t ps, wad_level level);

wadi_dma_meter *wadi_dma_meter_new(wad_sim *sim);
void wadi_dma_meter_free(wadi_dma_meter *dma);
void wadi_dma_meter_listen(wadi_dma_meter *dma, const wadi_dma_signal *signal,
                           wadi_dma_signal_fn fn, void *ctx);
/** By block and channel, of those that were armed. */
const wad_dma_stats *wadi_dma_meter_table(const wadi_dma_meter *dma, unsigned *n);
const wad_dma_stats *wadi_dma_meter_channel(const wadi_dma_meter *dma, const wad_instance *block,
                                            unsigned channel);

#endif
