/* SPDX-License-Identifier: MIT */
/* What the serial driver's files share. Included once a file, behind WAD_CHIP's choice of chip. */
#ifndef WADI_UART_PRIVATE_H
#define WADI_UART_PRIVATE_H

#include <wadium/clock.h>
#include <wadium/irq.h>
#include <wadium/uart.h>

#include WAD_CHIP

#ifdef WAD_UART_TABLE

#define R WAD_UART_TABLE

/** Takes one word with its errors beside it, and counted; it must have arrived. */
uint16_t wadi_uart_take(wad_uart *u);
/** The handler's part for transfers. */
void wadi_uart_serve_transfers(wad_uart *u);
/** All bytes of the transfer are moved: its `done`, for sending once they have left. */
void wadi_uart_all_given(wad_uart *u);
void wadi_uart_finish(wad_uart *u, wad_uart_transfer *t, wad_status st);

/* One flag of those that reading clears, found set in a register that was read for another one. */
WADI_INLINE bool lost_by(wad_field flag, wad_field read, uint32_t word)
{
    return wad_has(flag) && (flag.how & WAD_HOW_KIND) == WAD_HOW_READ && flag.off == read.off &&
           word >> flag.lsb & 1u;
}

/* An overrun's flag that is cleared by hand. */
WADI_INLINE void count_overrun(wad_uart *u, uint32_t word)
{
    if (word >> R.overrun.lsb & 1u) {
        wad_clear(u->block->base, R.overrun);
        u->stats.overruns++;
    }
}

WADI_INLINE bool clears_by_hand(wad_field flag)
{
    return wad_has(flag) && (flag.how & WAD_HOW_KIND) != WAD_HOW_READ;
}

/* The flag's register; errors in it that reading clears are counted. */
WADI_INLINE uint32_t uart_word(wad_uart *u, wad_field flag)
{
    uint32_t word = wadi_read(u->block->base, flag.off, flag.size);
    if (lost_by(R.overrun, flag, word))
        u->stats.overruns++;
    if (lost_by(R.framing, flag, word))
        u->stats.framing++;
    if (lost_by(R.parity_error, flag, word))
        u->stats.parity++;
    return word;
}

/** Is the flag set? */
WADI_INLINE bool uart_is(wad_uart *u, wad_field flag)
{
    return uart_word(u, flag) >> flag.lsb & 1u;
}

/** The same for the flag that a byte has arrived: an overrun beside it is taken as well. */
WADI_INLINE bool uart_has_byte(wad_uart *u)
{
    const wad_field ready = R.rx_ready;
    uint32_t word = uart_word(u, ready);
    if (clears_by_hand(R.overrun) && R.overrun.off == ready.off)
        count_overrun(u, word);
    return word >> ready.lsb & 1u;
}

/** Has something arrived, below the threshold as well? */
WADI_INLINE bool arrived(wad_uart *u)
{
    return wad_has(R.rx_level) ? wad_get(u->block->base, R.rx_level) != 0 : uart_has_byte(u);
}

static inline uint32_t ring_count(const wad_ring *r)
{
    return r->put - r->taken;
}

/* What moves the bytes, NULL: the handler. */
static inline const struct wadi_uart_style *uart_style(const wad_uart *u)
{
    return u->dma ? u->dma->style : NULL;
}

/* Bytes that have come into the ring and are not taken. */
static inline uint32_t uart_held(const wad_uart *u)
{
    const struct wadi_uart_style *by = uart_style(u);
    return by && u->in.data ? by->put(u) - u->in.taken : ring_count(&u->in);
}

static inline uint32_t ring_room(const wad_ring *r)
{
    return r->data ? r->mask + 1u - ring_count(r) : 0;
}

#endif
#endif
