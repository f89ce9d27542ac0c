/* SPDX-License-Identifier: MIT */
/* Built once for a chip: a stream of values that a DMA controller gives. Linked only where a stream
 * names it. */
#include <wadium/dac.h>

#include WAD_CHIP

#if defined(WAD_DAC_TABLE) && defined(WAD_DMA_TABLE)

#define R WAD_DAC_TABLE

static void half_over(void *context, unsigned half)
{
    wad_dac *dac = context;
    const wad_dac_stream *s = dac->stream;
    if (wad_has(R.underrun) && wad_take(dac->block->base, R.underrun))
        dac->underruns++;
    if (s && s->refill)
        s->refill(s->context, s->codes + (half ? s->n / 2u : 0), s->n / 2u);
}

static wad_status play(wad_dac *dac)
{
    const wad_dac_stream *s = dac->stream;
    wad_dma_port *d = s->dma;
    wad_status st = d->tx.mover ? WAD_OK : wad_dma_claim(d->mover, &d->tx, d->tx_request, d->owner);
    wad_dma_transfer t = {.source = s->codes,
                          .destination = (volatile void *)(dac->block->base + R.data.off),
                          .n = s->n,
                          .bytes = 2,
                          .flags = WAD_DMA_DESTINATION_STAYS | WAD_DMA_RING,
                          .partner = d->partner.mover ? &d->partner : NULL,
                          .half = half_over,
                          .context = dac};
    if (st == WAD_OK)
        st = wad_dma_start(&d->tx, &t);
    if (st == WAD_E_ARG && !d->partner.mover &&
        wad_dma_claim_partner(&d->tx, &d->partner) == WAD_OK) {
        t.partner = &d->partner;
        st = wad_dma_start(&d->tx, &t);
    }
    if (st == WAD_OK)
        wad_put(dac->block->base, R.dma_on, 1);
    return st;
}

static wad_status end(wad_dac *dac)
{
    wad_put(dac->block->base, R.dma_on, 0);
    return wad_dma_abort(&dac->stream->dma->tx);
}

const struct wadi_dac_style wadi_dac_by_dma = {.play = play, .end = end};

#endif
