/* SPDX-License-Identifier: MIT */
/* Built once for a chip: compare values that a DMA controller brings. */
#include <wadium/dma.h>
#include <wadium/timer.h>

#include WAD_CHIP

#if defined(WAD_COUNTER_TABLE) && defined(WAD_DMA_TABLE)

#define R WAD_COUNTER_TABLE

wad_status wad_timer_play(const wad_timer *timer, unsigned channel, wad_dma *dma,
                          const uint16_t *counts, size_t n, bool ring)
{
    if (!wad_has(R.compare) || wadi_is_split(R.compare) || R.compare.how & WAD_HOW_LOCKED)
        return WAD_E_ABSENT;
    wad_dma_transfer t = {
        .source = counts,
        .destination = (volatile void *)(timer->block->base + wad_at(R.compare, channel).off),
        .n = n,
        .bytes = 2,
        .flags = (uint8_t)(WAD_DMA_DESTINATION_STAYS | (ring ? WAD_DMA_RING : 0))};
    return wad_dma_start(dma, &t);
}

#endif
