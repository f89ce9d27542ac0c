/* SPDX-License-Identifier: MIT */
/* One source for converters that calibrate and have triggers (Corran32), that have one result of up
 * to 12 bits (Corran16), and whose result is two bytes (Corran8). */
#include <string.h>

#include "support.h"

static void one_chip(const char *board_name, const char *firmware, const char *sources)
{
    const char *const say[] = {sources,
                               "capture LEVEL1",
                               "capture WARN",
                               "run 100 ms",
                               "expect level1 is high at 100 ms",
                               "expect warn is low at 100 ms",
                               "expect no findings",
                               NULL};
    test_must_pass(board_name, firmware, say);
}

static void with_everything(void **state)
{
    (void)state;
    one_chip("skerry", "converter_32",
             "analog PA4 level 1 V behind 1 kohm\nanalog PA6 level 2 V behind 1 kohm");
}

static void one_result_of_twelve_bits(void **state)
{
    (void)state;
    one_chip("skerry16", "converter_16",
             "analog P02 level 1 V behind 1 kohm\nanalog P16 level 2 V behind 1 kohm");
}

static void a_result_of_two_bytes(void **state)
{
    (void)state;
    one_chip("skerry8", "converter_8",
             "analog P04 level 1 V behind 1 kohm\nanalog P07 level 2 V behind 1 kohm");
}

/* What the compiler makes of a constant converter leaves the registers as the form's own function
 * does. */
static void folded_or_not_the_registers_are_alike(void **state)
{
    static const char *const say[] = {"capture LEVEL1",
                                      "capture WARN",
                                      "run 100 ms",
                                      "expect level1 is high at 100 ms",
                                      "expect warn is low at 100 ms",
                                      NULL};
    (void)state;
    test_must_pass("skerry", "folded", say);
}

/* The same mistake done well: low before high. */
static void in_the_right_order_nothing_is_said(void **state)
{
    wad_board *board = test_board("skerry8");
    wad_bench *bench;
    const char *const say[] = {"analog P04 level 1 V", "run 20 ms", "expect no findings", NULL};
    (void)state;
    wad_bench_result *r = test_run(board, &bench, "right_1015", say);
    assert_true(r->passed);
    wad_bench_result_free(r);
    wad_bench_free(bench);
    wad_board_free(board);
}

/* ---- the other habit of sleep ---- */

static wad_bench_result *rest16(wad_board *board, wad_bench **bench, const char *firmware)
{
    static const char *const say[] = {"capture WARN", "capture LEVEL1", "run 2 s",
                                      "expect level1 frequency 15 Hz within 1 %", NULL};
    wad_bench_result *r = test_run(board, bench, firmware, say);
    assert_true(r->passed);
    return r;
}

static void main_goes_on_when_a_handler_says_so(void **state)
{
    wad_board *board = test_board("skerry16");
    wad_bench *bench;
    (void)state;
    wad_bench_result *r = rest16(board, &bench, "rest16_tells");
    assert_int_equal(wad_sim_finding_count(r->sim), 0);
    wad_cursor at = {0};
    wad_edge_record e;
    unsigned warn = 0, level = 0;
    while (wad_capture_next(r->capture, &at, &e))
        (*(e.channel ? &level : &warn))++;
    assert_in_range(level, 58, 62);
    assert_in_range(warn, level / 3 - 1, level / 3 + 1);
    /* asleep 0.9 uA; awake the core, 8 MHz of it and its clock, but for the 15 us of the way back,
     * when only the core's own 90 uA are on; the slow oscillator's 0.5 uA always */
    double seconds = (double)r->run.end_ps / 1e12, awake = (double)r->run.awake_ps / 1e12;
    double back = 15e-6 * (double)r->handlers[0].count;
    double want = (1 - awake / seconds) * 0.9e-6 + 0.5e-6 + back / seconds * 90e-6 +
                  (awake - back) / seconds * (90e-6 + 8 * 110e-6 + 55e-6);
    double is = wad_sim_charge(r->sim)->average;
    if (is < want * 0.99 || is > want * 1.01)
        fail_msg("%g A, not %g A", is, want);
    wad_bench_result_free(r);
    wad_bench_free(bench);
    wad_board_free(board);
}

static void main_that_nobody_tells_is_a_finding(void **state)
{
    wad_board *board = test_board("skerry16");
    wad_bench *bench;
    (void)state;
    wad_bench_result *r = rest16(board, &bench, "rest16_forgets");
    assert_int_equal(wad_sim_finding_count(r->sim), 1);
    const wad_finding *f = wad_sim_finding(r->sim, 0);
    assert_int_equal(f->kind, WAD_FINDING_NEVER_RESUMES);
    assert_non_null(strstr(f->what, "after each the core went back to sleep"));
    assert_true(f->n_places > 0 && g_str_has_suffix(f->places[0].file, "/rest16.c"));
    wad_bench_result_free(r);
    wad_bench_free(bench);
    wad_board_free(board);
}

int main(void)
{
    const struct CMUnitTest tests[] = {cmocka_unit_test(with_everything),
                                       cmocka_unit_test(one_result_of_twelve_bits),
                                       cmocka_unit_test(a_result_of_two_bytes),
                                       cmocka_unit_test(folded_or_not_the_registers_are_alike),
                                       cmocka_unit_test(in_the_right_order_nothing_is_said),
                                       cmocka_unit_test(main_goes_on_when_a_handler_says_so),
                                       cmocka_unit_test(main_that_nobody_tells_is_a_finding)};
    return cmocka_run_group_tests(tests, NULL, NULL);
}
