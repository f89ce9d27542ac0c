/* SPDX-License-Identifier: MIT */
/* Built once for a chip: transfers of a DMA controller, from what is wanted to its settings. */
#include "dma_private.h"

#ifdef WAD_DMA_TABLE

static bool stays(const wad_dma_transfer *t, unsigned flag)
{
    return (t->flags & flag) != 0;
}

static unsigned log2_of(size_t n)
{
    unsigned bits = 0;
    while (n > 1u) {
        n >>= 1;
        bits++;
    }
    return bits;
}

/* ---- what can be ---- */

static bool is_reached(const volatile void *p, unsigned bytes)
{
    uint32_t address = wad_port_bus_address(p);
    return address && !(address & (bytes - 1u));
}

size_t wad_dma_most(void)
{
    return (size_t)wadi_ones(R.count) + R.count_plus;
}

wad_status wadi_dma_examine(const wad_dma_transfer *t)
{
    if (!t->n || (t->bytes != 1u && t->bytes != 2u && t->bytes != 4u) ||
        !is_reached(t->source, t->bytes) || !is_reached(t->destination, t->bytes))
        return WAD_E_ARG;
    if (t->n > wad_dma_most() || log2_of(t->bytes) > wadi_ones(R.size) || t->bytes > R.source.size)
        return WAD_E_RANGE;
    if ((stays(t, WAD_DMA_SWAP) && !wad_has(R.swap)) ||
        (stays(t, WAD_DMA_SUM) && !wad_has(R.sum_on)) ||
        (stays(t, WAD_DMA_URGENT) && !wad_has(R.urgent)) ||
        (stays(t, WAD_DMA_WHOLE) && !wad_has(R.whole)))
        return WAD_E_ABSENT;
    return WAD_OK;
}

/* Of a ring, the side that goes round. */
static const volatile void *ring_memory(const wad_dma_transfer *t)
{
    return stays(t, WAD_DMA_SOURCE_STAYS) ? t->destination : t->source;
}

static unsigned window_of(const wad_dma_transfer *t)
{
    size_t size = t->n * t->bytes;
    if (!wad_has(R.wrap) || !wad_has(R.repeat) || (size & (size - 1u)) ||
        wad_port_bus_address(ring_memory(t)) & (size - 1u) || log2_of(size) > wadi_ones(R.wrap))
        return 0;
    return log2_of(size);
}

static wad_status examine_ring(const wad_dma_transfer *t, unsigned *window)
{
    *window = 0;
    if (!stays(t, WAD_DMA_RING))
        return t->partner || t->half ? WAD_E_ARG : WAD_OK;
    if (stays(t, WAD_DMA_SOURCE_STAYS) == stays(t, WAD_DMA_DESTINATION_STAYS) || t->n < 2u)
        return WAD_E_ARG;
    if (IN_MEMORY)
        return t->partner ? WAD_E_ARG : WAD_OK;
    *window = window_of(t);
    return *window || t->partner ? WAD_OK : WAD_E_ARG;
}

/* ---- settings ---- */

WADI_INLINE uint32_t with(uint32_t word, wad_field f, uint32_t value)
{
    if (!wad_has(f) || f.off != R.size.off)
        return word;
    return word | (value & wadi_ones(f)) << f.lsb;
}

uint32_t wadi_dma_control(const wad_dma *d, const wad_dma_transfer *t, unsigned window, int chain,
                          bool asks)
{
    bool waits = d->request != WAD_DMA_AT_ONCE;
    uint32_t word = with(0, R.enable, 1);
    word = with(word, R.size, log2_of(t->bytes));
    word = with(word, R.source_step, !stays(t, WAD_DMA_SOURCE_STAYS));
    word = with(word, R.destination_step, !stays(t, WAD_DMA_DESTINATION_STAYS));
    word = with(word, R.request, waits ? d->request : R.request_none);
    word = with(word, R.waits, waits);
    word = with(word, R.whole, stays(t, WAD_DMA_WHOLE));
    word = with(word, R.urgent, stays(t, WAD_DMA_URGENT));
    word = with(word, R.swap, stays(t, WAD_DMA_SWAP));
    word = with(word, R.sum_on, stays(t, WAD_DMA_SUM));
    word = with(word, R.wrap, window);
    word = with(word, R.wrap_destination, window && stays(t, WAD_DMA_SOURCE_STAYS));
    word = with(word, R.repeat, window && stays(t, WAD_DMA_RING));
    word = with(word, R.chain, chain >= 0);
    word = with(word, R.next, chain >= 0 ? (uint32_t)chain : 0);
    word = with(word, R.half_irq, window && stays(t, WAD_DMA_RING) && t->half);
    word = with(word, R.end_irq, asks);
    return with(word, R.error_irq, 1);
}

