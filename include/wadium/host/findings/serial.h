/* SPDX-License-Identifier: MIT */
/* Serial ports. What the columns mean: <wadium/host/finding.h>. */
#ifndef WADIUM_HOST_FINDINGS_SERIAL_H
#define WADIUM_HOST_FINDINGS_SERIAL_H

/* clang-format off */
#define WAD_FINDINGS_SERIAL(X)                                                                                  \
    X(OVERRUN,         801, "received byte lost",                                                               \
      "Take bytes sooner: by interrupt, at a more urgent priority, or with a FIFO's threshold lower.")          \
    X(FRAMING,         802, "stop bit was low",                                                                 \
      "Both sides must have one baud and one format. Compare the divider's error with 'wadium rate'.")          \
    X(PARITY,          803, "parity bit was wrong",                                                             \
      "Both sides must have one format, or the line is noisy.")                                                 \
    X(RX_EMPTY,        804, "received byte read when none has come",                                            \
      "It is the last one again, or rubbish. Look at the flag first.")                                          \
    X(TX_FULL,         805, "byte given when there was no room",                                                \
      "It is lost. Look at the flag first, or ask for the interrupt.")                                          \
    X(UART_OFF,        806, "byte given while the transmitter is off",                                          \
      "It is never sent. Enable block and transmitter first, or clock the block.")                              \
    X(CUT_OFF,         807, "transmitter switched off before the last byte had left",                           \
      "The line breaks off in the middle of it. Wait until everything has left the wire.")                      \
    X(TX_NOTHING,      808, "transmit interrupt left enabled with nothing to send",                             \
      "There is always room, so it asks for ever. Disable it when the last byte has been given.")               \
    X(RX_STUCK,        809, "receiver stopped by an error flag that nobody clears",                             \
      "It takes no byte while the flag is set. Clear it in the handler, after the byte is taken.")              \
    X(BAUD_OFF,        810, "baud further off than the frame allows",                                           \
      "Bits are looked at in the wrong place. Take another divider or clock: 'wadium rate' has them all.")      \
    X(LINE_INVERTED,   811, "received line rests low",                                                          \
      "An idle line is high. It is inverted, cut, or shorted: invert it, or look at the wiring.")
/* clang-format on */

#endif
