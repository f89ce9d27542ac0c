/* SPDX-License-Identifier: MIT */
/* One source for a data mover with its settings in registers, and for one that loads them from
 * memory. */
#include "support.h"

static void one_chip(const char *board_name, const char *firmware)
{
    static const char *const say[] = {"capture LEVEL1",
                                      "capture WARN",
                                      "run 600 ms",
                                      "expect level1 is high at 600 ms",
                                      "expect warn is low at 600 ms",
                                      "expect no findings",
                                      NULL};
    wad_board *board = test_board(board_name);
    wad_bench *bench;
    wad_bench_result *r = test_run(board, &bench, firmware, say);
    if (!r->passed) {
        wad_report_text(r, stderr);
        fail_msg("%s", firmware);
    }
    wad_bench_result_free(r);
    wad_bench_free(bench);
    wad_board_free(board);
}

static void settings_in_registers(void **state)
{
    (void)state;
    one_chip("skerry", "mover_32");
}

static void settings_in_memory(void **state)
{
    (void)state;
    one_chip("skerry16", "mover_16");
}

int main(void)
{
    const struct CMUnitTest tests[] = {cmocka_unit_test(settings_in_registers),
                                       cmocka_unit_test(settings_in_memory)};
    return cmocka_run_group_tests(tests, NULL, NULL);
}
