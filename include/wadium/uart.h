/* SPDX-License-Identifier: MIT */
/*
 * Serial ports.
 *
 *     static uint8_t in[64], out[256];
 *     static const wad_uart link = {&corran32_uart0, .clock_hz = 8000000, .baud = 115200,
 *                                   .tx = CORRAN32_ROUTE_UART0_TX_PA9,
 *                                   .rx = CORRAN32_ROUTE_UART0_RX_PA10,
 *                                   .in = WAD_RING(in), .out = WAD_RING(out), .priority = 2};
 *
 *     void handle_UART0(void) { wad_uart_handle(&link); }
 *
 *     st = wad_uart_open(&link);
 *     wad_irq_global_on();
 *     wad_uart_write(&link, "ready\r\n", 7, 0);           queued: sent by interrupt
 *     n = wad_uart_read(&link, line, sizeof line, 0);      what has arrived
 *
 * A port is a constant: what it is, how it is to work, and where lies what changes. What it does
 * not name costs nothing: without rings the port is polled, without `.stats` nothing is counted,
 * without
 * `.sends` there are no transfers. Where the compiler sees the constant, each call is the register
 * accesses themselves (docs/drivers.md); a port that is only known to the run works as well.
 *
 * The order inside is the silicon's: clock, reset, divider and format while the block is off, pins,
 * old flags away, enables, the block last.
 */
#ifndef WADIUM_UART_H
#define WADIUM_UART_H

#include "dma.h"
#include "ring.h"
#include "timebase.h"
#include "unit.h"

#ifndef WADI_UART_FORMS
#error                                                                                             \
    "include the chip's own header, such as corran32_roles.h: it includes this one for a chip that has serial ports"
#else

typedef enum wad_uart_parity {
    WAD_PARITY_NONE,
    WAD_PARITY_EVEN,
    WAD_PARITY_ODD,
    WAD_PARITY_MARK, /**< always 1 */
    WAD_PARITY_SPACE /**< always 0 */
} wad_uart_parity;

typedef enum wad_uart_stop { WAD_STOP_1, WAD_STOP_1_5, WAD_STOP_2 } wad_uart_stop;

/** A block of the chip that is a serial port; generated. */
typedef struct wad_uart_unit {
    wad_block block;
    uint8_t form;
} wad_uart_unit;

/** What has come and gone since the opening: `.stats = &(wad_uart_stats){0}`. Each number only
 * grows. */
typedef struct wad_uart_stats {
    uint32_t received, sent; /**< bytes, or words */
    uint32_t overruns;       /**< times that the block lost bytes, one or more each */
    uint32_t framing, parity, breaks;
    uint32_t dropped; /**< bytes that came when the ring was full */
    uint32_t most;    /**< bytes in the ring for what comes, at most */
    uint32_t refused; /**< stretches that the DMA controller did not take: they wait in the ring */
} wad_uart_stats;

/** A transfer is over: with WAD_OK, or as wad_uart_abort ended it; how many bytes it moved. Called
 * by the port's handler; it may begin the next transfer. */
typedef void (*wad_uart_done)(wad_status status, size_t n, void *context);

/** When a reception is over before its memory is full. */
typedef enum wad_uart_until {
    WAD_UNTIL_FULL, /**< not before */
    WAD_UNTIL_END,  /**< after a byte that equals `end` */
    WAD_UNTIL_IDLE  /**< when the line has been idle for a frame after a byte */
} wad_uart_until;

/** A transfer out of, or into, the caller's memory: `.sends = &(wad_uart_transfer){0}`. Private. */
typedef struct wad_uart_transfer {
    uint8_t *volatile data; /* NULL: none */
    volatile size_t n, at;
    wad_uart_done done;
    void *context;
    wad_uart_until until;
    uint8_t end;
} wad_uart_transfer;

/** A port. What is left out is 0: eight bits, no parity, one stop bit. */
typedef struct wad_uart {
    const wad_uart_unit *unit; /**< `&corran32_uart0` */
    uint32_t clock_hz;   /**< of the block's clock, as it is when the port is opened; 0: worked out
                            from the registers, at run time */
    uint32_t baud;       /**< bits a second */
    uint32_t within_ppm; /**< how far off the nearest divider may be; 0: 20 000 */
    uint8_t bits;        /**< 5 to 9; 0: 8 */
    wad_uart_parity parity;
    wad_uart_stop stop;
    wad_route tx, rx;   /**< 0: that direction is not used */
    wad_route driver;   /**< half-duplex: the pin that switches the line's driver on; 0: none */
    uint8_t lead;       /**< eighths of a bit between it and the start bit; with a driver only */
    wad_route rts, cts; /**< 0: no flow control */
    bool msb_first;     /**< the most significant bit goes first */
    bool invert_tx, invert_rx; /**< the line rests low */
    bool loop;                 /**< the transmitter feeds the receiver, the pins stay out of it */
    const wad_ring *in, *out;  /**< NULL: that direction is polled, or makes transfers */
    wad_uart_transfer *sends, *receives; /**< NULL: no transfers that way */
    volatile wad_uart_stats *stats;      /**< NULL: nothing is counted */
    const wad_timebase *time;            /**< for calls with a time limit; NULL: there are none */
    wad_dma_port *dma; /**< rings and transfers are moved by DMA; NULL: by interrupt */
    uint8_t priority;  /**< of its interrupt, with rings or transfers */
} wad_uart;

