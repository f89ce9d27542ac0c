/* SPDX-License-Identifier: MIT */
/* Built once for a chip: transfers out of and into the caller's memory, by interrupt. */
#include "uart_private.h"

#ifdef WAD_UART_TABLE

/* What is received at once: up to half of the queue, and no more than is wanted. */
static void set_threshold(const wad_uart *u)
{
    const wad_uart_transfer *t = &u->receives;
    uint32_t left = (uint32_t)(t->n - t->at), half = wadi_ones(R.rx_at) >> 1;
    if (!wad_has(R.rx_at))
        return;
    if (t->until == WAD_UNTIL_END)
        left = 1; /* each byte may be the last */
    wad_put(u->block->base, R.rx_at, left > half ? half : left - 1u);
}

static void listen(const wad_uart *u, bool on)
{
    uintptr_t base = u->block->base;
    if (on)
        set_threshold(u);
    wad_put(base, R.rx_ready_irq, on);
    if (wad_has(R.idle_irq))
        wad_put(base, R.idle_irq, on && u->receives.until == WAD_UNTIL_IDLE);
}

/* The caller's `done` may begin the next one: this one is no more when it is called. */
void wadi_uart_finish(wad_uart *u, wad_uart_transfer *t, wad_status st)
{
    wad_uart_transfer over = *t;
    t->data = 0;
    if (over.done)
        over.done(u, st, over.at, over.context);
}

/* ---- sending ---- */

wad_status wad_uart_send(wad_uart *u, const void *data, size_t n, wad_uart_done done, void *context)
{
    if (!data || !n)
        return WAD_E_ARG;
    if (!u->background || u->out.data || u->sends.data)
        return WAD_E_STATE;
    uint32_t state = wad_port_irq_save(); /* the handler may serve the other direction meanwhile */
    u->sends = (wad_uart_transfer){
        .data = (uint8_t *)(uintptr_t)data, .n = n, .done = done, .context = context};
    if (u->dma) {
        wad_status st = uart_style(u)->send(u);
        if (st != WAD_OK)
            u->sends.data = 0;
        wad_port_irq_restore(state);
        return st;
    }
    if (wad_has(R.tx_at)) /* half of the queue is free */
        wad_put(u->block->base, R.tx_at, wadi_ones(R.tx_at) >> 1);
    wad_put(u->block->base, R.tx_ready_irq, 1);
    wad_port_irq_restore(state);
    return WAD_OK;
}

void wadi_uart_all_given(wad_uart *u)
{
    if (wad_has(R.tx_done_irq))
        wad_put(u->block->base, R.tx_done_irq, 1); /* it asks when the last has left */
    else
        wadi_uart_finish(u, &u->sends, WAD_OK);
}

static void serve_sending(wad_uart *u)
{
    uintptr_t base = u->block->base;
    wad_uart_transfer *t = &u->sends;
    if (t->at < t->n) {
        uint32_t room = 1;
        if (!uart_is(u, R.tx_ready))
            return;
        if (wad_has(R.tx_level))
            room = wadi_ones(R.tx_at) + 1u - wad_get(base, R.tx_level);
        for (; room && t->at < t->n; room--) {
            wad_put(base, R.tx_data, t->data[t->at]);
            t->at = t->at + 1u;
            u->stats.sent++;
        }
        if (t->at < t->n)
            return;
        wad_put(base, R.tx_ready_irq, 0);
        wadi_uart_all_given(u);
    } else if (wad_has(R.tx_done_irq) && uart_is(u, R.tx_done)) {
        wad_put(base, R.tx_done_irq, 0);
        wadi_uart_finish(u, t, WAD_OK);
    }
}

/* ---- receiving ---- */

wad_status wad_uart_receive(wad_uart *u, void *data, size_t n, wad_uart_until until, uint8_t end,
                            wad_uart_done done, void *context)
{
    if (!data || !n)
        return WAD_E_ARG;
    if (!u->background || u->in.data || u->receives.data)
        return WAD_E_STATE;
    if ((until == WAD_UNTIL_IDLE && !wad_has(R.idle_irq)) || (until == WAD_UNTIL_END && u->dma))
        return WAD_E_ABSENT;
    uint32_t state = wad_port_irq_save();
    u->receives = (wad_uart_transfer){
        .data = data, .n = n, .done = done, .context = context, .until = until, .end = end};
    if (until == WAD_UNTIL_IDLE)
        wad_clear(u->block->base, R.idle); /* an old one is not the end of this */
    wad_status st = WAD_OK;
    if (u->dma)
        st = uart_style(u)->receive(u);
    else
        listen(u, true);
    if (st != WAD_OK)
        u->receives.data = 0;
    wad_port_irq_restore(state);
    return st;
}

static void serve_receiving(wad_uart *u)
{
    uintptr_t base = u->block->base;
    wad_uart_transfer *t = &u->receives;
    bool idle = t->until == WAD_UNTIL_IDLE && wad_has(R.idle_irq) && wad_take(base, R.idle);
    bool over = false;
    while (!over) {
        if (!arrived(u))
            break;
        uint8_t byte = (uint8_t)wadi_uart_take(u);
        t->data[t->at] = byte;
        t->at = t->at + 1u;
        over = t->at == t->n || (t->until == WAD_UNTIL_END && byte == t->end);
    }
    if (!over && !(idle && t->at)) {
        set_threshold(u);
        return;
    }
    listen(u, false);
    wadi_uart_finish(u, t, WAD_OK);
}

void wadi_uart_serve_transfers(wad_uart *u)
{
    if (u->receives.data && !u->dma)
        serve_receiving(u);
    if (u->sends.data && (!u->dma || u->sends.at == u->sends.n))
        serve_sending(u);
}

void wad_uart_abort(wad_uart *u)
{
    uintptr_t base = u->block->base;
    uint32_t state = wad_port_irq_save();
    bool sent = u->sends.data != 0, received = u->receives.data != 0;
    if (u->dma && sent && u->sends.at < u->sends.n)
        u->sends.at = uart_style(u)->stop(u, true);
    if (u->dma && received)
        u->receives.at = uart_style(u)->stop(u, false);
    if (sent) {
        wad_put(base, R.tx_ready_irq, 0);
        if (wad_has(R.tx_done_irq))
            wad_put(base, R.tx_done_irq, 0);
    }
    if (received && !u->dma)
        listen(u, false);
    if (sent)
        wadi_uart_finish(u, &u->sends, WAD_E_STATE);
    if (received)
        wadi_uart_finish(u, &u->receives, WAD_E_STATE);
    wad_port_irq_restore(state);
}

#endif
