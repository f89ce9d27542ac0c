/* SPDX-License-Identifier: MIT */
/* A chip that goes back to sleep behind each handler: one in three tells main to go on. TELLS: 0,
 * none of them does. */
#include <wadium/irq.h>
#include <wadium/pin.h>
#include <wadium/sleep.h>

#include <corran16_roles.h>
#include <skerry16_pins.h>

static const wad_timebase base = {.unit = &corran16_time};
static const wad_alarms alarms = {&base, .channel = 0, .priority = 0, .list = &(wad_alarm_list){0}};
static wad_alarm every;
static wad_wake due;
static unsigned turns;

void handle_TIME(void);
void handle_TIME(void)
{
    wad_alarms_handle(&alarms);
    wad_pin_toggle(SKERRY16_LEVEL1);
}

static void on_time(void *context)
{
    (void)context;
    if (TELLS && ++turns % 3u == 0)
        wad_wake_up(&due);
}

int main(void)
{
    wad_status st = wad_pin_output(SKERRY16_WARN, false);
    if (st == WAD_OK)
        st = wad_pin_output(SKERRY16_LEVEL1, false);
    if (st == WAD_OK)
        st = wad_timebase_open(&base);
    if (st == WAD_OK)
        st = wad_alarms_open(&alarms);
    if (st == WAD_OK)
        st = wad_alarm_every(&alarms, &every, WAD_HZ(30), on_time, NULL);
    if (st == WAD_OK)
        st = wad_sleep_level(1);
    if (st != WAD_OK)
        return 1;
    wad_irq_global_on();
    for (;;) {
        wad_port_sleep();
        wad_pin_toggle(SKERRY16_WARN);
    }
}
