/* SPDX-License-Identifier: MIT */
/* Watchdogs. What the columns mean: <wadium/host/finding.h>. */
#ifndef WADIUM_HOST_FINDINGS_RUN_H
#define WADIUM_HOST_FINDINGS_RUN_H

/* clang-format off */
#define WAD_FINDINGS_RUN(X)                                                                                     \
    X(WATCHDOG,        601, "the watchdog reset the chip",                                                      \
      "Main begins anew. Feed it more often, or stop it first thing in main where it runs from reset.")         \
    X(FED_IN_HANDLER,  602, "watchdog fed by a handler",                                                        \
      "A timer's handler goes on when main hangs, and the watchdog never bites. Feed it in main.")
/* clang-format on */

#endif
