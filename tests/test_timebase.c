/* SPDX-License-Identifier: MIT */
/* Free-running counts: never torn, deadlines across the wrap, alarms that do not drift in a day. */
#include <math.h>
#include <string.h>

#include "corran32_sheet.h"
#include "wadium/clock.h"
#include "wadium/irq.h"

#include "corran32_roles.h"

#define S     WAD_PS_PER_S
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
    if (r.end != WAD_RUN_TIME)
        fail_msg("%s", r.story);
    assert_int_equal(wad_sim_finding_count(sim), 0);
}

static void end_run(void)
{
    wad_sim_free(sim);
    sim = NULL;
}

/* ---- a day of 3 Hz from 32 768 Hz ---- */

static const wad_timebase slow = {.unit = &corran32_clock};
static wad_alarm_list list;
static wad_alarms alarms; /* as each test wants them */
static wad_alarm third, minute, once, busy;
static unsigned thirds, minutes, onces;
static uint64_t first_ps, wrong_thirds;

static wad_status open_alarms(const wad_timebase *base, uint8_t channel, uint8_t priority)
{
    alarms = (wad_alarms){base, .channel = channel, .priority = priority, .list = &list};
    return wad_alarms_open(&alarms);
}

static void handle_clock(void)
{
    wad_alarms_handle(&alarms);
}

/* The n-th call stands at n / 3 s after the first, on the grid of the counts and then the handler's
 * few microseconds: at every one of a quarter of a million. */
static void on_third(void *context)
{
    (void)context;
    uint64_t now = wad_sim_now(sim);
    if (!thirds++)
        first_ps = now;
    uint64_t ideal = first_ps + (thirds - 1) / 3 * S + (thirds - 1) % 3 * (S / 3);
    uint64_t off = now > ideal ? now - ideal : ideal - now;
    wrong_thirds += off > S / 32768 + 60 * (S / 1000000); /* a count, and other alarms' calls */
}

static void on_minute(void *context)
{
    (void)context;
    minutes++;
}

static void on_once(void *context)
{
    (void)context;
    onces++;
}

static int a_day(void)
{
    if (wad_clock_start(&corran32_clock_slow, POLLS) != WAD_OK ||
        wad_timebase_open(&slow) != WAD_OK || open_alarms(&slow, 2, 1) != WAD_OK ||
        wad_alarm_every(&alarms, &third, WAD_HZ(3), on_third, NULL) != WAD_OK ||
        wad_alarm_every(&alarms, &minute, WAD_PERIOD_S(60), on_minute, NULL) != WAD_OK ||
        wad_alarm_after_ms(&alarms, &once, 2500, on_once, NULL) != WAD_OK)
        return 1;
    wad_irq_global_on();
    while (onces < 2)
        wad_port_sleep();
    return 2;
}

static void a_day_of_three_hertz_does_not_drift(void **state)
{
    wad_handler handlers[16] = {[15] = handle_clock};
    (void)state;
    thirds = minutes = onces = 0;
    wrong_thirds = 0;
    run(a_day, handlers, 86400 * S + S); /* and the oscillator's 300 ms */
    if (thirds != 3 * 86400 + 2 || wrong_thirds)
        fail_msg("%u calls, %llu of them off", thirds, (unsigned long long)wrong_thirds);
    assert_int_equal(minutes, 1440);
    assert_int_equal(onces, 1);
    assert_int_equal(list.late, 0);
    end_run();
}

/* ---- many alarms, set and stopped at random, against a list ---- */

#define MANY 9

typedef struct many {
    wad_alarm alarm;
    unsigned number, calls;
    uint64_t from_ps, period_ps, worst_ps;
} many;

static many ring[MANY];

static void on_many(void *context)
{
    many *m = context;
    uint64_t due = m->from_ps + (m->calls + 1) * m->period_ps, now = wad_sim_now(sim);
    uint64_t off = now > due ? now - due : due - now;
    m->worst_ps = MAX(m->worst_ps, off);
    m->calls++;
}

static const wad_timebase fast = {&corran32_base, .hz = 1000000}, full = {.unit = &corran32_base};

static void handle_base(void)
{
    wad_alarms_handle(&alarms);
}

