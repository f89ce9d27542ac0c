/* SPDX-License-Identifier: MIT */
/* Every way a timer can run: each edge of a simulated hour against the law, by its number. */
#include <string.h>

#include "corran32_sheet.h"
#include "wadium/clock.h"
#include "wadium/irq.h"
#include "wadium/tick.h"

#include "corran32_roles.h"

#define S    WAD_PS_PER_S
#define HOUR (3600 * S)
#define R    corran32_counter_roles

__extension__ typedef __int128 i128;

static wad_sim *sim;
static wad_timer timer, second;

/* ---- the clock: 8 MHz, 1234 ppm fast, so that no edge falls on a whole picosecond ---- */

#define FAST_NUM 8009872 /* hertz: 8 MHz * 1.001234 */

static void begin(int (*main_fn)(void), const wad_handler *handlers)
{
    char *why;
    sim = wad_sim_new(sheet, &why);
    wad_sim_attach(sim, main_fn, handlers, handlers ? 17 : 0);
    assert_true(wad_sim_set_clock_error(sim, wad_sheet_clock(sheet, "internal"),
                                        (wad_rational){617, 500000}));
}

static void run(uint64_t ps)
{
    wad_run_result r = wad_sim_run(sim, ps);
    for (unsigned i = 0; i < wad_sim_finding_count(sim); i++)
        wad_finding_print(wad_sim_finding(sim, i), stderr);
    if (r.end != WAD_RUN_TIME)
        fail_msg("%s", r.story);
    assert_int_equal(wad_sim_finding_count(sim), 0);
}

/* What a pin must do: in each period of `period` clocks it rises at clock `rise` and falls at
 * `fall` of it. Checked against the first rise, edge by edge, in windows of the hour and by their
 * number. */
typedef struct law {
    uint64_t period, rise, fall;
    unsigned skip; /* edges before the first rise that counts */
    uint64_t edges, first, wrong;
    i128 worst;
    wad_level level;
} law;

static bool in_window(uint64_t ps)
{
    return ps < 2 * S || (ps > HOUR / 2 && ps < HOUR / 2 + 2 * S) || ps > HOUR - 2 * S;
}

/* n clocks in picoseconds, rounded down as the simulator's edges are. */
static i128 clocks_ps(uint64_t n)
{
    return (i128)n * (i128)S / FAST_NUM;
}

static void hear(void *ctx, uint64_t ps, wad_level level)
{
    law *l = ctx;
    bool first = l->level == WAD_FLOATING && level != WAD_HIGH;
    l->level = level;
    if (first || level == WAD_FLOATING || (!l->edges && level != WAD_HIGH))
        return; /* low from routing on: counted from the first rise */
    if (l->skip) {
        l->skip--;
        return;
    }
    if (!l->edges)
        l->first = ps;
    uint64_t n = l->edges / 2 * l->period + (l->edges % 2 ? l->fall - l->rise : 0);
    l->edges++;
    if (!in_window(ps))
        return;
    i128 off = (i128)(ps - l->first) - clocks_ps(n);
    off = off < 0 ? -off : off;
    l->worst = MAX(l->worst, off);
    l->wrong += off > 1 || (level == WAD_HIGH) != (l->edges % 2 == 1);
}

static void check(const char *name, const law *l, uint64_t expected)
{
    if (l->wrong || l->edges + 4 < expected || l->edges > expected + 2)
        fail_msg("%s: %llu of %llu edges wrong (%llu wanted), worst %lld ps", name,
                 (unsigned long long)l->wrong, (unsigned long long)l->edges,
                 (unsigned long long)expected, (long long)l->worst);
}

static void watch(const char *pin, law *l)
{
    l->level = WAD_FLOATING;
    wad_sim_watch_pin(sim, wad_sheet_pin(sheet, pin), hear, l);
}

static int sleep_for_ever(void)
{
    for (;;)
        wad_port_sleep();
    return 0;
}

/* ---- edge-aligned, toggled, set and cleared ---- */

