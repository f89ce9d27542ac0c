/* SPDX-License-Identifier: MIT */
/* How deep the core sleeps. What the columns mean: <wadium/kinds.h>. */
#ifndef WADIUM_KINDS_POWER_H
#define WADIUM_KINDS_POWER_H

/* clang-format off */
#define WAD_ROLES_POWER(X)                                                                     \
    X(level,        FIELD,  MUST, "how deep the next sleep is, as the chip's `sleep` statements say") \
    X(again,        FIELD,  MAY,  "1: at the end of a handler the core goes back to sleep")    \
    X(stay,         FIELD,  MAY,  "it always does, unless the handler has written 1 here")
/* clang-format on */

#endif
#ifdef WAD_KIND
WAD_KIND(power, WAD_ROLES_POWER)
#endif
