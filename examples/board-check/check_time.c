/* SPDX-License-Identifier: MIT */
/* Clocks, timers, alarms, interrupts: each against another one. */
#include "board_check.h"

#include <wadium/clock.h>
#include <wadium/irq.h>
#include <wadium/sleep.h>
#include <wadium/tick.h>

/* The count of the slow clock's timebase, just when it changes. */
static uint64_t at_an_edge(const wad_timebase *slow)
{
    uint64_t was = wad_timebase_now(slow), now;
    do
        now = wad_timebase_now(slow);
    while (now == was);
    return now;
}

/* The crystal, by way of PLL and timebase, against the watch crystal: a quarter of a second. */
void check_clocks(wad_verify *v)
{
    static const wad_timebase slow = {&corran32_clock, .clock_hz = 32768};
    if (!wad_verify_status(v, "watch crystal starts",
                           wad_clock_start(&corran32_clock_slow, 9000000)))
        return;
    if (!wad_verify_status(v, "slow timebase opens", wad_timebase_open(&slow)))
        return;
    uint64_t from = at_an_edge(&slow), began = wad_timebase_now(&base), now;
    do
        now = wad_timebase_now(&slow);
    while (((now - from) & wad_timebase_mask(&slow)) < 8192);
    uint32_t us = (uint32_t)(wad_timebase_now(&base) - began);
    wad_verify_near(v, "crystal against watch crystal, us in 250 ms", (int32_t)us, 250000, 50);
}

/* ---- timers and tick ---- */

static volatile uint32_t wraps;
static void on_wrap(void *context)
{
    (void)context;
    wraps++;
}

static const wad_timer timer = {&corran32_cnt0, .clock_hz = 48000000, .rate = WAD_RATE_KHZ(1),
                                .on_wrap = on_wrap, .priority = 1};

void handle_CNT0(void);
void handle_CNT0(void)
{
    wad_timer_handle(&timer);
}

void handle_TICK(void);
void handle_TICK(void)
{
    wad_tick_handle();
}

void check_timers(wad_verify *v)
{
    wad_status st = wad_timer_open(&timer);
    if (wad_verify_status(v, "timer opens", st)) {
        wad_timer_start(&timer);
        wad_delay_ms(&base, 50);
        wad_timer_stop(&timer);
        wad_verify_near(v, "timer, periods of 1 ms in 50 ms", (int32_t)wraps, 50, 1);
    }
    if (wad_verify_status(v, "tick starts", wad_tick_start(WAD_KHZ(1), 1, NULL))) {
        uint32_t from = wad_tick_count();
        wad_delay_ms(&base, 20);
        wad_verify_near(v, "tick, in 20 ms", (int32_t)(wad_tick_count() - from), 20, 1);
        wad_tick_stop();
    }
}

/* ---- alarms, and the sleep that they end ---- */

static const wad_alarms alarms = {&base, .channel = 0, .priority = 1, .list = &(wad_alarm_list){0}};
static volatile bool rang;
static uint8_t seen[4];
static wad_verify_events order = {seen, sizeof seen, 0};

static void on_alarm(void *context)
{
    wad_verify_saw(&order, *(const uint8_t *)context);
    rang = true;
}

static void serve_alarms(void)
{
    wad_alarms_handle(&alarms);
}

void check_alarms(wad_verify *v)
{
    static const uint8_t first = 1, second = 2, wanted[] = {1, 2};
    wad_alarm a, b;
    on_base = serve_alarms;
    wad_status st = wad_alarms_open(&alarms);
    uint64_t from = wad_timebase_now(&base);
    if (st == WAD_OK) /* set in the other order than they are due */
        st = wad_alarm_after_us(&alarms, &b, 9000, on_alarm, (void *)(uintptr_t)&second);
    if (st == WAD_OK)
        st = wad_alarm_after_us(&alarms, &a, 5000, on_alarm, (void *)(uintptr_t)&first);
    if (!wad_verify_status(v, "alarms are set", st))
        return;
    uint32_t state = wad_irq_save();
    while (!rang) { /* masked up to the sleep: what comes just before it ends it */
        wad_port_sleep();
        wad_irq_restore(state);
        state = wad_irq_save();
    }
    uint32_t us = (uint32_t)(wad_timebase_now(&base) - from);
    rang = false; /* before a word is said: that takes longer than the second one */
    wad_irq_restore(state);
    wad_verify_near(v, "sleep until an alarm, us", (int32_t)us, 5000, 500);
    wad_verify_before(v, "second alarm", &rang, &base, 10000);
    wad_verify_order(v, "alarms in the order of their times", &order, wanted, sizeof wanted);
    on_base = NULL;
}

/* ---- the interrupt controller ---- */

static volatile bool raised;

void handle_CNT1(void);
void handle_CNT1(void)
{
    raised = true;
}

void check_interrupts(wad_verify *v)
{
    wad_status st = wad_irq_enable(corran32_cnt1.block.irq, 1);
    uint32_t state = wad_irq_save();
    if (st == WAD_OK)
        st = wad_irq_raise(corran32_cnt1.block.irq);
    if (!wad_verify_status(v, "interrupt by software", st)) {
        wad_irq_restore(state);
        return;
    }
    wad_verify_that(v, "interrupt waits while masked", !raised);
    wad_irq_restore(state);
    wad_verify_before(v, "interrupt is served", &raised, &base, 100);
    wad_irq_disable(corran32_cnt1.block.irq);
}
