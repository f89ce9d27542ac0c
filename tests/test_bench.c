/* SPDX-License-Identifier: MIT */
/* Benches: the language, verdicts, the world around the chip, reports. */
#include <glib/gstdio.h>
#include <string.h>

#include "bench/expect/expectation.h"
#include "support.h"

static wad_board *board;

static int set_up(void **state)
{
    (void)state;
    board = test_board("skerry");
    return 0;
}

static int tear_down(void **state)
{
    (void)state;
    wad_board_free(board);
    return 0;
}

typedef struct report {
    char *text;
    size_t size;
    FILE *file;
} report;

static FILE *begin(report *r)
{
    return r->file = open_memstream(&r->text, &r->size);
}

static const char *finish(report *r)
{
    fclose(r->file);
    return r->text;
}

/* ---- the language ---- */

static void check_wrong(const char *line, const char *message)
{
    char *text = g_strdup_printf(
        "bench \"b\" {\n board Skerry\n firmware lamp\n capture WARN\n %s\n}", line);
    wad_diags *diags = wad_diags_new();
    char *name = g_strdup(SOURCE_DIR "/examples/lamp/t.bench");
    wad_bench_list *list = wad_bench_parse(text, strlen(text), name, diags);
    char *printed = test_diags_text(diags);
    if (list || !strstr(printed, message))
        fail_msg("'%s': wanted '%s', got '%s'", line, message, printed);
    g_free(printed);
    g_free(name);
    wad_diags_free(diags);
    g_free(text);
}

static void mistakes_name_their_place(void **state)
{
    (void)state;
    check_wrong("expect warm frequency 1 Hz within 1 %\n run 1 s", "t.bench:5:9: error: nothing is "
                                                                   "captured as 'warm' (did you "
                                                                   "mean 'warn'?)");
    check_wrong("expect warn frequency 1 s within 1 %", "5:24: error: expected a frequency");
    check_wrong("expect warn frequency 1 Hz within 1 s", "5:29: error: the tolerance is given");
    check_wrong("expect warn duty 10 % within 1 %", "a duty's tolerance is given in points");
    check_wrong("expect warn is up at 1 s", "'high', 'low' or 'floating'");
    check_wrong("capture WDT interrupt", "block WDT has no interrupt line");
    check_wrong("expect WDT interrupt count 1", "block WDT has no interrupt line");
    check_wrong("expect finding W999", "there is no finding 'W999'");
    check_wrong("expect warn edges 4 from 2 s to 1 s", "ends before it begins");
    check_wrong("press WARN at 1 s for 1 s", "'press' takes a button");
    check_wrong("press TEST at 1 s", "expected 'for'");
    check_wrong("capture PZ1", "neither the board has a part nor the chip a pin 'PZ1'");
    check_wrong("capture THERMO", "has several wires: name one, as THERMO.CS");
    check_wrong("capture WARN", "captured already");
    check_wrong("run 0 s", "must take some time");
    check_wrong("run 5", "expected a time");
    check_wrong("board Skerry", "has its board or chip already");
    check_wrong("seed 1", "does not say how long to run");
    check_wrong("expect warn grid 3 within 1 us", "a grid is a rate and a time");
    check_wrong("expect warn grid 3 Hz within 1 %", "a grid is a rate and a time");
    check_wrong("expect awake below 5 ms", "expected a share such as 25 %");
    check_wrong("require CNT9 interrupt within 1 us", "there is no block CNT9");
    check_wrong("require WDT interrupt within 1 us", "block WDT has no interrupt line");
    check_wrong("require CNT0 interrupt within 1 Hz", "expected a time");
    check_wrong("clock pll fails at 1 s", "'pll' is no oscillator");
    check_wrong("clock xtal fails at 2 s until 1 s", "ends before it begins");
    check_wrong("uart WARN at 9600", "no part of that name with wires TX and RX");
    check_wrong("uart LINK at 0", "the baud must be a whole number from 1");
    check_wrong("uart LINK at 9600 format \"9X1\"", "a format is data bits, parity and stop bits");
    check_wrong("uart LINK at 9600 off 1 s", "expected a share");
    check_wrong("send LINK \"x\" at 1 s", "no such serial line yet");
    check_wrong("uart LINK at 9600\n send LINK x at 1 s", "the text in quotes");
    check_wrong("uart LINK at 9600\n reply LINK \"x\" at 1 s", "expected 'to'");
    check_wrong("uart LINK at 9600\n expect LINK hears 1", "'says', 'bytes' or 'errors'");
    check_wrong("wait 5 s", "'board', 'chip', 'firmware'");
}

