/* SPDX-License-Identifier: MIT */
/*
 * A flow meter at the expansion connector gives so many pulses a second. Each pulse is captured by
 * hardware; once a second the rate since the last time is taken, and the lowest level lamp says
 * whether water flows.
 */
#include <wadium/irq.h>

#include <corran32_roles.h>
#include <skerry_pins.h>

static const wad_timebase base = {&corran32_base, .clock_hz = 8000000, .hz = 1000000};
static const wad_alarms alarms = {&base, .channel = 0, .priority = 1, .list = &(wad_alarm_list){0}};
static wad_alarm second;
static const wad_input flow = {
    &base,       .channel = 0,  .route = CORRAN32_ROUTE_BASE_IN0_PB8, .edge = WAD_INPUT_RISE,
    .filter = 4, .priority = 1, .seen = &(wad_input_seen){0}};

static volatile uint32_t millihertz; /* what a debugger, or a telemetry line, would show */

void handle_BASE(void);
void handle_BASE(void)
{
    wad_input_handle(&flow);
    wad_alarms_handle(&alarms);
}

static void every_second(void *context)
{
    wad_input_result r;
    (void)context;
    millihertz = wad_input_read(&flow, &r) == WAD_OK ? r.millihertz : 0;
    wad_pin_write(SKERRY_LEVEL1, millihertz > 100000);
}

int main(void)
{
    wad_status st = wad_pin_output(SKERRY_LEVEL1, false);
    if (st == WAD_OK)
        st = wad_timebase_open(&base);
    if (st == WAD_OK)
        st = wad_input_open(&flow);
    if (st == WAD_OK)
        st = wad_alarms_open(&alarms);
    if (st == WAD_OK)
        st = wad_alarm_every(&alarms, &second, WAD_HZ(1), every_second, NULL);
    if (st != WAD_OK)
        return (int)st;
    wad_irq_global_on();
    for (;;)
        wad_port_sleep();
}
