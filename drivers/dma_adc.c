/* SPDX-License-Identifier: MIT */
/*
 * Built once for a chip: a converter whose results a DMA controller takes. Linked only where a
 * handle names it. The block goes through the channels of a scan by itself.
 */
#include <wadium/dma.h>

#include WAD_CHIP

#if defined(WADI_ADC_FORMS) && defined(WAD_DMA_TABLE)

/* Of several forms the table is looked up: moving is the controller's work. */
#define ROLES(a) (*wadi_adc_roles((a)->unit->form))

static wad_status open(const wad_adc *a)
{
    const wad_adc_roles *r = &ROLES(a);
    wad_dma_port *d = a->dma;
    if (!wad_has(r->dma_on))
        return WAD_E_ABSENT;
    wad_status st = wad_dma_port_release(d); /* of an opening before this one */
    return st == WAD_OK ? wad_dma_claim(d->mover, &d->rx, d->rx_request, d->owner) : st;
}

static void close(const wad_adc *a)
{
    (void)!wad_dma_port_release(a->dma);
}

static void count_overrun(const wad_adc *a)
{
    WADI_BY_FORM(WADI_ADC_FORMS, a->unit->form, wadi_adc_count_overrun, a);
}

static void half_over(void *context, unsigned half)
{
    const wad_adc *a = context;
    const wad_adc_scan *s = a->scans->scan;
    wad_adc_fn tell = !s ? NULL : half ? s->full : s->half;
    count_overrun(a);
    if (tell)
        tell(s->codes + (half ? s->n / 2u : 0), s->n / 2u, s->context);
}

static void once_over(void *context, wad_status status, size_t moved)
{
    const wad_adc *a = context;
    const wad_adc_scan *s = a->scans->scan;
    (void)moved;
    if (status != WAD_OK || !s)
        return;
    (void)wad_adc_end(a);
    count_overrun(a);
    if (s->half)
        s->half(s->codes, s->n / 2u, s->context);
    if (s->full)
        s->full(s->codes + s->n / 2u, s->n / 2u, s->context);
}

static wad_status set_slots(const wad_adc_scan *s)
{
    const wad_adc_roles *r = &ROLES(s->adc);
    const uint32_t slots = wad_has(r->length) ? wadi_ones(r->length) + r->length_plus : 1u;
    const uintptr_t base = s->adc->unit->block.base;
    if (s->n_channels > slots || wadi_adc_at_of(s->adc).software ||
        (!s->timer && !wad_has(r->continuous)))
        return WAD_E_ABSENT;
    for (unsigned i = 0; i < s->n_channels; i++)
        wad_put(base, wad_at(r->channel, i), s->channels[i]);
    if (wad_has(r->length))
        wad_put(base, r->length, s->n_channels - r->length_plus);
    return WAD_OK;
}

static wad_status begin(const wad_adc_scan *s)
{
    const wad_adc_roles *r = &ROLES(s->adc);
    wad_dma_port *d = s->adc->dma;
    const uintptr_t base = s->adc->unit->block.base;
    wad_dma_transfer t = {.source = (const volatile void *)wad_adc_address(s->adc),
                          .destination = s->codes,
                          .n = s->n,
                          .bytes = 2,
                          .flags = (uint8_t)(WAD_DMA_SOURCE_STAYS | (s->once ? 0 : WAD_DMA_RING)),
                          .half = s->once ? NULL : half_over,
                          .done = once_over,
                          .context = (void *)s->adc};
    wad_status st = set_slots(s);
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
    if (wad_has(r->overrun) && (r->overrun.how & WAD_HOW_KIND) != WAD_HOW_DATA)
        wad_clear(base, r->overrun);
    if (wad_has(r->dma_keep))
        wad_put(base, r->dma_keep, !s->once);
    wad_put(base, r->dma_on, 1);
    return WAD_OK;
}

static wad_status end(const wad_adc *a)
{
    wad_put(a->unit->block.base, ROLES(a).dma_on, 0);
    return wad_dma_abort(&a->dma->rx);
}

const struct wadi_adc_style wadi_adc_by_dma = {
    .open = open, .begin = begin, .end = end, .close = close};

#endif