static int edge_main(void)
{
    timer = (wad_timer){&corran32_cnt1, .prescale = 7, .counts = 3001};
    (void)!wad_timer_open(&timer);
    (void)!wad_timer_pwm(&timer, 0, CORRAN32_ROUTE_CNT1_CH0_PA0, WAD_PERCENT(30));
    (void)!wad_timer_output(&timer, 1, CORRAN32_ROUTE_CNT1_CH1_PA1, WAD_OUTPUT_TOGGLE, 1234);
    wad_timer_start(&timer);
    return sleep_for_ever();
}

static void edge_aligned_and_toggled(void **state)
{
    (void)state;
    law pwm = {.period = 7 * 3001, .fall = 7 * 900}; /* 30 % of 3001 is 900.3 */
    law toggled = {.period = 2 * 7 * 3001, .fall = 7 * 3001};
    begin(edge_main, NULL);
    watch("PA0", &pwm);
    watch("PA1", &toggled);
    run(HOUR);
    check("pwm", &pwm, (uint64_t)(2.0 * 3600 * FAST_NUM / (7 * 3001)));
    check("toggle", &toggled, (uint64_t)(1.0 * 3600 * FAST_NUM / (7 * 3001)));
    wad_sim_free(sim);
}

/* Counting down it is high for the last counts of a period: `compare` of them, 0 among them. */
static int down_main(void)
{
    timer = (wad_timer){&corran32_cnt3, .prescale = 1, .counts = 80001};
    (void)!wad_timer_open(&timer);
    wad_put(CORRAN32_CNT3_BASE, R.mode, R.mode_down);
    (void)!wad_timer_pwm(&timer, 0, CORRAN32_ROUTE_CNT3_CH0_PB10, WAD_PERCENT(25));
    wad_timer_start(&timer);
    return sleep_for_ever();
}

static void counting_down(void **state)
{
    (void)state;
    law pwm = {.period = 80001, .fall = 20000};
    begin(down_main, NULL);
    watch("PB10", &pwm);
    run(HOUR);
    check("down", &pwm, (uint64_t)(2.0 * 3600 * FAST_NUM / 80001));
    wad_sim_free(sim);
}

/* ---- centre-aligned: two duties around one moment; a pair with its dead time ---- */

static int centre_main(void)
{
    timer = (wad_timer){&corran32_cnt1, .rate = WAD_RATE_HZ(400), .centre = true};
    (void)!wad_timer_open(&timer);
    (void)!wad_timer_pwm(&timer, 1, CORRAN32_ROUTE_CNT1_CH1_PA1, WAD_PERCENT(25));
    (void)!wad_timer_pwm(&timer, 2, CORRAN32_ROUTE_CNT1_CH2_PA2, WAD_PERCENT(75));
    (void)!wad_timer_pair(&timer, 0, CORRAN32_ROUTE_CNT1_CH0_PA0, CORRAN32_ROUTE_CNT1_LOW0_PB5,
                          2500, WAD_PERCENT(50));
    wad_timer_start(&timer);
    return sleep_for_ever();
}

/* The first pulse begins in its middle, with the count; the low one is high from the set-up on.
 * 400 Hz from 8 MHz is 20 000 clocks a period, 10 000 up and 10 000 down; high for 2 c - 1. */
static void centre_aligned_pairs(void **state)
{
    (void)state;
    law quarter = {.skip = 2, .period = 20000, .fall = 2 * 2500 - 1};
    law three = {.skip = 2, .period = 20000, .fall = 2 * 7500 - 1};
    law high = {.skip = 2, .period = 20000, .fall = 2 * 5000 - 1 - 20}; /* 2.5 us are 20 clocks */
    law low = {.skip = 2, .period = 20000, .fall = 20000 - (2 * 5000 - 1) - 20};
    begin(centre_main, NULL);
    watch("PA1", &quarter);
    watch("PA2", &three);
    watch("PA0", &high);
    watch("PB5", &low);
    run(HOUR);
    uint64_t edges = (uint64_t)(2.0 * 3600 * FAST_NUM / 20000);
    check("25 %", &quarter, edges);
    check("75 %", &three, edges);
    check("pair's high", &high, edges);
    check("pair's low", &low, edges);
    wad_sim_free(sim);
}

