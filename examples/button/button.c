/* SPDX-License-Identifier: MIT */
/*
 * The test button cycles the warning lamp through 1, 2 and 3 Hz. A press is an edge interrupt;
 * contacts bounce, so the pin's interrupt only starts an alarm of 20 ms, and the level then
 * decides.
 */
#include <wadium/clock.h>
#include <wadium/irq.h>

#include <corran32_roles.h>
#include <skerry_pins.h>

static const wad_timebase base = {&corran32_base, .clock_hz = 8000000, .hz = 1000000};
static const wad_alarms alarms = {&base, .channel = 0, .priority = 1, .list = &(wad_alarm_list){0}};
static wad_alarm blink, settle;
static unsigned hz;

void handle_BASE(void);
void handle_BASE(void)
{
    wad_alarms_handle(&alarms);
}

static void toggle(void *context)
{
    (void)context;
    wad_pin_toggle(SKERRY_WARN);
}

static wad_status next_rate(void)
{
    hz = hz % 3 + 1;
    return wad_alarm_every(&alarms, &blink, WAD_HZ(2 * hz), toggle, NULL);
}

/* 20 ms after the last edge the contact rests: pressed, or it was the release. */
static void settled(void *context)
{
    (void)context;
    if (wad_pin_read(SKERRY_TEST) == SKERRY_TEST_ACTIVE)
        (void)!next_rate();
}

void handle_PINB(void);
void handle_PINB(void)
{
    if (wad_pin_take_edge(SKERRY_TEST))
        (void)!wad_alarm_after_ms(&alarms, &settle, 20, settled, NULL);
}

int main(void)
{
    wad_status st = wad_pin_output(SKERRY_WARN, false);
    if (st == WAD_OK)
        st = wad_pin_input(SKERRY_TEST, WAD_PULL_UP);
    if (st == WAD_OK)
        st = wad_timebase_open(&base);
    if (st == WAD_OK)
        st = wad_alarms_open(&alarms);
    if (st == WAD_OK)
        st = next_rate();
    if (st == WAD_OK)
        st = wad_pin_on_edge(SKERRY_TEST, WAD_EDGE_BOTH, 2);
    if (st != WAD_OK)
        return (int)st;
    wad_irq_global_on();
    for (;;)
        wad_port_sleep();
}
