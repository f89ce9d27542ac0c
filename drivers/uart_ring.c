/* SPDX-License-Identifier: MIT */
/* Built once for a chip: a serial port in the background, between two rings of bytes. */
#include "uart_private.h"

#ifdef WAD_UART_TABLE

static bool fits(const void *data, size_t size)
{
    return data ? size >= 2u && (size - 1u) <= 0xFFFFu && !(size & (size - 1u)) : size == 0;
}

static wad_ring ring(void *data, size_t size)
{
    return (wad_ring){.data = data, .mask = size ? (uint32_t)size - 1u : 0};
}

/* Received: half of the queue, and the rest when nothing more comes. To send: half of it free. */
static void set_thresholds(uintptr_t base, bool in, bool out)
{
    const wad_field with = wad_has(R.rx_at) ? R.rx_at : R.tx_at;
    if (!wad_has(with))
        return;
    uint32_t word = wadi_read(base, with.off, with.size);
    if (in) {
        word =
            wadi_also(base, word, with, R.rx_at, wad_has(R.rx_wait) ? wadi_ones(R.rx_at) >> 1 : 0u);
        word = wadi_also(base, word, with, R.rx_wait, 20);
    }
    if (out)
        word = wadi_also(base, word, with, R.tx_at, wadi_ones(R.tx_at) >> 1);
    wadi_write(base, with.off, with.size, word);
}

wad_status wad_uart_background(wad_uart *u, void *in, size_t in_size, void *out, size_t out_size,
                               unsigned priority)
{
    uintptr_t base = u->block->base;
    if (!fits(in, in_size) || !fits(out, out_size))
        return WAD_E_ARG;
    if (u->block->irq < 0 || (u->data_mask > 0xFFu && (in || out)) ||
        (in && !wad_has(R.rx_ready_irq)) || (out && !wad_has(R.tx_ready_irq)))
        return WAD_E_ABSENT;
    u->background = true;
    u->in = ring(in, in_size);
    u->out = ring(out, out_size);
    if (u->dma) {
        wad_status st = uart_style(u)->background(u);
        return st == WAD_OK ? wad_irq_enable(u->block->irq, priority) : st;
    }
    set_thresholds(base, in != 0, out != 0);
    if (in) {
        const wad_field with = R.rx_ready_irq;
        uint32_t word = wadi_read(base, with.off, with.size);
        word = wadi_also(base, word, with, R.rx_ready_irq, 1);
        word = wadi_also(base, word, with, R.timeout_irq, 1);
        word = wadi_also(base, word, with, R.overrun_irq, 1);
        wadi_write(base, with.off, with.size, word);
    }
    return wad_irq_enable(u->block->irq, priority);
}

/* ---- the handler's side ---- */

static void receive_one(wad_uart *u)
{
    uint8_t byte = (uint8_t)wadi_uart_take(u); /* the errors are counted */
    uint32_t held = ring_count(&u->in);
    if (held > u->in.mask) {
        u->stats.dropped++;
        return;
    }
    u->in.data[u->in.put & u->in.mask] = byte;
    wad_port_barrier(); /* the byte before the count that tells of it */
    u->in.put = u->in.put + 1u;
    if (held + 1u > u->stats.most)
        u->stats.most = held + 1u;
}

/* All of it: what is below the threshold would wait for the timeout. */
static void receive_all(wad_uart *u)
{
    if (wad_has(R.rx_level)) {
        for (uint32_t n = wad_get(u->block->base, R.rx_level); n; n--)
            receive_one(u);
        return;
    }
    while (uart_has_byte(u))
        receive_one(u);
}

static void send_more(wad_uart *u)
{
    uintptr_t base = u->block->base;
    uint32_t room = 1;
    if (wad_has(R.tx_level))
        room = wadi_ones(R.tx_at) + 1u - wad_get(base, R.tx_level);
    while (room-- && ring_count(&u->out)) {
        wad_put(base, R.tx_data, u->out.data[u->out.taken & u->out.mask]);
        u->out.taken = u->out.taken + 1u;
        u->stats.sent++;
    }
    if (!ring_count(&u->out)) /* else it would ask for ever */
        wad_put(base, R.tx_ready_irq, 0);
}

void wad_uart_handle(wad_uart *u)
{
    uintptr_t base = u->block->base;
    if (wad_has(R.timeout))
        wad_clear(base, R.timeout);
    if (u->dma)
        uart_style(u)->serve(u);
    else if (u->in.data)
        receive_all(u);
    if (clears_by_hand(R.overrun))
        count_overrun(u, wadi_read(base, R.overrun.off, R.overrun.size));
    if (u->out.data && wad_get(base, R.tx_ready_irq) && uart_is(u, R.tx_ready))
        send_more(u);
    wadi_uart_serve_transfers(u);
}

/* ---- the application's side ---- */

size_t wad_uart_room(const wad_uart *u)
{
    return (size_t)ring_room(&u->out);
}

size_t wad_uart_waiting(const wad_uart *u)
{
    return (size_t)uart_held(u);
}

size_t wad_uart_write(wad_uart *u, const void *data, size_t n)
{
    const uint8_t *bytes = data;
    uint32_t state = wad_port_irq_save(); /* several may write; the handler takes */
    size_t room = (size_t)ring_room(&u->out), take = n < room ? n : room;
    for (size_t i = 0; i < take; i++)
        u->out.data[(u->out.put + (uint32_t)i) & u->out.mask] = bytes[i];
    u->out.put = u->out.put + (uint32_t)take;
    if (take && u->dma)
        uart_style(u)->kick(u);
    else if (take)
        wad_put(u->block->base, R.tx_ready_irq, 1);
    wad_port_irq_restore(state);
    return take;
}

size_t wad_uart_read(wad_uart *u, void *data, size_t n)
{
    uint8_t *bytes = data;
    size_t held = (size_t)uart_held(u), take = n < held ? n : held;
    for (size_t i = 0; i < take; i++)
        bytes[i] = u->in.data[(u->in.taken + (uint32_t)i) & u->in.mask];
    wad_port_barrier(); /* the bytes before the count that frees them */
    u->in.taken = u->in.taken + (uint32_t)take;
    return take;
}

int wad_uart_read_line(wad_uart *u, char *line, size_t room, char end)
{
    size_t held = (size_t)uart_held(u), n = 0;
    while (n < held && n + 1u < room &&
           u->in.data[(u->in.taken + (uint32_t)n) & u->in.mask] != (uint8_t)end)
        n++;
    bool whole = n < held && u->in.data[(u->in.taken + (uint32_t)n) & u->in.mask] == (uint8_t)end;
    if (room < 2u || (!whole && n + 1u < room && n <= u->in.mask))
        return -1;
    n = wad_uart_read(u, line, n);
    line[n] = 0;
    if (whole)
        u->in.taken = u->in.taken + 1u;
    return (int)n;
}

void wad_uart_discard(wad_uart *u)
{
    u->in.taken = u->in.taken + uart_held(u);
}

size_t wad_uart_flush(wad_uart *u)
{
    uint32_t state = wad_port_irq_save(); /* the handler takes */
    if (u->dma)
        u->out.taken = u->out.taken + (uint32_t)uart_style(u)->stop(u, true);
    size_t n = (size_t)ring_count(&u->out);
    u->out.put = u->out.taken;
    wad_port_irq_restore(state);
    return n;
}

#endif
