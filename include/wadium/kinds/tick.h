/* SPDX-License-Identifier: MIT */
/* The core's own tick. What the columns mean: <wadium/kinds.h>. */
#ifndef WADIUM_KINDS_TICK_H
#define WADIUM_KINDS_TICK_H

/* clang-format off */
#define WAD_ROLES_TICK(X)                                                                      \
    X(enable,       FIELD,  MAY,  "counts while 1")                                            \
    X(reload,       FIELD,  MUST, "first count of a period, which ends after 0")               \
    X(reload_plus,  CODE,   MAY,  "added to the reload value to get the period (N - 1 coding: 1)") \
    X(count,        FIELD,  MAY,  "the count; writing it, whatever is written, makes it 0")    \
    X(wrap,         FLAG,   MAY,  "flag: a period has ended")                                  \
    X(wrap_irq,     FIELD,  MAY,  "interrupt at the end of each period")
/* clang-format on */

#endif
#ifdef WAD_KIND
WAD_KIND(tick, WAD_ROLES_TICK)
#endif