/* Never both, and each gap is the dead time: at every one of 10 000 edges. */
typedef struct gap {
    bool high, low;
    uint64_t since, gaps, wrong;
} gap;

static gap between;

static void on_pair(bool *which, uint64_t ps, wad_level level)
{
    bool was = between.high || between.low;
    *which = level == WAD_HIGH;
    bool is = between.high || between.low;
    between.wrong += between.high && between.low;
    if (was && !is)
        between.since = ps;
    if (!was && is && between.since) {
        uint64_t off = ps - between.since;
        between.gaps++;
        between.wrong += off < (uint64_t)clocks_ps(20) || off > (uint64_t)clocks_ps(20) + 1;
    }
}

static void on_high(void *ctx, uint64_t ps, wad_level level)
{
    (void)ctx;
    on_pair(&between.high, ps, level);
}

static void on_low(void *ctx, uint64_t ps, wad_level level)
{
    (void)ctx;
    on_pair(&between.low, ps, level);
}

static void pairs_never_overlap(void **state)
{
    (void)state;
    memset(&between, 0, sizeof between);
    begin(centre_main, NULL);
    wad_sim_watch_pin(sim, wad_sheet_pin(sheet, "PA0"), on_high, NULL);
    wad_sim_watch_pin(sim, wad_sheet_pin(sheet, "PB5"), on_low, NULL);
    run(12 * S);
    assert_int_equal(between.wrong, 0);
    assert_in_range(between.gaps, 9500, 9700); /* two a period */
    wad_sim_free(sim);
}

/* Every duty: the nearest width that two directions can make, by trying them all. */
static int duty_main(void)
{
    timer = (wad_timer){&corran32_cnt1, .counts = 40, .centre = true};
    (void)!wad_timer_open(&timer);
    for (uint32_t duty = 0; duty <= 10000; duty += 7) {
        (void)wad_timer_set_duty(&timer, 0, duty);
        uint32_t c = wad_get(CORRAN32_CNT1_BASE, wad_at(R.compare, 0));
        uint32_t got = c == 0 ? 0 : c > 20 ? 40 : 2 * c - 1, want = duty * 40 / 10000;
        uint32_t off = got > want ? got - want : want - got;
        if (off > 1)
            return 1;
    }
    return sleep_for_ever();
}

static void centre_duties_are_the_nearest(void **state)
{
    (void)state;
    begin(duty_main, NULL);
    assert_int_equal(wad_sim_run(sim, S / 20).end, WAD_RUN_TIME);
    wad_sim_free(sim);
}

/* ---- one timer on another ---- */

static int chain_main(void)
{
    timer = (wad_timer){&corran32_cnt0, .prescale = 1, .counts = 9000};
    (void)!wad_timer_open(&timer);
    second = (wad_timer){&corran32_cnt1, .prescale = 3, .counts = 5};
    second.trigger = CORRAN32_TRIGGER_CNT1_CNT0_WRAP;
    second.action = WAD_FOLLOW_COUNT;
    (void)!wad_timer_open(&second);
    (void)!wad_timer_output(&second, 0, CORRAN32_ROUTE_CNT1_CH0_PA0, WAD_OUTPUT_TOGGLE, 2);
    wad_timer_start(&second);
    wad_timer_start(&timer);
    return sleep_for_ever();
}

static void chained_counters_divide(void **state)
{
    (void)state;
    law toggled = {.period = UINT64_C(2) * 9000 * 3 * 5, .fall = UINT64_C(9000) * 3 * 5};
    begin(chain_main, NULL);
    watch("PA0", &toggled);
    run(HOUR);
    check("chain", &toggled, (uint64_t)(3600.0 * FAST_NUM / (9000 * 15)));
    wad_sim_free(sim);
}