static void unknown_board_says_where_it_looked(void **state)
{
    (void)state;
    wad_diags *diags = wad_diags_new();
    const char *text = "bench \"b\" { board Skerri }";
    assert_null(wad_bench_parse(text, strlen(text), "t.bench", diags));
    char *printed = test_diags_text(diags);
    assert_non_null(strstr(printed, "t.bench:1:19: error: no file 'Skerri.board'"));
    g_free(printed);
    wad_diags_free(diags);
}

/* ---- verdicts ---- */

static wad_verdict verdict_of(wad_bench_result *r, const char *subject)
{
    for (unsigned i = 0; i < r->n_verdicts; i++)
        if (!strcmp(r->verdicts[i].subject, subject))
            return r->verdicts[i];
    fail_msg("no verdict on '%s'", subject);
    return (wad_verdict){0};
}

/* Each of these is wrong by a little more than its tolerance: none may pass. */
static void what_is_wrong_fails(void **state)
{
    (void)state;
    wad_bench *bench;
    const char *const say[] = {"capture WARN",
                               "capture LEVEL1 as dim",
                               "run 2 s",
                               "expect dim frequency 1001 Hz within 0.09 %",
                               "expect dim duty 10.2 % within 0.1 points",
                               "expect dim high 101 us within 900 ns",
                               "expect dim low 900 us within 1 ns from 0 s to 1 ms",
                               "expect dim period 1 ms within 1 ns from 1.9999 s",
                               "expect warn edges 4",
                               "expect warn is low at 0.75 s",
                               "expect CNT0 interrupt every 501 ms within 900 us",
                               "expect CNT0 interrupt latency below 300 ns",
                               "expect CNT0 interrupt count 4",
                               "expect CNT1 interrupt count 1",
                               "expect CNT2 interrupt every 1 s within 1 s",
                               "expect finding W101",
                               "expect dim grid 1001 Hz within 400 us",
                               "expect dim grid 2 kHz within 1 us",
                               "expect warn grid 999 ms within 900 us",
                               "expect CNT0 interrupt grid 501 ms within 1 ms",
                               "expect awake below 0.0001 %",
                               NULL};
    wad_bench_result *r = test_run(board, &bench, "lamp", say);
    assert_false(r->passed);
    for (unsigned i = 0; i < r->n_verdicts; i++)
        if (r->verdicts[i].passed)
            fail_msg("'%s' measured %s passed as %s", r->verdicts[i].subject,
                     r->verdicts[i].measured, r->verdicts[i].wanted);
    assert_string_equal(verdict_of(r, "CNT2 interrupt").measured, "never served");
    assert_string_equal(verdict_of(r, "dim low").measured, "no low pulse");
    wad_bench_result_free(r);
    wad_bench_free(bench);
}

static void what_is_right_passes(void **state)
{
    (void)state;
    wad_bench *bench;
    const char *const say[] = {"capture WARN",
                               "capture LEVEL1 as dim",
                               "run 2 s",
                               "expect dim frequency 1001 Hz within 0.1 %",
                               "expect dim duty 10.1 % within 0.1 points",
                               "expect dim high 100 us within 1 ns",
                               "expect dim period 1 ms within 1 ns",
                               "expect dim edges 20 from 1 s to 1.01 s",
                               "expect warn edges 3",
                               "expect warn is high at 0.75 s",
                               "expect warn is floating at 1 us",
                               "expect CNT0 interrupt every 500 ms within 1 ns",
                               "expect CNT0 interrupt latency below 400 ns",
                               "expect CNT0 interrupt count 3",
                               "expect no findings",
                               "expect dim grid 1 kHz within 0 us",
                               "expect warn grid 1 s within 1 ns" /* in whole ps */,
                               "expect warn grid 999 ms within 1001 us",
                               "expect CNT0 interrupt grid 500 ms within 10 ns",
                               "expect CNT0 interrupt grid 2.004 Hz within 2.1 ms",
                               "expect awake below 1 %",
                               NULL};
    wad_bench_result *r = test_run(board, &bench, "lamp", say);
    for (unsigned i = 0; i < r->n_verdicts; i++)
        if (!r->verdicts[i].passed)
            fail_msg("'%s' measured %s failed as %s", r->verdicts[i].subject,
                     r->verdicts[i].measured, r->verdicts[i].wanted);
    assert_true(r->passed);
    wad_bench_result_free(r);
    wad_bench_free(bench);
}

