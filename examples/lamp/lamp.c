/* SPDX-License-Identifier: MIT */
/*
 * The tide gauge's lamps: the warning lamp blinks once a second from a timer
 * interrupt every 500 ms; the four level lamps glow at four brightnesses.
 */
#include <wadium/clock.h>
#include <wadium/irq.h>
#include <wadium/timer.h>

#include "corran32_roles.h"
#include "skerry_pins.h"

#define START_POLLS 1000000u

static wad_timer blink, dimmer;
static volatile int32_t blink_error_ppm;

void handle_CNT0(void);
void handle_CNT0(void)
{
    wad_timer_handle(&blink);
}

static void toggle_warning(void *context)
{
    (void)context;
    wad_pin_toggle(SKERRY_WARN);
}

/* Crystal 12 MHz, PLL 12 MHz * 8 / 2 = 48 MHz, core from the PLL. */
static wad_status start_clocks(void)
{
    wad_status st = wad_clock_start(&corran32_clock_xtal, START_POLLS);
    if (st != WAD_OK)
        return st;
    wad_put2(CORRAN32_CLK_BASE, corran32_clocks_pll_mul, 8 - 2, corran32_clocks_pll_div, 2 - 1);
    wad_put(CORRAN32_CLK_BASE, corran32_clocks_pll_src, CORRAN32_CLOCKS_PLL_SRC_XTAL);
    st = wad_clock_start(&corran32_clock_pll, START_POLLS);
    if (st == WAD_OK)
        wad_put(CORRAN32_CLK_BASE, corran32_clocks_sel_core, CORRAN32_CLOCKS_SEL_CORE_PLL);
    return st;
}

static wad_status start_blinking(void)
{
    int32_t error_ppm;
    wad_status st = wad_pin_output(SKERRY_WARN, false);
    if (st == WAD_OK)
        st = wad_timer_open(&blink, &corran32_cnt0, WAD_PERIOD_MS(500), &error_ppm);
    if (st == WAD_OK)
        st = wad_timer_on_wrap(&blink, 1, toggle_warning, NULL);
    if (st == WAD_OK) {
        blink_error_ppm = error_ppm;
        wad_timer_start(&blink);
    }
    return st;
}

static wad_status start_level_lamps(void)
{
    static const wad_route routes[] = {CORRAN32_ROUTE_CNT1_CH0_PA0, CORRAN32_ROUTE_CNT1_CH1_PA1,
                                       CORRAN32_ROUTE_CNT1_CH2_PA2, CORRAN32_ROUTE_CNT1_CH3_PA3};
    static const uint32_t percent[] = {10, 25, 50, 90};
    wad_status st = wad_timer_open(&dimmer, &corran32_cnt1, WAD_KHZ(1), NULL);
    for (unsigned i = 0; i < 4 && st == WAD_OK; i++)
        st = wad_timer_pwm(&dimmer, i, routes[i], WAD_PERCENT(percent[i]));
    if (st == WAD_OK)
        wad_timer_start(&dimmer);
    return st;
}

int main(void)
{
    wad_status st = start_clocks();
    if (st == WAD_OK)
        st = start_level_lamps();
    if (st == WAD_OK)
        st = start_blinking();
    if (st != WAD_OK)
        return (int)st;
    wad_irq_global_on();
    for (;;)
        wad_port_sleep();
}
