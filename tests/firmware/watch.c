/* SPDX-License-Identifier: MIT */
/* Corran8's watchdog, lock and counter, chosen by WHAT; PORT1's pins show what came of it. */
#include <wadium/clock.h>
#include <wadium/pin.h>
#include <wadium/watchdog.h>

#include "corran8_roles.h"

enum { BITES, RELOCKS, MANUAL };

static unsigned boots __attribute__((section(".noinit")));
static unsigned fresh = 1; /* put back by every reset */

static void pulses(wad_pin pin, unsigned n)
{
    (void)!wad_pin_output(pin, false);
    for (unsigned i = 0; i < 2 * n; i++)
        wad_pin_toggle(pin);
}

/* Fed ten times within its time, then no more; after the reset the cause is shown. */
static void bites(void)
{
    uint32_t limit_us = 0;
    if (wad_watchdog_bit()) {
        (void)!wad_watchdog_stop();
        boots++;
        pulses(CORRAN8_P10, boots);
        pulses(CORRAN8_P11, fresh);
        return;
    }
    fresh = 5;
    boots = 2;
    if (wad_watchdog_start(10000000, &limit_us) != WAD_E_RANGE ||
        wad_watchdog_start(20000, &limit_us) != WAD_OK || limit_us != 32000)
        return;
    for (unsigned i = 0; i < 10; i++) {
        wad_port_cycles(25000); /* 25 ms at 1 MHz */
        wad_watchdog_feed();
    }
    pulses(CORRAN8_P12, 4);
    for (;;)
        wad_port_cycles(1000);
}

/* One key, two writes: the second is refused; a wrong key opens nothing. */
static void relocks(void)
{
    (void)!wad_watchdog_stop();
    wad_port_write8(CORRAN8_PORT0_BASE, 4, 0x93);
    wad_port_write8(CORRAN8_PORT0_BASE, 4, 0x6C);
    wad_port_write8(CORRAN8_PORT0_BASE, 3, 0x01);
    wad_port_write8(CORRAN8_PORT0_BASE, 3, 0x03); /* here RELOCKS */
    wad_port_write8(CORRAN8_PORT0_BASE, 4, 0x93);
    wad_port_write8(CORRAN8_PORT0_BASE, 4, 0x93);
    wad_port_write8(CORRAN8_PORT0_BASE, 4,
                    0x6C); /* the sequence begins anew with its first value */
    wad_port_write8(CORRAN8_PORT0_BASE, 3, wad_port_read8(CORRAN8_PORT0_BASE, 3) | 0x02);
    pulses(CORRAN8_P10, wad_port_read8(CORRAN8_PORT0_BASE, 3));
}

/* Without AUTO the count goes on from 0: the first period is 1000 counts, the later ones 65 536. */
static void manual(void)
{
    uintptr_t base = CORRAN8_CNT0_BASE;
    (void)!wad_watchdog_stop();
    wad_put(base, corran8_counter_roles.count, 65536u - 1000u);
    wad_put(base, corran8_counter_roles.start, 65536u - 1000u);
    (void)!wad_pin_output(CORRAN8_P10, false);
    wad_put(base, corran8_counter_roles.enable, 1);
    for (unsigned i = 0; i < 3; i++) {
        while (!wad_take(base, corran8_counter_roles.wrap)) {
        }
        wad_pin_toggle(CORRAN8_P10);
    }
}

int main(void)
{
    if (WHAT == BITES)
        bites();
    else if (WHAT == RELOCKS)
        relocks();
    else
        manual();
    for (;;)
        wad_port_sleep();
}
