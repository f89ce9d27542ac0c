/* SPDX-License-Identifier: MIT */
/* Free-running counts. What the columns mean: <wadium/kinds.h>. */
#ifndef WADIUM_KINDS_TIMEBASE_H
#define WADIUM_KINDS_TIMEBASE_H

/* clang-format off */
#define WAD_ROLES_TIMEBASE(X)                                                                  \
    X(count,        FIELD,  MUST, "the free-running count, all of it")                         \
    X(enable,       FIELD,  MAY,  "counts while 1; without it, always")                        \
    X(prescale,     FIELD,  MAY,  "prescaler")                                                 \
    X(prescale_plus,CODE,   MAY,  "added to the prescaler value to get the divider")           \
    X(compare,      FIELD,  MAY,  "compare value, as wide as the count, by channel")           \
    X(match,        FLAG,   MAY,  "flag: the count met the compare value, by channel")         \
    X(match_irq,    FIELD,  MAY,  "interrupt enable for the match flag, by channel")           \
    X(input,        SIGNAL, MAY,  "pin whose edges are captured, by channel")                  \
    X(edge,         FIELD,  MAY,  "which edges of the input, by channel")                      \
    X(edge_off,     CODE,   MAY,  "none")                                                      \
    X(edge_rise,    CODE,   MAY,  "rising")                                                    \
    X(edge_fall,    CODE,   MAY,  "falling")                                                   \
    X(edge_both,    CODE,   MAY,  "both")                                                      \
    X(filter,       FIELD,  MAY,  "clock edges that an input must stay before it counts, by channel") \
    X(capture,      FIELD,  MAY,  "low bits of the count at the last edge, by channel")        \
    X(captured,     FLAG,   MAY,  "flag: an edge was captured, by channel")                    \
    X(captured_irq, FIELD,  MAY,  "interrupt enable for the captured flag, by channel")        \
    X(lost,         FLAG,   MAY,  "flag: an edge came while the captured flag stood, by channel")
/* clang-format on */

#endif
#ifdef WAD_KIND
WAD_KIND(timebase, WAD_ROLES_TIMEBASE)
#endif
