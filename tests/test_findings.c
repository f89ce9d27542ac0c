/* SPDX-License-Identifier: MIT */
/* Each finding: a firmware that earns it, at the right line, and nothing else. */
#include <string.h>

#include "support.h"

static wad_board *board, *board16, *board8;

static int set_up(void **state)
{
    (void)state;
    board = test_board("skerry");
    board16 = test_board("skerry16");
    board8 = test_board("skerry8");
    return 0;
}

static int tear_down(void **state)
{
    (void)state;
    wad_board_free(board);
    wad_board_free(board16);
    wad_board_free(board8);
    return 0;
}

static const wad_finding *find(const wad_sim *sim, unsigned kind)
{
    for (unsigned i = 0; i < wad_sim_finding_count(sim); i++)
        if ((unsigned)wad_sim_finding(sim, i)->kind == kind)
            return wad_sim_finding(sim, i);
    return NULL;
}

static void check_place(const wad_sim *sim, unsigned kind, const char *file, unsigned line)
{
    const wad_finding *f = find(sim, kind);
    if (!f) {
        for (unsigned i = 0; i < wad_sim_finding_count(sim); i++)
            wad_finding_print(wad_sim_finding(sim, i), stderr);
        fail_msg("W%u was not found", kind);
    }
    assert_true(f->n_places > 0);
    assert_non_null(f->places[0].file);
    if (!g_str_has_suffix(f->places[0].file, file) || f->places[0].line != line) {
        wad_finding_print(f, stderr);
        fail_msg("W%u stands at %s:%u, not at %s:%u", kind, f->places[0].file, f->places[0].line,
                 file, line);
    }
}

/* What a mistake brings with it on top of its own finding. */
static bool follows(unsigned kind, unsigned from)
{
    /* a dead block cannot be written; what a loop waits for is shared */
    return kind == from || (from == 306 && kind == 101) || (from == 105 && kind == 106) ||
           (from == 802 && (kind == 803 || kind == 810)) || (from == 809 && kind == 801) ||
           (from == 912 && kind == 904) || (from == 810 && (kind == 802 || kind == 803)) ||
           ((from == 1212 || from == 1215) && kind == 1006) ||
           (((from >= 1202 && from <= 1204) || from == 1217) && kind == 1221) ||
           (from == 705 && kind == 701);
}

/* Some mistakes need a chip that has what can be got wrong. */
static const struct {
    unsigned number;
    wad_board **board;
    const char *source;
} elsewhere[] = {
    {503, &board16, "wrong16.c"},   {208, &board8, "wrong8.c"},     {209, &board16, "wrong16.c"},
    {601, &board8, "wrong8.c"},     {1015, &board8, "wrong8.c"},    {106, &board, "wrong_timer.c"},
    {107, &board, "wrong_timer.c"}, {108, &board, "wrong_timer.c"}, {211, &board, "wrong_timer.c"},
    {309, &board, "wrong_timer.c"}, {310, &board, "wrong_timer.c"}, {311, &board, "wrong_timer.c"},
    {312, &board, "wrong_timer.c"}, {313, &board, "wrong_plain.c"}, {314, &board, "wrong_timer.c"},
    {602, &board, "wrong_timer.c"}, {801, &board, "wrong_uart.c"},  {802, &board, "wrong_uart.c"},
    {803, &board, "wrong_uart.c"},  {804, &board, "wrong_uart.c"},  {805, &board, "wrong_uart.c"},
    {806, &board, "wrong_uart.c"},  {807, &board, "wrong_uart.c"},  {808, &board, "wrong_uart.c"},
    {809, &board16, "wrong16.c"},   {810, &board, "wrong_uart.c"},  {811, &board, "wrong_uart.c"},
    {701, &board, "wrong_plain.c"}, {702, &board, "wrong_plain.c"}, {703, &board, "wrong_plain.c"},
    {704, &board, "wrong_plain.c"}, {705, &board, "wrong_plain.c"}, {706, &board, "wrong_plain.c"}};

/* What the world does besides, for a mistake that needs it. */
static const char *world_of(unsigned number)
{
    return number == 1001   ? "analog PRESSURE level 1 V behind 10 kohm"
           : number == 1012 ? "analog PRESSURE level 3.6 V"
           : number == 1015 ? "analog P04 level 1 V"
           : number > 1000  ? "analog PRESSURE level 1 V"
           : number == 107  ? "clock xtal fails at 100 ms"
           : number == 311  ? "require CNT1 interrupt within 50 us"
                            : "seed 1";
}

