/* SPDX-License-Identifier: MIT */
/*
 * Clocks brought out at a pin of the expansion connector, to be measured before anything rests on
 * them: the internal oscillator for 2 ms, then the PLL that the tide gauge runs on.
 */
#include <wadium/clock.h>
#include <wadium/sleep.h>

#include <corran32_roles.h>

#define POLLS 100000u

static wad_wake time_is_up;

static void note(void *context)
{
    (void)context;
    wad_wake_up(&time_is_up);
}

static const wad_timer timer = {&corran32_cnt3, .clock_hz = 8000000, .rate = WAD_EVERY_MS(2),
                                .on_wrap = note};

void handle_CNT3(void);
void handle_CNT3(void)
{
    wad_timer_handle(&timer);
}

/* The source may only change while nothing comes out. */
static void bring_out(uint32_t source, uint32_t divider)
{
    wad_put(CORRAN32_CLK_BASE, corran32_clocks_out_en, 0);
    wad_put2(CORRAN32_CLK_BASE, corran32_clocks_out_src, source, corran32_clocks_out_div, divider);
    wad_put(CORRAN32_CLK_BASE, corran32_clocks_out_en, 1);
}

static wad_status start_pll(void) /* 12 MHz * 8 / 2 = 48 MHz */
{
    wad_status st = wad_clock_start(&corran32_clock_xtal, POLLS);
    if (st != WAD_OK)
        return st;
    wad_put(CORRAN32_CLK_BASE, corran32_clocks_pll_mul, 6);
    wad_put2(CORRAN32_CLK_BASE, corran32_clocks_pll_div, 1, corran32_clocks_pll_src,
             CORRAN32_CLOCKS_PLL_SRC_XTAL);
    return wad_clock_start(&corran32_clock_pll, POLLS);
}

static wad_status wait_2_ms(void)
{
    wad_status st = wad_timer_open(&timer);
    if (st != WAD_OK)
        return st;
    wad_timer_start(&timer);
    wad_irq_global_on();
    wad_sleep_until(&time_is_up);
    wad_timer_stop(&timer);
    return WAD_OK;
}

int main(void)
{
    wad_status st = wad_pin_route(CORRAN32_ROUTE_CLK_CLKOUT_PC8);
    if (st == WAD_OK) {
        bring_out(CORRAN32_CLOCKS_OUT_SRC_INTERNAL, 3); /* 8 MHz / 8 */
        st = wait_2_ms();
    }
    if (st == WAD_OK)
        st = start_pll();
    if (st != WAD_OK)
        return (int)st;
    bring_out(CORRAN32_CLOCKS_OUT_SRC_PLL, 4); /* 48 MHz / 16 */
    for (;;)
        wad_port_sleep();
}
