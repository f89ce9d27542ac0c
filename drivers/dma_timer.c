/* SPDX-License-Identifier: MIT */
/* Built once for a chip: compare values that a DMA controller brings. */
#include <wadium/dma.h>

#include WAD_CHIP

#if defined(WADI_COUNTER_FORMS) && defined(WAD_DMA_TABLE)

wad_status wad_timer_play(const wad_timer *timer, unsigned channel, wad_dma *dma,
                          const uint16_t *counts, size_t n, bool ring)
{
    const wad_field compare = wad_at(wadi_counter_roles(timer->unit->form)->compare, channel);
    if (!wad_has(compare) || channel >= timer->unit->channels || wadi_is_split(compare) ||
        compare.how & WAD_HOW_LOCKED)
        return WAD_E_ABSENT;
    wad_dma_transfer t = {.source = counts,
                          .destination = (volatile void *)(timer->unit->block.base + compare.off),
                          .n = n,
                          .bytes = 2,
                          .flags =
                              (uint8_t)(WAD_DMA_DESTINATION_STAYS | (ring ? WAD_DMA_RING : 0))};
    return wad_dma_start(dma, &t);
}

#endif