static void store(wad_dma_settings *to, uint32_t at, uint32_t value)
{
    volatile uint8_t *p = (volatile uint8_t *)to + at;
    if (R.source.size == 2u)
        *(volatile uint16_t *)(volatile void *)p = (uint16_t)value;
    else
        *(volatile uint32_t *)(volatile void *)p = value;
}

void wadi_dma_describe(wad_dma_settings *to, const wad_dma *d, const wad_dma_transfer *t,
                       uint32_t link)
{
    store(to, R.at_control, wadi_dma_control(d, t, 0, -1, true));
    store(to, R.at_source, wad_port_bus_address(t->source));
    store(to, R.at_destination, wad_port_bus_address(t->destination));
    store(to, R.at_count, (uint32_t)t->n - R.count_plus);
    store(to, R.at_link, link);
}

void wadi_dma_load(const wad_dma *d, const wad_dma_settings *settings)
{
    uintptr_t base = dma_base(d);
    dma_clear(d, R.end);
    dma_clear(d, R.error);
    wad_put(base, dma_of(R.descriptor, d), wad_port_bus_address(settings));
    wad_port_barrier();
    wad_put(base, dma_of(R.load, d), 1);
}

void wadi_dma_set(const wad_dma *d, const wad_dma_transfer *t, uint32_t control)
{
    uintptr_t base = dma_base(d);
    wad_field enable = dma_of(R.enable, d);
    wad_put(base, dma_of(R.source, d), wad_port_bus_address(t->source));
    wad_put(base, dma_of(R.destination, d), wad_port_bus_address(t->destination));
    wad_put(base, dma_of(R.count, d), (uint32_t)t->n - R.count_plus);
    dma_clear(d, R.end);
    dma_clear(d, R.half);
    dma_clear(d, R.error);
    wad_port_barrier(); /* what was stored to memory is there */
    wadi_write(base, enable.off, enable.size, control);
}

wad_dma_transfer wadi_dma_behind(const wad_dma_transfer *t, size_t n)
{
    wad_dma_transfer rest = *t;
    if (!stays(t, WAD_DMA_SOURCE_STAYS))
        rest.source = (const volatile uint8_t *)t->source + n * t->bytes;
    if (!stays(t, WAD_DMA_DESTINATION_STAYS))
        rest.destination = (volatile uint8_t *)t->destination + n * t->bytes;
    rest.n = t->n - n;
    return rest;
}

/* ---- begin ---- */

/* Two halves that follow each other for ever. */
static void begin_halves(wad_dma *d)
{
    wad_dma_transfer first = d->t, second = wadi_dma_behind(&d->t, (size_t)d->first);
    first.n = (size_t)d->first;
    if (IN_MEMORY) {
        wadi_dma_describe(&d->ring[0], d, &first, wad_port_bus_address(&d->ring[1]));
        wadi_dma_describe(&d->ring[1], d, &second, wad_port_bus_address(&d->ring[0]));
        wadi_dma_load(d, &d->ring[0]);
        return;
    }
    wad_dma *p = d->t.partner;
    p->leader = d;
    uint32_t armed = with(0, R.enable, 1);
    wadi_dma_set(p, &second, wadi_dma_control(p, &d->t, 0, d->channel, true) & ~armed);
    wadi_dma_set(d, &first, wadi_dma_control(d, &d->t, 0, p->channel, true));
}

wad_status wad_dma_start(wad_dma *d, const wad_dma_transfer *t)
{
    unsigned window;
    if (d->busy && d->t.flags & WAD_DMA_QUIET && !dma_is_armed(d))
        d->busy = false;
    if (d->busy || d->loads)
        return WAD_E_STATE;
    wad_status st = wadi_dma_examine(t);
    if (st == WAD_OK)
        st = examine_ring(t, &window);
    if (st != WAD_OK)
        return st;
    uint32_t state = wad_port_irq_save(); /* its end comes when it is begun here */
    d->t = *t;
    d->rounds = 0;
    d->first = (uint32_t)((t->n + 1u) / 2u);
    d->window = window != 0;
    d->list = false;
    d->busy = true;
    if (stays(t, WAD_DMA_RING) && !window) {
        begin_halves(d);
    } else if (IN_MEMORY) {
        wadi_dma_describe(&d->ring[0], d, t, 0);
        wadi_dma_load(d, &d->ring[0]);
    } else {
        wadi_dma_set(d, t, wadi_dma_control(d, t, window, -1, !stays(t, WAD_DMA_QUIET)));
    }
    wad_port_irq_restore(state);
    return WAD_OK;
}

/* ---- the usual ones ---- */

static uint8_t widest(uint32_t bits)
{
    if (!(bits & 3u) && R.source.size >= 4u && wadi_ones(R.size) >= 2u)
        return 4;
    return bits & 1u ? 1 : 2;
}

