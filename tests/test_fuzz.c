/* SPDX-License-Identifier: MIT */
/*
 * Readers against damaged files: whatever comes in, there is an answer, and a
 * refusal says why. Seeds are fixed; WADIUM_FUZZ_ROUNDS runs longer.
 */
#include <string.h>

#include "support.h"
#include "wadium/host/collect.h"
#include "wadium/host/decode.h"
#include "wadium/host/recording.h"
#include "wadium/host/snapshot.h"

static unsigned rounds(unsigned usual)
{
    const char *given = g_getenv("WADIUM_FUZZ_ROUNDS");
    return given ? (unsigned)g_ascii_strtoull(given, NULL, 10) : usual;
}

/* Cuts, doubles, swaps and overwrites pieces; sometimes with tokens of the languages. */
static void damage(GRand *rand, GString *text)
{
    static const char *const bits[] = {"{",
                                       "}",
                                       "(",
                                       ")",
                                       "[",
                                       "]",
                                       "\"",
                                       ",",
                                       ":",
                                       "..",
                                       "**",
                                       "0xFFFFFFFFFFFFFFFFF",
                                       "9223372036854775807",
                                       "-",
                                       "/ 0",
                                       "reg",
                                       "chip",
                                       "pick",
                                       "law",
                                       "\\\n",
                                       "\n",
                                       "\xff",
                                       "$end",
                                       "#",
                                       "\0x",
                                       "acts as counter",
                                       "[4096]",
                                       "99 X rw"};
    unsigned n = (unsigned)g_rand_int_range(rand, 1, 6);
    while (n-- && text->len > 2) {
        gsize at = (gsize)g_rand_int_range(rand, 0, (int)text->len);
        gsize len = (gsize)g_rand_int_range(rand, 1, 40);
        len = MIN(len, text->len - at);
        switch (g_rand_int_range(rand, 0, 4)) {
        case 0:
            g_string_erase(text, (gssize)at, (gssize)len);
            break;
        case 1: {
            char *piece = g_strndup(text->str + at, len);
            g_string_insert_len(text, g_rand_int_range(rand, 0, (int)text->len), piece,
                                (gssize)strlen(piece));
            g_free(piece);
            break;
        }
        case 2:
            text->str[at] = (char)g_rand_int_range(rand, 1, 256);
            break;
        default:
            g_string_insert(text, (gssize)at,
                            bits[g_rand_int_range(rand, 0, (int)G_N_ELEMENTS(bits))]);
        }
    }
}

static char *load(const char *path)
{
    char *text, *full = g_strconcat(SOURCE_DIR, "/", path, NULL);
    if (!g_file_get_contents(full, &text, NULL, NULL))
        fail_msg("cannot read %s", full);
    g_free(full);
    return text;
}

/* Reads one damaged text; true when it was accepted. */
typedef bool (*reader)(const char *text, size_t size, wad_diags *diags);

static void fuzz(const char *path, unsigned n, unsigned seed, reader read)
{
    char *good = load(path);
    GRand *rand = g_rand_new_with_seed(seed);
    unsigned accepted = 0;
    for (unsigned i = 0; i < n; i++) {
        GString *text = g_string_new(good);
        wad_diags *diags = wad_diags_new();
        damage(rand, text);
        if (read(text->str, text->len, diags))
            accepted++;
        else if (!wad_diags_errors(diags))
            fail_msg("%s: round %u was refused without a word", path, i);
        wad_diags_free(diags);
        g_string_free(text, TRUE);
    }
    assert_true(accepted < n);
    g_rand_free(rand);
    g_free(good);
}

/* A sheet that is accepted must also be shown, linted, generated and simulated. */
static bool read_sheet(const char *text, size_t size, wad_diags *diags)
{
    char *why = NULL;
    wad_sheet *s = wad_sheet_parse(text, size, "f.sheet", diags);
    if (!s)
        return false;
    FILE *null = fopen("/dev/null", "w");
    wad_sheet_lint(s, diags);
    wad_show_chip(s, null);
    wad_emit_header(s, null);
    wad_emit_roles(s, null);
    wad_emit_vectors(s, null);
    fclose(null);
    wad_sim *sim = wad_sim_new(s, &why);
    wad_sim_free(sim);
    g_free(why);
    wad_sheet_free(s);
    return true;
}

