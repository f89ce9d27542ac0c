/* SPDX-License-Identifier: MIT */
/*
 * Two lamps from two timers at two priorities: the warning lamp changes every 100 ms and must do so
 * to within 50 us; the lowest level lamp changes every 300 ms, and its handler works for 20 ms, as
 * one that averages pressures would. The urgent one comes in the middle of that.
 */
#include <wadium/clock.h>
#include <wadium/irq.h>

#include <corran32_roles.h>
#include <skerry_pins.h>

#ifndef WARN_PRIORITY
#define WARN_PRIORITY 1
#endif
#define LEVEL_PRIORITY 2
#define WORK_CYCLES    160000u /* 20 ms at 8 MHz */

static void change_warning(void *context)
{
    (void)context;
    wad_pin_toggle(SKERRY_WARN);
}

static void change_level(void *context)
{
    (void)context;
    wad_pin_toggle(SKERRY_LEVEL1);
    wad_port_cycles(WORK_CYCLES);
}

static const wad_timer warn = {&corran32_cnt0, .clock_hz = 8000000, .rate = WAD_EVERY_MS(100),
                               .on_wrap = change_warning, .priority = WARN_PRIORITY};
static const wad_timer level = {&corran32_cnt1, .clock_hz = 8000000, .rate = WAD_EVERY_MS(300),
                                .on_wrap = change_level, .priority = LEVEL_PRIORITY};

void handle_CNT0(void);
void handle_CNT0(void)
{
    wad_timer_handle(&warn);
}

void handle_CNT1(void);
void handle_CNT1(void)
{
    wad_timer_handle(&level);
}

int main(void)
{
    wad_status st = wad_pin_output(SKERRY_WARN, false);
    if (st == WAD_OK)
        st = wad_pin_output(SKERRY_LEVEL1, false);
    if (st == WAD_OK)
        st = wad_timer_open(&level);
    if (st != WAD_OK)
        return (int)st;
    wad_timer_start(&level); /* first: it comes just before each third change of the other one */
    st = wad_timer_open(&warn);
    if (st != WAD_OK)
        return (int)st;
    wad_timer_start(&warn);
    wad_irq_global_on();
    for (;;)
        wad_port_sleep();
}