/* A line that answers, one whose clock is too far off, and what was not heard. */
static void serial_lines_are_judged(void **state)
{
    (void)state;
    wad_bench *bench;
    const char *const say[] = {"uart LINK at 115200",
                               "send LINK \"hel\" at 300 ms",
                               "reply LINK \"rate 2\\r\" to \"try help\\r\\n\"",
                               "send LINK \"\\r\" at 400 ms",
                               "run 1 s",
                               "expect LINK says \"? hel: try help\\r\\n\" by 402 ms",
                               "expect LINK says \"2 a second\\r\\n\" by 405 ms",
                               "expect LINK says \"2 a second\" by 401 ms",
                               "expect LINK says \"3 a second\"",
                               "expect LINK bytes 58",
                               "expect LINK errors 0",
                               "expect LINK errors 1",
                               NULL};
    static const bool passes[] = {true, true, false, false, true, true, false};
    wad_bench_result *r = test_run(board, &bench, "telemetry", say);
    for (unsigned i = 0; i < r->n_verdicts; i++)
        if (r->verdicts[i].passed != passes[i])
            fail_msg("'%s' measured %s, wanted %s", r->verdicts[i].subject, r->verdicts[i].measured,
                     r->verdicts[i].wanted);
    wad_bench_result_free(r);
    wad_bench_free(bench);
    const char *const off[] = {"uart LINK at 115200 off 6 %",
                               "send LINK \"help\\r\" at 300 ms",
                               "run 500 ms",
                               "expect LINK says \"read REG\"",
                               "expect finding W802",
                               NULL};
    r = test_run(board, &bench, "telemetry", off);
    assert_false(r->verdicts[0].passed);
    assert_true(r->verdicts[1].passed);
    wad_bench_result_free(r);
    wad_bench_free(bench);
}

/* Pulses of 5 and 8 ms: a tolerance that only their mean or only one of them meets is not met. */
static void each_single_pulse_is_judged(void **state)
{
    (void)state;
    wad_bench *bench;
    const char *const say[] = {"capture TEST",
                               "press TEST at 10 ms for 5 ms bounce 0 s",
                               "press TEST at 20 ms for 8 ms bounce 0 s",
                               "run 40 ms",
                               "expect test low 8 ms within 1 ms",
                               "expect test low 5 ms within 1 ms",
                               "expect test low 6.5 ms within 1.4 ms",
                               "expect test low 6.5 ms within 1.5 ms",
                               NULL};
    wad_bench_result *r = test_run(board, &bench, "odd_BUTTON", say);
    assert_false(r->verdicts[0].passed);
    assert_false(r->verdicts[1].passed);
    assert_false(r->verdicts[2].passed);
    assert_true(r->verdicts[3].passed);
    assert_string_equal(r->verdicts[3].measured, "6.5 ms, all 2 within 3 ms");
    wad_bench_result_free(r);
    wad_bench_free(bench);
}

static void early_end_fails_the_bench(void **state)
{
    (void)state;
    wad_bench *bench;
    report rep;
    const char *const say[] = {"run 2 s", "expect no findings", NULL};
    wad_bench_result *r = test_run(board, &bench, "odd_RETURNS", say);
    assert_false(r->passed);
    assert_true(r->verdicts[0].passed);
    wad_report_text(r, begin(&rep));
    assert_non_null(strstr(finish(&rep), "the run ended early, at 0.000000 s: main returned"));
    free(rep.text);
    wad_bench_result_free(r);
    wad_bench_free(bench);
}

/* ---- the world ---- */

static unsigned presses_seen(const char *const *say)
{
    wad_bench *bench;
    wad_bench_result *r = test_run(board, &bench, "odd_BUTTON", say);
    unsigned edges = (unsigned)g_ascii_strtoull(verdict_of(r, "warn edges").measured, NULL, 10);
    wad_bench_result_free(r);
    wad_bench_free(bench);
    return edges;
}

/* Without debouncing a press that bounces counts several times; a clean one once. */
static void button_bounces_by_its_seed(void **state)
{
    (void)state;
    const char *const clean[] = {"capture WARN", "press TEST at 10 ms for 20 ms bounce 0 s",
                                 "run 50 ms", "expect warn edges 1", NULL};
    const char *const one[] = {
        "capture WARN",        "seed 5", "press TEST at 10 ms for 20 ms", "run 50 ms",
        "expect warn edges 1", NULL};
    unsigned differ = 0;
    assert_int_equal(presses_seen(clean), 1);
    unsigned first = presses_seen(one);
    assert_true(first > 1);
    assert_int_equal(presses_seen(one), first);
    for (unsigned seed = 6; seed < 14; seed++) {
        char *line = g_strdup_printf("seed %u", seed);
        const char *const other[] = {
            "capture WARN",        line, "press TEST at 10 ms for 20 ms", "run 50 ms",
            "expect warn edges 1", NULL};
        differ += presses_seen(other) != first;
        g_free(line);
    }
    assert_true(differ > 0);
}

