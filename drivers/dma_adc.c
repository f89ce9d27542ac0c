/* SPDX-License-Identifier: MIT */
/*
 * Built once for a chip: a converter whose results a DMA controller takes. Linked only where a
 * configuration names it. The block goes through the channels of a scan by itself.
 */
#include "adc_private.h"

#if defined(WAD_ADC_TABLE) && defined(WAD_DMA_TABLE)

static wad_status open(wad_adc *adc)
{
    wad_dma_port *d = adc->dma;
    if (!wad_has(R.dma_on))
        return WAD_E_ABSENT;
    wad_status st = wad_dma_port_release(d); /* of an opening before this one */
    return st == WAD_OK ? wad_dma_claim(d->mover, &d->rx, d->rx_request, d->owner) : st;
}

static void half_over(void *context, unsigned half)
{
    wad_adc *adc = context;
    const wad_adc_scan *s = adc->scan;
    wad_adc_fn tell = !s ? NULL : half ? s->full : s->half;
    adc_drop_overrun(adc);
    if (tell)
        tell(s->context, s->codes + (half ? s->n / 2u : 0), s->n / 2u);
}

static void once_over(void *context, wad_status status, size_t moved)
{
    wad_adc *adc = context;
    const wad_adc_scan *s = adc->scan;
    (void)moved;
    if (status != WAD_OK || !s)
        return;
    wad_adc_end(adc);
    adc_drop_overrun(adc);
    if (s->half)
        s->half(s->context, s->codes, s->n / 2u);
    if (s->full)
        s->full(s->context, s->codes + s->n / 2u, s->n / 2u);
}

static wad_status set_slots(const wad_adc *adc, const wad_adc_scan *s)
{
    uint32_t slots = wad_has(R.length) ? wadi_ones(R.length) + R.length_plus : 1u;
    uintptr_t base = adc->block->base;
    if (s->n_channels > slots || adc->software || (!s->timer && !wad_has(R.continuous)))
        return WAD_E_ABSENT;
    for (unsigned i = 0; i < s->n_channels; i++)
        wad_put(base, wad_at(R.channel, i), s->channels[i]);
    if (wad_has(R.length))
        wad_put(base, R.length, s->n_channels - R.length_plus);
    return WAD_OK;
}

static wad_status begin(wad_adc *adc, const wad_adc_scan *s)
{
    wad_dma_port *d = adc->dma;
    uintptr_t base = adc->block->base;
    wad_dma_transfer t = {.source = (const volatile void *)wad_adc_address(adc),
                          .destination = s->codes,
                          .n = s->n,
                          .bytes = 2,
                          .flags = (uint8_t)(WAD_DMA_SOURCE_STAYS | (s->once ? 0 : WAD_DMA_RING)),
                          .half = s->once ? NULL : half_over,
                          .done = once_over,
                          .context = adc};
    wad_status st = set_slots(adc, s);
    if (st == WAD_OK && d->partner.mover && !s->once)
        t.partner = &d->partner;
    if (st == WAD_OK)
        st = wad_dma_start(&d->rx, &t);
    if (st == WAD_E_ARG && !d->partner.mover && !s->once &&
        wad_dma_claim_partner(&d->rx, &d->partner) == WAD_OK) {
        t.partner = &d->partner;
        st = wad_dma_start(&d->rx, &t);
    }
    if (st != WAD_OK)
        return st;
    if (wad_has(R.overrun) && (R.overrun.how & WAD_HOW_KIND) != WAD_HOW_DATA)
        wad_clear(base, R.overrun);
    if (wad_has(R.dma_keep))
        wad_put(base, R.dma_keep, !s->once);
    wad_put(base, R.dma_on, 1);
    return WAD_OK;
}

static wad_status end(wad_adc *adc)
{
    wad_put(adc->block->base, R.dma_on, 0);
    return wad_dma_abort(&adc->dma->rx);
}

const struct wadi_adc_style wadi_adc_by_dma = {.open = open, .begin = begin, .end = end};

#endif
