/* SPDX-License-Identifier: MIT */
/* DMA controllers as a person meets them: names in control words, a board's claims, what a bench
 * says and shows. */
#include <string.h>

#include "support.h"
#include "wadium/host/board.h"
#include "wadium/host/words.h"

/* ---- control words ---- */

static wad_word encoded(const wad_sheet *sheet, const char *setting, char **why)
{
    const char *const settings[] = {setting, NULL};
    wad_fieldref ref;
    wad_word word = {0};
    *why = NULL;
    assert_true(wad_sheet_resolve(sheet, "DMA0.CTRL[3]", &ref, why));
    (void)wad_encode(&ref, 0, settings, &word, why);
    return word;
}

/* Every request by its name, and back. */
static void requests_are_values_by_name(void **state)
{
    wad_sheet *sheet = test_chip("corran32");
    const wad_instance *mover = wad_sheet_block(sheet, "DMA0");
    char *why;
    (void)state;
    for (unsigned i = 0; i < mover->n_requests; i++) {
        char *name = wad_trigger_name(&mover->requests[i]);
        char *setting = g_strdup_printf("REQ=%s", name), *shown = NULL;
        wad_word w = encoded(sheet, setting, &why);
        assert_null(why);
        assert_int_equal(w.value, mover->requests[i].code << 5);
        char **doubts = wad_word_doubts(&w);
        assert_null(doubts[0]);
        g_strfreev(doubts);
        wad_fieldref ref;
        for (unsigned k = 0; (shown = wad_word_field(&w, k, &ref)); k++) {
            if (!strcmp(ref.field->name, "REQ"))
                assert_true(g_str_has_suffix(shown, name));
            g_free(shown);
        }
        g_free(setting);
        g_free(name);
    }
    wad_word three = encoded(sheet, "REQ=ADC0.done", &why);
    char *c = NULL;
    size_t size;
    FILE *out = open_memstream(&c, &size);
    wad_show_encoded(sheet, &three, false, out);
    fclose(out);
    assert_non_null(strstr(c, "C:  CORRAN32_DMA0->CTRL3 =\n")); /* as the header has it */
    free(c);
    encoded(sheet, "REQ=ADC0.dun", &why);
    assert_non_null(strstr(why, "'REQ' has no value 'ADC0.dun': it has 0 none, 1 UART0.rx_ready"));
    g_free(why);
    wad_word w = encoded(sheet, "REQ=31", &why);
    char **doubts = wad_word_doubts(&w);
    assert_string_equal(doubts[0], "REQ has no value 31");
    g_strfreev(doubts);
    wad_sheet_free(sheet);
}

/* ---- sheets ---- */

static void expect_error(const char *text, const char *message)
{
    char *got = test_sheet_errors(text);
    if (!strstr(got, message))
        fail_msg("wanted '%s' in\n%s", message, got);
    g_free(got);
}

#define CHIP(block)                                                                                \
    "chip T {\n bus little 32\n cpu armv6m\n clock core 8 MHz\n block C at 0x100 like cnt {\n "    \
    "irq 0 "                                                                                       \
    "\n}\n" block "\n}\nlayout cnt {\n reg S at 0 w1c reset 0 {\n 0 W w1c\n}\n reg E at 4 rw "     \
    "reset 0 {\n 0 W rw\n}\n acts as watchdog {\n}\n}\nlayout mv {\n reg C[2] at 0 rw reset 0 "    \
    "{\n 0 EN rw, 3:1 REQ rw\n}\n acts as dma {\n enable[n] C[n].EN, request[n] C[n].REQ\n}\n}\n"

static void wrong_requests_are_named(void **state)
{
    (void)state;
    expect_error(CHIP("block D at 0x200 like mv {\n requests { 1 X.wrap }\n}"),
                 "there is no block 'X'");
    expect_error(CHIP("block D at 0x200 like mv {\n requests { 1 C.nothing }\n}"),
                 "'C.nothing' is no event");
    expect_error(CHIP("block D at 0x200 like mv {\n requests { 9 C.nothing }\n}"), "0 to 7");
    expect_error(CHIP("block D at 0x200 like cnt {\n requests { 1 C.wrap }\n}"),
                 "layout 'cnt' binds no role 'request'");
}

/* ---- boards ---- */

