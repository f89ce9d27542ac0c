/* SPDX-License-Identifier: MIT */
/*
 * The tide gauge's lamps: the warning lamp blinks once a second from a timer
 * interrupt every 500 ms; the four level lamps glow at four brightnesses. One
 * source for three chips.
 */
#include <wadium/clock.h>
#include <wadium/irq.h>
#include <wadium/timer.h>

/* What differs between the chips */
#ifndef LAMP_CHIP
#define LAMP_CHIP "chips/corran32.h"
#endif
#include LAMP_CHIP

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
    wad_pin_toggle(WARN_PIN);
}

static wad_status start_blinking(void)
{
    int32_t error_ppm;
    wad_status st = wad_pin_output(WARN_PIN, false);
    if (st == WAD_OK)
        st = wad_timer_open(&blink, &BLINK_TIMER, WAD_PERIOD_MS(500), &error_ppm);
    if (st == WAD_OK)
        st = wad_timer_on_wrap(&blink, 0, toggle_warning, NULL);
    if (st == WAD_OK) {
        blink_error_ppm = error_ppm;
        wad_timer_start(&blink);
    }
    return st;
}

static wad_status start_level_lamps(void)
{
    static const uint32_t percent[] = {10, 25, 50, 90};
    wad_status st = wad_timer_open(&dimmer, &DIM_TIMER, WAD_KHZ(1), NULL);
    for (unsigned i = 0; i < 4 && st == WAD_OK; i++)
        st = wad_timer_pwm(&dimmer, i, level_routes[i], WAD_PERCENT(percent[i]));
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
