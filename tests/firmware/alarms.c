/* SPDX-License-Identifier: MIT */
/* The warning lamp at 3 Hz from 32 768 Hz, on chips with and without a latch for the high half. */
#include <wadium/clock.h>
#include <wadium/irq.h>

#include LAMP_CHIP

#ifndef CHANNEL
#define CHANNEL 1
#endif

static const wad_timebase base = {.unit = &TIME_BLOCK};
static const wad_alarms alarms = {&base, .channel = CHANNEL, .priority = 0,
                                  .list = &(wad_alarm_list){0}};
static wad_alarm beat;

void TIME_HANDLER(void);
void TIME_HANDLER(void)
{
    wad_alarms_handle(&alarms);
}

static void toggle(void *context)
{
    (void)context;
    wad_pin_toggle(WARN_PIN);
}

int main(void)
{
    wad_status st = wad_pin_output(WARN_PIN, false);
#if CHANNEL == 0 /* Corran8: its watchdog runs from reset */
    if (st == WAD_OK)
        st = start_clocks();
#endif
#ifdef SLOW_CLOCK
    if (st == WAD_OK)
        st = wad_clock_start(&SLOW_CLOCK, 4000000u);
#endif
    if (st == WAD_OK)
        st = wad_timebase_open(&base);
    if (st == WAD_OK)
        st = wad_alarms_open(&alarms);
    if (st == WAD_OK)
        st = wad_alarm_every(&alarms, &beat, WAD_HZ(6), toggle, NULL);
    if (st != WAD_OK)
        return (int)st;
    wad_irq_global_on();
    for (;;)
        wad_port_sleep();
}
