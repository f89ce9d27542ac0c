/* SPDX-License-Identifier: MIT */
/*
 * The tide gauge's lamps: the warning lamp blinks once a second from a timer
 * interrupt every 500 ms; the four level lamps glow at four brightnesses. One
 * source for three chips.
 */
#include <wadium/clock.h>
#include <wadium/irq.h>

/* What differs between the chips */
#ifndef LAMP_CHIP
#define LAMP_CHIP "chips/corran32.h"
#endif
#include LAMP_CHIP

static volatile int32_t blink_error_ppm; /* for whoever looks: how far off it is */
static volatile uint32_t blink_period;

static void toggle_warning(void *context)
{
    (void)context;
    wad_pin_toggle(WARN_PIN);
}

static const wad_timer blink = {&BLINK_TIMER, .clock_hz = BLINK_HZ, .rate = WAD_EVERY_MS(500),
                                .on_wrap = toggle_warning};
static const wad_timer dimmer = {&DIM_TIMER, .clock_hz = DIM_HZ, .rate = WAD_RATE_KHZ(1),
                                 .pwm = {{LEVEL1_ROUTE, WAD_PERCENT(10)},
                                         {LEVEL2_ROUTE, WAD_PERCENT(25)},
                                         {LEVEL3_ROUTE, WAD_PERCENT(50)},
                                         {LEVEL4_ROUTE, WAD_PERCENT(90)}}};

void handle_CNT0(void);
void handle_CNT0(void)
{
    wad_timer_handle(&blink);
}

static wad_status start_blinking(void)
{
    wad_status st = wad_pin_output(WARN_PIN, false);
    if (st == WAD_OK)
        st = wad_timer_open(&blink);
    if (st != WAD_OK)
        return st;
    blink_error_ppm = WAD_TIMER_PPM(blink);
    blink_period = wad_timer_period(&blink);
    wad_timer_start(&blink);
    return WAD_OK;
}

static wad_status start_level_lamps(void)
{
    wad_status st = wad_timer_open(&dimmer);
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