/* On the SPI bus. */
static bool has_device(unsigned number)
{
    return number > 900 && number < 1000;
}

/* Twelve bytes from the other end of the line. */
static bool has_peer(unsigned number)
{
    return (number > 800 && number < 804) || number == 809 || number == 810;
}

static const char *peer_of(unsigned number)
{
    return number == 809        ? "uart LINK at 9600"
           : number == 811      ? "drive PA10 low"
           : number == 910      ? "drive PB12 high\ndrive PB13 low\ndrive PB12 low at 50 ms\n"
                                  "drive PB13 pulses 10 kHz at 51 ms for 800 us\n"
                                  "drive PB12 high at 52 ms"
           : number == 911      ? "drive PB12 high\ndrive PB12 low at 50 ms"
           : number == 914      ? "spi THERMO limit 2 MHz\nspi STORE"
           : has_device(number) ? "spi THERMO limit 2 MHz"
           : has_peer(number)   ? "uart LINK at 115200 format \"8E1\""
                                : "seed 1";
}

static const char *sends_of(unsigned number)
{
    return has_peer(number) ? "send LINK \"twelve bytes\" at 10 ms" : "seed 1";
}

static void one_wrong(unsigned number)
{
    wad_bench *bench;
    wad_board *on = board;
    const char *source = "wrong.c";
    for (unsigned i = 0; i < G_N_ELEMENTS(elsewhere); i++)
        if (elsewhere[i].number == number) {
            on = *elsewhere[i].board;
            source = elsewhere[i].source;
        }
    if (has_device(number))
        source = "wrong_spi.c";
    if (number > 1000 && number != 1015)
        source = number > 1200 ? "wrong_dma.c" : "wrong_adc.c";
    char *firmware = g_strdup_printf("wrong_%u", number), *mark = g_strdup_printf("%u", number);
    const char *const say[] = {"run 300 ms", world_of(number), peer_of(number), sends_of(number),
                               NULL};
    wad_bench_result *r = test_run(on, &bench, firmware, say);
    unsigned line = test_marked_line(source, mark);
    assert_true(line > 0);
    check_place(r->sim, number, source, line);
    for (unsigned i = 0; i < wad_sim_finding_count(r->sim); i++) {
        const wad_finding *f = wad_sim_finding(r->sim, i);
        if (!follows(f->kind, number)) {
            wad_finding_print(f, stderr);
            fail_msg("wrong_%u raises W%d too", number, (int)f->kind);
        }
    }
    wad_bench_result_free(r);
    wad_bench_free(bench);
    g_free(firmware);
    g_free(mark);
}

/* The list of findings itself says what must be tested: none can be added without a firmware. */
static void every_finding_has_a_firmware_that_earns_it(void **state)
{
    (void)state;
    /* no Corran has a register whose writes take time, or a code that is a fraction:
     * test_behaviour and test_schools have chips for them */
#define ONE(name, number, what, cure)                                                              \
    if ((number) != 212 && (number) != 402)                                                        \
        one_wrong(number);
    WAD_FINDINGS(ONE)
#undef ONE
}

/* The same tasks done well: no finding at all. */
static void right_twins_raise_nothing(void **state)
{
    static const unsigned numbers[] = {
        106,  108,  211,  309,  310,  311,  312,  313,  314,  602,  801,  802,  803,  804,  805,
        806,  807,  808,  810,  811,  901,  902,  903,  904,  905,  906,  907,  908,  909,  910,
        911,  912,  913,  914,  1001, 1002, 1003, 1004, 1005, 1006, 1007, 1008, 1009, 1010, 1011,
        1013, 1014, 1101, 1102, 1103, 1201, 1202, 1203, 1204, 1205, 1206, 1207, 1208, 1209, 1210,
        1211, 1212, 1213, 1214, 1215, 1216, 1217, 1218, 1219, 1220, 1221, 1222, 1223};
    (void)state;
    for (unsigned i = 0; i < G_N_ELEMENTS(numbers); i++) {
        wad_bench *bench;
        char *firmware = g_strdup_printf("right_%u", numbers[i]);
        const char *const say[] = {"run 300 ms",         world_of(numbers[i]), peer_of(numbers[i]),
                                   sends_of(numbers[i]), "expect no findings", NULL};
        wad_bench_result *r = test_run(board, &bench, firmware, say);
        test_passed(r);
        wad_bench_result_free(r);
        wad_bench_free(bench);
        g_free(firmware);
    }
}

