/* SPDX-License-Identifier: MIT */
/* Serial lines as a bench tells them: ports of three chips, wires that fail, noise, flow control,
 * files, and captured pins decoded. */
#include <math.h>
#include <string.h>

#include "support.h"
#include "wadium/host/decode.h"

#define S  WAD_PS_PER_S
#define MS (S / 1000)

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

static wad_bench *bench;

static wad_bench_result *run(wad_board *on, const char *firmware, const char *const *say)
{
    return test_run(on, &bench, firmware, say);
}

static void end(wad_bench_result *r)
{
    wad_bench_result_free(r);
    wad_bench_free(bench);
}

static void must_pass(wad_board *on, const char *firmware, const char *const *say)
{
    wad_bench_result *r = run(on, firmware, say);
    test_passed(r);
    end(r);
}

static bool has(const wad_bench_result *r, wad_finding_kind kind)
{
    for (unsigned i = 0; i < wad_sim_finding_count(r->sim); i++)
        if (wad_sim_finding(r->sim, i)->kind == kind)
            return true;
    return false;
}

/* ---- three ports: the firmware answers each byte with the next one; ESC and a character with the
 * counts, by printf, and that character, by getchar ---- */

/* What the counts say after: received, sent, overruns, framing, parity, and the character. */
static void counts(wad_board *on, const char *firmware, const char *setting, const char *text,
                   const char *trouble, const char *want)
{
    char *sends = g_strdup_printf("send LINK \"%s\" at 20 ms", text);
    char *line = g_strdup_printf("uart LINK at 2400 %s", setting);
    char *wants = g_strdup_printf("expect LINK says \"%s\"", want);
    const char *const say[] = {
        line, sends, "send LINK \"\\x1b?\" at 400 ms", trouble, "run 800 ms", wants, NULL};
    must_pass(on, firmware, say);
    g_free(sends);
    g_free(line);
    g_free(wants);
}

static void every_error_is_counted_whatever_clears_its_flag(void **state)
{
    (void)state;
    counts(board, "serial_32", "format \"8M1.5\"", "abc", "seed 1", "bcd5 3 0 0 0 ?");
    counts(board16, "serial_16", "format \"8O2\"", "abc", "seed 1", "bcd5 3 0 0 0 ?");
    counts(board8, "serial_8", "", "abc", "seed 1", "bcd5 3 0 0 0 ?");
    /* a stop bit held low: bits are 417 us, the second byte's stop bit is 24 to 25.5 ms in */
    counts(board8, "serial_8", "", "abc", "stick LINK RX low at 27.8 ms for 0.4 ms", "5 3 0 1 0 ?");
    counts(board16, "serial_16", "format \"8O1\"", "abc",
           "stick LINK RX low at 28.77 ms for 0.37 ms", "5 3 0 1 0 ?");
    /* 'a' is odd with three ones: its parity bit is 0, and stuck high it is wrong */
    counts(board16, "serial_16", "format \"8O2\"", "a", "stick LINK RX high at 23.8 ms for 0.3 ms",
           "3 1 0 0 1 ?");
    /* deaf while four more bytes come: one byte waits, one is overrun, the rest is not received */
    counts(board16, "serial_16", "format \"8O2\"", "#abcd", "seed 1", " 1 0 0 ?");
    counts(board8, "serial_8", "", "#abcd", "seed 1", " 1 0 0 ?");
}

/* ---- wires ---- */

static unsigned heard_with(const char *trouble, wad_finding_kind *first)
{
    const char *const say[] = {"uart LINK at 2400 format \"8M1.5\"",
                               "send LINK \"ABCDEFGH\" at 20 ms",
                               trouble,
                               "run 200 ms",
                               "expect LINK bytes 8",
                               NULL};
    wad_bench_result *r = run(board, "serial_32", say);
    unsigned n = 0;
    sscanf(r->verdicts[0].measured, "%u", &n);
    *first = wad_sim_finding_count(r->sim) ? wad_sim_finding(r->sim, 0)->kind : (wad_finding_kind)0;
    end(r);
    return n;
}

