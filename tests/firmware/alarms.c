/* SPDX-License-Identifier: MIT */
/* The warning lamp at 3 Hz from 32 768 Hz, on chips with and without a latch for the high half. */
#include <wadium/alarm.h>
#include <wadium/clock.h>
#include <wadium/irq.h>

#include LAMP_CHIP

#ifndef CHANNEL
#define CHANNEL 1
#endif

static wad_timebase base;
static wad_alarms alarms;
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
        st = wad_timebase_open(&base, &TIME_BLOCK, 0, NULL);
    if (st == WAD_OK)
        st = wad_alarms_open(&alarms, &base, CHANNEL, 0);
    if (st == WAD_OK)
        st = wad_alarm_every(&alarms, &beat, WAD_HZ(6), toggle, NULL);
    if (st != WAD_OK)
        return (int)st;
    wad_irq_global_on();
    for (;;)
        wad_port_sleep();
}
