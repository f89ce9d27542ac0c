/* SPDX-License-Identifier: MIT */
/*
 * A lamp at 1 kHz from a counter that overflows, its start value loaded in three ways: by the
 * hardware; by the handler, which sets the count to the start value and so loses the time that it
 * took to come; by the handler, which adds the start value to the count as it stands.
 */
#include <wadium/clock.h>
#include <wadium/irq.h>
#include <wadium/watchdog.h>

#include <corran8_roles.h>
#include <skerry8_pins.h>

enum { BY_HARDWARE, SET, ADDED };

#ifndef COST
#define COST 0u
#endif

static void change(void *context)
{
    (void)context;
    wad_pin_toggle(SKERRY8_WARN);
}

static const wad_timer timer = {&corran8_cnt0,
                                .counts = 4000, /* of 8 MHz: two changes a millisecond */
                                .manual_reload = HOW != BY_HARDWARE, .on_wrap = change};

void handle_CNT0(void);
void handle_CNT0(void)
{
    if (HOW == SET)
        wad_put(CORRAN8_CNT0_BASE, corran8_counter_roles.count, 65536u - 4000u);
    if (HOW == ADDED)
        wad_timer_reload(&timer, COST);
    wad_timer_handle(&timer);
}

int main(void)
{
    wad_status st = wad_watchdog_stop();
    wad_put(CORRAN8_CLK_BASE, corran8_clocks_div_core, 0); /* 8 MHz */
    if (st == WAD_OK)
        st = wad_pin_output(SKERRY8_WARN, false);
    if (st == WAD_OK)
        st = wad_timer_open(&timer);
    if (st != WAD_OK)
        return (int)st;
    wad_timer_start(&timer);
    wad_irq_global_on();
    for (;;)
        wad_port_sleep();
}
