/* SPDX-License-Identifier: MIT */
/*
 * Sleep: how deep, until when.
 *
 *     static wad_wake due;
 *
 *     void handle_CLOCK(void) { wad_alarms_handle(&alarms); }
 *     static void on_time(void *context) { wad_wake_up(&due); }
 *
 *     st = wad_sleep_level(1);          what stops, the chip's `sleep` statements say
 *     for (;;) {
 *         wad_sleep_until(&due);        the request may come at any moment: none is lost
 *         measure();
 *     }
 *
 * A core that looks at a flag, finds it clear and then sleeps has lost the interrupt that came in
 * between. So these look with interrupts closed: what is pending ends the sleep all the same, and
 * its handler runs when they are opened behind it.
 */
#ifndef WADIUM_SLEEP_H
#define WADIUM_SLEEP_H

#include <stdbool.h>
#include <stdint.h>

#include "status.h"

struct wad_alarms;

/** What main waits for, and a handler tells it. */
typedef struct wad_wake {
    volatile bool set; /**< read-only */
} wad_wake;

/** How deep the core sleeps from now on; 0: only the core stops. Never blocks; a handler may call
 * it. WAD_E_ABSENT: the chip has one level; WAD_E_RANGE: no such level. */
WAD_MUST_CHECK wad_status wad_sleep_level(unsigned level);

/** Sleeps until the flag is set, and takes it; handlers run meanwhile. Blocks. Not from a handler.
 * Interrupts are open behind it if they were before. */
void wad_sleep_until(wad_wake *wake);

/** Sets the flag, for the handler; the core stays awake behind it, whatever its habit. Never
 * blocks. */
void wad_wake_up(wad_wake *wake);

/** After each handler the core goes back to sleep, and main goes on only after wad_wake_up.
 * WAD_E_ABSENT: the chip has no such habit to switch. Never blocks. */
WAD_MUST_CHECK wad_status wad_sleep_again(bool on);

/** Sleeps for at least so long, on an alarm: no tick runs meanwhile. Other handlers run, and the
 * sleep goes on behind them. Blocks. Errors as wad_alarm_after_ms. */
WAD_MUST_CHECK wad_status wad_sleep_ms(const struct wad_alarms *alarms, uint32_t ms);

#endif
