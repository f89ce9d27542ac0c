/* SPDX-License-Identifier: MIT */
/* Sleep: levels, the way back, both habits, and the charge added up by hand. */
#include <math.h>
#include <string.h>

#include "corran32_sheet.h"
#include "wadium/clock.h"
#include "wadium/host/analog.h"
#include "wadium/irq.h"
#include "wadium/sleep.h"

#include "corran32_roles.h"

#define S     WAD_PS_PER_S
#define US    UINT64_C(1000000)
#define POLLS 4000000u

static wad_sim *sim;

static void run(int (*main_fn)(void), const wad_handler *handlers, uint64_t ps)
{
    char *why;
    sim = wad_sim_new(sheet, &why);
    wad_sim_attach(sim, main_fn, handlers, handlers ? 16 : 0);
    wad_run_result r = wad_sim_run(sim, ps);
    for (unsigned i = 0; i < wad_sim_finding_count(sim); i++)
        wad_finding_print(wad_sim_finding(sim, i), stderr);
    assert_int_equal(r.end, WAD_RUN_TIME);
    assert_int_equal(wad_sim_finding_count(sim), 0);
}

static void end_run(void)
{
    wad_sim_free(sim);
    sim = NULL;
}

static const wad_consumer *consumer(const char *name)
{
    const wad_charge *c = wad_sim_charge(sim);
    for (unsigned i = 0; i < c->n_consumers; i++)
        if (!strcmp(c->consumers[i].name, name))
            return &c->consumers[i];
    return NULL;
}

/* ---- waking every 100 ms from each level ---- */

static const wad_timebase slow = {.unit = &corran32_clock};
static const wad_alarms alarms = {&slow, .channel = 0, .priority = 1, .list = &(wad_alarm_list){0}};
static wad_alarm every;
static wad_wake due;
static unsigned level, turns;
static uint64_t at[16];

static void handle_clock(void)
{
    wad_alarms_handle(&alarms);
}

static void wake(void *context)
{
    (void)context;
    wad_wake_up(&due);
}

static bool slow_clock(void)
{
    return wad_clock_start(&corran32_clock_slow, POLLS) == WAD_OK &&
           wad_timebase_open(&slow) == WAD_OK && wad_alarms_open(&alarms) == WAD_OK;
}

static int ten_a_second(void)
{
    if (!slow_clock() || wad_alarm_every(&alarms, &every, WAD_HZ(10), wake, NULL) != WAD_OK ||
        wad_sleep_level(level) != WAD_OK)
        return 1;
    wad_irq_global_on();
    for (;;) {
        wad_sleep_until(&due);
        if (turns < 16)
            at[turns] = wad_sim_now(sim);
        turns++;
    }
}

static const wad_handler clock_handlers[18] = {[15] = handle_clock};

/* The deeper, the later main goes on, by the wake-up times that the sheet states. */
static void a_deeper_sleep_takes_longer_to_end(void **state)
{
    uint64_t first[3];
    (void)state;
    for (level = 0; level < 3; level++) {
        turns = 0;
        run(ten_a_second, clock_handlers, 2 * S);
        assert_in_range(turns, 16, 17); /* the clock takes 300 ms to start */
        first[level] = at[3];
        end_run();
    }
    assert_int_equal(first[1] - first[0], 6 * US);
    assert_int_equal(first[2] - first[0], 60 * US);
}

/* Nothing but the sheet's currents, times how long; the time awake is measured, not computed. */
static void the_charge_is_what_one_adds_up_by_hand(void **state)
{
    static const double asleep[] = {120e-6, 1.4e-6, 450e-9}, wakes[] = {0, 6e-6, 60e-6};
    (void)state;
    for (level = 0; level < 3; level++) {
        turns = 0;
        char *why;
        sim = wad_sim_new(sheet, &why);
        wad_sim_attach(sim, ten_a_second, clock_handlers, 16);
        wad_run_result r = wad_sim_run(sim, 20 * S);
        const wad_charge *c = wad_sim_charge(sim);
        double t = 20, awake = (double)r.awake_ps / 1e12;
        double clocked = awake - turns * wakes[level]; /* 8 MHz, not while the clock comes back */
        double hand = awake * 180e-6 + clocked * 8 * 95e-6 + (t - awake) * asleep[level];
        hand += t * (300e-9 + 150e-9 + 90e-9); /* slow, guard and CLOCK, nearly from the start */
        hand += (level ? clocked : t) * 60e-6; /* the internal oscillator stops in sleep */
        assert_true(c->known);
        if (fabs(c->coulombs - hand) > 0.003 * hand)
            fail_msg("level %u: %g C, by hand %g C", level, c->coulombs, hand);
        double sum = 0;
        for (unsigned i = 0; i < c->n_consumers; i++)
            sum += c->consumers[i].coulombs;
        assert_true(fabs(sum - c->coulombs) < 1e-9 * c->coulombs);
        end_run();
    }
}

