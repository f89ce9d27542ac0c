/* SPDX-License-Identifier: MIT */
/* Built once for a chip: channels of a DMA controller, who has them, and their ends. */
#include "dma_private.h"

#ifdef WAD_DMA_TABLE

#define RESET_POLLS 1000u
#define ABORT_POLLS 1000u

wad_status wad_dma_open(wad_dma_mover *mover, const wad_block *block, unsigned priority)
{
    *mover = (wad_dma_mover){.block = block};
    if (!wad_block_up(block, RESET_POLLS))
        return WAD_E_TIMEOUT;
    if (wad_has(R.on))
        wad_put(block->base, R.on, 1);
    return wad_irq_enable(block->irq, priority);
}

/* ---- who has what ---- */

static const wad_dma *holder(const wad_dma_mover *mover, uint32_t request)
{
    for (const wad_dma *d = mover->claimed; d; d = d->next)
        if (d->request == request && request != WAD_DMA_AT_ONCE)
            return d;
    return NULL;
}

static bool is_taken(const wad_dma_mover *mover, unsigned channel)
{
    for (const wad_dma *d = mover->claimed; d; d = d->next)
        if (d->channel == channel)
            return true;
    return false;
}

const char *wad_dma_owner(const wad_dma_mover *mover, uint32_t request)
{
    const wad_dma *d = holder(mover, request);
    return d ? d->owner : NULL;
}

/* Where channels share the selector, only one request at a time can be waited for. */
static bool clashes(const wad_dma_mover *mover, uint32_t request)
{
    if (holder(mover, request))
        return true;
    if (!wad_has(R.waits) || request == WAD_DMA_AT_ONCE)
        return false;
    for (const wad_dma *d = mover->claimed; d; d = d->next)
        if (d->request != WAD_DMA_AT_ONCE)
            return true;
    return false;
}

static void take(wad_dma_mover *mover, wad_dma *d, unsigned channel, uint32_t request,
                 const char *owner)
{
    uintptr_t base = mover->block->base;
    *d = (wad_dma){
        .mover = mover, .owner = owner, .request = (uint16_t)request, .channel = (uint8_t)channel};
    uint32_t state = wad_port_irq_save();
    d->next = mover->claimed;
    mover->claimed = d;
    if (wad_has(R.waits) && request != WAD_DMA_AT_ONCE)
        wad_put(base, R.request, request);
    if (IN_MEMORY) {
        wad_put(base, dma_of(R.end_irq, d), 1);
        if (wad_has(R.error_irq))
            wad_put(base, dma_of(R.error_irq, d), 1);
    }
    wad_port_irq_restore(state);
}

wad_status wad_dma_claim_channel(wad_dma_mover *mover, wad_dma *dma, unsigned channel,
                                 uint32_t request, const char *owner)
{
    if (channel >= R.channels || !owner)
        return WAD_E_ARG;
    if (request != WAD_DMA_AT_ONCE && (!wad_has(R.request) || request > wadi_ones(R.request)))
        return WAD_E_ABSENT;
    if (is_taken(mover, channel) || clashes(mover, request))
        return WAD_E_STATE;
    take(mover, dma, channel, request, owner);
    return WAD_OK;
}

static unsigned free_channel(const wad_dma_mover *mover)
{
    unsigned channel = 0;
    while (channel < R.channels && is_taken(mover, channel))
        channel++;
    return channel;
}

wad_status wad_dma_claim(wad_dma_mover *mover, wad_dma *dma, uint32_t request, const char *owner)
{
    unsigned channel = free_channel(mover);
    return channel >= R.channels ? WAD_E_STATE
                                 : wad_dma_claim_channel(mover, dma, channel, request, owner);
}

wad_status wad_dma_port_release(wad_dma_port *port)
{
    wad_dma *const all[] = {&port->tx, &port->rx, &port->partner};
    wad_status first = WAD_OK;
    for (unsigned i = 0; i < 3u; i++) {
        wad_status st = all[i]->mover ? wad_dma_release(all[i]) : WAD_OK;
        first = first != WAD_OK ? first : st;
    }
    return first;
}