static char *linted(const char *claims, unsigned *errors)
{
    char *text = g_strdup_printf("board B {\n chip Corran16\n%s\n}\n", claims);
    wad_diags *diags = wad_diags_new();
    wad_board *board = wad_board_parse(text, strlen(text), SOURCE_DIR "/boards/b.board", diags);
    if (board)
        wad_board_lint(board, diags);
    *errors = wad_diags_errors(diags);
    char *said = test_diags_text(diags);
    wad_board_free(board);
    wad_diags_free(diags);
    g_free(text);
    return said;
}

static void a_board_that_gives_a_channel_twice_is_told(void **state)
{
    static const struct {
        const char *claims, *says;
        unsigned errors;
    } cases[] = {
        {"dma DMA0 channel 0 for UART0.tx_ready \"a\"\ndma DMA0 channel 1 \"b\"", "", 0},
        {"dma DMA0 channel 0 \"a\"\ndma DMA0 channel 0 \"b\"",
         "channel 0 of DMA0 is for \"a\" already", 0},
        {"dma DMA0 channel 0 for ADC0.done \"a\"\ndma DMA0 channel 1 for ADC0.done \"b\"",
         "ADC0.done asks channel 0, for \"a\", already", 0},
        {"dma DMA0 channel 0 for ADC0.done \"a\"\ndma DMA0 channel 1 for SPI0.rx_ready \"b\"",
         "the channels of DMA0 share one request, which is ADC0.done for \"a\"", 0},
        {"dma DMA0 channel 2 \"a\"", "DMA0 has channels 0 to 1", 1},
        {"dma DMA0 channel 1 for ADC0.ready \"a\"", "'ADC0.ready' does not ask DMA0", 1},
        {"dma CNT0 channel 1 \"a\"", "Corran16 has no DMA controller 'CNT0'", 1},
    };
    (void)state;
    for (unsigned i = 0; i < G_N_ELEMENTS(cases); i++) {
        unsigned errors;
        char *said = linted(cases[i].claims, &errors);
        if (*cases[i].says ? !strstr(said, cases[i].says) : *said != 0)
            fail_msg("case %u: wanted '%s', got '%s'", i, cases[i].says, said);
        assert_int_equal(errors, cases[i].errors);
        g_free(said);
    }
}

/* ---- the command ---- */

static void the_command_lists_and_lints(void **state)
{
    char *out, *err;
    (void)state;
    assert_int_equal(WADIUM(&out, &err, "show", "corran16", "dma"), 0);
    assert_non_null(strstr(out, "channels 0 to 1, settings in memory\n"));
    assert_non_null(strstr(out, "  5        ADC0.done          ADC0.CTRL.DMA      a conversion"));
    g_free(out);
    g_free(err);
    assert_int_equal(WADIUM(&out, &err, "show", "skerry", "dma"), 0);
    assert_non_null(strstr(out, "DMA0         2        ADC0.done          pressure\n"));
    g_free(out);
    g_free(err);
    assert_int_equal(WADIUM(&out, &err, "lint", "skerry"), 0);
    assert_non_null(strstr(out, "skerry.board: 0 errors, 0 doubts\n"));
    g_free(out);
    g_free(err);
    assert_int_equal(WADIUM(&out, &err, "lint", "nowhere"), 2);
    assert_non_null(strstr(err, "there is no chip and no board 'nowhere'"));
    g_free(out);
    g_free(err);
}

/* ---- benches ---- */

#define EXAMPLES SOURCE_DIR "/examples"

static void memory_is_shown_before_and_after(void **state)
{
    char *out, *err;
    (void)state;
    assert_int_equal(
        WADIUM(&out, &err, "run", EXAMPLES "/table/table.bench", "-d", FIRMWARE_DIR, "--dma"), 0);
    /* 4210 and 1180 are 0x1072 and 0x049c */
    assert_non_null(strstr(out, "memory shown, 32 bytes, 0 s to 9 ms: 8 changed\n"));
    assert_non_null(strstr(out, "         +>72>10>9c>04>f0>0f>28>05  00 00"));
    assert_non_null(strstr(out, "memory shown, 32 bytes, 19 ms to 29 ms: 3 changed\n"));
    assert_non_null(strstr(out, "DMA0     0        29 "));
    g_free(out);
    g_free(err);
}