/* Gated: CNT1 runs while CNT0's output is high, 30 % of the time: 3000 of each 10 000 clocks. */
static int gate_main(void)
{
    timer = (wad_timer){&corran32_cnt0, .prescale = 1, .counts = 10000};
    (void)!wad_timer_open(&timer);
    (void)!wad_timer_pwm(&timer, 0, CORRAN32_ROUTE_CNT0_CH0_PC0, WAD_PERCENT(30));
    second = (wad_timer){&corran32_cnt1, .prescale = 1, .counts = 1000};
    second.trigger = CORRAN32_TRIGGER_CNT1_CNT0_OUTPUT0;
    second.action = WAD_FOLLOW_GATE;
    (void)!wad_timer_open(&second);
    (void)!wad_timer_output(&second, 0, CORRAN32_ROUTE_CNT1_CH0_PA0, WAD_OUTPUT_TOGGLE, 0);
    wad_timer_start(&second);
    wad_timer_start(&timer);
    return sleep_for_ever();
}

static void count_edges(void *ctx, uint64_t ps, wad_level level)
{
    (void)ps;
    *(unsigned *)ctx += level != WAD_FLOATING;
}

static void gated_counters_wait(void **state)
{
    (void)state;
    unsigned edges = 0;
    begin(gate_main, NULL);
    wad_sim_watch_pin(sim, wad_sheet_pin(sheet, "PA0"), count_edges, &edges);
    run(10 * S);
    /* 30 % of the clocks, 1000 a toggle */
    assert_in_range(edges, FAST_NUM * 3 / 1000 - 4, FAST_NUM * 3 / 1000 + 4);
    wad_sim_free(sim);
}

/* Begun anew by each wrap of CNT0, before it gets to its end: it never wraps, and toggles once a
 * period of CNT0. */
static int reset_main(void)
{
    timer = (wad_timer){&corran32_cnt0, .prescale = 1, .counts = 10000};
    (void)!wad_timer_open(&timer);
    second = (wad_timer){&corran32_cnt1, .prescale = 1, .counts = 30000};
    second.trigger = CORRAN32_TRIGGER_CNT1_CNT0_WRAP;
    second.action = WAD_FOLLOW_RESET;
    (void)!wad_timer_open(&second);
    (void)!wad_timer_output(&second, 0, CORRAN32_ROUTE_CNT1_CH0_PA0, WAD_OUTPUT_TOGGLE, 500);
    wad_timer_start(&second);
    wad_timer_start(&timer);
    return sleep_for_ever();
}

static void reset_by_another_timer(void **state)
{
    (void)state;
    law toggled = {.skip = 2, .period = 20000, .fall = 10000}; /* the first come by its own start */
    begin(reset_main, NULL);
    watch("PA0", &toggled);
    run(2 * S);
    check("reset", &toggled, 2 * FAST_NUM / 10000);
    wad_sim_free(sim);
}

/* Started once, by the base's compare: one period, at its time. */
static int start_main(void)
{
    wad_block_up(&corran32_base.block, 1000);
    wad_put64(CORRAN32_BASE_BASE, wad_at(corran32_timebase_roles.compare, 0), 400000);
    second = (wad_timer){&corran32_cnt1, .prescale = 1, .counts = 1000};
    second.trigger = CORRAN32_TRIGGER_CNT1_BASE_MATCH0;
    second.action = WAD_FOLLOW_START;
    second.one_shot = true;
    (void)!wad_timer_open(&second);
    (void)!wad_timer_output(&second, 0, CORRAN32_ROUTE_CNT1_CH0_PA0, WAD_OUTPUT_TOGGLE, 999);
    wad_put(CORRAN32_BASE_BASE, corran32_timebase_roles.enable, 1);
    return sleep_for_ever();
}

static void on_start(void *ctx, uint64_t ps, wad_level level)
{
    uint64_t *times = ctx;
    if (level == WAD_HIGH)
        times[times[0] < 3 ? ++times[0] : 3] = ps;
}

static void started_by_a_compare(void **state)
{
    (void)state;
    uint64_t times[4] = {0};
    begin(start_main, NULL);
    wad_sim_watch_pin(sim, wad_sheet_pin(sheet, "PA0"), on_start, times);
    run(S);
    assert_int_equal(times[0], 1);
    assert_in_range(times[1], clocks_ps(400000 + 1000), clocks_ps(400000 + 1000) + S / 10000);
    wad_sim_free(sim);
}

