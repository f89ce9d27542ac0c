/* SPDX-License-Identifier: MIT */
/* Built once for a chip: a stream of values that a DMA controller gives. Linked only where a stream
 * names it. */
#include <wadium/dma.h>

#include WAD_CHIP

#if defined(WADI_DAC_FORMS) && defined(WAD_DMA_TABLE)

static void half_over(void *context, unsigned half)
{
    const wad_dac *d = context;
    const wad_dac_stream *s = d->streams->stream;
    WADI_BY_FORM(WADI_DAC_FORMS, d->unit->form, wadi_dac_count_underrun, d);
    if (s && s->refill)
        s->refill(s->codes + (half ? s->n / 2u : 0), s->n / 2u, s->context);
}

static wad_status play(const wad_dac_stream *s)
{
    const wad_dac_roles *r = wadi_dac_roles(s->dac->unit->form);
    const uintptr_t base = s->dac->unit->block.base;
    wad_dma_port *d = s->dma;
    wad_status st = d->tx.mover ? WAD_OK : wad_dma_claim(d->mover, &d->tx, d->tx_request, d->owner);
    wad_dma_transfer t = {.source = s->codes,
                          .destination = (volatile void *)(base + r->data.off),
                          .n = s->n,
                          .bytes = 2,
                          .flags = WAD_DMA_DESTINATION_STAYS | WAD_DMA_RING,
                          .partner = d->partner.mover ? &d->partner : NULL,
                          .half = half_over,
                          .context = (void *)s->dac};
    if (st == WAD_OK)
        st = wad_dma_start(&d->tx, &t);
    if (st == WAD_E_ARG && !d->partner.mover &&
        wad_dma_claim_partner(&d->tx, &d->partner) == WAD_OK) {
        t.partner = &d->partner;
        st = wad_dma_start(&d->tx, &t);
    }
    if (st == WAD_OK)
        wad_put(base, r->dma_on, 1);
    return st;
}

static wad_status end(const wad_dac_stream *s)
{
    wad_put(s->dac->unit->block.base, wadi_dac_roles(s->dac->unit->form)->dma_on, 0);
    return wad_dma_abort(&s->dma->tx);
}

const struct wadi_dac_style wadi_dac_by_dma = {.play = play, .end = end};

#endif