static void a_broken_wire_is_noticed_at_either_end(void **state)
{
    wad_finding_kind first;
    (void)state;
    assert_int_equal(heard_with("seed 1", &first), 8);
    assert_int_equal(first, 0);
    assert_int_equal(heard_with("cut LINK TX", &first), 0);
    assert_int_equal(first, 0); /* the chip cannot know */
    assert_int_equal(heard_with("swap LINK", &first), 0);
    assert_true(heard_with("cut LINK at 38 ms", &first) < 5);
    assert_int_equal(heard_with("stick LINK RX high", &first), 0);
    (void)heard_with("stick LINK RX low at 10 ms", &first);
    assert_int_equal(first, WAD_FINDING_LINE_INVERTED);
    /* one bit turned over: a wrong byte or parity bit, and the others come */
    assert_int_equal(heard_with("glitch LINK RX at 32 ms for 0.42 ms", &first), 8);
    assert_true(first == WAD_FINDING_PARITY || first == WAD_FINDING_FRAMING || first == 0);
    /* shorter than a third of the samples that decide: nothing happens */
    assert_int_equal(heard_with("glitch LINK RX at 32 ms for 10 us", &first), 8);
    assert_int_equal(first, 0);
}

/* Pulses in one bit of a hundred: bytes are lost or wrong, but the line goes on. */
static void noise_costs_bytes_and_not_the_line(void **state)
{
    const char *const say[] = {"uart LINK at 2400 format \"8M1.5\"",
                               "send LINK \"ABCDEFGHABCDEFGHABCDEFGHABCDEFGH\" at 20 ms",
                               "noise LINK 5 %",
                               "send LINK \"ABCDEFGHABCDEFGHABCDEFGHABCDEFGH\" at 400 ms",
                               "run 1 s",
                               "expect LINK bytes 64",
                               NULL};
    (void)state;
    wad_bench_result *r = run(board, "serial_32", say);
    unsigned n = 0;
    sscanf(r->verdicts[0].measured, "%u", &n);
    assert_true(n > 48);
    assert_true(has(r, WAD_FINDING_PARITY) || has(r, WAD_FINDING_FRAMING));
    end(r);
}

static void a_wire_looped_back_is_heard(void **state)
{
    const char *const say[] = {"uart LINK at 2400 format \"8M1.5\"",
                               "loop LINK",
                               "stick LINK RX low at 20 ms for 5 ms",
                               "run 500 ms",
                               "expect LINK bytes 40",
                               NULL};
    (void)state;
    /* the break is answered with 0x01, which comes back and is answered with 0x02, and so on */
    wad_bench_result *r = run(board, "serial_32", say);
    unsigned n = 0;
    sscanf(r->verdicts[0].measured, "%u", &n);
    assert_true(n >= 20);
    end(r);
}

static void a_peer_does_as_the_chip_does(void **state)
{
    const char *const say[] = {"uart LINK as chip",
                               "send LINK \"ABC\" at 20 ms",
                               "run 200 ms",
                               "expect LINK says \"BCD\"",
                               "expect LINK errors 0",
                               "expect no findings",
                               NULL};
    (void)state;
    must_pass(board, "serial_32", say);
    must_pass(board16, "serial_16", say);
    must_pass(board8, "serial_8", say);
}

/* Five percent off: nothing goes through, and both ends say why. */
static void a_peer_far_off_is_named_with_its_baud(void **state)
{
    const char *const say[] = {"uart LINK at 2400 format \"8M1.5\" off 6 %",
                               "send LINK \"ABCDEFGH\" at 20 ms", "run 200 ms", NULL};
    (void)state;
    wad_bench_result *r = run(board, "serial_32", say);
    const wad_finding *off = NULL;
    for (unsigned i = 0; i < wad_sim_finding_count(r->sim); i++)
        if (wad_sim_finding(r->sim, i)->kind == WAD_FINDING_BAUD_OFF)
            off = wad_sim_finding(r->sim, i);
    assert_non_null(off);
    assert_non_null(strstr(off->what, "LINK at 2544"));
    end(r);
}

/* ---- flow control ---- */

