/* SPDX-License-Identifier: MIT */
/*
 * Built once for a chip: a serial port whose bytes a DMA controller takes and gives. Linked only
 * where a configuration names it.
 *
 * What arrives goes round in the ring by itself; the count of it is the channel's position, looked
 * at when somebody asks. What is sent goes out in stretches that do not wrap.
 */
#include "uart_private.h"

#if defined(WAD_UART_TABLE) && defined(WAD_DMA_TABLE)

WADI_INLINE void ask(const wad_uart *u, wad_field enable, bool on)
{
    uint32_t state = wad_port_irq_save(); /* both directions share a register */
    wad_put(u->block->base, enable, on);
    wad_port_irq_restore(state);
}

WADI_INLINE volatile void *data_register(const wad_uart *u, wad_field f)
{
    return (volatile void *)(u->block->base + f.off);
}

static wad_status open(wad_uart *u)
{
    wad_dma_port *d = u->dma;
    if (!wad_has(R.tx_dma) || !wad_has(R.rx_dma))
        return WAD_E_ABSENT;
    wad_status st = wad_dma_port_release(d); /* of an opening before this one */
    if (st == WAD_OK)
        st = wad_dma_claim(d->mover, &d->tx, d->tx_request, d->owner);
    /* where channels share one request, a port has a channel for one direction only */
    if (st == WAD_OK && d->rx_request != WAD_DMA_AT_ONCE)
        st = wad_dma_claim(d->mover, &d->rx, d->rx_request, d->owner);
    return st;
}

/* ---- the rings ---- */

static void out_over(void *context, wad_status status, size_t moved);

static void kick(wad_uart *u)
{
    wad_dma *tx = &u->dma->tx;
    uint32_t from = u->out.taken & u->out.mask, held = ring_count(&u->out);
    uint32_t straight = u->out.mask + 1u - from;
    if (!held || tx->busy)
        return;
    wad_dma_transfer t = {.source = u->out.data + from,
                          .destination = data_register(u, R.tx_data),
                          .n = (size_t)(held < straight ? held : straight),
                          .bytes = 1,
                          .flags = WAD_DMA_DESTINATION_STAYS,
                          .done = out_over,
                          .context = u};
    if (t.n > wad_dma_most()) /* the rest follows at its end */
        t.n = wad_dma_most();
    ask(u, R.tx_dma, true);
    if (wad_dma_start(tx, &t) == WAD_OK)
        return;
    ask(u, R.tx_dma, false); /* it waits in the ring, and wad_uart_stats says so */
    u->stats.refused++;
}

static void out_over(void *context, wad_status status, size_t moved)
{
    wad_uart *u = context;
    u->dma->at = moved;
    if (status == WAD_E_STATE) /* flushed: the caller counts */
        return;
    u->out.taken = u->out.taken + (uint32_t)moved;
    u->stats.sent += (uint32_t)moved;
    if (ring_count(&u->out))
        kick(u);
    else
        ask(u, R.tx_dma, false);
}

static uint32_t put(const wad_uart *u)
{
    wad_uart *own = (wad_uart *)(uintptr_t)u;
    uint32_t at = (uint32_t)wad_dma_position(&own->dma->rx), held = at - own->in.taken;
    own->stats.received = at;
    if (held > own->in.mask + 1u) { /* it went round over what nobody had taken */
        own->stats.dropped += held - (own->in.mask + 1u);
        own->in.taken = at - (own->in.mask + 1u);
        held = own->in.mask + 1u;
    }
    if (held > own->stats.most)
        own->stats.most = held;
    return at;
}

static wad_status begin_ring(wad_uart *u)
{
    wad_dma_port *d = u->dma;
    wad_dma_transfer t = {.source = data_register(u, R.rx_data),
                          .destination = u->in.data,
                          .n = (size_t)u->in.mask + 1u,
                          .bytes = 1,
                          .flags = WAD_DMA_SOURCE_STAYS | WAD_DMA_RING};
    wad_status st = wad_dma_start(&d->rx, &t);
    if (st == WAD_E_ARG && wad_dma_claim_partner(&d->rx, &d->partner) == WAD_OK) {
        t.partner = &d->partner;
        st = wad_dma_start(&d->rx, &t);
    }
    return st;
}

static void watch_errors(const wad_uart *u, bool idle)
{
    const wad_field with = R.rx_ready_irq;
    uintptr_t base = u->block->base;
    uint32_t word = wadi_read(base, with.off, with.size);
    word = wadi_also(base, word, with, R.overrun_irq, 1);
    word = wadi_also(base, word, with, R.framing_irq, 1);
    word = wadi_also(base, word, with, R.parity_irq, 1);
    if (idle)
        word = wadi_also(base, word, with, R.idle_irq, 1);
    wadi_write(base, with.off, with.size, word);
}

