/* SPDX-License-Identifier: MIT */
/* Watchdogs. What the columns mean: <wadium/kinds.h>. */
#ifndef WADIUM_KINDS_WATCHDOG_H
#define WADIUM_KINDS_WATCHDOG_H

/* clang-format off */
#define WAD_ROLES_WATCHDOG(X)                                                                  \
    X(enable,       FIELD,  MAY,  "runs while 1")                                              \
    X(feed,         FIELD,  MUST, "where feeding is written")                                  \
    X(feed_value,   CODE,   MAY,  "what must be written there; anything else resets the chip at once") \
    X(timeout,      FIELD,  MAY,  "it bites after 2 to the power of this many clock edges")    \
    X(timeout_plus, CODE,   MAY,  "added to the timeout value to get the exponent")            \
    X(window,       FIELD,  MAY,  "feeding before so many 2 ** width-ths of the time resets the chip") \
    X(cause,        FIELD,  MAY,  "flag that outlives the reset: it bit")                      \
    X(cause_early,  FIELD,  MAY,  "flag that outlives the reset: it was fed too early, or wrongly") \
    X(cause_power,  FLAG,   MAY,  "flag: the power came on")
/* clang-format on */

#endif
#ifdef WAD_KIND
WAD_KIND(watchdog, WAD_ROLES_WATCHDOG)
#endif