/** For a port: `static wad_dma_port d = WAD_UART_BY_DMA(&mover, TX, RX);` with the requests that
 * the chip has for it. A receive ring that is aligned to its size takes one channel, else two. */
#define WAD_UART_BY_DMA(mover_, tx_, rx_)                                                          \
    {                                                                                              \
        .style = &wadi_uart_by_dma, .mover = (mover_), .tx_request = (tx_), .rx_request = (rx_),   \
        .owner = "serial port"                                                                     \
    }

/** Errors beside the word they belong to. */
#define WAD_WORD_FRAMING 0x1000u
#define WAD_WORD_PARITY  0x2000u
#define WAD_WORD_BREAK   0x4000u

#include "code/uart.h" /* inline bodies, which nobody needs to read */

/**
 * Brings block and pins up and sets the format and the nearest baud there is, 16 samples a bit
 * where that is as near as 8. With rings or transfers the port's interrupt is enabled; its handler
 * calls wad_uart_handle. Opening anew is right at any time: transfers under way are forgotten,
 * rings keep what they hold, and with `.time` what the block still has to send leaves first (a
 * tenth of a second at the most); without it that breaks off (W807).
 *
 * A constant baud that no divider reaches within `within_ppm`, and a format that the block lacks,
 * end the build. Else WAD_E_RANGE: the baud, or the number of bits, cannot be; WAD_E_ABSENT: the
 * block has no such parity, stop bits, direction or interrupt, or rings that cannot hold nine bits;
 * both before anything is written. WAD_E_TIMEOUT: it stays in reset; by DMA as wad_dma_claim,
 * WAD_E_RANGE: a ring for what comes that has more bytes than the controller counts; else as
 * wad_pin_route. Blocks for the reset, and as said. Not from a handler.
 */
WADI_INLINE WAD_MUST_CHECK wad_status wad_uart_open(const wad_uart *u)
{
    wad_status st;
    if (WADI_KNOWS(u->unit, &wadi_uart_roles(u->unit->form)->enable) && WADI_FOLDS(u->clock_hz) &&
        WADI_FOLDS(u->baud) && WADI_FOLDS(u->tx) && WADI_FOLDS(u->rx) && u->clock_hz && !u->dma &&
        !u->unit->block.in_order && wadi_is_plain(u->tx) && wadi_is_plain(u->rx))
        st = wadi_uart_open_known(u);
    else
        st = WADI_BY_FORM(WADI_UART_FORMS, u->unit->form, wadi_uart_open, u);
    if (st == WAD_OK)
        wadi_tell_clock(&u->unit->block, u->clock_hz);
    return st;
}

/** Ends it: what is under way or in rings is forgotten, no `done` is called; the block is off and
 * asks for nothing. Pins keep their functions, the block its clock. Never blocks. Not from its
 * handler. */
WADI_INLINE void wad_uart_close(const wad_uart *u)
{
    WADI_BY_FORM(WADI_UART_FORMS, u->unit->form, wadi_uart_close, u);
}

/** What the opening's baud is off by, in parts per million of the wanted one, positive when fast: a
 * constant where baud and clock are. Both sides' errors must stay within some 4 % together (wadium
 * rate ... --peer tells exactly). */
#define WAD_UART_PPM(uart) wadi_uart_ppm(&(uart))

/** Changes the baud: waits until everything has left the wire, `timeout_us` at the most
 * (WAD_E_TIMEOUT: the old baud stays), then sets it. What is being received is lost. WAD_E_RANGE:
 * it cannot be; else as wad_uart_drain. */
WADI_INLINE WAD_MUST_CHECK wad_status wad_uart_set_baud(const wad_uart *u, uint32_t baud,
                                                        uint32_t timeout_us)
{
    return WADI_BY_FORM(WADI_UART_FORMS, u->unit->form, wadi_uart_set_baud, u, baud, timeout_us);
}

/** Waits until everything has left the wire, `timeout_us` at the most (WAD_E_TIMEOUT). WAD_E_STATE:
 * the port has no `time`; WAD_E_ABSENT: the block does not tell. */