static bool read_board(const char *text, size_t size, wad_diags *diags)
{
    char *name = g_strdup(SOURCE_DIR "/boards/f.board");
    wad_board *b = wad_board_parse(text, size, name, diags);
    bool ok = b != NULL;
    wad_board_free(b);
    g_free(name);
    return ok;
}

static bool read_bench(const char *text, size_t size, wad_diags *diags)
{
    char *name = g_strdup(SOURCE_DIR "/examples/lamp/f.bench");
    wad_bench_list *list = wad_bench_parse(text, size, name, diags);
    bool ok = list != NULL;
    wad_bench_list_free(list);
    g_free(name);
    return ok;
}

static void ignore_channel(void *ctx, unsigned number, const char *name)
{
    (void)ctx;
    (void)number;
    (void)name;
}

static void ignore_edge(void *ctx, unsigned channel, uint64_t ps, wad_level level)
{
    (void)ctx;
    (void)channel;
    (void)ps;
    (void)level;
}

static bool read_vcd(const char *text, size_t size, wad_diags *diags)
{
    wad_vcd_listener to = {.channel = ignore_channel, .edge = ignore_edge};
    return wad_vcd_parse(text, size, "f.vcd", &to, diags);
}

static void damaged_sheets(void **state)
{
    (void)state;
    fuzz("tests/golden/small.sheet", rounds(1500), 31, read_sheet);
    fuzz("chips/corran32.sheet", rounds(150), 32, read_sheet);
    fuzz("chips/corran16.sheet", rounds(250), 36, read_sheet);
    fuzz("chips/corran8.sheet", rounds(250), 37, read_sheet);
    fuzz("chips/corran32-rev-a.sheet", rounds(150), 38, read_sheet);
}

static void damaged_boards(void **state)
{
    (void)state;
    fuzz("boards/skerry.board", rounds(150), 33, read_board);
}

static void damaged_benches(void **state)
{
    (void)state;
    fuzz("examples/lamp/lamp.bench", rounds(150), 34, read_bench);
    fuzz("examples/selftest/selftest.bench", rounds(150), 39, read_bench);
    fuzz("examples/echo/echo.bench", rounds(150), 40, read_bench);
    fuzz("examples/sampled/sampled.bench", rounds(150), 43, read_bench);
    fuzz("examples/table/table.bench", rounds(150), 44, read_bench);
    fuzz("examples/thermometer/thermometer.bench", rounds(150), 41, read_bench);
    fuzz("examples/tide-log/tide_log.bench", rounds(150), 42, read_bench);
}

static void damaged_captures(void **state)
{
    (void)state;
    fuzz("tests/golden/other.vcd", rounds(20000), 35, read_vcd);
}

/* Edges at random, close together and far apart, near the end of time: bytes come out or a reason.
 */
static void random_edges_are_decoded(void **state)
{
    GRand *rand = g_rand_new_with_seed(41);
    char *text;
    size_t size;
    (void)state;
    for (unsigned round = 0; round < rounds(400); round++) {
        wad_serial_format f = {{g_rand_int_range(rand, 0, 3) ? 0 : 9600, 1},
                               5 + round % 5,
                               "NEOMS"[round % 5],
                               2 + round % 3};
        wad_capture *c = wad_capture_new();
        uint64_t ps = round % 7 ? 0 : UINT64_MAX / 2;
        wad_capture_channel(c, "line");
        for (int i = g_rand_int_range(rand, 0, 300); i > 0; i--) {
            wad_capture_edge(c, 0, ps, (wad_level)g_rand_int_range(rand, 0, 3));
            ps += (uint64_t)1 << g_rand_int_range(rand, 0, 40);
        }
        char *why = NULL;
        wad_serial_decoded *d = wad_serial_decode(c, 0, ps, &f, round % 2, &why);
        assert_true(d || why);
        if (d) {
            FILE *out = open_memstream(&text, &size);
            wad_show_serial(d, "line", out);
            fclose(out);
            free(text);
        }
        wad_serial_decoded_free(d);
        wad_capture_free(c);
        g_free(why);
    }
    g_rand_free(rand);
}