static int many_at_once(void)
{
    if (wad_timebase_open(&fast) != WAD_OK || open_alarms(&fast, 0, 1) != WAD_OK)
        return 1;
    wad_irq_global_on();
    for (unsigned i = 0; i < MANY; i++) {
        ring[i] = (many){.number = i, .period_ps = (1000 + 777 * i) * (S / 1000000)};
        ring[i].from_ps = wad_sim_now(sim);
        if (wad_alarm_every(&alarms, &ring[i].alarm, WAD_PERIOD_US(1000 + 777 * i), on_many,
                            &ring[i]) != WAD_OK)
            return 2;
    }
    while (wad_timebase_now(&fast) < 500000)
        wad_port_sleep();
    wad_alarm_stop(&alarms, &ring[3].alarm);
    while (ring[0].calls)
        wad_port_sleep();
    return 3;
}

static void many_alarms_share_one_channel(void **state)
{
    wad_handler handlers[16] = {[14] = handle_base};
    (void)state;
    run(many_at_once, handlers, S);
    for (unsigned i = 0; i < MANY; i++) {
        uint64_t end = i == 3 ? S / 2 : S;
        unsigned want = (unsigned)((end - ring[i].from_ps) / ring[i].period_ps);
        if (ring[i].calls + 1 < want || ring[i].calls > want + 1)
            fail_msg("alarm %u: %u calls, %u wanted", i, ring[i].calls, want);
        if (ring[i].worst_ps > 400 * (S / 1000000)) /* nine handlers' calls at 8 MHz */
            fail_msg("alarm %u: %g us off", i, (double)ring[i].worst_ps / 1e6);
    }
    end_run();
}

/* ---- reads that are never torn, deadlines, delays ---- */

static uint64_t reads[2000];
static unsigned n_reads, torn;
static uint64_t took[3];

static int read_across_the_half(void)
{
    if (wad_timebase_open(&full) != WAD_OK)
        return 1;
    for (n_reads = 0; n_reads < G_N_ELEMENTS(reads); n_reads++)
        reads[n_reads] = wad_timebase_now(&full);
    const uint32_t us[] = {1, 15, 1000};
    for (unsigned i = 0; i < 3; i++) {
        uint64_t from = wad_sim_now(sim);
        wad_delay_us(&full, us[i]);
        took[i] = wad_sim_now(sim) - from;
    }
    wad_deadline d = wad_deadline_ms(&full, 3);
    uint64_t left = wad_deadline_left(&full, &d);
    torn += left > 24002 || left < 23980 || wad_deadline_passed(&full, &d);
    wad_delay_ms(&full, 3);
    torn += !wad_deadline_passed(&full, &d) || wad_deadline_left(&full, &d) != 0;
    for (;;)
        wad_port_sleep();
}

static void times_pass_as_long_as_they_should(void **state)
{
    static const uint64_t want[] = {1, 15, 1000};
    (void)state;
    torn = 0;
    run(read_across_the_half, NULL, S / 10);
    assert_int_equal(torn, 0);
    for (unsigned i = 1; i < G_N_ELEMENTS(reads); i++)
        assert_true(reads[i] > reads[i - 1] && reads[i] - reads[i - 1] < 20);
    for (unsigned i = 0; i < 3; i++) { /* never less; more by a few looks */
        assert_true(took[i] >= want[i] * (S / 1000000));
        assert_true(took[i] < (want[i] + 6) * (S / 1000000));
    }
    end_run();
}

/* The low half wraps after 2 ** 32 counts: reads on both sides of it, at every distance. */
static unsigned phase;

static int read_at_the_wrap(void)
{
    uint64_t last, now;
    if (wad_timebase_open(&full) != WAD_OK)
        return 1;
    while (wad_timebase_now(&full) < UINT64_C(0xFFF00000)) /* 537 s at 8 MHz */
        wad_port_cycles(500000);
    while (wad_timebase_now(&full) < UINT64_C(0xFFFFF000))
        wad_port_cycles(1000);
    wad_port_cycles(phase);
    last = wad_timebase_now(&full);
    do {
        now = wad_timebase_now(&full);
        torn += now < last || now - last > 100;
        last = now;
        n_reads++;
    } while (now < UINT64_C(0x100001000));
    for (;;)
        wad_port_sleep();
}