/* A service plug with all four wires. */
static wad_board *wired(void)
{
    static const char text[] =
        "board Service {\n"
        "    summary \"service plug\"\n"
        "    chip Corran32\n"
        "    part LAMP lamp \"all sent\" on PA0 active high\n"
        "    part WARN lamp \"not sent\" on PC3 active high\n"
        "    part PLUG uart \"service\" { TX PA9, RX PA10, RTS PA12, CTS PA13 }\n"
        "}\n";
    wad_diags *diags = wad_diags_new();
    wad_board *b = wad_board_parse(text, strlen(text), SOURCE_DIR "/boards/service.board", diags);
    wad_diags_print(diags, stderr);
    wad_diags_free(diags);
    assert_non_null(b);
    return b;
}

/* Thirty bytes come while nobody looks, and a queue holds eight: RTS holds the sender, all arrive.
 */
static void rts_holds_the_other_end(void **state)
{
    const char *const say[] = {"uart PLUG at 9600",
                               "send PLUG \"abcdefghijklmnopqrstuvwxyz0123\" at 5 ms",
                               "capture LAMP",
                               "run 600 ms",
                               "expect lamp is high at 300 ms",
                               "expect PLUG says \"789abcdefghijklmnopqrstuvwxyz0123\"",
                               "expect PLUG errors 0",
                               "expect no findings",
                               NULL};
    (void)state;
    wad_board *on = wired();
    must_pass(on, "flow_control", say);
    wad_board_free(on);
}

/* CTS that is never released: a status in time, no hang, and nothing is said; and one that is
 * released late. */
static void cts_holds_the_chip(void **state)
{
    const char *const never[] = {"uart PLUG at 9600",
                                 "hold PLUG at 0 s",
                                 "capture WARN",
                                 "run 1 s",
                                 "expect warn is low at 390 ms",
                                 "expect warn is high at 410 ms",
                                 "expect PLUG bytes 0",
                                 NULL};
    const char *const late[] = {"uart PLUG at 9600",
                                "hold PLUG at 190 ms for 70 ms",
                                "capture LAMP",
                                "run 1 s",
                                "expect lamp is low at 285 ms",
                                "expect lamp is high at 310 ms",
                                "expect PLUG bytes 40",
                                "expect no findings",
                                NULL};
    (void)state;
    wad_board *on = wired();
    must_pass(on, "flow_control", never);
    must_pass(on, "flow_control", late);
    wad_board_free(on);
}

/* A break that begins in the middle of a byte: that byte is lost, the break and what follows are
 * not. */
static void a_break_in_the_middle_of_a_frame(void **state)
{
    (void)state;
    /* bits of 417 us from 20 ms on: 'b' begins at 24.17 ms; low until 'c' and 'd' have gone */
    const char *const say[] = {"uart LINK at 2400",
                               "send LINK \"abcd\" at 20 ms",
                               "stick LINK RX low at 26 ms for 11 ms",
                               "send LINK \"efg\" at 60 ms",
                               "send LINK \"\\x1b?\" at 200 ms",
                               "run 400 ms",
                               "expect LINK says \"fgh\"",
                               NULL};
    must_pass(board8, "serial_8", say);
}

/* ---- files ---- */

static void files_go_in_and_come_out(void **state)
{
    char *in = g_strdup_printf("%s/tests/line_in.bin", BUILD_DIR);
    char *out = g_strdup_printf("%s/tests/line_out.bin", BUILD_DIR), *text = NULL;
    char *sends = g_strdup_printf("send LINK file \"%s\" at 20 ms", in);
    char *keeps = g_strdup_printf("keep LINK in \"%s\"", out);
    const char *const say[] = {"uart LINK as chip", sends, keeps, "run 1500 ms", NULL};
    gsize n = 0;
    (void)state;
    uint8_t bytes[250], want[250];
    unsigned k = 0;
    for (unsigned i = 0; i < 250; i++) {
        bytes[i] = (uint8_t)(i == 27 || i == '#' ? 0 : i);
        want[k++] = (uint8_t)(bytes[i] + 1);
    }
    assert_true(g_file_set_contents(in, (const char *)bytes, sizeof bytes, NULL));
    must_pass(board, "serial_32", say);
    assert_true(g_file_get_contents(out, &text, &n, NULL));
    assert_int_equal(n, 250);
    assert_memory_equal(text, want, 250);
    g_free(text);
    g_free(in);
    g_free(out);
    g_free(sends);
    g_free(keeps);
}

