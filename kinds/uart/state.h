/* SPDX-License-Identifier: MIT */
/* Kind uart: what its files share. model.c knows registers, send.c and receive.c the wire.
 */
#ifndef WADI_UART_H
#define WADI_UART_H

#include "kinds/shared/fifo.h"
#include "kinds/shared/serial_end.h"
#include "sim/core/sim.h"
#include "wadium/kinds.h"

enum {
#define ROLE(name, sort, need, text) ROLE_##name,
    WAD_ROLES_UART(ROLE)
#undef ROLE
};

#define BIT(role) WAD_ROLE_BIT(ROLE_##role)

typedef enum parity { PARITY_NONE, PARITY_EVEN, PARITY_ODD, PARITY_MARK, PARITY_SPACE } parity;

/* A received or waiting byte; errors belong to it. */
enum { ERROR_FRAMING = 0x1000, ERROR_PARITY = 0x2000, ERROR_BREAK = 0x4000 };

/* How a frame is built, as the fields stand. */
typedef struct uart_format {
    uint64_t divider; /* clock edges a sample, in units of 1 / 2 ** frac_bits */
    unsigned frac_bits;
    unsigned over; /* samples a bit */
    unsigned bits;
    parity parity;
    unsigned stop_halves; /* stop bits, times 2 */
    bool msb_first, invert_tx, invert_rx, loop;
} uart_format;

/* A change of the line, as the receiver sees it (inversion undone). */
typedef struct uart_change {
    uint64_t ps;
    bool level;
} uart_change;

/* A flag that is one bit of a register; else slot is NULL. */
typedef struct uart_flag {
    struct wadi_slot *slot;
    uint32_t mask;
} uart_flag;

/* Long as the kind is wide: what it keeps beside its registers. */
typedef struct uart_state {
    uart_flag tx_ready, tx_done, rx_ready; /* looked up once: they follow the queues */
    uart_format format;
    bool on, sends, receives;
    bool flow, half_duplex, breaks, tx_dma, rx_dma; /* as the fields stand */
    uint32_t tx_at, rx_at, rx_wait;
    bool sticks;          /* an overrun stops the receiver until its flag is cleared */
    bool checked;         /* the baud, since the enabling */
    unsigned stuck;       /* frames dropped because of it, in a row */
    unsigned moves, seen; /* bytes given or taken, and then when a handler last returned */
    uint64_t grid;        /* clock edge on which the samples began to count */
    /* sender */
    wadi_fifo out;
    bool bare; /* what is written goes into the shift register: nothing may be under way */
    wad_event send;
    bool sending;               /* a frame is on its way */
    uint64_t begin;             /* clock edge of the frame's first bit */
    uint64_t change_at[14];     /* clock edges of its changes, and of its end */
    unsigned n_changes_out, at; /* the next of them */
    bool high;                  /* the line, as the frame has it */
    bool leading;               /* the start bit is to come, DE is up */
    bool held;                  /* CTS is high */
    /* receiver */
    wadi_fifo in;
    wad_event end_of_frame, idle, timeout, low;
    bool pin;               /* its level, high as long as nothing is known of it */
    bool line;              /* now, inversion undone */
    bool receiving;         /* a frame is being taken */
    uint64_t start;         /* sample on which the start bit was seen */
    uart_change change[64]; /* since before the frame, oldest first */
    unsigned n_changes;
    bool before; /* the level before the first of them */
} uart_state;

/** The clock edge of the k-th sample: the fraction adds up, and a sample comes with the edge that
 * the sum has passed. */
uint64_t wadi_uart_edge(const uart_format *f, uint64_t from, uint64_t k);
void wadi_uart_look_up(const wad_model *m, uart_state *s);
/** May a byte be written? */
bool wadi_uart_has_room(const uart_state *s);
void wadi_uart_update(wad_model *m);
void wadi_uart_flag(wad_model *m, unsigned role);
/** Parity bit of data, or the fixed one. */
bool wadi_uart_parity(const uart_format *f, unsigned data);
/** A frame's bits without the stop bits: start, data, parity. */
static inline unsigned wadi_uart_length(const uart_format *f)
{
    return 1 + f->bits + (f->parity != PARITY_NONE);
}

/** What stands at the other end of the pin that is received from, or sent on; NULL: not known. */
const wadi_serial_end *wadi_uart_other_end(const wad_model *m, bool receiving);
void wadi_uart_check_baud(wad_model *m, bool receiving);

void wadi_uart_send_init(wad_model *m);
/** Begins with the next waiting byte, if it may. */
void wadi_uart_send_next(wad_model *m);
void wadi_uart_send_stop(wad_model *m);
/** Shows the line's level, idle or not. */
void wadi_uart_send_show(wad_model *m);

void wadi_uart_receive_init(wad_model *m);
void wadi_uart_receive_start(wad_model *m);
void wadi_uart_receive_stop(wad_model *m);
void wadi_uart_hear(wad_model *m, bool level);
/** Bytes were taken out. */
void wadi_uart_taken(wad_model *m);

void wadi_uart_describe(wad_model *m, wad_serial_port *port);

/* Flags, each with its interrupt enable. */

#endif
