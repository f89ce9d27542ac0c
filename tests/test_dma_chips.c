/* SPDX-License-Identifier: MIT */
/* One source for a DMA controller with its settings in registers, and for one that loads them from
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
    test_must_pass(board_name, firmware, say);
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