static void reads_are_not_torn_at_the_wrap(void **state)
{
    (void)state;
    for (phase = 0; phase < 24; phase++) { /* the wrap between any two of the accesses */
        torn = n_reads = 0;
        run(read_at_the_wrap, NULL, 540 * S);
        assert_true(n_reads > 500);
        assert_int_equal(torn, 0);
        end_run();
    }
}

/* ---- what cannot be ---- */

static wad_status refused[8];

static int wrong_calls(void)
{
    const wad_timebase slowest = {&corran32_base, .hz = 1000}; /* 8 MHz / 256 at the least */
    const wad_timebase odd = {&corran32_base, .hz = 300000};
    refused[0] = wad_timebase_open(&slowest);
    refused[1] = WAD_TIMEBASE_PPM(slowest) == 0 ? WAD_OK : WAD_E_ARG;
    if (wad_timebase_open(&odd) != WAD_OK)
        return 1;
    refused[2] = WAD_TIMEBASE_PPM(odd) == -12345 ? WAD_OK : WAD_E_ARG; /* 8 MHz / 27 */
    refused[3] = open_alarms(&odd, 4, 0);
    if (open_alarms(&odd, 0, 0) != WAD_OK)
        return 2;
    refused[4] = wad_alarm_every(&alarms, &busy, WAD_HZ(200000), on_once, NULL);
    refused[5] = wad_alarm_every(&alarms, &busy, (wad_rate){0, 1}, on_once, NULL);
    refused[6] = wad_alarm_every(&alarms, &busy, WAD_HZ(1), NULL, NULL);
    refused[7] = open_alarms(&odd, 0, 9);
    for (;;)
        wad_port_sleep();
}

static void what_cannot_be_is_refused(void **state)
{
    static const wad_status want[] = {WAD_E_RANGE, WAD_OK,    WAD_OK,    WAD_E_ABSENT,
                                      WAD_E_RANGE, WAD_E_ARG, WAD_E_ARG, WAD_E_RANGE};
    char *why;
    (void)state;
    sim = wad_sim_new(sheet, &why);
    wad_sim_attach(sim, wrong_calls, NULL, 0);
    wad_sim_run(sim, S / 100);
    for (unsigned i = 0; i < G_N_ELEMENTS(want); i++)
        if (refused[i] != want[i])
            fail_msg("call %u: status %d, wanted %d", i, (int)refused[i], (int)want[i]);
    end_run();
}

/* ---- on chips with and without a latch ---- */

static void one_source_beats_on_two_chips(void **state)
{
    static const char *const boards[] = {"skerry", "skerry16"}, *const bits[] = {"32", "16"};
    static const char *const say[] = {
        "capture WARN",
        "run 21 s",
        "expect warn period 333.3333 ms within 62 us from 1 s to 21 s", /* two counts */
        "expect warn frequency 3 Hz within 3 ppm from 1 s to 21 s",
        "expect no findings",
        NULL};
    (void)state;
    for (unsigned i = 0; i < 2; i++) {
        wad_board *board = test_board(boards[i]);
        wad_bench *bench;
        char *firmware = g_strdup_printf("alarms_%s", bits[i]);
        wad_bench_result *r = test_run(board, &bench, firmware, say);
        test_passed(r);
        wad_bench_result_free(r);
        wad_bench_free(bench);
        wad_board_free(board);
        g_free(firmware);
    }
}

static void a_bouncing_button_counts_once(void **state)
{
    (void)state;
    char *out, *err;
    int status = WADIUM(&out, &err, "run", SOURCE_DIR "/examples/button/button.bench", "-d",
                        FIRMWARE_DIR, "--handlers");
    if (status)
        fail_msg("%s%s", out, err);
    assert_non_null(strstr(out, "  PINB     2    "));
    g_free(out);
    g_free(err);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(a_day_of_three_hertz_does_not_drift),
        cmocka_unit_test(many_alarms_share_one_channel),
        cmocka_unit_test(times_pass_as_long_as_they_should),
        cmocka_unit_test(reads_are_not_torn_at_the_wrap),
        cmocka_unit_test(what_cannot_be_is_refused),
        cmocka_unit_test(one_source_beats_on_two_chips),
        cmocka_unit_test(a_bouncing_button_counts_once),
    };
    return cmocka_run_group_tests(tests, set_up, tear_down);
}
