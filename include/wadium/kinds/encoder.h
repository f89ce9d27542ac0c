/* SPDX-License-Identifier: MIT */
/* Counters of two phases. What the columns mean: <wadium/kinds.h>. */
#ifndef WADIUM_KINDS_ENCODER_H
#define WADIUM_KINDS_ENCODER_H

/* clang-format off */
#define WAD_ROLES_ENCODER(X)                                                                   \
    X(enable,       FIELD,  MAY,  "counts while 1")                                            \
    X(count,        FIELD,  MUST, "position in quarter steps; written, it stands there")       \
    X(limit,        FIELD,  MAY,  "largest position; one step on it is 0, one before 0 it is this") \
    X(down,         FIELD,  MAY,  "1: the last step went down")                                \
    X(filter,       FIELD,  MAY,  "clock edges that an input must stay before it counts")      \
    X(input_a,      SIGNAL, MUST, "first input; leads when the position rises")                \
    X(input_b,      SIGNAL, MUST, "second input")                                              \
    X(step,         FLAG,   MAY,  "flag: the position has changed")                            \
    X(step_irq,     FIELD,  MAY,  "interrupt enable for the step flag")                        \
    X(fault,        FLAG,   MAY,  "flag: both inputs changed at once, steps are lost")         \
    X(fault_irq,    FIELD,  MAY,  "interrupt enable for the fault flag")
/* clang-format on */

#endif
#ifdef WAD_KIND
WAD_KIND(encoder, WAD_ROLES_ENCODER)
#endif
