/* SPDX-License-Identifier: MIT */
/*
 * A square wave of 5 kHz for the fog horn's driver, from a clock that was made slow to save power:
 * 12 MHz / 32 = 375 kHz. A timer that toggles its pin needs an even number of clocks a period, and
 * 75 is odd; one that drives high for a share of the period hits the rate, not the half. Both are
 * shown: the toggling one on PC8, the other one on PC5.
 */
#include <wadium/clock.h>

#include <corran32_roles.h>

static const wad_timer toggling = {&corran32_cnt3, .clock_hz = 375000, .rate = WAD_RATE_KHZ(10),
                                   .within_ppm = 20000};
static const wad_timer sharing = {&corran32_cnt2, .clock_hz = 375000, .rate = WAD_RATE_KHZ(5),
                                  .pwm = {[1] = {CORRAN32_ROUTE_CNT2_CH1_PC5, WAD_PERCENT(50)}}};
static volatile int32_t toggling_ppm, sharing_ppm;

static wad_status start_clock(void)
{
    wad_status st = wad_clock_start(&corran32_clock_xtal, 100000);
    if (st == WAD_OK)
        wad_put2(CORRAN32_CLK_BASE, corran32_clocks_sel_core, CORRAN32_CLOCKS_SEL_CORE_XTAL,
                 corran32_clocks_sel_pdiv, 5);
    return st;
}

int main(void)
{
    wad_status st = start_clock();
    if (st == WAD_OK) /* one change a period: twice the rate */
        st = wad_timer_open(&toggling);
    if (st == WAD_OK)
        st = wad_timer_output(&toggling, 2, CORRAN32_ROUTE_CNT3_CH2_PC8, WAD_OUTPUT_TOGGLE, 0);
    if (st == WAD_OK)
        st = wad_timer_open(&sharing);
    if (st != WAD_OK)
        return (int)st;
    toggling_ppm = WAD_TIMER_PPM(toggling);
    sharing_ppm = WAD_TIMER_PPM(sharing);
    wad_timer_start(&toggling);
    wad_timer_start(&sharing);
    for (;;)
        wad_port_sleep();
}
