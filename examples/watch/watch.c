/* SPDX-License-Identifier: MIT */
/*
 * A watchdog with a window over a main loop that takes 30 ms a turn. Each press of the test button
 * makes the loop hang for good: the watchdog bites, and the lamps of the next start say why it came
 * to be. The feeding stands in main, not in the tick, which goes on when main hangs.
 */
#include <wadium/irq.h>
#include <wadium/pin.h>
#include <wadium/tick.h>
#include <wadium/watchdog.h>

#include <corran32_roles.h>
#include <skerry_pins.h>

void handle_TICK(void);
void handle_TICK(void)
{
    wad_tick_handle();
}

static wad_status show_cause(void)
{
    wad_reset_cause cause = wad_watchdog_cause();
    wad_status st = wad_pin_output(SKERRY_WARN, cause == WAD_RESET_WATCHDOG);
    if (st == WAD_OK)
        st = wad_pin_output(SKERRY_LEVEL1, cause == WAD_RESET_POWER);
    if (st == WAD_OK)
        st = wad_pin_output(SKERRY_LEVEL4, false);
    return st;
}

int main(void)
{
    wad_status st = show_cause();
    if (st == WAD_OK)
        st = wad_pin_input(SKERRY_TEST, WAD_PULL_UP);
    if (st == WAD_OK) /* 64 ms, and not before 16 */
        st = wad_watchdog_start_window(60000, 20000, NULL, NULL);
    if (st == WAD_OK)
        st = wad_tick_start(WAD_HZ(1000), 2, NULL);
    if (st != WAD_OK)
        return (int)st;
    wad_irq_global_on();
    for (uint32_t next = wad_tick_count() + 30;;) {
        if (!wad_pin_read(SKERRY_TEST))
            for (;;)
                wad_port_sleep();
        if (wad_tick_due(&next, 30)) {
            wad_pin_toggle(SKERRY_LEVEL4);
            wad_watchdog_feed();
        }
        wad_port_sleep();
    }
}
