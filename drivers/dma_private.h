/* SPDX-License-Identifier: MIT */
/* What the DMA controller's files share. Included once a file, behind WAD_CHIP's choice of chip. */
#ifndef WADI_DMA_PRIVATE_H
#define WADI_DMA_PRIVATE_H

#include <wadium/dma.h>
#include <wadium/irq.h>

#include WAD_CHIP

#ifdef WAD_DMA_TABLE

#define R WAD_DMA_TABLE

/* The settings of the block's channels lie in memory, or in its registers. */
#define IN_MEMORY (R.descriptor.width != 0)

static inline uintptr_t dma_base(const wad_dma *d)
{
    return d->mover->block->base;
}

WADI_INLINE wad_field dma_of(wad_field f, const wad_dma *d)
{
    return wad_at(f, d->channel);
}

/* Inlined, as all that takes a field: only then it folds. */
WADI_INLINE void dma_clear(const wad_dma *d, wad_field f)
{
    if (wad_has(f))
        wad_clear(dma_base(d), dma_of(f, d));
}

static inline bool dma_is_armed(const wad_dma *d)
{
    return wad_get(dma_base(d), dma_of(R.enable, d)) != 0;
}

/* ---- dma_start.c ---- */
/** May it be begun? */
WAD_MUST_CHECK wad_status wadi_dma_examine(const wad_dma_transfer *t);
/** The word that says how, armed; it goes on with channel `chain`, or with none (-1). */
uint32_t wadi_dma_control(const wad_dma *d, const wad_dma_transfer *t, unsigned window, int chain,
                          bool asks);
/** Settings in memory, followed by those at the bus address `link`. */
void wadi_dma_describe(wad_dma_settings *to, const wad_dma *d, const wad_dma_transfer *t,
                       uint32_t link);
/** Begins with settings in memory. */
void wadi_dma_load(const wad_dma *d, const wad_dma_settings *settings);
/** Writes source, destination and count, and the control word last. */
void wadi_dma_set(const wad_dma *d, const wad_dma_transfer *t, uint32_t control);
/** Where the part behind the first `n` elements lies; data registers stay. */
wad_dma_transfer wadi_dma_behind(const wad_dma_transfer *t, size_t n);

#endif
#endif
