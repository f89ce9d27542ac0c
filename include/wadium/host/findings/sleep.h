/* SPDX-License-Identifier: MIT */
/* Sleep. What the columns mean: <wadium/host/finding.h>. */
#ifndef WADIUM_HOST_FINDINGS_SLEEP_H
#define WADIUM_HOST_FINDINGS_SLEEP_H

/* clang-format off */
#define WAD_FINDINGS_SLEEP(X)                                                                                   \
    X(SLEEP_STOPS,    1101, "sleep that stops a clock which is needed",                                         \
      "What was under way breaks off, or nothing is left to wake the core. Sleep less deep, or wait until it is over.")\
    X(WAKE_LOST,      1102, "wake-up that can be lost",                                                         \
      "Look and sleep with interrupts closed: a pending one still ends the sleep. wad_sleep_until does.")       \
    X(NEVER_RESUMES,  1103, "main never goes on after its sleep",                                               \
      "The core goes back to sleep after each handler. Tell it to stay awake in the one that main waits for: wad_wake_up does.")
/* clang-format on */

#endif
