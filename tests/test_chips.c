/* SPDX-License-Identifier: MIT */
/* The drivers on every chip from one source, and what the smaller chips have of their own. */
#include <string.h>

#include "support.h"

typedef struct setting {
    const char *board, *firmware;
} setting;

static void must_pass(const wad_bench_result *r, const char *what)
{
    if (r->passed)
        return;
    wad_report_text(r, stderr);
    fail_msg("%s", what);
}

/* A firmware built for each chip, on that chip's board. */
static void on_every_chip(const setting *on, const char *const *say)
{
    for (unsigned i = 0; i < 3; i++) {
        wad_board *board = test_board(on[i].board);
        wad_bench *bench;
        wad_bench_result *r = test_run(board, &bench, on[i].firmware, say);
        must_pass(r, on[i].firmware);
        wad_bench_result_free(r);
        wad_bench_free(bench);
        wad_board_free(board);
    }
}

static void the_timer_driver_keeps_its_word_on_every_chip(void **state)
{
    static const setting on[] = {
        {"skerry", "drive_32"}, {"skerry16", "drive_16"}, {"skerry8", "drive_8"}};
    const char *const say[] = {"capture WARN",
                               "capture LEVEL1",
                               "run 200 ms",
                               "expect level1 duty 25 % within 0.05 points from 3 ms to 30 ms",
                               "expect level1 frequency 1 kHz within 0.01 % from 3 ms to 30 ms",
                               "expect level1 duty 75 % within 0.05 points from 40 ms to 61 ms",
                               "expect level1 is low at 75 ms",
                               "expect level1 is low at 80 ms",
                               "expect level1 is high at 110 ms",
                               "expect level1 is high at 118 ms",
                               "expect level1 frequency 2 kHz within 0.01 % from 140 ms to 155 ms",
                               "expect level1 duty 50 % within 0.05 points from 140 ms to 155 ms",
                               "expect level1 edges 0 from 160 ms to 200 ms",
                               "expect warn is low at 199 ms",
                               "expect no findings",
                               NULL};
    (void)state;
    on_every_chip(on, say);
}

static void the_pin_driver_reads_and_writes_on_every_chip(void **state)
{
    static const setting on[] = {
        {"skerry", "pins_32"}, {"skerry16", "pins_16"}, {"skerry8", "pins_8"}};
    const char *const say[] = {"capture WARN",
                               "press TEST at 20 ms for 10 ms bounce 0 ms",
                               "press TEST at 50 ms for 5 ms bounce 0 ms",
                               "run 100 ms",
                               "expect warn is low at 19 ms",
                               "expect warn is high at 29 ms",
                               "expect warn is low at 49 ms",
                               "expect warn high 10 ms within 300 us from 15 ms to 45 ms",
                               "expect warn edges 4 from 15 ms to 100 ms",
                               NULL};
    (void)state;
    on_every_chip(on, say);
}

static void the_lamps_run_on_every_chip(void **state)
{
    static const char *const benches[] = {"lamp", "lamp16", "lamp8"};
    (void)state;
    for (unsigned i = 0; i < G_N_ELEMENTS(benches); i++) {
        char *out, *err, *path = g_strdup_printf(SOURCE_DIR "/examples/lamp/%s.bench", benches[i]);
        int status = WADIUM(&out, &err, "run", path, "-d", FIRMWARE_DIR);
        if (status || !strstr(out, "11 of 11 expectations met, 0 findings"))
            fail_msg("%s", out);
        g_free(out);
        g_free(err);
        g_free(path);
    }
}

static void the_watchdog_bites_and_main_begins_anew(void **state)
{
    wad_board *board = test_board("skerry8");
    wad_bench *bench;
    /* fed until 250 ms at 1 MHz, bitten 32 ms later; .noinit lives on, other variables do not */
    const char *const say[] = {"capture P10",        "capture P11",         "capture P12",
                               "run 400 ms",         "expect p12 edges 8",  "expect p10 edges 6",
                               "expect p11 edges 2", "expect finding W601", NULL};
    (void)state;
    wad_bench_result *r = test_run(board, &bench, "watch_BITES", say);
    must_pass(r, "watchdog");
    const wad_finding *f = wad_sim_finding(r->sim, 0);
    assert_int_equal(f->count, 1);
    assert_in_range(f->first_ps, 282 * (WAD_PS_PER_S / 1000), 283 * (WAD_PS_PER_S / 1000));
    wad_bench_result_free(r);
    wad_bench_free(bench);
    wad_board_free(board);
}

static void a_key_opens_one_write_and_no_more(void **state)
{
    wad_board *board = test_board("skerry8");
    wad_bench *bench;
    char *mark = g_strdup_printf("expect finding W208 at \"watch.c:%u\"",
                                 test_marked_line("watch.c", "RELOCKS"));
    const char *const say[] = {"capture P10", "run 20 ms", "expect p10 edges 6", mark, NULL};
    (void)state;
    wad_bench_result *r = test_run(board, &bench, "watch_RELOCKS", say); /* 3 pulses */
    must_pass(r, "lock");
    assert_int_equal(wad_sim_finding_count(r->sim), 1);
    wad_bench_result_free(r);
    wad_bench_free(bench);
    wad_board_free(board);
    g_free(mark);
}

static void without_reload_the_count_goes_on_from_0(void **state)
{
    wad_board *board = test_board("skerry8");
    wad_bench *bench;
    const char *const say[] = {"capture P10",        "run 200 ms",
                               "expect p10 edges 3", "expect p10 high 65536 us within 30 us",
                               "expect no findings", NULL};
    (void)state;
    wad_bench_result *r = test_run(board, &bench, "watch_MANUAL", say);
    must_pass(r, "manual reload");
    wad_bench_result_free(r);
    wad_bench_free(bench);
    wad_board_free(board);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(the_timer_driver_keeps_its_word_on_every_chip),
        cmocka_unit_test(the_pin_driver_reads_and_writes_on_every_chip),
        cmocka_unit_test(the_lamps_run_on_every_chip),
        cmocka_unit_test(the_watchdog_bites_and_main_begins_anew),
        cmocka_unit_test(a_key_opens_one_write_and_no_more),
        cmocka_unit_test(without_reload_the_count_goes_on_from_0),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