/* The overrun is there either way; a handler that clears its flag goes on receiving. */
static void a_cleared_overrun_stops_no_receiver(void **state)
{
    wad_bench *bench;
    const char *const say[] = {"run 300 ms", peer_of(809), sends_of(809), NULL};
    (void)state;
    wad_bench_result *r = test_run(board16, &bench, "right_809", say);
    assert_non_null(find(r->sim, WAD_FINDING_OVERRUN));
    assert_null(find(r->sim, WAD_FINDING_RX_STUCK));
    wad_bench_result_free(r);
    wad_bench_free(bench);
}

static void right_firmware_raises_nothing(void **state)
{
    (void)state;
    wad_bench *bench;
    const char *const say[] = {"run 20 ms", "expect no findings", "expect CNT0 interrupt count 19",
                               NULL};
    wad_bench_result *r = test_run(board, &bench, "wrong_0", say);
    for (unsigned i = 0; i < wad_sim_finding_count(r->sim); i++)
        wad_finding_print(wad_sim_finding(r->sim, i), stderr);
    for (unsigned i = 0; i < r->n_verdicts; i++)
        if (!r->verdicts[i].passed)
            fail_msg("%s: %s", r->verdicts[i].subject, r->verdicts[i].measured);
    wad_bench_result_free(r);
    wad_bench_free(bench);
}

static void each_skipped_step_is_named(void **state)
{
    static const struct {
        const char *step;
        unsigned finding;
    } steps[] = {{"CLOCK", 101},        {"RESET", 102},      {"ROUTE", 501}, {"FLAG", 303},
                 {"BLOCK_ENABLE", 401}, {"CONTROLLER", 304}, {"MASK", 305}};
    (void)state;
    for (unsigned i = 0; i < G_N_ELEMENTS(steps); i++) {
        wad_bench *bench;
        char *firmware = g_strdup_printf("steps_%s", steps[i].step);
        const char *const say[] = {"run 5 ms", NULL};
        wad_bench_result *r = test_run(board, &bench, firmware, say);
        unsigned line = test_marked_line("steps.c", steps[i].step);
        check_place(r->sim, steps[i].finding, "tests/firmware/steps.c", line);
        wad_bench_result_free(r);
        wad_bench_free(bench);
        g_free(firmware);
    }
}

static void no_skipped_step_no_finding(void **state)
{
    (void)state;
    wad_bench *bench;
    const char *const say[] = {"capture LEVEL1", "run 5 ms", "expect no findings",
                               "expect level1 duty 25 % within 0.01 points", NULL};
    wad_bench_result *r = test_run(board, &bench, "steps_NOTHING", say);
    assert_true(r->passed);
    wad_bench_result_free(r);
    wad_bench_free(bench);
}

static void text_quotes_the_source_line_and_counts(void **state)
{
    (void)state;
    wad_bench *bench;
    char *text;
    size_t size;
    const char *const say[] = {"run 20 ms", NULL};
    wad_bench_result *r = test_run(board, &bench, "wrong_302", say);
    FILE *f = open_memstream(&text, &size);
    wad_finding_print(find(r->sim, 302), f);
    fclose(f);
    assert_non_null(strstr(text, "W302  handler returned with its flag still set"));
    assert_non_null(strstr(text, "| void handle_CNT0(void) /* here 302 */"));
    assert_non_null(strstr(text, " times, first at 1.00"));
    assert_non_null(strstr(text, "cure: "));
    assert_true(find(r->sim, 302)->count > 100);
    free(text);
    wad_bench_result_free(r);
    wad_bench_free(bench);
}

static void library_frames_give_way_to_the_users_line(void **state)
{
    (void)state;
    wad_bench *bench;
    const char *const say[] = {"run 20 ms", NULL};
    wad_bench_result *r = test_run(board, &bench, "wrong_502", say);
    const wad_finding *f = find(r->sim, 502);
    assert_string_equal(f->places[0].function, "mistake");
    assert_string_equal(f->places[1].function, "main");
    wad_bench_result_free(r);
    wad_bench_free(bench);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(every_finding_has_a_firmware_that_earns_it),
        cmocka_unit_test(right_twins_raise_nothing),
        cmocka_unit_test(a_cleared_overrun_stops_no_receiver),
        cmocka_unit_test(right_firmware_raises_nothing),
        cmocka_unit_test(each_skipped_step_is_named),
        cmocka_unit_test(no_skipped_step_no_finding),
        cmocka_unit_test(text_quotes_the_source_line_and_counts),
        cmocka_unit_test(library_frames_give_way_to_the_users_line),
    };
    return cmocka_run_group_tests(tests, set_up, tear_down);
}
