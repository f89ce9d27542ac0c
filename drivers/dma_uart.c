/* SPDX-License-Identifier: MIT */
/*
 * Built once for a chip: a serial port whose bytes a DMA controller takes and gives. Linked only
 * where a configuration names it.
 *
 * What arrives goes round in the ring by itself; the count of it is the channel's position, looked
 * at when somebody asks. What is sent goes out in stretches that do not wrap.
 */
#include <wadium/dma.h>

#include WAD_CHIP

#if defined(WADI_UART_FORMS) && defined(WAD_DMA_TABLE)

/* Of several forms the table is looked up: moving is the controller's work. */
#define R (*wadi_uart_roles(u->unit->form))

WADI_INLINE void ask(const wad_uart *u, wad_field enable, bool on)
{
    uint32_t state = wad_port_irq_save(); /* both directions share a register */
    wad_put(u->unit->block.base, enable, on);
    wad_port_irq_restore(state);
}

WADI_INLINE volatile void *data_register(const wad_uart *u, wad_field f)
{
    return (volatile void *)(u->unit->block.base + f.off);
}

/* Bytes that wait in the ring to be sent. */
WADI_INLINE size_t waits(const wad_uart *u)
{
    return wadi_ring_held(u->out);
}

static wad_status begin_ring(const wad_uart *u);

static wad_status open(const wad_uart *u)
{
    wad_dma_port *d = u->dma;
    wad_status st = wad_dma_port_release(d); /* of an opening before this one */
    if (st == WAD_OK)
        st = wad_dma_claim(d->mover, &d->tx, d->tx_request, d->owner);
    /* where channels share one request, a port has a channel for one direction only */
    if (st == WAD_OK && d->rx_request != WAD_DMA_AT_ONCE)
        st = wad_dma_claim(d->mover, &d->rx, d->rx_request, d->owner);
    if (st != WAD_OK || !u->in)
        return st;
    if (d->rx_request == WAD_DMA_AT_ONCE)
        return WAD_E_ABSENT;
    st = begin_ring(u);
    if (st == WAD_OK)
        ask(u, R.rx_dma, true);
    return st;
}

static wad_status close(const wad_uart *u)
{
    ask(u, R.tx_dma, false);
    ask(u, R.rx_dma, false);
    return wad_dma_port_release(u->dma);
}

/* ---- the rings ---- */

static void out_over(void *context, wad_status status, size_t moved);

static void kick(const wad_uart *u)
{
    wad_dma *tx = &u->dma->tx;
    size_t from = (size_t)(u->out->at->taken & u->out->mask), held = waits(u);
    size_t straight = (size_t)u->out->mask + 1u - from;
    if (!held || tx->busy)
        return;
    wad_dma_transfer t = {.source = (const void *)(uintptr_t)(u->out->data + from),
                          .destination = data_register(u, R.tx_data),
                          .n = held < straight ? held : straight,
                          .bytes = 1,
                          .flags = WAD_DMA_DESTINATION_STAYS,
                          .done = out_over,
                          .context = (void *)(uintptr_t)u};
    if (t.n > wad_dma_most()) /* the rest follows at its end */
        t.n = wad_dma_most();
    ask(u, R.tx_dma, true);
    if (wad_dma_start(tx, &t) == WAD_OK)
        return;
    ask(u, R.tx_dma, false); /* it waits in the ring, and wad_uart_stats says so */
    if (u->stats)
        u->stats->refused++;
}

static void out_over(void *context, wad_status status, size_t moved)
{
    const wad_uart *u = context;
    u->dma->at = moved;
    if (status == WAD_E_STATE) /* flushed: the caller counts */
        return;
    u->out->at->taken = (wad_index)(u->out->at->taken + moved);
    if (u->stats)
        u->stats->sent += (uint32_t)moved;
    if (waits(u))
        kick(u);
    else
        ask(u, R.tx_dma, false);
}

static wad_index put(const wad_uart *u)
{
    struct wadi_ring_at *ring = u->in->at;
    uint32_t position = (uint32_t)wad_dma_position(&u->dma->rx), size = u->in->mask + 1u;
    wad_index at = (wad_index)position;
    uint32_t held = (uint32_t)wadi_ring_between(ring->taken, at),
             lost = held > size ? held - size : 0;
    if (lost) /* it went round over what nobody had taken */
        ring->taken = (wad_index)(at - size);
    if (u->stats) {
        u->stats->received = position;
        u->stats->dropped += lost;
        if (held - lost > u->stats->most)
            u->stats->most = held - lost;
    }
    return at;
}

