/* SPDX-License-Identifier: MIT */
/* Edges captured by hardware against those that the bench made; handlers' statistics. */
#include <math.h>
#include <string.h>

#include "corran32_sheet.h"
#include "wadium/clock.h"
#include "wadium/irq.h"

#include "corran32_roles.h"

#define S WAD_PS_PER_S

static wad_sim *sim;
static wad_timebase base; /* as each test wants it */
static wad_input_seen seen;
static wad_input capture;
static wad_status status[4];
static wad_input_result result;
static uint32_t prescaled_hz;
static unsigned filter;
static wad_input_edge which;

static void handle_base(void)
{
    wad_input_handle(&capture);
}

static int measure(void)
{
    base = (wad_timebase){&corran32_base, .hz = prescaled_hz};
    capture = (wad_input){&base,         .channel = 0,     .route = CORRAN32_ROUTE_BASE_IN0_PA15,
                          .edge = which, .filter = filter, .priority = 1,
                          .seen = &seen};
    status[0] = wad_timebase_open(&base);
    status[1] = wad_input_open(&capture);
    status[2] = wad_input_wait(&capture, 20, 100, &result); /* nothing comes in 100 us */
    wad_irq_global_on();
    wad_deadline d = wad_deadline_ms(&base, 900);
    while (!wad_deadline_passed(&base, &d))
        wad_port_cycles(50);
    status[3] = wad_input_read(&capture, &result);
    while (status[0] == WAD_OK)
        wad_port_sleep();
    return 0;
}

typedef struct edge {
    wad_level level;
    const wad_pin_def *pin;
} edge;

static edge up = {WAD_HIGH, NULL}, down = {WAD_LOW, NULL};

static void drive(wad_sim *s, void *ctx)
{
    const edge *e = ctx;
    wad_sim_drive(s, e->pin, e->level);
}

static void run(void)
{
    wad_handler handlers[16] = {[14] = handle_base};
    memset(status, 0xEE, sizeof status);
    wad_sim_attach(sim, measure, handlers, 16);
    wad_run_result r = wad_sim_run(sim, S);
    for (unsigned i = 0; i < wad_sim_finding_count(sim); i++)
        wad_finding_print(wad_sim_finding(sim, i), stderr);
    assert_int_equal(r.end, WAD_RUN_TIME);
    assert_int_equal(wad_sim_finding_count(sim), 0);
}

static void new_sim(void)
{
    char *why;
    sim = wad_sim_new(sheet, &why);
    up.pin = down.pin = wad_sheet_pin(sheet, "PA15");
}

/* Periods that are not whole counts, slow and fast: the mean of many is exact to a count in all. */
static void rates_come_out_as_they_went_in(void **state)
{
    static const double rates[] = {7, 137, 999.5, 5000, 20011};
    (void)state;
    for (unsigned i = 0; i < G_N_ELEMENTS(rates); i++)
        for (unsigned k = 0; k < 2; k++) {
            new_sim();
            prescaled_hz = k ? 1000000 : 0;
            which = WAD_INPUT_RISE;
            filter = 0;
            uint64_t first = 0, last = 0;
            unsigned n = 0;
            for (;; n++) {
                uint64_t at = S / 100 + (uint64_t)(n * 1e12 / rates[i]);
                if (at > S * 89 / 100)
                    break;
                first = n ? first : at;
                last = at;
                wad_sim_at(sim, at, drive, &up);
                wad_sim_at(sim, at + (uint64_t)(2e11 / rates[i]), drive, &down);
            }
            run();
            assert_int_equal(status[0], WAD_OK);
            assert_int_equal(status[1], WAD_OK);
            assert_int_equal(status[2], WAD_E_TIMEOUT);
            assert_int_equal(status[3], WAD_OK);
            assert_int_equal(seen.edges, n);
            assert_int_equal(result.periods, n - 1);
            double counts = (double)(last - first) / 1e12 * 8e6 / (prescaled_hz ? 8 : 1);
            assert_true(fabs((double)result.counts - counts) <= 1);
            double hz = (n - 1) * 8e6 / (prescaled_hz ? 8 : 1) / (double)result.counts;
            assert_true(fabs(result.millihertz - hz * 1000) <= 0.51);
            assert_true(fabs((double)result.period_ns - 1e9 / hz) <= 0.51);
            assert_true(fabs(hz / rates[i] - 1) < 2.5 / counts);
            wad_sim_free(sim);
        }
}