/* ---- functions at compare values, and a period that changes without a glitch ---- */

static unsigned earlies, lates, wraps;

static void count_up(void *context)
{
    ++*(unsigned *)context;
}

static void handle_cnt0(void)
{
    wad_timer_handle(&timer);
}

static int match_main(void)
{
    timer = (wad_timer){
        &corran32_cnt0,
        .counts = 8000,
        .on_match = {{count_up, &earlies, 100}, [3] = {count_up, &lates, 7999}},
        .on_wrap = count_up,
        .context = &wraps,
        .priority = 1,
    };
    (void)!wad_timer_open(&timer);
    wad_irq_global_on();
    wad_timer_start(&timer);
    return sleep_for_ever();
}

static void functions_at_compare_values(void **state)
{
    static const wad_handler handlers[17] = {[8] = handle_cnt0};
    (void)state;
    earlies = lates = wraps = 0;
    begin(match_main, handlers);
    run(S);
    assert_in_range(earlies, 1000, 1002);
    assert_in_range(lates, 1000, 1002);
    assert_in_range(wraps, 1000, 1002);
    wad_sim_free(sim);
}

/* From 1 ms to 0.4 ms and back with each wrap, shadowed: only whole periods of either length. */
static int glitch_main(void)
{
    timer = (wad_timer){&corran32_cnt1, .rate = WAD_RATE_HZ(1000),
                        .pwm = {{CORRAN32_ROUTE_CNT1_CH0_PA0, WAD_PERCENT(10)}}};
    (void)!wad_timer_open(&timer);
    wad_timer_start(&timer);
    for (uint32_t n = 0;; n++) {
        wad_port_cycles(5003 + n % 977);
        (void)!wad_timer_set_rate(&timer, n % 2 ? WAD_HZ(1000) : WAD_HZ(2500));
    }
    return 0;
}

typedef struct periods {
    uint64_t last, n, wrong;
} periods;

static void on_period(void *ctx, uint64_t ps, wad_level level)
{
    periods *p = ctx;
    if (level != WAD_HIGH)
        return;
    uint64_t off = ps - p->last;
    bool one = off + 2 > (uint64_t)clocks_ps(8000) && off < (uint64_t)clocks_ps(8000) + 2;
    bool two = off + 2 > (uint64_t)clocks_ps(3200) && off < (uint64_t)clocks_ps(3200) + 2;
    if (p->last)
        p->wrong += !one && !two;
    p->n++;
    p->last = ps;
}

static void shadowed_periods_have_no_glitch(void **state)
{
    (void)state;
    periods p = {0};
    begin(glitch_main, NULL);
    wad_sim_watch_pin(sim, wad_sheet_pin(sheet, "PA0"), on_period, &p);
    run(2 * S);
    assert_true(p.n > 2000);
    assert_int_equal(p.wrong, 0);
    wad_sim_free(sim);
}

/* ---- what cannot be ---- */

static wad_status refused[13];

static int refused_main(void)
{
    wad_route route = CORRAN32_ROUTE_CNT1_CH0_PA0;
    const wad_timer wrong[] = {
        {&corran32_cnt1, .rate = {0, 1}},
        {&corran32_cnt1, .prescale = 65537, .counts = 100},
        {&corran32_cnt1, .counts = 1},
        {&corran32_cnt1, .counts = 65537},
        {&corran32_cnt1, .counts = 1000, .trigger = 8, .action = WAD_FOLLOW_COUNT},
        {&corran32_cnt1, .counts = 1000, .manual_reload = true},
        {&corran32_cnt1, .counts = 1000, .on_match = {{count_up, &earlies, 1000}}},
        {&corran32_cnt1, .counts = 999, .centre = true},
    };
    for (unsigned i = 0; i < G_N_ELEMENTS(wrong); i++)
        refused[i] = wad_timer_open(&wrong[i]);
    timer = (wad_timer){&corran32_cnt1, .counts = 1000};
    (void)!wad_timer_open(&timer);
    refused[8] = wad_timer_output(&timer, 4, route, WAD_OUTPUT_TOGGLE, 0);
    refused[9] = wad_timer_output(&timer, 0, route, WAD_OUTPUT_TOGGLE, 1000);
    refused[10] = wad_timer_pair(&timer, 2, route, CORRAN32_ROUTE_CNT1_LOW0_PB5, 0, 100);
    refused[11] = wad_timer_pair(&timer, 0, route, CORRAN32_ROUTE_CNT1_LOW0_PB5, 32001, 100);
    refused[12] = wad_timer_set_compare(&timer, 7, 0);
    return sleep_for_ever();
}

