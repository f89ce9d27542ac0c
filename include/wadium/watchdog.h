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

/** The same with a window: fed before `closed_us` it bites as well, so that a loop that feeds too
 * often is caught too. The closed time is rounded down to what the block can; the clock's tolerance
 * makes it up to that much longer or shorter.
 * @param closed_out_us  out, may be NULL: the closed time chosen
 * WAD_E_ABSENT: no watchdog, or no window; WAD_E_RANGE: it cannot wait that long, or could be fed
 * at no time. */
WAD_MUST_CHECK wad_status wad_watchdog_start_window(uint32_t us, uint32_t closed_us,
                                                    uint32_t *limit_us, uint32_t *closed_out_us);

/** Why the chip began anew. */
typedef enum wad_reset_cause {
    WAD_RESET_UNKNOWN,
    WAD_RESET_POWER,    /**< the power came on */
    WAD_RESET_WATCHDOG, /**< it was not fed in time */
    WAD_RESET_EARLY     /**< it was fed too early, or with a wrong value */
} wad_reset_cause;

/** The cause of the last reset; its flag is cleared, so that a second call says unknown. What the
 * chip does not tell is unknown too. Does not block. */
wad_reset_cause wad_watchdog_cause(void);

/** Stops it. WAD_E_ABSENT: no watchdog; WAD_E_STATE: it cannot be stopped. Does not block. */
WAD_MUST_CHECK wad_status wad_watchdog_stop(void);

/** Begins its time anew. Does not block; a handler may call it, though main should. */
void wad_watchdog_feed(void);

/** True when the last reset came from the watchdog; clears the flag. False where the chip does not
 * tell. */
bool wad_watchdog_bit(void);

#endif
