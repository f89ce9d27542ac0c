/* SPDX-License-Identifier: MIT */
/* What goes wrong around timers: oscillators that fail, clocks that change, watchdogs that bite. */
#include <math.h>
#include <string.h>

#include "corran32_sheet.h"
#include "wadium/clock.h"
#include "wadium/irq.h"
#include "wadium/watchdog.h"

#include "corran32_roles.h"

#define S     WAD_PS_PER_S
#define MS    (S / 1000)
#define POLLS 100000u
#define R     corran32_counter_roles

static wad_sim *sim;
static wad_timer timer;

static wad_run_result run(int (*main_fn)(void), const wad_handler *handlers, uint64_t ps)
{
    wad_sim_attach(sim, main_fn, handlers, handlers ? 17 : 0);
    return wad_sim_run(sim, ps);
}

static void begin(void)
{
    char *why;
    sim = wad_sim_new(sheet, &why);
}

static const wad_finding *find(wad_finding_kind kind)
{
    for (unsigned i = 0; i < wad_sim_finding_count(sim); i++)
        if (wad_sim_finding(sim, i)->kind == kind)
            return wad_sim_finding(sim, i);
    return NULL;
}

static void expect_finding(wad_finding_kind kind, const char *part)
{
    const wad_finding *f = find(kind);
    if (!f || !strstr(f->what, part))
        fail_msg("W%d: wanted '%s', got '%s'", (int)kind, part, f ? f->what : "nothing");
}

/* ---- a crystal that fails ---- */

static bool watched;
static unsigned lost;

static void set_rate(void)
{
    timer = (wad_timer){&corran32_cnt1, .rate = WAD_RATE_HZ(1000),
                        .pwm = {{CORRAN32_ROUTE_CNT1_CH0_PA0, WAD_PERCENT(50)}}};
    (void)!wad_timer_open(&timer);
    wad_timer_start(&timer);
}

static void handle_clk(void)
{
    if (!wad_clock_lost())
        return;
    lost++;
    wad_timer_stop(&timer);
    set_rate(); /* for the clock that there is now */
}

static int crystal_main(void)
{
    if (wad_clock_start(&corran32_clock_xtal, POLLS) != WAD_OK)
        return 1;
    wad_put(CORRAN32_CLK_BASE, corran32_clocks_sel_core, 1);
    if (watched && wad_clock_watch(&corran32_clock_xtal, 0) != WAD_OK)
        return 2;
    wad_irq_global_on();
    set_rate();
    for (;;)
        wad_port_sleep();
    return 0;
}

static void fail_now(wad_sim *s, void *ctx)
{
    (void)ctx;
    assert_true(wad_sim_fail_clock(s, wad_sheet_clock(sheet, "xtal"), true));
}

static void on_pin(void *ctx, uint64_t ps, wad_level level)
{
    wad_meter_edge(ctx, ps, level);
}

static void a_watched_crystal_is_replaced(void **state)
{
    static const wad_handler handlers[17] = {[CORRAN32_CLK_IRQ] = handle_clk};
    wad_meter before, after;
    wad_rational hz;
    (void)state;
    wad_meter_init(&before, 100 * MS, 900 * MS);
    wad_meter_init(&after, 1100 * MS, 1900 * MS);
    watched = true;
    lost = 0;
    begin();
    wad_sim_at(sim, S, fail_now, NULL);
    wad_sim_watch_pin(sim, wad_sheet_pin(sheet, "PA0"), on_pin, &before);
    wad_sim_watch_pin(sim, wad_sheet_pin(sheet, "PA0"), on_pin, &after);
    wad_run_result r = run(crystal_main, handlers, 2 * S);
    assert_int_equal(r.end, WAD_RUN_TIME);
    assert_int_equal(lost, 1);
    expect_finding(WAD_FINDING_CLOCK_FAILED, "was watched: the core goes on with another clock");
    expect_finding(WAD_FINDING_CLOCK_CHANGED,
                   "from 12 MHz to 8 MHz: its period goes from 1000 us to 1500 us");
    assert_int_equal(wad_sim_finding_count(sim), 2);
    assert_true(wad_sim_clock_hz(sim, sheet->core, &hz) && hz.num == 8000000);
    assert_true(fabs(wad_meter_hz(&before) - 1000) < 1e-6);
    assert_true(fabs(wad_meter_hz(&after) - 1000) < 1e-6); /* set anew by the handler */
    wad_sim_free(sim);
}

static void an_unwatched_crystal_stops_the_core(void **state)
{
    (void)state;
    watched = false;
    begin();
    wad_sim_at(sim, S, fail_now, NULL);
    wad_run_result r = run(crystal_main, NULL, 2 * S);
    assert_int_equal(r.end, WAD_RUN_DEAD);
    assert_int_equal(r.end_ps, S);
    assert_non_null(strstr(r.story, "the core has no clock"));
    expect_finding(WAD_FINDING_CLOCK_FAILED, "nothing watched it: the core ran on it");
    assert_null(find(WAD_FINDING_CLOCK_LOST)); /* nobody switched it */
    wad_sim_free(sim);
}

/* ---- a clock that changes under a running timer: found, and the new rate measured ---- */

static int change_main(void)
{
    set_rate();
    wad_port_cycles(8000 * 500);
    wad_put(CORRAN32_CLK_BASE, corran32_clocks_sel_pdiv, 2); /* a quarter */
    for (;;)
        wad_port_sleep();
    return 0;
}

