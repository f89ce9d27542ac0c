/* SPDX-License-Identifier: MIT */
/* The lamps' job on Corran8 and the Skerry8 board: clocks, pins, timers, and the watchdog that runs
 * from reset. */
#ifndef LAMP_CORRAN8_H
#define LAMP_CORRAN8_H

#include "corran8_roles.h"
#include "skerry8_pins.h"

#define WARN_PIN    SKERRY8_WARN
#define TEST_PIN    SKERRY8_TEST
#define BLINK_TIMER corran8_cnt0
#define DIM_TIMER   corran8_cnt1
#define BLINK_HZ    8000000u
#define DIM_HZ      8000000u

#define LEVEL1_ROUTE CORRAN8_ROUTE_CNT1_CH0_P00
#define LEVEL2_ROUTE CORRAN8_ROUTE_CNT1_CH1_P01
#define LEVEL3_ROUTE CORRAN8_ROUTE_CNT1_CH2_P02
#define LEVEL4_ROUTE CORRAN8_ROUTE_CNT1_CH3_P03

/* Full speed: 8 MHz instead of 1 MHz. */
static wad_status start_clocks(void)
{
    wad_status st = wad_watchdog_stop();
    wad_put(CORRAN8_CLK_BASE, corran8_clocks_div_core, 0);
    return st;
}

#endif
