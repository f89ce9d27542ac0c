/* SPDX-License-Identifier: MIT */
/* An interrupt controller. What the columns mean: <wadium/kinds.h>. */
#ifndef WADIUM_KINDS_INTERRUPTS_H
#define WADIUM_KINDS_INTERRUPTS_H

/* clang-format off */
#define WAD_ROLES_INTERRUPTS(X)                                                                      \
    X(enable,      FIELD,  MUST, "line enable, by line number")                                \
    X(pending,     FIELD,  MAY,  "line pending, by line number")                               \
    X(priority,    FIELD,  MAY,  "line priority, by line number; 0 is the most urgent")        \
    X(priority_first,CODE, MAY,  "high: the greater number is the more urgent; low: the smaller")  \
    X(raise,       FIELD,  MAY,  "writing 1 makes the line pending, by line number")           \
    X(dismiss,     FIELD,  MAY,  "writing 1 takes a noted request back, by line number")       \
    X(threshold,   FIELD,  MAY,  "only lines of a priority number below this are served")      \
    X(threshold_none,CODE, MAY,  "threshold that holds no line back")                          \
    X(current,     FIELD,  MAY,  "line being served, or the most urgent pending one")              \
    X(current_none,CODE,   MAY,  "what `current` reads when there is none")
/* clang-format on */

#endif
#ifdef WAD_KIND
WAD_KIND(interrupts, WAD_ROLES_INTERRUPTS)
#endif