wad_status wad_dma_claim_partner(wad_dma *dma, wad_dma *partner)
{
    unsigned channel = free_channel(dma->mover);
    if (channel >= R.channels)
        return WAD_E_STATE;
    take(dma->mover, partner, channel, dma->request, dma->owner);
    return WAD_OK;
}

wad_status wad_dma_release(wad_dma *dma)
{
    wad_status st = wad_dma_abort(dma);
    uint32_t state = wad_port_irq_save();
    for (wad_dma **at = &dma->mover->claimed; *at; at = &(*at)->next)
        if (*at == dma) {
            *at = dma->next;
            break;
        }
    wad_port_irq_restore(state);
    return st;
}

/* ---- how far ---- */

static uint32_t count_of(const wad_dma *d)
{
    return wad_get(dma_base(d), dma_of(R.count, d)) + R.count_plus;
}

static bool has_ended(const wad_dma *d)
{
    return wad_get(dma_base(d), dma_of(R.end, d)) != 0;
}

/* What is left, and whether its end's flag stood then: the handler has not counted that one yet. */
static uint32_t settled_left(const wad_dma *d, bool *ended)
{
    bool again = has_ended(d);
    uint32_t left;
    do {
        *ended = again;
        left = count_of(d);
        again = has_ended(d);
    } while (again != *ended);
    return left;
}

/* Whole rounds of a ring, and elements of this one. */
typedef struct place {
    uint32_t rounds, at;
} place;

static place in_window(const wad_dma *d)
{
    bool ended;
    uint32_t left = settled_left(d, &ended);
    return (place){d->rounds + ended, (uint32_t)d->t.n - left};
}

/* One half each: `rounds` counts halves. */
static place in_halves(const wad_dma *d)
{
    bool ended;
    uint32_t left = settled_left(d, &ended), halves = d->rounds + ended;
    return (place){halves / 2u, (halves % 2u ? (uint32_t)d->t.n : d->first) - left};
}

/* Two channels, one half each: the first one's count stands at 0 while the second one works. */
static place in_pair(const wad_dma *d)
{
    const wad_dma *p = d->t.partner;
    uint32_t left, behind, again = count_of(d);
    bool ended;
    do {
        left = again;
        ended = has_ended(p);
        behind = count_of(p);
        again = count_of(d);
    } while ((again != 0) != (left != 0));
    return (place){d->rounds + ended, left ? d->first - left : (uint32_t)d->t.n - behind};
}

static place place_of(const wad_dma *d)
{
    if (!(d->t.flags & WAD_DMA_RING))
        return (place){0, (uint32_t)d->t.n - count_of(d)};
    return d->window ? in_window(d) : d->t.partner ? in_pair(d) : in_halves(d);
}

uint64_t wad_dma_position(wad_dma *d)
{
    uint32_t state = wad_port_irq_save();
    place now = {0, 0};
    if (d->busy && !d->list)
        now = place_of(d);
    wad_port_irq_restore(state);
    return (uint64_t)now.rounds * d->t.n + now.at;
}

size_t wad_dma_left(wad_dma *d)
{
    uint32_t state = wad_port_irq_save();
    size_t left = !d->busy ? 0 : d->list ? (size_t)count_of(d) : d->t.n - (size_t)place_of(d).at;
    wad_port_irq_restore(state);
    return left;
}

/* ---- ends ---- */

static void finish(wad_dma *d, wad_status st, uint64_t moved)
{
    wad_dma_transfer t = d->t;
    d->busy = false;
    if (d->loader)
        d->loader->loads = false;
    d->loader = NULL;
    if (t.partner)
        t.partner->leader = NULL;
    if (t.done)
        t.done(t.context, st, (size_t)moved);
}

/* Half of a ring is over: its memory is where it began, for the round after the next. */
static void half_over(wad_dma *d, unsigned half)
{
    if (d->t.half)
        d->t.half(d->t.context, half);
}

static void rewind_half(const wad_dma *channel, const wad_dma_transfer *t)
{
    uintptr_t base = dma_base(channel);
    if (!(t->flags & WAD_DMA_SOURCE_STAYS))
        wad_put(base, dma_of(R.source, channel), wad_port_bus_address(t->source));
    if (!(t->flags & WAD_DMA_DESTINATION_STAYS))
        wad_put(base, dma_of(R.destination, channel), wad_port_bus_address(t->destination));
}