static void what_cannot_be_is_refused(void **state)
{
    static const wad_status want[13] = {WAD_E_RANGE,  WAD_E_RANGE,  WAD_E_RANGE,  WAD_E_RANGE,
                                        WAD_E_ABSENT, WAD_E_ABSENT, WAD_E_RANGE,  WAD_E_RANGE,
                                        WAD_E_ABSENT, WAD_E_RANGE,  WAD_E_ABSENT, WAD_E_RANGE,
                                        WAD_E_ABSENT};
    (void)state;
    begin(refused_main, NULL);
    wad_sim_run(sim, S / 100);
    for (unsigned i = 0; i < 13; i++)
        if (refused[i] != want[i])
            fail_msg("call %u: status %d, wanted %d", i, (int)refused[i], (int)want[i]);
    wad_sim_free(sim);
}

/* ---- the core's tick ---- */

static uint32_t due_count, tick_errors, last_tick;
static int32_t tick_ppm;

static int tick_main(void)
{
    (void)!wad_tick_start(WAD_HZ(1000), 2, &tick_ppm);
    wad_irq_global_on();
    uint32_t next = wad_tick_count() + 7;
    for (;;) {
        wad_port_sleep();
        uint32_t now = wad_tick_count();
        tick_errors += now < last_tick;
        last_tick = now;
        while (wad_tick_due(&next, 7))
            due_count++;
    }
    return 0;
}

/* Requests lie on the grid of 8000 clocks, whatever runs: a level that is noted by its edge. */
static void on_tick_irq(void *ctx, const wad_irq_record *r)
{
    law *l = ctx;
    if (r->left_ps)
        return;
    if (!l->edges)
        l->first = r->raised_ps;
    i128 off = (i128)(r->raised_ps - l->first) - clocks_ps(l->edges++ * 8000);
    l->wrong += (in_window(r->raised_ps) && (off > 1 || off < -1)) || r->line != CORRAN32_TICK_IRQ;
}

static void ticks_are_counted(void **state)
{
    static const wad_handler handlers[17] = {[CORRAN32_TICK_IRQ] = wad_tick_handle};
    law l = {.period = 8000};
    (void)state;
    begin(tick_main, handlers);
    wad_sim_watch_irq(sim, on_tick_irq, &l);
    run(HOUR);
    uint32_t expected = (uint32_t)(3600.0 * FAST_NUM / 8000);
    assert_int_equal(tick_ppm, 0); /* as far as the nominal clock goes */
    assert_int_equal(l.wrong, 0);
    assert_in_range(l.edges, expected - 1, expected + 1);
    assert_in_range(last_tick, expected - 2, expected + 1);
    assert_in_range(due_count, expected / 7 - 1, expected / 7 + 1);
    assert_int_equal(tick_errors, 0);
    wad_sim_free(sim);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(edge_aligned_and_toggled),
        cmocka_unit_test(counting_down),
        cmocka_unit_test(centre_aligned_pairs),
        cmocka_unit_test(pairs_never_overlap),
        cmocka_unit_test(centre_duties_are_the_nearest),
        cmocka_unit_test(chained_counters_divide),
        cmocka_unit_test(gated_counters_wait),
        cmocka_unit_test(reset_by_another_timer),
        cmocka_unit_test(started_by_a_compare),
        cmocka_unit_test(functions_at_compare_values),
        cmocka_unit_test(shadowed_periods_have_no_glitch),
        cmocka_unit_test(what_cannot_be_is_refused),
        cmocka_unit_test(ticks_are_counted),
    };
    return cmocka_run_group_tests(tests, set_up, tear_down);
}
