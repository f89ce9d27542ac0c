/* SPDX-License-Identifier: MIT */
/*
 * Mistakes with timers and interrupts, chosen by WRONG, and with RIGHT the same task done well. The
 * line that must be named carries the mark "here NUMBER".
 */
#include <stdio.h>

#include <wadium/clock.h>
#include <wadium/irq.h>
#include <wadium/watchdog.h>

#include "corran32_roles.h"

#ifndef RIGHT
#define RIGHT 0
#endif
#define POLLS 100000u
#define CNT0  CORRAN32_CNT0_BASE
#define BASE  CORRAN32_BASE_BASE
#define R     corran32_counter_roles
#define T     corran32_timebase_roles

static wad_timer timer, other;
static const wad_timebase base = {&corran32_base, .hz = 1000000};
static const wad_alarms alarms = {&base, .channel = 0, .priority = 1, .list = &(wad_alarm_list){0}};
static wad_alarm alarm;
static volatile uint32_t events;

static void count(void *context)
{
    (void)context;
    events++;
}

/* A handler at priority 1 every millisecond. */
static void tick(wad_timer_fn fn)
{
    timer = (wad_timer){&corran32_cnt0, .rate = WAD_RATE_HZ(1000), .on_wrap = fn, .priority = 1};
    if (wad_timer_open(&timer) == WAD_OK)
        wad_timer_start(&timer);
}

static void open_base(void)
{
    (void)!wad_timebase_open(&base);
}

#if WRONG == 314 && !RIGHT
void handle_CNTO(void);
void handle_CNTO(void) /* here 314 */
{
    events++;
}
#endif

void handle_CNT0(void);
void handle_CNT0(void) /* here 311 */
{
    wad_timer_handle(&timer);
}

void handle_CNT1(void);
void handle_CNT1(void)
{
    wad_timer_handle(&other);
}

void handle_BASE(void);
void handle_BASE(void)
{
#if WRONG == 309 && !RIGHT
    wad_clear(BASE, wad_at(T.match, 0));
#else
    wad_alarms_handle(&alarms);
#endif
}

void handle_CLK(void);
void handle_CLK(void)
{
    wad_clear(CORRAN32_CLK_BASE, corran32_clocks_roles.lost);
    events++;
}

/* ---- the mistakes ---- */

#if WRONG == 106
static void act(void)
{
    (void)!wad_clock_start(&corran32_clock_xtal, POLLS);
    tick(count);
#if RIGHT
    wad_timer_stop(&timer);
#endif
    wad_put(CORRAN32_CLK_BASE, corran32_clocks_sel_core, 1); /* here 106 */
#if RIGHT
    (void)!wad_timer_set_rate(&timer, WAD_HZ(1000));
    wad_timer_start(&timer);
#endif
}
#elif WRONG == 107
static void act(void)
{
    (void)!wad_clock_start(&corran32_clock_xtal, POLLS);
    wad_put(CORRAN32_CLK_BASE, corran32_clocks_sel_core, 1);
    for (;;)                   /* until the crystal fails */
        wad_port_cycles(1000); /* here 107 */
}
#elif WRONG == 211
static void act(void)
{
    const unsigned channel = RIGHT ? 2 : 3;
    open_base();
    wad_put64(BASE, wad_at(T.compare, channel), 1000000); /* here 211 */
}
#elif WRONG == 309
/* The next beat from now on, reckoned before something that takes its time. */
static void act(void)
{
    open_base();
#if RIGHT
    (void)!wad_alarms_open(&alarms);
    (void)!wad_alarm_every(&alarms, &alarm, WAD_HZ(10000), count, NULL);
#else
    wad_put(BASE, wad_at(T.match_irq, 0), 1);
    if (wad_irq_enable(corran32_base.block.irq, 1) != WAD_OK)
        return;
    uint64_t due = wad_timebase_now(&base) + 100;
    wad_port_cycles(8 * 150);
    wad_put64(BASE, wad_at(T.compare, 0), due); /* here 309 */
#endif
}
#elif WRONG == 310
static void act(void)
{
    tick(count);
#if !RIGHT
    wad_put(CNT0, R.shadow, 0);
#endif
    wad_port_cycles(6000);         /* of the 8000 in a period */
    wad_put(CNT0, R.reload, 3999); /* here 310 */
}
#elif WRONG == 311
static void slow(void *context)
{
    (void)context;
    wad_port_cycles(1600); /* 200 us */
}

static void act(void)
{
    tick(slow);
    other = (wad_timer){&corran32_cnt1, .rate = WAD_RATE_HZ(970), .on_wrap = count,
                        .priority = RIGHT ? 0 : 1};
    if (wad_timer_open(&other) == WAD_OK)
        wad_timer_start(&other);
}
#elif WRONG == 312
static void wait(void *context)
{
    (void)context;
    events++;
#if WAY == 1 && !RIGHT
    printf("tick %u\n", (unsigned)events); /* here print */
#elif WAY == 2 && !RIGHT
    wad_port_sleep(); /* here sleep */
#elif !RIGHT
    wad_delay_us(&base, 200); /* here 312 */
#endif
}

static void act(void)
{
    open_base();
    tick(wait);
}
#elif WRONG == 602
static void feed(void *context)
{
    (void)context;
#if !RIGHT
    wad_watchdog_feed(); /* here 602 */
#endif
}

static void act(void)
{
    (void)!wad_watchdog_start(10000, NULL);
    tick(feed);
}
#elif WRONG == 108
static void act(void)
{
    timer = (wad_timer){&corran32_cnt0, .clock_hz = RIGHT ? 8000000u : 12000000u,
                        .rate = WAD_RATE_HZ(1000), .on_wrap = count, .priority = 1};
    if (wad_timer_open(&timer) == WAD_OK) /* here 108 */
        wad_timer_start(&timer);
}
#else
static void act(void)
{
    tick(count);
}
#endif

int main(void)
{
    wad_irq_global_on();
    act();
    for (;;) {
        wad_port_sleep();
#if WRONG == 602 && RIGHT
        wad_watchdog_feed();
#endif
    }
}
