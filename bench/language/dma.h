/* SPDX-License-Identifier: MIT */
/* Channels and requests of DMA in statements. */
#ifndef WADI_LANGUAGE_DMA_H
#define WADI_LANGUAGE_DMA_H

#include "bench.h"
#include "lang/cursor.h"

/** Behind `capture`; false: it names no DMA controller. */
bool wadi_say_capture_dma(wad_bench *bench, wadi_cursor *c);

/** The DMA block or unit that is named next, taken; NULL: it is none, and nothing is. */
const wad_instance *wadi_take_dma(const wad_bench *bench, wadi_cursor *c);
/** A channel's number. */
bool wadi_parse_channel(wadi_cursor *c, const wad_instance *block, unsigned *channel);

#endif