static void channels_and_requests_are_signals(void **state)
{
    static const char *const say[] = {
        "analog PRESSURE level 1 V",
        "capture DMA0 channel 0 as moved",
        "capture DMA0 request ADC0.done as asked",
        "run 100 ms",
        "expect moved frequency 1 kHz within 1 ppm",
        "expect asked frequency 1 kHz within 1 ppm",
        "expect moved high 0.5 us within 1 ns", /* 4 cycles of 8 MHz */
        "expect asked high 0.5 us within 1 ns", /* until the result is read: 3 + 1 cycles */
        "expect DMA0 channel 0 latency below 1.1 us",
        "expect DMA0 channel 1 elements 0",
        "expect bus below 0.06 %",
        "expect awake below 1 %",
        NULL};
    wad_board *board = test_board("skerry");
    wad_bench *bench;
    (void)state;
    wad_bench_result *r = test_run(board, &bench, "sampled", say);
    test_passed(r);
    assert_int_equal(r->n_dma, 1);
    assert_int_equal(r->dma[0].bytes, 2 * r->dma[0].elements);
    assert_int_equal(r->dma[0].latency.max, 1000000);
    wad_bench_result_free(r);
    wad_bench_free(bench);
    wad_board_free(board);
}

static void what_a_bench_cannot_mean_is_told(void **state)
{
    static const test_slip slips[] = {
        {"capture DMA0 channel 8", "DMA0 has channels 0 to 7"},
        {"capture DMA0 request UART0.parity_error", "'UART0.parity_error' does not ask DMA0"},
        {"capture DMA0 pin", "expected 'channel NUMBER' or 'request BLOCK.ROLE'"},
        {"expect DMA0 channel 9 elements 1", "DMA0 has channels 0 to 7"},
        {"expect DMA0 channel 1 speed 1", "expected 'elements' or 'latency below'"},
        {"memory table from 2 ms to 1 ms", "it ends before it begins"},
        {"memory 12", "a variable of the firmware"},
    };
    wad_board *board = test_board("skerry");
    (void)state;
    test_slips(board, NULL, slips, G_N_ELEMENTS(slips));
    wad_board_free(board);
}

static void memory_without_a_name_is_a_note(void **state)
{
    static const char *const say[] = {"run 60 ms", "memory tabel from 1 ms", NULL};
    wad_board *board = test_board("skerry");
    wad_bench *bench;
    (void)state;
    wad_bench_result *r = test_run(board, &bench, "table", say);
    assert_int_equal(r->n_memories, 0);
    assert_int_equal(r->n_notes, 1);
    assert_true(g_str_has_prefix(r->notes[0], "memory tabel: "));
    wad_bench_result_free(r);
    wad_bench_free(bench);
    wad_board_free(board);
}

/* The chip was read anew for the second one, with the first one's error among its messages. */
static void an_error_in_one_bench_is_none_of_the_next(void **state)
{
    char *folder = test_folder(), *path = g_build_filename(folder, "two.bench", NULL), *out, *err;
    (void)state;
    g_file_set_contents(
        path,
        "bench \"a\" {\n board Skerry\n firmware table\n expect nothing\n run 1 s\n}\n"
        "bench \"b\" {\n board Skerry\n firmware table\n capture WARN\n run 1 s\n}\n",
        -1, NULL);
    assert_int_equal(WADIUM(&out, &err, "run", path, "-d", FIRMWARE_DIR), 3);
    unsigned n = 0;
    for (const char *p = err; (p = strstr(p, "error:")); p++)
        n++;
    if (n != 1)
        fail_msg("%u errors:\n%s", n, err);
    g_free(out);
    g_free(err);
    test_remove(folder);
    g_free(path);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(requests_are_values_by_name),
        cmocka_unit_test(wrong_requests_are_named),
        cmocka_unit_test(a_board_that_gives_a_channel_twice_is_told),
        cmocka_unit_test(the_command_lists_and_lints),
        cmocka_unit_test(memory_is_shown_before_and_after),
        cmocka_unit_test(channels_and_requests_are_signals),
        cmocka_unit_test(what_a_bench_cannot_mean_is_told),
        cmocka_unit_test(memory_without_a_name_is_a_note),
        cmocka_unit_test(an_error_in_one_bench_is_none_of_the_next),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