static void the_new_rate_is_a_quarter(void **state)
{
    wad_meter before, after;
    (void)state;
    wad_meter_init(&before, 100 * MS, 490 * MS);
    wad_meter_init(&after, 600 * MS, S);
    begin();
    wad_sim_watch_pin(sim, wad_sheet_pin(sheet, "PA0"), on_pin, &before);
    wad_sim_watch_pin(sim, wad_sheet_pin(sheet, "PA0"), on_pin, &after);
    run(change_main, NULL, S);
    expect_finding(WAD_FINDING_CLOCK_CHANGED,
                   "CNT1 runs, and its clock 'per' goes from 8 MHz to 2 MHz: its period goes from "
                   "1000 us to 4000 us");
    assert_true(fabs(wad_meter_hz(&before) - 1000) < 1e-6);
    assert_true(fabs(wad_meter_hz(&after) - 250) < 1e-6);
    wad_sim_free(sim);
}

/* ---- a period that is changed in the middle: the glitch is as long as the finding says ---- */

static int glitch_main(void)
{
    set_rate();
    wad_timer_set_duty(&timer, 0, WAD_PERCENT(10));
    wad_put(CORRAN32_CNT1_BASE, R.shadow, 0);
    wad_port_cycles(6000);
    wad_put(CORRAN32_CNT1_BASE, R.reload, 3999);
    for (;;)
        wad_port_sleep();
    return 0;
}

static void the_glitch_is_as_long_as_told(void **state)
{
    wad_meter m;
    (void)state;
    wad_meter_init(&m, 0, S);
    begin();
    wad_sim_watch_pin(sim, wad_sheet_pin(sheet, "PA0"), on_pin, &m);
    run(glitch_main, NULL, S / 10);
    expect_finding(WAD_FINDING_PERIOD_GLITCH, "this period takes 65536 counts (8192 us)");
    assert_int_equal(m.period.max, 8192 * (S / 1000000));
    assert_int_equal(m.period.min, 500 * (S / 1000000));
    wad_sim_free(sim);
}

/* ---- watchdogs ---- */

static uint32_t feed_every_us, limit_us, closed_us;
static unsigned boots;
static wad_reset_cause causes[8];

/* Fed at a steady pace; each start notes why it came to be. */
static int watch_main(void)
{
    if (boots < 8)
        causes[boots] = wad_watchdog_cause();
    boots++;
    if (boots == 1)
        assert_int_equal(wad_watchdog_cause(), WAD_RESET_UNKNOWN); /* it was taken */
    if (wad_watchdog_start_window(60000, 20000, &limit_us, &closed_us) != WAD_OK)
        return 1;
    for (;;) {
        wad_port_cycles(feed_every_us * 8);
        wad_watchdog_feed();
    }
    return 0;
}

/* 2 ** 11 clocks of 32 kHz are 64 ms, one of four parts 16 ms. */
static void check_window(uint32_t every_us, unsigned least, unsigned most, wad_reset_cause cause)
{
    feed_every_us = every_us;
    boots = 0;
    begin();
    run(watch_main, NULL, S);
    assert_int_equal(limit_us, 64000);
    assert_int_equal(closed_us, 16000);
    assert_in_range(boots, least, most);
    assert_int_equal(causes[0], WAD_RESET_POWER);
    if (boots > 1)
        assert_int_equal(causes[1], cause);
    assert_int_equal(find(WAD_FINDING_WATCHDOG) != NULL, boots > 1);
    wad_sim_free(sim);
}

static void the_window_is_open_between_16_and_64_ms(void **state)
{
    (void)state;
    check_window(20000, 1, 1, WAD_RESET_UNKNOWN);
    check_window(63500, 1, 1, WAD_RESET_UNKNOWN);
    check_window(64500, 15, 16, WAD_RESET_WATCHDOG); /* 1 s in pieces of 64 ms */
    check_window(15500, 64, 66, WAD_RESET_EARLY);    /* starting feeds: the next one is too early */
    check_window(16500, 1, 1, WAD_RESET_UNKNOWN);
}

static wad_status refused[3];

static int refused_main(void)
{
    refused[0] = wad_watchdog_start_window(2000000000, 0, NULL, NULL);
    refused[1] = wad_watchdog_start_window(60000, 64000, NULL, NULL);
    refused[2] = wad_clock_watch(&corran32_clock_internal, 0);
    for (;;)
        wad_port_sleep();
    return 0;
}

static void what_cannot_be_is_refused(void **state)
{
    (void)state;
    begin();
    run(refused_main, NULL, MS);
    assert_int_equal(refused[0], WAD_E_RANGE);
    assert_int_equal(refused[1], WAD_E_RANGE);
    assert_int_equal(refused[2], WAD_E_ABSENT);
    assert_false(wad_sim_fail_clock(sim, sheet->core, true)); /* no oscillator */
    wad_sim_free(sim);
}

/* A wrong value resets at once, and is told apart from a late feeding. */
static int wrong_main(void)
{
    if (boots < 8)
        causes[boots] = wad_watchdog_cause();
    if (boots++ == 0)
        wad_put(CORRAN32_WDT_BASE, corran32_watchdog_roles.feed, 0x11);
    for (;;)
        wad_port_sleep();
    return 0;
}

static void a_wrong_value_bites_at_once(void **state)
{
    (void)state;
    boots = 0;
    begin();
    run(wrong_main, NULL, 100 * MS);
    assert_int_equal(boots, 2);
    assert_int_equal(causes[1], WAD_RESET_EARLY);
    wad_sim_free(sim);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(a_watched_crystal_is_replaced),
        cmocka_unit_test(an_unwatched_crystal_stops_the_core),
        cmocka_unit_test(the_new_rate_is_a_quarter),
        cmocka_unit_test(the_glitch_is_as_long_as_told),
        cmocka_unit_test(the_window_is_open_between_16_and_64_ms),
        cmocka_unit_test(what_cannot_be_is_refused),
        cmocka_unit_test(a_wrong_value_bites_at_once),
    };
    return cmocka_run_group_tests(tests, set_up, tear_down);
}
