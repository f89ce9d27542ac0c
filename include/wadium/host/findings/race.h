/* SPDX-License-Identifier: MIT */
/* What handlers share with the code that they interrupt, and what compilers make of it. What the
 * columns mean: <wadium/host/finding.h>. */
#ifndef WADIUM_HOST_FINDINGS_RACE_H
#define WADIUM_HOST_FINDINGS_RACE_H

/* clang-format off */
#define WAD_FINDINGS_RACE(X)                                                                                    \
    X(SHARED_PLAIN,    701, "plain variable shared with a handler",                                             \
      "The compiler may keep it in a register or move the access. Make it volatile, or close interrupts around it.")\
    X(TORN,            702, "variable wider than the bus accessed in halves",                                   \
      "A handler between the halves leaves them from two values. Close interrupts around it, or read until equal.")\
    X(BROKEN_UPDATE,   703, "read-modify-write that a handler breaks",                                          \
      "One of the two changes is lost. Close interrupts around it, or use a set, clear or toggle register.")    \
    X(DMA_OWNED,       704, "buffer touched while DMA owns it",                                                 \
      "It is half old, half new. Wait for the transfer's end, or use the half that it is not working on.")      \
    X(HOISTED,         705, "loop that waits for a plain variable",                                             \
      "The compiler reads it once and loops for ever. Make it volatile.")                                       \
    X(DELAY_LOOP,      706, "delay loop that touches nothing",                                                  \
      "It takes no simulated time, and on the chip a time nobody knows. Use a timer, or say wad_cycles(n).")
/* clang-format on */

#endif
