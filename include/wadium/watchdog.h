/* SPDX-License-Identifier: MIT */
/*
 * The watchdog: resets the chip when it is not fed in time.
 *
 *     if (wad_watchdog_bit())                 the last reset was the watchdog's
 *         ...
 *     wad_watchdog_start(200000, &limit_us);  bites after 200 ms at the least
 *     for (;;) { work(); wad_watchdog_feed(); }
 *
 * On some chips it runs from reset: feed it or stop it first thing in main.
 */
#ifndef WADIUM_WATCHDOG_H
#define WADIUM_WATCHDOG_H

#include "roles.h"
#include "status.h"

/**
 * Starts it with the shortest time that is not below `us` microseconds at the nominal clock.
 * @param limit_us  out, may be NULL: the time chosen, rounded down
 * WAD_E_ABSENT: no watchdog on this chip; WAD_E_RANGE: it cannot wait that long, nothing written.
 * Does not block.
 */
WAD_MUST_CHECK wad_status wad_watchdog_start(uint32_t us, uint32_t *limit_us);

/** Stops it. WAD_E_ABSENT: no watchdog; WAD_E_STATE: it cannot be stopped. Does not block. */
WAD_MUST_CHECK wad_status wad_watchdog_stop(void);

/** Begins its time anew. Does not block; a handler may call it, though main should. */
void wad_watchdog_feed(void);

/** True when the last reset came from the watchdog; clears the flag. False where the chip does not
 * tell. */
bool wad_watchdog_bit(void);

#endif
