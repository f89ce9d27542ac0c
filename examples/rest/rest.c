/* SPDX-License-Identifier: MIT */
/*
 * Sleep of 200 ms, 2 s and 5 s, in turn, on the 32 768 Hz clock: the core is awake for some
 * microseconds between them, in which it changes the warning lamp.
 */
#include <wadium/clock.h>
#include <wadium/irq.h>

#include <corran32_roles.h>
#include <skerry_pins.h>

static const wad_timebase base = {&corran32_clock, .clock_hz = 32768};
static const wad_alarms alarms = {&base, .channel = 0, .priority = 1, .list = &(wad_alarm_list){0}};
static wad_alarm alarm;
static volatile bool over;

void handle_CLOCK(void);
void handle_CLOCK(void)
{
    wad_alarms_handle(&alarms);
}

static void wake(void *context)
{
    (void)context;
    over = true;
}

/* Between the look at the flag and the sleep an interrupt may come: with the mask closed it ends
 * the sleep all the same, and its handler runs when the mask is opened. */
static wad_status sleep_ms(uint32_t ms)
{
    over = false;
    wad_status st = wad_alarm_after_ms(&alarms, &alarm, ms, wake, NULL);
    while (st == WAD_OK && !over) {
        uint32_t state = wad_irq_save();
        if (!over)
            wad_port_sleep();
        wad_irq_restore(state);
    }
    return st;
}

int main(void)
{
    static const uint32_t rests[] = {200, 2000, 5000};
    wad_status st = wad_pin_output(SKERRY_WARN, false);
    if (st == WAD_OK)
        st = wad_clock_start(&corran32_clock_slow, 4000000);
    if (st == WAD_OK)
        st = wad_timebase_open(&base);
    if (st == WAD_OK)
        st = wad_alarms_open(&alarms);
    wad_irq_global_on();
    for (unsigned i = 0; st == WAD_OK; i = i == 2 ? 0 : i + 1) {
        wad_pin_toggle(SKERRY_WARN);
        st = sleep_ms(rests[i]);
    }
    return (int)st;
}