/* ---- files of other instruments, and what comes back from boards ---- */

static char *scratch; /* a file that damaged texts go through */

static void take_recording(void *ctx, unsigned channel, uint64_t ps, wad_level level)
{
    (void)ctx;
    (void)channel;
    (void)ps;
    assert_true(level <= WAD_FLOATING);
}

static void read_recording(GString *text)
{
    const wad_vcd_listener to = {.edge = take_recording};
    wad_diags *diags = wad_diags_new();
    assert_true(g_file_set_contents(scratch, text->str, (gssize)text->len, NULL));
    if (!wad_recording_read(scratch, &to, diags))
        assert_true(wad_diags_errors(diags) > 0);
    wad_diags_free(diags);
}

static void read_snapshot(GString *text)
{
    char *note = NULL, *why = NULL;
    static wad_sheet *sheet;
    if (!sheet)
        sheet = test_chip("corran32");
    assert_true(g_file_set_contents(scratch, text->str, (gssize)text->len, NULL));
    wad_snapshot *s = wad_snapshot_read(sheet, scratch, &note, &why);
    assert_true((s == NULL) == (why != NULL));
    wad_snapshot_free(s);
    g_free(note);
    g_free(why);
}

static void read_trace(GString *text)
{
    char *why = NULL;
    wad_traces_compared r;
    static wad_sheet *sheet;
    FILE *out = fopen("/dev/null", "w");
    if (!sheet)
        sheet = test_chip("corran32");
    assert_true(g_file_set_contents(scratch, text->str, (gssize)text->len, NULL));
    assert_true(wad_trace_compare(sheet, scratch, scratch, &r, out, &why) || why);
    g_free(why);
    fclose(out);
}

static void read_checks(GString *text)
{
    wad_collect *c = wad_collect_new();
    wad_collect_feed(c, text->str, text->len, 1);
    wad_collect_end(c);
    assert_true(wad_collect_passed(c) || wad_collect_trouble(c, 0) || wad_collect_count(c));
    wad_collect_free(c);
}

static void damaged_texts(const char *good, unsigned n, unsigned seed, void (*take)(GString *text))
{
    GRand *rand = g_rand_new_with_seed(seed);
    for (unsigned round = 0; round < n; round++) {
        GString *text = g_string_new(good);
        if (round)
            damage(rand, text);
        take(text);
        g_string_free(text, TRUE);
    }
    g_rand_free(rand);
}

static void what_comes_from_boards(void **state)
{
    char *folder = test_folder();
    (void)state;
    scratch = g_build_filename(folder, "damaged", NULL);
    damaged_texts("time (us),D0,D1,volts\n0,0,1,0.5\n1.5,1,1,0.25\n2,z,0,1e-3\n", rounds(4000), 51,
                  read_recording);
    damaged_texts(
        "{\"wadium\":\"snapshot 1\",\"chip\":\"Corran32\",\"sheet\":\"x\",\"source\":\"y\","
        "\"registers\":{\"CNT0.CTRL\":\"0x11\",\"PINA.FUNC[1]\":\"7\"},"
        "\"left out\":{\"UART0.RX\":\"reading it\"}}",
        rounds(4000), 52, read_snapshot);
    damaged_texts(
        "time_ps,file,line,function,access,register,value,changes\n"
        "1,a.c,3,main,write,CNT0.CTRL,0x11,\"EN 0>1\"\n2,a.c,4,main,read,CLK.STAT,0x1,\"\"\n",
        rounds(2000), 53, read_trace);
    damaged_texts(
        "\r\nTAP version 13\r\n# wadium checks of Skerry #f0\r\nok 1 - a #42\r\nnot ok 2 - b "
        "# SKIP c #11\r\n1..2 #f9\r\n",
        rounds(20000), 54, read_checks);
    g_free(scratch);
    test_remove(folder);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(damaged_sheets),           cmocka_unit_test(damaged_boards),
        cmocka_unit_test(damaged_benches),          cmocka_unit_test(damaged_captures),
        cmocka_unit_test(random_edges_are_decoded), cmocka_unit_test(what_comes_from_boards),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