WADI_INLINE WAD_MUST_CHECK wad_status wad_uart_drain(const wad_uart *u, uint32_t timeout_us)
{
    return WADI_BY_FORM(WADI_UART_FORMS, u->unit->form, wadi_uart_drain, u, timeout_us);
}

/* ---- one word ---- */

/** Gives one word to the block; false: it has no room. Never blocks; not where the port has a ring
 * or transfers for this direction. */
WADI_INLINE bool wad_uart_give(const wad_uart *u, uint32_t word)
{
    if (WADI_KNOWS(u->unit, &wadi_uart_roles(u->unit->form)->enable))
        return wadi_uart_give_body(u, wadi_uart_roles(u->unit->form), word);
    return WADI_BY_FORM(WADI_UART_FORMS, u->unit->form, wadi_uart_give, u, word);
}

/** Takes what has arrived from the block, its errors beside it (WAD_WORD_...); -1: nothing. Never
 * blocks; not where the port has a ring or transfers for this direction. */
WADI_INLINE int wad_uart_take(const wad_uart *u)
{
    if (WADI_KNOWS(u->unit, &wadi_uart_roles(u->unit->form)->enable))
        return wadi_uart_take_body(u, wadi_uart_roles(u->unit->form));
    return WADI_BY_FORM(WADI_UART_FORMS, u->unit->form, wadi_uart_take, u);
}

/* ---- a block of bytes ---- */

/**
 * Sends up to `n` bytes, into the ring where the port has one, and returns how many. With
 * `timeout_us` 0 as many as there is room for now: never blocks, and a handler that is no more
 * urgent than the port's may call it. Else it waits for room, so long at the most in all: fewer
 * than `n` means that the time is over, or that the port has no `time` (known to the compiler: the
 * build ends). 0 while a transfer goes on.
 */
WADI_INLINE size_t wad_uart_write(const wad_uart *u, const void *data, size_t n,
                                  uint32_t timeout_us)
{
    if (WADI_FOLDS(timeout_us) && timeout_us && WADI_FOLDS(!u->time) && !u->time)
        wadi_uart_has_no_time();
    if (WADI_FOLDS(timeout_us) && !timeout_us && WADI_FOLDS(!u->out) && u->out &&
        WADI_FOLDS(!u->dma) && !u->dma && WADI_FOLDS(u->unit->form))
        return WADI_OF_FORM(WADI_UART_MORE, u->unit->form, wadi_uart_queue, u->out,
                            u->unit->block.base, data, n);
    return WADI_BY_FORM(WADI_UART_FORMS, u->unit->form, wadi_uart_write, u, data, n, timeout_us);
}

/** Receives up to `n` bytes and returns how many: with `timeout_us` 0 what has arrived, which never
 * blocks, else it waits for them so long at the most. A byte with an error is counted and kept. */
WADI_INLINE size_t wad_uart_read(const wad_uart *u, void *data, size_t n, uint32_t timeout_us)
{
    if (WADI_FOLDS(timeout_us) && timeout_us && WADI_FOLDS(!u->time) && !u->time)
        wadi_uart_has_no_time();
    if (WADI_FOLDS(timeout_us) && !timeout_us && WADI_FOLDS(!u->in) && u->in &&
        WADI_FOLDS(!u->dma) && !u->dma)
        return wadi_ring_read(u->in, data, n);
    return WADI_BY_FORM(WADI_UART_FORMS, u->unit->form, wadi_uart_read, u, data, n, -1, 0u,
                        timeout_us);
}

/** Receives until `n` bytes are there, or the byte `end` (-1: no such byte) has come and is stored,
 * or nothing has come for `gap_us` after a byte (0: gaps do not end it), or the time is over; how
 * many. */
WADI_INLINE size_t wad_uart_read_until(const wad_uart *u, void *data, size_t n, int end,
                                       uint32_t gap_us, uint32_t timeout_us)
{
    return WADI_BY_FORM(WADI_UART_FORMS, u->unit->form, wadi_uart_read, u, data, n, end, gap_us,
                        timeout_us);
}

/** The same for frames of nine bits, polled: a word each. What is received carries its errors. */
WADI_INLINE size_t wad_uart_write_words(const wad_uart *u, const uint16_t *words, size_t n,
                                        uint32_t timeout_us)
{
    return WADI_BY_FORM(WADI_UART_FORMS, u->unit->form, wadi_uart_write_words, u, words, n,
                        timeout_us);
}
WADI_INLINE size_t wad_uart_read_words(const wad_uart *u, uint16_t *words, size_t n,
                                       uint32_t timeout_us)
{
    return WADI_BY_FORM(WADI_UART_FORMS, u->unit->form, wadi_uart_read_words, u, words, n,
                        timeout_us);
}