static void ring_over(wad_dma *d, wad_dma *channel)
{
    if (IN_MEMORY) {
        unsigned half = d->rounds % 2u;
        d->rounds++;
        half_over(d, half);
    } else if (d->window) {
        d->rounds++;
        half_over(d, 1);
    } else if (channel == d) {
        rewind_half(d, &d->t);
        half_over(d, 0);
    } else {
        wad_dma_transfer second = wadi_dma_behind(&d->t, (size_t)d->first);
        rewind_half(channel, &second);
        d->rounds++;
        half_over(d, 1);
    }
}

WADI_INLINE bool took(const wad_dma *d, wad_field f)
{
    return wad_has(f) && wad_take(dma_base(d), dma_of(f, d));
}

static void serve(wad_dma *channel)
{
    wad_dma *d = channel->leader ? channel->leader : channel;
    if (took(channel, R.error)) {
        if (d->busy)
            finish(d, WAD_E_DATA, wad_dma_position(d));
        return;
    }
    if (d->window && took(channel, R.half) && d->busy) /* else it means half of a half */
        half_over(d, 0);
    if (!took(channel, R.end) || !d->busy)
        return;
    if (d->t.flags & WAD_DMA_RING)
        ring_over(d, channel);
    else if (!d->list || !dma_is_armed(channel)) /* a piece in between has a flag as well */
        finish(d, WAD_OK, d->t.n);
}

void wad_dma_handle(wad_dma_mover *mover)
{
    for (wad_dma *d = mover->claimed, *next; d; d = next) {
        next = d->next; /* a callback may give it back */
        serve(d);
    }
}

static wad_status stop(const wad_dma *d)
{
    if (wad_has(R.abort))
        wad_put(dma_base(d), dma_of(R.abort, d), 1);
    else
        wad_put(dma_base(d), dma_of(R.enable, d), 0);
    for (unsigned polls = ABORT_POLLS; polls; polls--)
        if (!dma_is_armed(d))
            return WAD_OK;
    return WAD_E_TIMEOUT;
}

/* Two channels that begin each other: one may have handed on while the other was stopped. */
static wad_status stop_both(const wad_dma *d, const wad_dma *other)
{
    wad_status st = WAD_OK;
    do {
        st = stop(other);
        if (st == WAD_OK)
            st = stop(d);
    } while (st == WAD_OK && (dma_is_armed(other) || dma_is_armed(d)));
    return st;
}

wad_status wad_dma_abort(wad_dma *d)
{
    uint32_t state = wad_port_irq_save();
    wad_status st = WAD_OK;
    if (d->busy) {
        const wad_dma *other = d->t.partner ? d->t.partner : d->loader;
        st = other ? stop_both(d, other) : stop(d);
        uint64_t moved = wad_dma_position(d);
        dma_clear(d, R.end);
        dma_clear(d, R.half);
        if (other)
            dma_clear(other, R.end);
        finish(d, st == WAD_OK ? WAD_E_STATE : st, moved);
    }
    wad_port_irq_restore(state);
    return st;
}

wad_status wad_dma_pause(wad_dma *d, bool on)
{
    if (!wad_has(R.pause))
        return WAD_E_ABSENT;
    uint32_t state = wad_port_irq_save();
    wad_put(dma_base(d), dma_of(R.pause, d), on);
    if (d->t.partner)
        wad_put(dma_base(d), dma_of(R.pause, d->t.partner), on);
    wad_port_irq_restore(state);
    return WAD_OK;
}

wad_status wad_dma_sum(wad_dma_mover *mover, uint32_t *sum)
{
    if (!wad_has(R.sum))
        return WAD_E_ABSENT;
    *sum = wad_get(mover->block->base, R.sum);
    return WAD_OK;
}

wad_status wad_dma_set_sum(wad_dma_mover *mover, uint32_t sum)
{
    if (!wad_has(R.sum))
        return WAD_E_ABSENT;
    wad_put(mover->block->base, R.sum, sum);
    return WAD_OK;
}

#endif
