/* SPDX-License-Identifier: MIT */
/* Clocks, resets, and addresses where nothing is. What the columns mean: <wadium/host/finding.h>.
 */
#ifndef WADIUM_HOST_FINDINGS_CLOCK_H
#define WADIUM_HOST_FINDINGS_CLOCK_H

/* clang-format off */
#define WAD_FINDINGS_CLOCK(X)                                                                                   \
    X(GATED,           101, "access to a block whose clock is gated",                                           \
      "Silicon ignores the write or reads 0. Set the block's gate bit first.")                                  \
    X(IN_RESET,        102, "access to a block that is held in reset",                                          \
      "Silicon ignores the write or reads 0. Release the reset and wait until it is over.")                     \
    X(UNMAPPED,        103, "access to an address where nothing is",                                            \
      "Silicon faults or reads rubbish. Check the block's base and the register's offset.")                     \
    X(CLOCK_LOST,      104, "core clock switched to a source that does not run",                                \
      "Silicon stops dead. Switch the source on and wait for its ready flag before selecting it.")              \
    X(CLOCK_LIMIT,     105, "clock outside its limits",                                                         \
      "Silicon may fail, today or in the heat. Choose other multiplier or divider values.")                     \
    X(CLOCK_CHANGED,   106, "clock changed under a running timer",                                              \
      "What it counts, and every period, is of another length from now on. Stop it, or set its rate anew.")     \
    X(CLOCK_FAILED,    107, "oscillator failed",                                                                \
      "What ran on it goes on with another clock, or stands still. Watch it, and set all rates anew when it is lost.") \
    X(CLOCK_PROMISED,  108, "clock_hz of a handle is not what its block runs at",                               \
      "Every rate is off by as much. Say what it is when the driver opens it, or leave it out: it is worked out then.")
/* clang-format on */

#endif
