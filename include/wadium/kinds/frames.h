/* SPDX-License-Identifier: MIT */
/* A memory of frames that are exchanged in groups. What the columns mean: <wadium/kinds.h>. */
#ifndef WADIUM_KINDS_FRAMES_H
#define WADIUM_KINDS_FRAMES_H

/* clang-format off */
#define WAD_ROLES_FRAMES(X)                                                                    \
    X(enable,       FIELD,  MAY,  "the block works")                                           \
    X(controller,   FIELD,  MAY,  "1: it drives clock and selects, 0: it is a device; without it, 1") \
    X(parity_on,    FIELD,  MAY,  "the memory's parity is checked")                            \
    X(loop,         FIELD,  MAY,  "what goes out comes in")                                    \
    X(done,         FLAG,   MUST, "flag: the group's last frame is over, by group")            \
    X(done_irq,     FIELD,  MAY,  "interrupt enable for it, by group")                         \
    X(parity,       FLAG,   MAY,  "flag: a frame's parity was wrong")                          \
    X(parity_irq,   FIELD,  MAY,  "interrupt enable for it")                                   \
    X(length,       FLAG,   MAY,  "flag: as a device, the select ended in the middle of a frame") \
    X(length_irq,   FIELD,  MAY,  "interrupt enable for it")                                   \
    X(desync,       FLAG,   MAY,  "flag: the device is out of step")                           \
    X(desync_irq,   FIELD,  MAY,  "interrupt enable for it")                                   \
    X(busy,         FIELD,  MAY,  "a group is under way")                                      \
    X(start,        FIELD,  MUST, "writing 1 begins the group, by group")                      \
    X(phase,        FIELD,  MAY,  "1: bits are taken at the second edge of the clock, by format") \
    X(idle_high,    FIELD,  MAY,  "the clock rests high, by format")                           \
    X(lsb_first,    FIELD,  MAY,  "the least significant bit goes first, by format")           \
    X(bits,         FIELD,  MUST, "bits of a frame, by format")                                \
    X(divider,      FIELD,  MUST, "clock edges a bit: times * (value + plus), by format")      \
    X(first,        FIELD,  MUST, "first frame, by group")                                     \
    X(last,         FIELD,  MUST, "last frame, by group")                                      \
    X(error_frame,  FIELD,  MAY,  "frame of the last error")                                   \
    X(flip_frame,   FIELD,  MAY,  "test of the parity: frame ...")                             \
    X(flip_bit,     FIELD,  MAY,  "... and bit that is changed behind its back")               \
    X(format,       FIELD,  MUST, "which format, by frame")                                    \
    X(select,       FIELD,  MAY,  "which chip select, by frame")                               \
    X(select_on,    FIELD,  MAY,  "it is driven, by frame")                                    \
    X(hold,         FIELD,  MAY,  "it stays active until the next frame, by frame")            \
    X(wait_ready,   FIELD,  MAY,  "the frame waits for the device, by frame")                  \
    X(setup,        FIELD,  MAY,  "half bits from the select to the frame, by frame")          \
    X(gap,          FIELD,  MAY,  "half bits behind the frame, by frame")                      \
    X(tx,           FIELD,  MUST, "frame to send, by frame")                                   \
    X(rx,           FIELD,  MUST, "received frame, by frame")                                  \
    X(clock,        SIGNAL, MUST, "clock, out of a controller and into a device")              \
    X(mosi,         SIGNAL, MUST, "data out of a controller and into a device")                \
    X(miso,         SIGNAL, MUST, "data into a controller and out of a device")                \
    X(chip_select,  SIGNAL, MAY,  "selects, by number; active low; a device listens to the first") \
    X(ready,        SIGNAL, MAY,  "low: the device has a frame ready")                         \
    X(bits_plus,    CODE,   MAY,  "added to get the bits of a frame")                          \
    X(divider_plus, CODE,   MAY,  "added to the divider value")                                \
    X(divider_times,CODE,   MAY,  "edges that one of it is worth; 0: 1")
/* clang-format on */

#endif
#ifdef WAD_KIND
WAD_KIND(frames, WAD_ROLES_FRAMES)
#endif