/* Both edges, and glitches shorter than the filter. */
static void filters_keep_glitches_out(void **state)
{
    (void)state;
    for (filter = 0; filter <= 8; filter += 8) {
        new_sim();
        prescaled_hz = 0;
        which = WAD_INPUT_BOTH;
        for (unsigned n = 0; n < 50; n++) {
            uint64_t at = S / 100 + n * (S / 100);
            wad_sim_at(sim, at, drive, &up);
            wad_sim_at(sim, at + S / 1000, drive, &down);
            wad_sim_at(sim, at + S / 500, drive, &up); /* 500 ns: 4 clock edges */
            wad_sim_at(sim, at + S / 500 + S / 2000000, drive, &down);
        }
        run();
        assert_int_equal(seen.edges + 2 * seen.lost, filter ? 100 : 200);
        assert_int_equal(seen.lost != 0, filter == 0); /* faster than a handler */
        wad_sim_free(sim);
    }
}

static void the_flow_meter_is_read(void **state)
{
    (void)state;
    wad_diags *diags = wad_diags_new();
    wad_bench_list *list = wad_bench_read(SOURCE_DIR "/examples/flow/flow.bench", diags);
    assert_non_null(list);
    wad_bench_options o = {.firmware_dir = FIRMWARE_DIR};
    char *why, *text;
    size_t size;
    wad_bench_result *r = wad_bench_run(wad_bench_list_at(list, 0), &o, &why);
    assert_non_null(r);
    assert_true(r->passed);
    assert_int_equal(r->n_handlers, 1);
    const wad_handler_stats *h = &r->handlers[0];
    assert_string_equal(h->owner, "BASE");
    assert_int_equal(h->count, 416);
    assert_int_equal(h->deepest, 1);
    assert_int_equal(h->latency.min, 2000000); /* 16 cycles at 8 MHz */
    assert_true(h->time.min > 1000000 && h->time.max < 10000000);
    assert_true(h->every.max > 900000000000);
    FILE *f = open_memstream(&text, &size);
    wad_report_handlers(r, f);
    fclose(f);
    assert_non_null(strstr(text, "  BASE     14   416      "));
    free(text);
    wad_bench_result_free(r);
    wad_bench_list_free(list);
    wad_diags_free(diags);
}

static void wrong_pulses_are_told(void **state)
{
    static const char *const wrong[] = {"drive PB8 pulses 0 Hz", "drive PB8 pulses 2 MHz",
                                        "drive PB8 pulses 10 Hz duty 100 %",
                                        "drive PB8 pulses 10 ms", "drive PB8 high for 2 s"};
    (void)state;
    wad_board *board = test_board("skerry");
    wad_bench *bench = wad_bench_new("pulses", board);
    for (unsigned i = 0; i < G_N_ELEMENTS(wrong); i++) {
        wad_diags *diags = wad_diags_new();
        if (wad_bench_say(bench, wrong[i], diags))
            fail_msg("'%s' was taken", wrong[i]);
        wad_diags_free(diags);
    }
    wad_bench_free(bench);
    wad_board_free(board);
}

/* Widths from one count in a period to all but one. */
static void pulse_widths_come_out_as_they_went_in(void **state)
{
    static const double shares[] = {0.01, 0.3, 0.5, 0.77, 0.99};
    (void)state;
    for (unsigned i = 0; i < G_N_ELEMENTS(shares); i++) {
        new_sim();
        prescaled_hz = 0;
        which = WAD_INPUT_PULSE;
        filter = 0;
        unsigned n = 0;
        for (; n < 800; n++) {
            uint64_t at = S / 100 + (uint64_t)(n * 1e12 / 977);
            wad_sim_at(sim, at, drive, &up);
            wad_sim_at(sim, at + (uint64_t)(shares[i] * 1e12 / 977), drive, &down);
        }
        run();
        assert_int_equal(status[3], WAD_OK);
        assert_int_equal(seen.lost, 0);
        assert_int_equal(result.periods, n - 1);
        assert_true(fabs((double)result.millihertz - 977000) < 2);
        /* a count is 125 ns; the mean of 800 widths that begin anywhere in one is nearer */
        assert_true(fabs((double)result.pulse_ns - shares[i] * 1e9 / 977) < 30);
        wad_sim_free(sim);
    }
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(rates_come_out_as_they_went_in),
        cmocka_unit_test(filters_keep_glitches_out),
        cmocka_unit_test(pulse_widths_come_out_as_they_went_in),
        cmocka_unit_test(the_flow_meter_is_read),
        cmocka_unit_test(wrong_pulses_are_told),
    };
    return cmocka_run_group_tests(tests, set_up, tear_down);
}
