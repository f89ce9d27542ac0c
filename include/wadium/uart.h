/* SPDX-License-Identifier: MIT */
/*
 * Serial ports.
 *
 *     static wad_uart link;
 *     static uint8_t in[64], out[256];
 *
 *     void handle_UART0(void) { wad_uart_handle(&link); }
 *
 *     const wad_uart_config config = {.baud = 115200, .tx = CORRAN32_ROUTE_UART0_TX_PA9,
 *                                     .rx = CORRAN32_ROUTE_UART0_RX_PA10};
 *     st = wad_uart_open(&link, &corran32_uart0, &config, &error_ppm);
 *     st = wad_uart_background(&link, in, sizeof in, out, sizeof out, 2);
 *     wad_irq_global_on();
 *     wad_uart_write(&link, "ready\r\n", 7);          queued: sent by interrupt
 *     n = wad_uart_read(&link, line, sizeof line);     what has arrived
 *
 * Without wad_uart_background the same port is polled with wad_uart_put and wad_uart_get; both wait
 * on the rings when there are some. wad_uart_send and wad_uart_receive need no ring: they move the
 * caller's memory by interrupt and call back. The order inside is the silicon's: clock, reset,
 * divider and format while the block is off, pins, old flags away, enables, the block last.
 */
#ifndef WADIUM_UART_H
#define WADIUM_UART_H

#include "dma.h"
#include "pin.h"
#include "rate.h"
#include "timebase.h"

typedef enum wad_uart_parity {
    WAD_PARITY_NONE,
    WAD_PARITY_EVEN,
    WAD_PARITY_ODD,
    WAD_PARITY_MARK, /**< always 1 */
    WAD_PARITY_SPACE /**< always 0 */
} wad_uart_parity;

typedef enum wad_uart_stop { WAD_STOP_1, WAD_STOP_1_5, WAD_STOP_2 } wad_uart_stop;

/** How a port is to work. What is left out is 0: eight bits, no parity, one stop bit. */
typedef struct wad_uart_config {
    uint32_t baud;
    uint8_t bits; /**< 5 to 9; 0: 8 */
    wad_uart_parity parity;
    wad_uart_stop stop;
    wad_route tx, rx;   /**< 0: that direction is not used */
    wad_route driver;   /**< half-duplex: the pin that switches the line's driver on; 0: none */
    uint8_t lead;       /**< eighths of a bit between it and the start bit */
    wad_route rts, cts; /**< 0: no flow control */
    bool msb_first;     /**< the most significant bit goes first */
    bool invert_tx, invert_rx; /**< the line rests low */
    bool loop;                 /**< the transmitter feeds the receiver, the pins stay out of it */
    const wad_timebase *time;  /**< for timeouts in microseconds; NULL: no call with one */
    wad_dma_port *dma;         /**< rings and transfers are moved by DMA; NULL: by interrupt */
} wad_uart_config;

/** For a configuration: `static wad_dma_port d = WAD_UART_BY_DMA(&mover, TX, RX);` with the
 * requests that the chip has for the port. A receive ring that is aligned to its size takes one
 * channel, else two. */
#define WAD_UART_BY_DMA(mover_, tx_, rx_)                                                          \
    {                                                                                              \
        .style = &wadi_uart_by_dma, .mover = (mover_), .tx_request = (tx_), .rx_request = (rx_),   \
        .owner = "serial port"                                                                     \
    }

/** What has come since the opening. Each number only grows. */
typedef struct wad_uart_stats {
    uint32_t received, sent; /**< bytes */
    uint32_t overruns;       /**< times that the block lost bytes, one or more each */
    uint32_t framing, parity, breaks;
    uint32_t dropped; /**< bytes that came when the receive buffer was full */
    uint32_t most;    /**< bytes in the receive buffer, at most */
    uint32_t
        refused; /**< stretches that the DMA controller did not take: they wait in the buffer */
} wad_uart_stats;

/* A ring of bytes; one side writes, the other reads. */
typedef struct wad_ring {
    uint8_t *data;
    uint32_t mask; /* size - 1 */
    volatile uint32_t put, taken;
} wad_ring;

typedef struct wad_uart wad_uart;