/** How much has arrived in the ring; how much room there is in that to send. Never block. */
WADI_INLINE size_t wad_uart_waiting(const wad_uart *u)
{
    return wadi_uart_held(u);
}
WADI_INLINE size_t wad_uart_room(const wad_uart *u)
{
    return u->out ? wadi_ring_room(u->out) : 0;
}

/** Takes a line, if one has arrived whole: bytes up to `end`, which is left out; how many, with a 0
 * behind them. -1: none yet, or `room` is less than 2. A line longer than `room` - 1 comes in
 * pieces. Never blocks. */
WADI_INLINE int wad_uart_read_line(const wad_uart *u, char *line, size_t room, char end)
{
    return u->in ? wadi_ring_line(u->in, wadi_uart_held(u), line, room, end) : -1;
}

/** Forgets what has arrived. Never blocks. */
WADI_INLINE void wad_uart_discard(const wad_uart *u)
{
    if (u->in)
        u->in->at->taken = (wad_index)(u->in->at->taken + wadi_uart_held(u));
}

/** Forgets what waits in the ring to be sent, and returns how much that was; what the block has is
 * still sent. Never blocks. */
WADI_INLINE size_t wad_uart_flush(const wad_uart *u)
{
    return wadi_uart_flush_ring(u);
}

/* ---- transfers: out of and into the caller's memory, in the background ---- */

/** Begins to send `n` bytes, which must stay where they are until `done` (may be NULL) is called,
 * once the last of them has left the wire, where the block has a flag for that; else has been taken
 * by it. The port has `.sends`, and no ring for that direction. WAD_E_ARG: nothing to send;
 * WAD_E_STATE: the port makes no such transfers, or one goes on; WAD_E_RANGE: more bytes than the
 * DMA controller counts. Never blocks; a `done` may call it. */
WADI_INLINE WAD_MUST_CHECK wad_status wad_uart_send(const wad_uart *u, const void *data, size_t n,
                                                    wad_uart_done done, void *context)
{
    wad_uart_transfer *t = u->sends;
    if (!t || u->out || t->data)
        return WAD_E_STATE;
    t->done = done;
    t->context = context;
    if (WADI_FOLDS(!u->dma) && !u->dma && WADI_FOLDS(u->unit->form))
        return WADI_OF_FORM(WADI_UART_MORE, u->unit->form, wadi_uart_send, t, u->unit->block.base,
                            data, n);
    return WADI_BY_FORM(WADI_UART_FORMS, u->unit->form, wadi_uart_send_by, u, data, n);
}

/** Begins to receive, at most `n` bytes; as wad_uart_send. Bytes that come while no reception goes
 * on stay in the block as long as it has room, and are lost, with an overrun counted, when it has
 * not. */
WADI_INLINE WAD_MUST_CHECK wad_status wad_uart_receive(const wad_uart *u, void *data, size_t n,
                                                       wad_uart_done done, void *context)
{
    const wadi_uart_end full = {WAD_UNTIL_FULL, 0};
    return WADI_BY_FORM(WADI_UART_FORMS, u->unit->form, wadi_uart_receive, u, data, n, full, done,
                        context);
}

/** The same until something else ends it. WAD_E_ABSENT: the block cannot tell an idle line, or a
 * DMA controller an `end`. */
WADI_INLINE WAD_MUST_CHECK wad_status wad_uart_receive_until(const wad_uart *u, void *data,
                                                             size_t n, wad_uart_until until,
                                                             uint8_t end, wad_uart_done done,
                                                             void *context)
{
    const wadi_uart_end by = {until, end};
    return WADI_BY_FORM(WADI_UART_FORMS, u->unit->form, wadi_uart_receive, u, data, n, by, done,
                        context);
}

/** Ends both transfers where they are; `done` is called with WAD_E_STATE and how far they came.
 * Never blocks but for the byte that a DMA controller moves. */
WADI_INLINE void wad_uart_abort(const wad_uart *u)
{
    WADI_BY_FORM(WADI_UART_FORMS, u->unit->form, wadi_uart_abort, u);
}

/** The port's handler, where it has rings or transfers. */
WADI_INLINE void wad_uart_handle(const wad_uart *u)
{
    if (WADI_KNOWS(u->unit, &wadi_uart_roles(u->unit->form)->enable) && WADI_FOLDS(!u->in) &&
        WADI_FOLDS(!u->out))
        wadi_uart_handle_body(u, wadi_uart_roles(u->unit->form));
    else
        WADI_BY_FORM(WADI_UART_FORMS, u->unit->form, wadi_uart_handle, u);
}

#endif
#endif
