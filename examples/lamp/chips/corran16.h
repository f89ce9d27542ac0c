/* SPDX-License-Identifier: MIT */
/* The lamps' job on Corran16 and the Skerry16 board: clocks, pins, timers. */
#ifndef LAMP_CORRAN16_H
#define LAMP_CORRAN16_H

#include "corran16_roles.h"
#include "skerry16_pins.h"

#define WARN_PIN    SKERRY16_WARN
#define TEST_PIN    SKERRY16_TEST
#define BLINK_TIMER corran16_cnt0
#define DIM_TIMER   corran16_cnt1
#define BLINK_HZ    32768u
#define DIM_HZ      8000000u

#define LEVEL1_ROUTE CORRAN16_ROUTE_CNT1_CH0_P04
#define LEVEL2_ROUTE CORRAN16_ROUTE_CNT1_CH1_P05
#define LEVEL3_ROUTE CORRAN16_ROUTE_CNT1_CH2_P06
#define LEVEL4_ROUTE CORRAN16_ROUTE_CNT1_CH3_P07

/* The blinking timer counts 32 768 Hz, as after reset; the dimming one takes the 8 MHz, a setting
 * behind the timer's lock. */
static wad_status start_clocks(void)
{
    if (!wad_block_up(&corran16_cnt1.block, 1))
        return WAD_E_TIMEOUT;
    corran16_counter_unlock(CORRAN16_CNT1_BASE);
    wad_put(CORRAN16_CNT1_BASE, corran16_counter_ctrl_source, CORRAN16_COUNTER_CTRL_SOURCE_FAST);
    corran16_counter_lock(CORRAN16_CNT1_BASE);
    return WAD_OK;
}

#endif