static wad_status background(wad_uart *u)
{
    if (u->dma->rx_request == WAD_DMA_AT_ONCE && u->in.data)
        return WAD_E_ABSENT;
    if (wad_has(R.rx_at))
        wad_put(u->block->base, R.rx_at, 0); /* each byte is taken as it comes */
    watch_errors(u, u->in.data != 0);
    if (!u->in.data)
        return WAD_OK;
    wad_status st = begin_ring(u);
    if (st == WAD_OK)
        ask(u, R.rx_dma, true);
    return st;
}

/* ---- transfers ---- */

static void sent(void *context, wad_status status, size_t moved)
{
    wad_uart *u = context;
    u->dma->at = moved;
    if (status == WAD_E_STATE) /* aborted: said there */
        return;
    ask(u, R.tx_dma, false);
    u->sends.at = moved;
    u->stats.sent += (uint32_t)moved;
    if (status == WAD_OK)
        wadi_uart_all_given(u);
    else
        wadi_uart_finish(u, &u->sends, status);
}

static wad_status send(wad_uart *u)
{
    wad_dma_transfer t = {.source = u->sends.data,
                          .destination = data_register(u, R.tx_data),
                          .n = u->sends.n,
                          .bytes = 1,
                          .flags = WAD_DMA_DESTINATION_STAYS,
                          .done = sent,
                          .context = u};
    wad_status st = wad_dma_start(&u->dma->tx, &t);
    if (st == WAD_OK)
        ask(u, R.tx_dma, true);
    return st;
}

static void end_reception(wad_uart *u, wad_status status, size_t moved)
{
    ask(u, R.rx_dma, false);
    if (wad_has(R.idle_irq))
        wad_put(u->block->base, R.idle_irq, 0);
    u->receives.at = u->dma->at = moved;
    u->stats.received += (uint32_t)moved;
    if (status != WAD_E_STATE)
        wadi_uart_finish(u, &u->receives, status);
}

static void received(void *context, wad_status status, size_t moved)
{
    end_reception(context, status, moved);
}

static wad_status receive(wad_uart *u)
{
    wad_dma_transfer t = {.source = data_register(u, R.rx_data),
                          .destination = u->receives.data,
                          .n = u->receives.n,
                          .bytes = 1,
                          .flags = WAD_DMA_SOURCE_STAYS,
                          .done = received,
                          .context = u};
    if (u->dma->rx_request == WAD_DMA_AT_ONCE)
        return WAD_E_ABSENT;
    wad_status st = wad_dma_start(&u->dma->rx, &t);
    if (st != WAD_OK)
        return st;
    if (wad_has(R.idle_irq))
        wad_put(u->block->base, R.idle_irq, u->receives.until == WAD_UNTIL_IDLE);
    ask(u, R.rx_dma, true);
    return WAD_OK;
}

static size_t stop(wad_uart *u, bool sending)
{
    wad_dma *d = sending ? &u->dma->tx : &u->dma->rx;
    ask(u, sending ? R.tx_dma : R.rx_dma, false);
    if (!d->busy)
        return 0;
    if (wad_dma_abort(d) != WAD_OK) /* its callback notes how far it came */
        u->stats.refused++;
    return u->dma->at;
}

/* ---- the handler ---- */

WADI_INLINE void count_one(wad_uart *u, wad_field flag, volatile uint32_t *count)
{
    if (!clears_by_hand(flag) || !wad_take(u->block->base, flag))
        return;
    *count = *count + 1u;
}

static void serve(wad_uart *u)
{
    count_one(u, R.framing, &u->stats.framing);
    count_one(u, R.parity_error, &u->stats.parity);
    if (wad_has(R.idle) && wad_take(u->block->base, R.idle) && u->receives.data &&
        u->receives.until == WAD_UNTIL_IDLE && u->dma->rx.busy && wad_dma_position(&u->dma->rx)) {
        u->receives.at = stop(u, false);
        wadi_uart_finish(u, &u->receives, WAD_OK);
    }
    if (u->in.data)
        (void)put(u);
}

const struct wadi_uart_style wadi_uart_by_dma = {.open = open,
                                                 .background = background,
                                                 .kick = kick,
                                                 .put = put,
                                                 .send = send,
                                                 .receive = receive,
                                                 .stop = stop,
                                                 .serve = serve};

#endif
