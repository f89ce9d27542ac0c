/* SPDX-License-Identifier: MIT */
/* One source for converters that calibrate and have triggers (Corran32), that have one result of up
 * to 12 bits (Corran16), and whose result is two bytes (Corran8). */
#include "support.h"

static void one_chip(const char *board_name, const char *firmware, const char *sources)
{
    wad_board *board = test_board(board_name);
    wad_bench *bench;
    const char *const say[] = {sources,
                               "capture LEVEL1",
                               "capture WARN",
                               "run 100 ms",
                               "expect level1 is high at 100 ms",
                               "expect warn is low at 100 ms",
                               "expect no findings",
                               NULL};
    wad_bench_result *r = test_run(board, &bench, firmware, say);
    if (!r->passed) {
        wad_report_text(r, stderr);
        fail_msg("%s", firmware);
    }
    wad_bench_result_free(r);
    wad_bench_free(bench);
    wad_board_free(board);
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

int main(void)
{
    const struct CMUnitTest tests[] = {cmocka_unit_test(with_everything),
                                       cmocka_unit_test(one_result_of_twelve_bits),
                                       cmocka_unit_test(a_result_of_two_bytes),
                                       cmocka_unit_test(in_the_right_order_nothing_is_said)};
    return cmocka_run_group_tests(tests, NULL, NULL);
}