static void activities_are_counted_by_what_woke(void **state)
{
    (void)state;
    level = 1;
    turns = 0;
    run(ten_a_second, clock_handlers, 2 * S);
    const wad_charge *c = wad_sim_charge(sim);
    assert_int_equal(c->n_activities, 1);
    assert_int_equal(c->activities[0].line, 15);
    assert_in_range(c->activities[0].count, 16, 17);
    double each = c->activities[0].coulombs / (double)c->activities[0].count;
    double t = (double)c->activities[0].awake_ps / 1e12 / (double)c->activities[0].count;
    /* awake, with the oscillator back after 6 us of it */
    assert_true(fabs(each - t * (180e-6 + 540e-9) - (t - 6e-6) * (8 * 95e-6 + 60e-6)) <
                0.02 * each);
    assert_non_null(consumer("sleep stop"));
    assert_null(consumer("sleep deep"));
    end_run();
}

/* ---- tick-less waiting ---- */

static uint64_t waited[2];

static int wait_a_while(void)
{
    if (!slow_clock() || wad_sleep_level(1) != WAD_OK)
        return 1;
    wad_irq_global_on();
    waited[0] = wad_sim_now(sim);
    if (wad_sleep_ms(&alarms, 250) != WAD_OK)
        return 1;
    waited[1] = wad_sim_now(sim);
    wad_wake never = {false};
    wad_sleep_until(&never);
    return 0;
}

static void a_wait_without_ticks_is_never_shorter(void **state)
{
    (void)state;
    run(wait_a_while, clock_handlers, S);
    assert_in_range(waited[1] - waited[0], S / 4, S / 4 + 3 * (S / 32768));
    end_run();
}

/* ---- habits ---- */

static unsigned handled, resumed;

static void handle_and_wake_third(void)
{
    wad_alarms_handle(&alarms);
    if (++handled % 3 == 0)
        wad_wake_up(&due);
}

static void nothing(void *context)
{
    (void)context;
}

static int sleeps_again(void)
{
    if (!slow_clock() || wad_alarm_every(&alarms, &every, WAD_HZ(10), nothing, NULL) != WAD_OK ||
        wad_sleep_again(true) != WAD_OK)
        return 1;
    wad_irq_global_on();
    for (;;) {
        wad_sleep_until(&due);
        resumed++;
    }
}

static const wad_handler third_handlers[16] = {[15] = handle_and_wake_third};

static void main_goes_on_only_when_it_is_told_to(void **state)
{
    (void)state;
    handled = resumed = 0;
    run(sleeps_again, third_handlers, 2 * S);
    assert_in_range(handled, 16, 17);
    assert_int_equal(resumed, handled / 3);
    end_run();
}

/* A request that is there before the sleep, with interrupts closed, ends it at once. */
static uint64_t slept[2];

static int already_pending(void)
{
    if (!slow_clock() || wad_alarm_after_ms(&alarms, &every, 1, wake, NULL) != WAD_OK)
        return 1;
    uint32_t mask = wad_irq_save();
    wad_port_cycles(80000); /* 10 ms */
    slept[0] = wad_sim_now(sim);
    wad_sleep_until(&due);
    slept[1] = wad_sim_now(sim);
    wad_irq_restore(mask);
    wad_wake never = {false};
    wad_sleep_until(&never);
    return 0;
}

