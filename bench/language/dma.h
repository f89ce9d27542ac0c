/* SPDX-License-Identifier: MIT */
/* Channels and requests of DMA in statements. */
#ifndef WADI_LANGUAGE_DMA_H
#define WADI_LANGUAGE_DMA_H

#include "bench.h"
#include "lang/cursor.h"

/** Behind `capture`; false: it names no DMA controller. */
bool wadi_say_capture_dma(wad_bench *bench, wadi_cursor *c);

/** The DMA block that is named next; NULL: it is none. */
const wad_instance *wadi_dma_at(const wad_bench *bench, const wadi_cursor *c);
/** A channel's number. */
bool wadi_parse_channel(wadi_cursor *c, const wad_instance *block, unsigned *channel);

#endif