static void what_cannot_be_kept_fails_the_bench(void **state)
{
    const char *const say[] = {"uart LINK as chip", "keep LINK in \"/nowhere/at/all\"", "run 10 ms",
                               NULL};
    (void)state;
    wad_bench_result *r = run(board, "serial_32", say);
    assert_false(r->passed);
    assert_true(r->n_notes > 0);
    assert_non_null(strstr(r->notes[0], "what LINK heard cannot be kept"));
    end(r);
}

static void slips_in_a_bench_are_named(void **state)
{
    static const test_slip slips[] = {
        {"uart WARN at 9600", "no part of that name with wires TX and RX"},
        {"send OTHER \"a\" at 1 s", "no such serial line yet"},
        {"send LINK file \"no such file\" at 1 s", "No such file"},
        {"stick LINK low at 1 s", "name the wire"},
        {"glitch LINK RX at 1 s", "say how long"},
        {"cut LINK RX for 0 s", "it must last some time"},
        {"hold LINK at 1 s", "no wire CTS"},
        {"noise LINK 120 %", "0 % to 100 %"},
        {"uart LINK at 9600", "has its other end already"},
    };
    static const test_slip first = {"uart LINK at 9600 format \"8X1\"", "a format is data bits"};
    (void)state;
    test_slips(board, NULL, &first, 1);
    test_slips(board, "uart LINK at 9600", slips, G_N_ELEMENTS(slips));
}

/* ---- captured pins ---- */

typedef struct line {
    wad_capture *capture;
    double ps, bit;
} line;

static void level(line *l, double bits, bool high)
{
    wad_capture_edge(l->capture, 0, (uint64_t)l->ps, high ? WAD_HIGH : WAD_LOW);
    l->ps += bits * l->bit;
}

/* Independent of the library's own encoder: bit by bit, with a jitter of up to a tenth. */
static void frame(line *l, GRand *rand, unsigned data, unsigned bits, char parity, double stops)
{
    unsigned ones = 0;
    level(l, 1, false);
    for (unsigned i = 0; i < bits; i++) {
        ones += data >> i & 1;
        level(l, 1 + g_rand_double_range(rand, -0.03, 0.03), data >> i & 1);
    }
    if (parity != 'N')
        level(l, 1, parity == 'E' ? ones % 2 : parity == 'O' ? !(ones % 2) : parity == 'M');
    level(l, stops, true);
}

static void every_format_is_decoded_and_its_baud_found(void **state)
{
    static const double bauds[] = {300, 9600, 31250, 115200, 1e6, 123456};
    static const char parities[] = "NEOMS";
    GRand *rand = g_rand_new_with_seed(5);
    (void)state;
    for (unsigned i = 0; i < 120; i++) {
        wad_serial_format f = {{0, 1}, 5 + i % 5, parities[i % 5], 2 + i % 3};
        line l = {wad_capture_new(), 1e9, 1e12 / bauds[i % 6]};
        unsigned sent[60];
        char *why;
        wad_capture_channel(l.capture, "line");
        wad_capture_edge(l.capture, 0, 0, WAD_HIGH);
        for (unsigned k = 0; k < 60; k++) {
            sent[k] = (unsigned)g_rand_int(rand) & ((1u << f.bits) - 1);
            frame(&l, rand, sent[k], f.bits, f.parity, f.stop_halves / 2.0);
            if (k % 7 == 0)
                l.ps += g_rand_double_range(rand, 0, 30) * l.bit;
        }
        wad_serial_decoded *d =
            wad_serial_decode(l.capture, 0, (uint64_t)(l.ps + 100 * l.bit), &f, false, &why);
        assert_non_null(d);
        double found = (double)d->format.baud.num / (double)d->format.baud.den;
        if (fabs(found / bauds[i % 6] - 1) > 0.01)
            fail_msg("case %u: %g found, %g sent", i, found, bauds[i % 6]);
        assert_int_equal(d->n_bytes, 60);
        assert_int_equal(d->framing + d->parity + d->breaks, 0);
        for (unsigned k = 0; k < 60; k++)
            assert_int_equal(d->bytes[k].data, sent[k]);
        wad_serial_decoded_free(d);
        wad_capture_free(l.capture);
    }
    g_rand_free(rand);
}