static wad_status begin_ring(const wad_uart *u)
{
    wad_dma_port *d = u->dma;
    wad_dma_transfer t = {.source = data_register(u, R.rx_data),
                          .destination = (void *)(uintptr_t)u->in->data,
                          .n = (size_t)u->in->mask + 1u,
                          .bytes = 1,
                          .flags = WAD_DMA_SOURCE_STAYS | WAD_DMA_RING};
    wad_status st = wad_dma_start(&d->rx, &t);
    if (st == WAD_E_ARG && wad_dma_claim_partner(&d->rx, &d->partner) == WAD_OK) {
        t.partner = &d->partner;
        st = wad_dma_start(&d->rx, &t);
    }
    return st;
}

/* ---- transfers ---- */

static void sent(void *context, wad_status status, size_t moved)
{
    const wad_uart *u = context;
    u->dma->at = moved;
    if (status == WAD_E_STATE) /* aborted: said there */
        return;
    ask(u, R.tx_dma, false);
    u->sends->at = moved;
    if (u->stats)
        u->stats->sent += (uint32_t)moved;
    if (status == WAD_OK)
        wadi_uart_given(u, &R);
    else
        wadi_uart_finish(u->sends, status);
}

static wad_status send(const wad_uart *u)
{
    wad_dma_transfer t = {.source = u->sends->data,
                          .destination = data_register(u, R.tx_data),
                          .n = u->sends->n,
                          .bytes = 1,
                          .flags = WAD_DMA_DESTINATION_STAYS,
                          .done = sent,
                          .context = (void *)(uintptr_t)u};
    wad_status st = wad_dma_start(&u->dma->tx, &t);
    if (st == WAD_OK)
        ask(u, R.tx_dma, true);
    return st;
}

static void end_reception(const wad_uart *u, wad_status status, size_t moved)
{
    ask(u, R.rx_dma, false);
    if (wad_has(R.idle_irq))
        wad_put(u->unit->block.base, R.idle_irq, 0);
    u->receives->at = u->dma->at = moved;
    if (u->stats)
        u->stats->received += (uint32_t)moved;
    if (status != WAD_E_STATE)
        wadi_uart_finish(u->receives, status);
}

static void received(void *context, wad_status status, size_t moved)
{
    end_reception(context, status, moved);
}

static wad_status receive(const wad_uart *u)
{
    wad_dma_transfer t = {.source = data_register(u, R.rx_data),
                          .destination = u->receives->data,
                          .n = u->receives->n,
                          .bytes = 1,
                          .flags = WAD_DMA_SOURCE_STAYS,
                          .done = received,
                          .context = (void *)(uintptr_t)u};
    if (u->dma->rx_request == WAD_DMA_AT_ONCE)
        return WAD_E_ABSENT;
    wad_status st = wad_dma_start(&u->dma->rx, &t);
    if (st != WAD_OK)
        return st;
    if (wad_has(R.idle_irq))
        wad_put(u->unit->block.base, R.idle_irq, u->receives->until == WAD_UNTIL_IDLE);
    ask(u, R.rx_dma, true);
    return WAD_OK;
}

static size_t stop(const wad_uart *u, bool sending)
{
    wad_dma *d = sending ? &u->dma->tx : &u->dma->rx;
    ask(u, sending ? R.tx_dma : R.rx_dma, false);
    if (!d->busy)
        return 0;
    wad_status st = wad_dma_abort(d); /* its callback notes how far it came */
    if (st != WAD_OK && u->stats)
        u->stats->refused++;
    return u->dma->at;
}

/* ---- the handler ---- */

static void serve(const wad_uart *u)
{
    const uintptr_t base = u->unit->block.base;
    if (wadi_clears_by_hand(R.framing) && wad_take(base, R.framing) && u->stats)
        u->stats->framing++;
    if (wadi_clears_by_hand(R.parity_error) && wad_take(base, R.parity_error) && u->stats)
        u->stats->parity++;
    if (wad_has(R.idle) && wad_take(base, R.idle) && u->receives && u->receives->data &&
        u->receives->until == WAD_UNTIL_IDLE && u->dma->rx.busy && wad_dma_position(&u->dma->rx)) {
        u->receives->at = stop(u, false);
        wadi_uart_finish(u->receives, WAD_OK);
    }
    if (u->in)
        (void)put(u);
}

const wadi_uart_style wadi_uart_by_dma = {.open = open,
                                          .close = close,
                                          .kick = kick,
                                          .put = put,
                                          .send = send,
                                          .receive = receive,
                                          .stop = stop,
                                          .serve = serve};

#endif
