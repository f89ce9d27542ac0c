/* SPDX-License-Identifier: MIT */
/*
 * A lamp at 1 kHz from a counter that overflows, its start value loaded in three ways: by the
 * hardware; by the handler, which sets the count to the start value and so loses the time that it
 * took to come; by the handler, which adds the start value to the count as it stands.
 */
#include <wadium/clock.h>
#include <wadium/irq.h>
#include <wadium/timer.h>
#include <wadium/watchdog.h>

#include <corran8_roles.h>
#include <skerry8_pins.h>

enum { BY_HARDWARE, SET, ADDED };

#ifndef COST
#define COST 0u
#endif

static wad_timer timer;

void handle_CNT0(void);
void handle_CNT0(void)
{
    if (HOW == SET)
        wad_put(timer.block->base, corran8_counter_roles.count, 65536u - timer.period);
    if (HOW == ADDED)
        wad_timer_reload(&timer, COST);
    wad_timer_handle(&timer);
}

static void change(void *context)
{
    (void)context;
    wad_pin_toggle(SKERRY8_WARN);
}

int main(void)
{
    wad_status st = wad_watchdog_stop();
    wad_put(CORRAN8_CLK_BASE, corran8_clocks_div_core, 0); /* 8 MHz */
    if (st == WAD_OK)
        st = wad_pin_output(SKERRY8_WARN, false);
    if (st == WAD_OK)
        st = wad_timer_open_counts(&timer, &corran8_cnt0, 1, 4000); /* two changes a millisecond */
    if (st == WAD_OK && HOW != BY_HARDWARE)
        st = wad_timer_manual_reload(&timer);
    if (st == WAD_OK)
        st = wad_timer_on_wrap(&timer, 0, change, NULL);
    if (st != WAD_OK)
        return (int)st;
    wad_timer_start(&timer);
    wad_irq_global_on();
    for (;;)
        wad_port_sleep();
}