static void decoded_errors_are_told_apart(void **state)
{
    wad_serial_format f = {{9600, 1}, 8, 'E', 2};
    GRand *rand = g_rand_new_with_seed(6);
    line l = {wad_capture_new(), 1e9, 1e12 / 9600};
    char *why, *text;
    size_t size;
    (void)state;
    wad_capture_channel(l.capture, "line");
    wad_capture_edge(l.capture, 0, 0, WAD_LOW); /* inverted: it rests low */
    for (unsigned k = 0; k < 4; k++) {
        line upright = l;
        upright.capture = wad_capture_new();
        wad_capture_channel(upright.capture, "line");
        frame(&upright, rand, 'a' + k, 8, k == 1 ? 'O' : 'E', 1);
        if (k == 2) { /* the stop bit low, then a break */
            upright.ps -= upright.bit;
            level(&upright, 1, false);
            level(&upright, 3, true);
            level(&upright, 20, false);
            level(&upright, 3, true);
        }
        wad_cursor at = {0};
        wad_edge_record e;
        while (wad_capture_next(upright.capture, &at, &e))
            wad_capture_edge(l.capture, 0, e.ps, e.level == WAD_LOW ? WAD_HIGH : WAD_LOW);
        l.ps = upright.ps;
        wad_capture_free(upright.capture);
    }
    wad_serial_decoded *d =
        wad_serial_decode(l.capture, 0, (uint64_t)(l.ps + 100 * l.bit), &f, true, &why);
    assert_non_null(d);
    assert_int_equal(d->n_bytes, 5);
    assert_int_equal(d->parity, 1);
    assert_int_equal(d->framing, 1);
    assert_int_equal(d->breaks, 1);
    assert_true(d->bytes[1].parity && !d->bytes[1].framing);
    assert_true(d->bytes[2].framing && !d->bytes[2].is_break);
    assert_true(d->bytes[3].is_break);
    assert_int_equal(d->bytes[4].data, 'd');
    FILE *out = open_memstream(&text, &size);
    wad_show_serial(d, "line", out);
    fclose(out);
    assert_non_null(strstr(text, "^^ parity error\n"));
    assert_non_null(strstr(text, "^^ framing error: the stop bit is low\n"));
    assert_non_null(strstr(text, "^^ break\n"));
    assert_non_null(strstr(text, "5 bytes, 1 framing error, 1 parity error, 1 break\n"));
    free(text);
    wad_serial_decoded_free(d);
    wad_capture_free(l.capture);
    g_rand_free(rand);
}

static void too_few_edges_are_said(void **state)
{
    wad_serial_format f = {{0, 1}, 8, 'N', 2};
    wad_capture *c = wad_capture_new();
    char *why;
    (void)state;
    wad_capture_channel(c, "line");
    wad_capture_edge(c, 0, 0, WAD_HIGH);
    wad_capture_edge(c, 0, 100, WAD_LOW);
    assert_null(wad_serial_decode(c, 0, 1000, &f, false, &why));
    assert_non_null(strstr(why, "too few"));
    g_free(why);
    wad_capture_free(c);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(every_error_is_counted_whatever_clears_its_flag),
        cmocka_unit_test(a_broken_wire_is_noticed_at_either_end),
        cmocka_unit_test(noise_costs_bytes_and_not_the_line),
        cmocka_unit_test(a_wire_looped_back_is_heard),
        cmocka_unit_test(a_peer_does_as_the_chip_does),
        cmocka_unit_test(a_peer_far_off_is_named_with_its_baud),
        cmocka_unit_test(rts_holds_the_other_end),
        cmocka_unit_test(cts_holds_the_chip),
        cmocka_unit_test(a_break_in_the_middle_of_a_frame),
        cmocka_unit_test(files_go_in_and_come_out),
        cmocka_unit_test(what_cannot_be_kept_fails_the_bench),
        cmocka_unit_test(slips_in_a_bench_are_named),
        cmocka_unit_test(every_format_is_decoded_and_its_baud_found),
        cmocka_unit_test(decoded_errors_are_told_apart),
        cmocka_unit_test(too_few_edges_are_said),
    };
    return cmocka_run_group_tests(tests, set_up, tear_down);
}
