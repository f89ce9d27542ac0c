/* SPDX-License-Identifier: MIT */
/* Asynchronous serial ports. What the columns mean: <wadium/kinds.h>. */
#ifndef WADIUM_KINDS_UART_H
#define WADIUM_KINDS_UART_H

/* clang-format off */
/* The codes stand last: what a model hears of must be among the first 64. */
#define WAD_ROLES_UART(X)                                                                      \
    X(enable,       FIELD,  MAY,  "the block works")                                           \
    X(tx_enable,    FIELD,  MAY,  "the transmitter works")                                     \
    X(rx_enable,    FIELD,  MAY,  "the receiver works")                                        \
    X(divider,      FIELD,  MUST, "clock edges a sample, whole part")                          \
    X(divider_fraction,FIELD,MAY, "clock edges a sample, fraction of 2 ** width")              \
    X(over,         FIELD,  MAY,  "samples a bit; without it, 16")                             \
    X(bits,         FIELD,  MAY,  "data bits; without it, 8")                                  \
    X(parity_mode,  FIELD,  MAY,  "parity bit; without it, none")                              \
    X(stop,         FIELD,  MAY,  "stop bits; without it, 1")                                  \
    X(msb_first,    FIELD,  MAY,  "the most significant bit goes first")                       \
    X(invert_tx,    FIELD,  MAY,  "the transmitter's line is inverted")                        \
    X(invert_rx,    FIELD,  MAY,  "the receiver's line is inverted")                           \
    X(loop,         FIELD,  MAY,  "the transmitter feeds the receiver")                        \
    X(send_break,   FIELD,  MAY,  "the line is low while 1")                                   \
    X(flow,         FIELD,  MAY,  "RTS and CTS hold the senders")                              \
    X(half_duplex,  FIELD,  MAY,  "the driver's pin is high while something is sent")          \
    X(lead,         FIELD,  MAY,  "it goes high so many eighths of a bit before the start bit")\
    X(tx_data,      FIELD,  MUST, "byte to send; `depth`: room for so many, 0: the shift register")\
    X(rx_data,      FIELD,  MUST, "received byte; reading takes it; `depth`: room for so many")\
    X(byte_framing, FIELD,  MAY,  "beside the received byte: its stop bit was low")            \
    X(byte_parity,  FIELD,  MAY,  "beside the received byte: its parity was wrong")            \
    X(byte_break,   FIELD,  MAY,  "beside the received byte: it was a break")                  \
    X(tx_level,     FIELD,  MAY,  "bytes that wait to be sent")                                \
    X(rx_level,     FIELD,  MAY,  "bytes that have arrived")                                   \
    X(tx_at,        FIELD,  MAY,  "tx_ready when so many wait, or fewer")                      \
    X(rx_at,        FIELD,  MAY,  "rx_ready when more than so many have arrived")              \
    X(rx_wait,      FIELD,  MAY,  "bits without a byte until the timeout flag; 0: never")      \
    X(tx_ready,     FLAG,   MUST, "flag: there is room")                                       \
    X(tx_ready_irq, FIELD,  MAY,  "interrupt enable for it")                                   \
    X(tx_dma,       FIELD,  MAY,  "asks DMA for a byte while there is room")                   \
    X(tx_done,      FLAG,   MAY,  "flag: everything has left the wire")                        \
    X(tx_done_irq,  FIELD,  MAY,  "interrupt enable for it")                                   \
    X(rx_ready,     FLAG,   MUST, "flag: a byte has arrived")                                  \
    X(rx_ready_irq, FIELD,  MAY,  "interrupt enable for it")                                   \
    X(rx_dma,       FIELD,  MAY,  "asks DMA to take a byte while one has arrived")             \
    X(overrun,      FLAG,   MAY,  "flag: a byte came, and there was no room")                  \
    X(overrun_irq,  FIELD,  MAY,  "interrupt enable for it")                                   \
    X(framing,      FLAG,   MAY,  "flag: a stop bit was low")                                  \
    X(framing_irq,  FIELD,  MAY,  "interrupt enable for it")                                   \
    X(parity_error, FLAG,   MAY,  "flag: a parity bit was wrong")                              \
    X(parity_irq,   FIELD,  MAY,  "interrupt enable for it")                                   \
    X(break_seen,   FLAG,   MAY,  "flag: a break came")                                        \
    X(break_irq,    FIELD,  MAY,  "interrupt enable for it")                                   \
    X(idle,         FLAG,   MAY,  "flag: the line is idle for a frame after a byte")           \
    X(idle_irq,     FIELD,  MAY,  "interrupt enable for it")                                   \
    X(timeout,      FLAG,   MAY,  "flag: bytes have waited for the time of rx_wait")           \
    X(timeout_irq,  FIELD,  MAY,  "interrupt enable for it")                                   \
    X(tx,           SIGNAL, MAY,  "pin that is sent on")                                       \
    X(rx,           SIGNAL, MAY,  "pin that is received from")                                 \
    X(rts,          SIGNAL, MAY,  "low while there is room")                                   \
    X(cts,          SIGNAL, MAY,  "high: the other side has no room")                          \
    X(driver,       SIGNAL, MAY,  "switches a half-duplex line's driver on")                   \
    X(divider_plus, CODE,   MAY,  "added to the divider value")                                \
    X(over_x16,     CODE,   MAY,  "16 samples")                                                \
    X(over_x8,      CODE,   MAY,  "8 samples")                                                 \
    X(bits_five,    CODE,   MAY,  "5 bits")                                                    \
    X(bits_six,     CODE,   MAY,  "6 bits")                                                    \
    X(bits_seven,   CODE,   MAY,  "7 bits")                                                    \
    X(bits_eight,   CODE,   MAY,  "8 bits")                                                    \
    X(bits_nine,    CODE,   MAY,  "9 bits")                                                    \
    X(parity_mode_none, CODE, MAY,"none")                                                      \
    X(parity_mode_even, CODE, MAY,"even")                                                      \
    X(parity_mode_odd,  CODE, MAY,"odd")                                                       \
    X(parity_mode_mark, CODE, MAY,"always 1")                                                  \
    X(parity_mode_space,CODE, MAY,"always 0")                                                  \
    X(stop_one,     CODE,   MAY,  "1")                                                         \
    X(stop_one_half,CODE,   MAY,  "1.5")                                                       \
    X(stop_two,     CODE,   MAY,  "2")                                                         \
    X(overrun_sticks,CODE,  MAY,  "1: nothing is received while the flag is set")             \
    X(tx_data_depth,CODE,   MAY,  "room for so many bytes beside the one that is sent")       \
    X(rx_data_depth,CODE,   MAY,  "room for so many bytes; 0: 1")
/* clang-format on */

#endif
#ifdef WAD_KIND
WAD_KIND(uart, WAD_ROLES_UART)
#endif