static void a_pin_is_driven_from_outside(void **state)
{
    (void)state;
    wad_bench *bench;
    const char *const say[] = {"capture PB4 as button",
                               "drive PB4 low at 10 ms",
                               "drive PB4 floating at 20 ms",
                               "run 30 ms",
                               "expect button is low at 15 ms",
                               "expect button is high at 25 ms",
                               NULL};
    wad_bench_result *r = test_run(board, &bench, "odd_BUTTON", say);
    assert_true(r->passed);
    wad_bench_result_free(r);
    wad_bench_free(bench);
}

/* The signal of a handler is high from its entry to its exit, as often as it ran. */
static void interrupts_are_captured(void **state)
{
    (void)state;
    wad_bench *bench;
    wad_cursor at = {0};
    wad_edge_record e;
    unsigned edges[2] = {0, 0};
    const char *const say[] = {"capture CNT0 interrupt as tick", "capture CNT1 interrupt",
                               "run 2 s", NULL};
    wad_bench_result *r = test_run(board, &bench, "lamp", say);
    assert_string_equal(wad_capture_name(r->capture, 0), "tick");
    assert_string_equal(wad_capture_name(r->capture, 1), "CNT1_irq");
    while (wad_capture_next(r->capture, &at, &e))
        edges[e.channel]++;
    assert_int_equal(edges[0], 1 + 2 * 3); /* low at first, then three services */
    assert_int_equal(edges[1], 1);
    wad_bench_result_free(r);
    wad_bench_free(bench);
}

static void runs_are_the_same_to_the_byte(void **state)
{
    (void)state;
    char *folder = test_folder(), *text[2];
    const char *const say[] = {"capture WARN", "capture TEST",
                               "seed 3",       "press TEST at 10 ms for 20 ms",
                               "run 50 ms",    NULL};
    for (unsigned i = 0; i < 2; i++) {
        wad_bench *bench;
        char *path = g_strdup_printf("%s/%u.vcd", folder, i), *why;
        wad_bench_result *r = test_run(board, &bench, "odd_BUTTON", say);
        assert_true(wad_vcd_write(r->capture, path, r->run.end_ps, &why));
        assert_true(g_file_get_contents(path, &text[i], NULL, NULL));
        wad_bench_result_free(r);
        wad_bench_free(bench);
        g_free(path);
    }
    assert_string_equal(text[0], text[1]);
    assert_true(strlen(text[0]) > 300);
    g_free(text[0]);
    g_free(text[1]);
    test_remove(folder);
}

/* ---- reports ---- */

static void tap_and_json_carry_every_verdict(void **state)
{
    (void)state;
    wad_bench *bench;
    report rep;
    const char *const say[] = {"capture WARN", "run 2 s", "expect warn edges 3",
                               "expect warn edges 5", NULL};
    wad_bench_result *r = test_run(board, &bench, "lamp", say);
    wad_report_tap(&r, 1, begin(&rep));
    assert_non_null(strstr(finish(&rep), "TAP version 13\n1..3\nok 1 - lamp: runs to its end\nok 2 "
                                         "- lamp: warn edges\n"));
    assert_non_null(strstr(rep.text, "not ok 3 - lamp: warn edges\n  ---\n  measured: \"3\"\n  "
                                     "wanted: \"5\"\n"));
    free(rep.text);
    wad_report_json(&r, 1, begin(&rep));
    assert_non_null(strstr(finish(&rep), "\"measured\" : \"3\""));
    assert_non_null(strstr(rep.text, "\"passed\" : false"));
    free(rep.text);
    wad_bench_result_free(r);
    wad_bench_free(bench);
}

/* The target's C differs from the host's: said with the first object; and a handler by number. */
static void data_model_is_noted(void **state)
{
    wad_bench *bench;
    const char *const say[] = {"capture WARN", "run 20 ms", "expect warn edges 19",
                               "expect no findings", NULL};
    (void)state;
    wad_bench_result *r = test_run(board, &bench, "model", say);
    test_passed(r);
    assert_int_equal(r->n_notes, 1); /* char is made the target's by the build */
    assert_string_equal(r->notes[0],
                        "data model: 'total' (model.c:7) is a long, 64 bits here and 32 "
                        "on Corran32");
    wad_bench_result_free(r);
    wad_bench_free(bench);
}