static void a_request_before_the_sleep_is_not_lost(void **state)
{
    (void)state;
    run(already_pending, clock_handlers, S);
    assert_true(slept[1] - slept[0] < 100 * US);
    end_run();
}

/* ---- what a sleep breaks off ---- */

static const wad_uart port = {&corran32_uart0, .baud = 9600, .tx = CORRAN32_ROUTE_UART0_TX_PA9,
                              .time = &slow};
static bool waits;

static int send_and_sleep(void)
{
    static const char text[] = "tide";
    if (!slow_clock() || wad_uart_open(&port) != WAD_OK ||
        wad_uart_write(&port, text, 4, 100000) != 4 ||
        (waits && wad_uart_drain(&port, 100000) != WAD_OK) || wad_sleep_level(1) != WAD_OK)
        return 1;
    (void)!wad_sleep_ms(&alarms, 50);
    (void)!wad_sleep_level(0);
    (void)!wad_sleep_ms(&alarms, 5000);
    return 0;
}

static wad_spi bus;
static wad_spi_device device;
static wad_spi_jobs bus_jobs;
static uint8_t word[2] = {0x12, 0x34};

static void handle_bus(void)
{
    wad_spi_handle(&bus);
}

static int exchange_and_sleep(void)
{
    static wad_spi_job job;
    bus = (wad_spi){&corran32_spi0, .clock = CORRAN32_ROUTE_SPI0_SCK_PB13,
                    .mosi = CORRAN32_ROUTE_SPI0_MOSI_PB15, .jobs = &bus_jobs, .priority = 1};
    device = (wad_spi_device){&bus, .hz = 40000};
    job = (wad_spi_job){.device = &device, .out = word, .n_out = 2};
    if (!slow_clock() || wad_spi_open(&bus) != WAD_OK || wad_spi_add(&device) != WAD_OK ||
        wad_spi_submit(&job) != WAD_OK || wad_sleep_level(1) != WAD_OK)
        return 1;
    wad_irq_global_on();
    if (waits)
        (void)!wad_sleep_level(0);
    (void)!wad_sleep_ms(&alarms, 50);
    (void)!wad_sleep_level(0);
    (void)!wad_sleep_ms(&alarms, 5000);
    return 0;
}

static void expect_cut(int (*main_fn)(void), const wad_handler *handlers, const char *block)
{
    for (unsigned i = 0; i < 2; i++) {
        char *why;
        waits = i == 1;
        sim = wad_sim_new(sheet, &why);
        wad_sim_attach(sim, main_fn, handlers, 18);
        wad_run_result r = wad_sim_run(sim, S);
        if (r.end != WAD_RUN_TIME)
            fail_msg("%s: %s", block, r.story);
        unsigned cut = 0;
        for (unsigned k = 0; k < wad_sim_finding_count(sim); k++) {
            const wad_finding *f = wad_sim_finding(sim, k);
            if (f->kind != WAD_FINDING_SLEEP_STOPS)
                continue;
            assert_true(g_str_has_prefix(f->what, block));
            cut++;
        }
        if (cut != !waits)
            fail_msg("%s (%s): %u", block, waits ? "waits" : "does not wait", cut);
        end_run();
    }
}

static void a_sleep_that_breaks_a_frame_off_is_a_finding(void **state)
{
    static const wad_handler bus_handlers[18] = {[15] = handle_clock, [17] = handle_bus};
    (void)state;
    expect_cut(send_and_sleep, clock_handlers, "UART0 is busy, and its clock 'per' stops");
    expect_cut(exchange_and_sleep, bus_handlers, "SPI0 is busy, and its clock 'per' stops");
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(a_sleep_that_breaks_a_frame_off_is_a_finding),
        cmocka_unit_test(a_deeper_sleep_takes_longer_to_end),
        cmocka_unit_test(the_charge_is_what_one_adds_up_by_hand),
        cmocka_unit_test(activities_are_counted_by_what_woke),
        cmocka_unit_test(a_wait_without_ticks_is_never_shorter),
        cmocka_unit_test(main_goes_on_only_when_it_is_told_to),
        cmocka_unit_test(a_request_before_the_sleep_is_not_lost),
    };
    return cmocka_run_group_tests(tests, set_up, tear_down);
}