/** A transfer is over: with WAD_OK, or as wad_uart_abort ended it; how many bytes it moved. Called
 * by the port's handler; it may begin the next transfer. */
typedef void (*wad_uart_done)(wad_uart *uart, wad_status status, size_t n, void *context);

/** When a reception is over before its memory is full. */
typedef enum wad_uart_until {
    WAD_UNTIL_FULL, /**< not before */
    WAD_UNTIL_END,  /**< after a byte that equals `end` */
    WAD_UNTIL_IDLE  /**< when the line has been idle for a frame after a byte */
} wad_uart_until;

/* A transfer out of, or into, the caller's memory. */
typedef struct wad_uart_transfer {
    uint8_t *data; /* NULL: none */
    size_t n;
    volatile size_t at;
    wad_uart_done done;
    void *context;
    wad_uart_until until;
    uint8_t end;
} wad_uart_transfer;

/** A port in use. The caller owns it, and the buffers; they must outlive the use. */
struct wad_uart {
    const wad_block *block;        /**< read-only */
    volatile wad_uart_stats stats; /**< read-only */
    const wad_timebase *time;      /* private from here */
    wad_ring in, out;
    wad_uart_transfer sends, receives;
    wad_dma_port *dma;
    uint16_t data_mask;
    bool background; /* the handler serves it */
};

/* What moves bytes instead of the handler. */
struct wadi_uart_style {
    wad_status (*open)(wad_uart *uart);
    wad_status (*background)(wad_uart *uart);
    void (*kick)(wad_uart *uart);
    uint32_t (*put)(const wad_uart *uart); /* bytes that have come into the ring */
    wad_status (*send)(wad_uart *uart);
    wad_status (*receive)(wad_uart *uart);
    size_t (*stop)(wad_uart *uart, bool sending); /* bytes moved until then */
    void (*serve)(wad_uart *uart);
};
extern const struct wadi_uart_style wadi_uart_by_dma;

/**
 * Brings the block up and sets it to the nearest baud there is, 16 samples a bit where that is as
 * near as 8.
 * @param error_ppm  out, may be NULL: achieved baud against wanted; both sides' errors must stay
 *                   within some 4 % together (wadium rate ... --peer tells exactly)
 * WAD_E_RANGE: the baud or the number of bits cannot be, nothing written; WAD_E_ABSENT: the block
 * has no such parity, stop bits or direction; WAD_E_TIMEOUT: it stays in reset; else as
 * wad_pin_route. Blocks for the reset only.
 */
WAD_MUST_CHECK wad_status wad_uart_open(wad_uart *uart, const wad_block *block,
                                        const wad_uart_config *config, int32_t *error_ppm);

/** Changes the baud: waits until everything has left the wire, then sets it. What is being received
 * is lost. Blocks for as long as that takes, `timeout_us` at the most (WAD_E_TIMEOUT: the old baud
 * stays). WAD_E_RANGE: it cannot be. */
WAD_MUST_CHECK wad_status wad_uart_set_baud(wad_uart *uart, uint32_t baud, uint32_t timeout_us,
                                            int32_t *error_ppm);

/** Waits until everything has left the wire, `timeout_us` at the most (WAD_E_TIMEOUT). WAD_E_STATE:
 * opened without `time`; WAD_E_ABSENT: the block does not tell. */
WAD_MUST_CHECK wad_status wad_uart_drain(wad_uart *uart, uint32_t timeout_us);

/* ---- waiting for it ---- */

/** Sends bytes, waiting for room, `timeout_us` at the most in all; `sent` (may be NULL) is how many
 * went: into the block, or into the ring when the port works in the background. WAD_E_STATE: it was
 * opened without `time`, or a transfer goes on; WAD_E_TIMEOUT. Not from a handler. */
WAD_MUST_CHECK wad_status wad_uart_put(wad_uart *uart, const void *data, size_t n,
                                       uint32_t timeout_us, size_t *sent);
/** Receives `n` bytes, or as many as come in the time. A byte with an error is counted and kept. */
WAD_MUST_CHECK wad_status wad_uart_get(wad_uart *uart, void *data, size_t n, uint32_t timeout_us,
                                       size_t *received);