/* ---- the classes of expectations ---- */

static wad_bench *bench_of_all(void)
{
    static const char said[] = "firmware lamp\ncapture WARN as warn\n"
                               "capture HORN volts as horn\nuart LINK at 115200\n"
                               "spi THERMO mode 0 limit 4 MHz\nrun 2.6 s";
    wad_bench *bench = wad_bench_new("every class", board);
    wad_diags *diags = wad_diags_new();
    assert_true(wad_bench_say(bench, said, diags));
    wad_diags_free(diags);
    return bench;
}

static bool says(wad_bench *bench, const char *statement, const char *more)
{
    wad_diags *diags = wad_diags_new();
    char *text = g_strconcat(statement, more, NULL);
    bool ok = wad_bench_say(bench, text, diags);
    if (ok != !wad_diags_errors(diags))
        fail_msg("'%s' fails without a word", text);
    g_free(text);
    wad_diags_free(diags);
    return ok;
}

/* Each is read, and judged by a run; what of the lamp's is so is met. */
static void every_expectation_has_an_example_that_runs(void **state)
{
    wad_bench *bench = bench_of_all();
    const wadi_expectation_class *cls;
    unsigned n = 0, met = 0;
    char *why;
    (void)state;
    for (; (cls = wadi_expectation_class_at(n)); n++)
        if (!says(bench, cls->example, ""))
            fail_msg("the example of '%s' is not understood: %s", cls->words, cls->example);
    wad_bench_result *r =
        wad_bench_run(bench, &(wad_bench_options){.firmware_dir = FIRMWARE_DIR}, &why);
    if (!r)
        fail_msg("%s", why);
    assert_int_equal(r->n_verdicts, n);
    for (unsigned i = 0; i < n; i++) {
        const wad_verdict *v = &r->verdicts[i];
        cls = wadi_expectation_class_at(i);
        char *whole = g_strdup_printf("expect %s %s", v->subject, v->wanted);
        if (!*v->measured || (!cls->say && strcmp(whole, cls->example)))
            fail_msg("%s: '%s' measured '%s'", cls->example, whole, v->measured);
        bool is_lamps = cls->about == WADI_ABOUT_PIN || cls->about == WADI_ABOUT_INTERRUPT;
        if (is_lamps && !v->passed)
            fail_msg("%s: %s", cls->example, v->measured);
        met += v->passed;
        g_free(whole);
    }
    assert_true(met < n); /* a finding that is not there, a tone that is not */
    wad_bench_result_free(r);
    wad_bench_free(bench);
}

/* What a class has no use for is refused. */
static void no_operand_is_dropped(void **state)
{
    const wadi_expectation_class *cls;
    (void)state;
    for (unsigned i = 0; (cls = wadi_expectation_class_at(i)); i++) {
        wad_bench *bench = bench_of_all();
        if (says(bench, cls->example, " sideways"))
            fail_msg("'%s sideways' is accepted", cls->example);
        bool takes =
            cls->windowed && !strstr(cls->example, " from ") && !strstr(cls->example, " by ");
        bool is_current = g_str_has_prefix(cls->words, "current");
        if (!is_current && says(bench, cls->example, " from 1 s to 2 s") != takes)
            fail_msg("'%s from 1 s to 2 s' is %s", cls->example, takes ? "refused" : "accepted");
        wad_bench_free(bench);
    }
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(mistakes_name_their_place),
        cmocka_unit_test(unknown_board_says_where_it_looked),
        cmocka_unit_test(what_is_wrong_fails),
        cmocka_unit_test(what_is_right_passes),
        cmocka_unit_test(serial_lines_are_judged),
        cmocka_unit_test(each_single_pulse_is_judged),
        cmocka_unit_test(early_end_fails_the_bench),
        cmocka_unit_test(button_bounces_by_its_seed),
        cmocka_unit_test(a_pin_is_driven_from_outside),
        cmocka_unit_test(interrupts_are_captured),
        cmocka_unit_test(runs_are_the_same_to_the_byte),
        cmocka_unit_test(tap_and_json_carry_every_verdict),
        cmocka_unit_test(data_model_is_noted),
        cmocka_unit_test(every_expectation_has_an_example_that_runs),
        cmocka_unit_test(no_operand_is_dropped),
    };
    return cmocka_run_group_tests(tests, set_up, tear_down);
}
