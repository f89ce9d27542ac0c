/* SPDX-License-Identifier: MIT */
/* The lamps' job on Corran32 and the Skerry board: clocks, pins, timers. */
#ifndef LAMP_CORRAN32_H
#define LAMP_CORRAN32_H

#include "corran32_roles.h"
#include "skerry_pins.h"

#define WARN_PIN    SKERRY_WARN
#define TEST_PIN    SKERRY_TEST
#define BLINK_TIMER corran32_cnt0
#define DIM_TIMER   corran32_cnt1
#define BLINK_HZ    48000000u
#define DIM_HZ      48000000u

#define LEVEL1_ROUTE CORRAN32_ROUTE_CNT1_CH0_PA0
#define LEVEL2_ROUTE CORRAN32_ROUTE_CNT1_CH1_PA1
#define LEVEL3_ROUTE CORRAN32_ROUTE_CNT1_CH2_PA2
#define LEVEL4_ROUTE CORRAN32_ROUTE_CNT1_CH3_PA3

/* Crystal 12 MHz, PLL 12 MHz * 8 / 2 = 48 MHz, core from the PLL. */
static wad_status start_clocks(void)
{
    const uint32_t polls = 1000000;
    wad_status st = wad_clock_start(&corran32_clock_xtal, polls);
    if (st != WAD_OK)
        return st;
    wad_put2(CORRAN32_CLK_BASE, corran32_clocks_pll_mul, 8 - 2, corran32_clocks_pll_div, 2 - 1);
    wad_put(CORRAN32_CLK_BASE, corran32_clocks_pll_src, CORRAN32_CLOCKS_PLL_SRC_XTAL);
    st = wad_clock_start(&corran32_clock_pll, polls);
    if (st == WAD_OK)
        wad_put(CORRAN32_CLK_BASE, corran32_clocks_sel_core, CORRAN32_CLOCKS_SEL_CORE_PLL);
    return st;
}

#endif
