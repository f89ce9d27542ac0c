/* SPDX-License-Identifier: MIT */
/* One source for SPI ports with queues, without, and of eight bits only: every form that a
 * chip has comes back over a jumper, and with the jumper cut none does. */
#include "support.h"

static void one_chip(const char *board_name, const char *firmware, const char *jumper,
                     const char *time)
{
    wad_board *board = test_board(board_name);
    for (unsigned cut = 0; cut < 2; cut++) {
        wad_bench *bench;
        char *run = g_strdup_printf("run %s", time);
        char *level = g_strdup_printf("expect level1 is %s at %s", cut ? "low" : "high", time);
        char *warn = g_strdup_printf("expect warn is %s at %s", cut ? "high" : "low", time);
        const char *const say[] = {jumper,
                                   cut ? "cut J1" : "seed 1",
                                   "capture LEVEL1",
                                   "capture WARN",
                                   run,
                                   level,
                                   warn,
                                   "expect no findings",
                                   NULL};
        wad_bench_result *r = test_run(board, &bench, firmware, say);
        test_passed(r);
        wad_bench_result_free(r);
        wad_bench_free(bench);
        g_free(run);
        g_free(level);
        g_free(warn);
    }
    wad_board_free(board);
}

static void with_queues(void **state)
{
    (void)state;
    one_chip("skerry", "exchange_32", "jumper J1 from PB15 to PB14", "600 ms");
}

static void without_queues(void **state)
{
    (void)state;
    one_chip("skerry16", "exchange_16", "jumper J1 from P02 to P01", "200 ms");
}

static void bytes_only(void **state)
{
    (void)state;
    one_chip("skerry8", "exchange_8", "jumper J1 from P06 to P05", "200 ms");
}

/* What the compiler knows: accesses and one loop, by the optimiser. */
static void known_devices(void **state)
{
    (void)state;
    one_chip("skerry", "lean", "jumper J1 from PB15 to PB14", "20 ms");
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(with_queues), cmocka_unit_test(without_queues),
        cmocka_unit_test(bytes_only), cmocka_unit_test(known_devices)};
    return cmocka_run_group_tests(tests, NULL, NULL);
}