/** Receives until `n` bytes are there, or the byte `end` (-1: no such byte) has come and is stored,
 * or nothing has come for `gap_us` after a byte (0: gaps do not end it): WAD_OK. */
WAD_MUST_CHECK wad_status wad_uart_get_until(wad_uart *uart, void *data, size_t n, int end,
                                             uint32_t gap_us, uint32_t timeout_us,
                                             size_t *received);

/** Errors beside the word they belong to. */
#define WAD_WORD_FRAMING 0x1000u
#define WAD_WORD_PARITY  0x2000u
#define WAD_WORD_BREAK   0x4000u

/** The same for frames of nine bits, polled: a word each. What is received carries its errors.
 * WAD_E_STATE: the port works in the background. */
WAD_MUST_CHECK wad_status wad_uart_put_words(wad_uart *uart, const uint16_t *words, size_t n,
                                             uint32_t timeout_us, size_t *sent);
WAD_MUST_CHECK wad_status wad_uart_get_words(wad_uart *uart, uint16_t *words, size_t n,
                                             uint32_t timeout_us, size_t *received);

/* ---- in the background ---- */

/** From now on both directions go through the caller's buffers, whose sizes are powers of 2 from 2
 * to 65536 (0: that direction has none; it stays polled, or makes transfers). Enables the
 * interrupts at block and controller. WAD_E_ARG: a size; WAD_E_ABSENT: the block has no interrupt
 * line, or nine bits are set, which no ring of bytes holds; WAD_E_RANGE: by DMA, a ring for what
 * comes that has more bytes than the DMA controller counts (wad_dma_most; what goes out goes in
 * parts).
 */
WAD_MUST_CHECK wad_status wad_uart_background(wad_uart *uart, void *in, size_t in_size, void *out,
                                              size_t out_size, unsigned priority);

/** Queues what there is room for, and returns how much that was. Never blocks; a handler that is no
 * more urgent than the port's may call it. */
size_t wad_uart_write(wad_uart *uart, const void *data, size_t n);

/** Takes what has arrived, at most `n` bytes. Never blocks. */
size_t wad_uart_read(wad_uart *uart, void *data, size_t n);

/** How much has arrived; how much room there is to send. Never block. */
size_t wad_uart_waiting(const wad_uart *uart);
size_t wad_uart_room(const wad_uart *uart);

/** Takes a line, if one has arrived whole: bytes up to `end`, which is left out; how many, with a 0
 * behind them. -1: none yet, or `room` is less than 2. A line longer than `room` - 1 comes in
 * pieces. Never blocks. */
int wad_uart_read_line(wad_uart *uart, char *line, size_t room, char end);

/** Forgets what has arrived. Never blocks. */
void wad_uart_discard(wad_uart *uart);

/** Forgets what waits in the ring to be sent, and returns how much that was; what the block has is
 * still sent. Never blocks. */
size_t wad_uart_flush(wad_uart *uart);

/* ---- transfers: out of and into the caller's memory, by interrupt ---- */

/** Begins to send `n` bytes, which must stay where they are until `done` (may be NULL) is called,
 * once the last of them has left the wire, where the block has a flag for that; else has been taken
 * by it. Call wad_uart_background first, without a ring for that direction. WAD_E_RANGE: more bytes
 * than the DMA controller counts. WAD_E_ARG: nothing to
 * send; WAD_E_STATE: not set up, or one goes on. Never blocks; a `done` may call it. */
WAD_MUST_CHECK wad_status wad_uart_send(wad_uart *uart, const void *data, size_t n,
                                        wad_uart_done done, void *context);

/** Begins to receive, at most `n` bytes. WAD_E_ABSENT: the block cannot tell an idle line, or a
 * DMA controller an `end`. Else as wad_uart_send. Bytes that come while no reception goes on stay
 * in the block as long as it has room, and are lost, with an overrun counted, when it has not. */
WAD_MUST_CHECK wad_status wad_uart_receive(wad_uart *uart, void *data, size_t n,
                                           wad_uart_until until, uint8_t end, wad_uart_done done,
                                           void *context);

/** Ends both transfers where they are; `done` is called with WAD_E_STATE and how far they came. */
void wad_uart_abort(wad_uart *uart);

/** The port's handler. */
void wad_uart_handle(wad_uart *uart);

#endif