wad_status wad_dma_copy(wad_dma *d, void *to, const void *from, size_t bytes, wad_dma_done done,
                        void *context)
{
    uint8_t element =
        widest(wad_port_bus_address(to) | wad_port_bus_address(from) | (uint32_t)(bytes & 3u));
    wad_dma_transfer t = {.source = from,
                          .destination = to,
                          .n = bytes / element,
                          .bytes = element,
                          .done = done,
                          .context = context};
    return wad_dma_start(d, &t);
}

wad_status wad_dma_fill(wad_dma *d, void *to, uint8_t value, size_t bytes, wad_dma_done done,
                        void *context)
{
    uint8_t element = widest(wad_port_bus_address(to) | (uint32_t)(bytes & 3u));
    wad_dma_transfer t = {.source = &d->fill,
                          .destination = to,
                          .n = bytes / element,
                          .bytes = element,
                          .flags = WAD_DMA_SOURCE_STAYS,
                          .done = done,
                          .context = context};
    if (d->busy)
        return WAD_E_STATE;
    d->fill = value * 0x01010101u;
    return wad_dma_start(d, &t);
}

/* ---- once more ---- */

WADI_INLINE wad_status again(wad_dma *d, wad_field view, uint32_t value)
{
    if (d->busy || !d->t.n || d->t.flags & WAD_DMA_RING || d->list)
        return WAD_E_STATE;
    if (!wad_has(view))
        return WAD_E_ABSENT;
    d->busy = true;
    wad_put(dma_base(d), dma_of(view, d), value);
    return WAD_OK;
}

wad_status wad_dma_again(wad_dma *d)
{
    return IN_MEMORY ? again(d, R.load, 1) : again(d, R.count_go, (uint32_t)d->t.n - R.count_plus);
}

wad_status wad_dma_again_from(wad_dma *d, const volatile void *source)
{
    return is_reached(source, d->t.bytes) ? again(d, R.source_go, wad_port_bus_address(source))
                                          : WAD_E_ARG;
}

wad_status wad_dma_again_to(wad_dma *d, volatile void *destination)
{
    return is_reached(destination, d->t.bytes)
               ? again(d, R.destination_go, wad_port_bus_address(destination))
               : WAD_E_ARG;
}

/* ---- lists ---- */

/* The channel's registers are written in one go: they must stand as the settings do. */
static bool can_be_loaded(uintptr_t base)
{
    return R.destination.off == R.source.off + 4u && R.count.off == R.source.off + 8u &&
           R.enable.off == R.source.off + 12u && wad_has(R.wrap) && wad_has(R.chain) &&
           !((base + R.source.off) & 15u);
}

static void begin_list(wad_dma *d, wad_dma *loader, const wad_dma_transfer *pieces,
                       wad_dma_settings *room, size_t n)
{
    uint32_t *word = room[0].word; /* four a piece, one behind the other */
    for (size_t i = 0; i < n; i++, word += 4) {
        bool last = i + 1u == n;
        word[0] = wad_port_bus_address(pieces[i].source);
        word[1] = wad_port_bus_address(pieces[i].destination);
        word[2] = (uint32_t)pieces[i].n - R.count_plus;
        word[3] = wadi_dma_control(d, &pieces[i], 0, last ? -1 : loader->channel, last);
    }
    wad_dma_transfer load = {.source = room,
                             .destination = (void *)(dma_base(d) + dma_of(R.source, d).off),
                             .n = 4,
                             .bytes = 4};
    uint32_t control = wadi_dma_control(loader, &load, 4, -1, false);
    control |= with(0, R.wrap_destination, 1);
    dma_clear(d, R.end);
    d->loader = loader;
    loader->loads = true;
    wadi_dma_set(loader, &load, control);
}

wad_status wad_dma_list(wad_dma *d, wad_dma *loader, const wad_dma_transfer *pieces,
                        wad_dma_settings *room, size_t n)
{
    if (d->busy || d->loads || (loader && (loader->busy || loader->loads)))
        return WAD_E_STATE;
    if (!n || !pieces || !room)
        return WAD_E_ARG;
    const bool in_memory = IN_MEMORY;
    if (in_memory ? loader != NULL : !loader || !can_be_loaded(dma_base(d)))
        return WAD_E_ABSENT;
    size_t elements = 0;
    for (size_t i = 0; i < n; i++) {
        wad_status st = wadi_dma_examine(&pieces[i]);
        if (st != WAD_OK || pieces[i].flags & WAD_DMA_RING)
            return st != WAD_OK ? st : WAD_E_ARG;
        elements += pieces[i].n;
    }
    uint32_t state = wad_port_irq_save();
    d->t = pieces[n - 1u];
    d->t.n = elements;
    d->list = d->busy = true;
    if (in_memory) {
        for (size_t i = 0; i < n; i++)
            wadi_dma_describe(&room[i], d, &pieces[i],
                              i + 1u < n ? wad_port_bus_address(&room[i + 1u]) : 0);
        wadi_dma_load(d, room);
    } else {
        begin_list(d, loader, pieces, room, n);
    }
    wad_port_irq_restore(state);
    return WAD_OK;
}

#endif
