/* SPDX-License-Identifier: MIT */
/* Captures made elsewhere: CSV of several kinds, expectations on them, two compared whose
 * differences were made by hand. */
#include <math.h>
#include <string.h>

#include "support.h"

#include "wadium/host/recording.h"

/* ---- CSV ---- */

typedef struct heard {
    GString *text;
} heard;

static void on_channel(void *ctx, unsigned number, const char *name)
{
    g_string_append_printf(((heard *)ctx)->text, "%u=%s ", number, name);
}

static void on_edge(void *ctx, unsigned channel, uint64_t ps, wad_level level)
{
    g_string_append_printf(((heard *)ctx)->text, "%llu:%u%c ", (unsigned long long)ps, channel,
                           "01z"[level]);
}

static void on_real_channel(void *ctx, unsigned number, const char *name)
{
    g_string_append_printf(((heard *)ctx)->text, "%u~%s ", number, name);
}

static void on_real(void *ctx, unsigned channel, uint64_t ps, double value)
{
    g_string_append_printf(((heard *)ctx)->text, "%llu:%u~%g ", (unsigned long long)ps, channel,
                           value);
}

static void on_end(void *ctx, uint64_t ps)
{
    g_string_append_printf(((heard *)ctx)->text, "end %llu", (unsigned long long)ps);
}

/* What is heard of a file with this text, or the message; g_free. */
static char *read_text(const char *text, const char *name)
{
    char *folder = test_folder(), *path = g_build_filename(folder, name, NULL);
    heard h = {g_string_new(NULL)};
    const wad_vcd_listener to = {on_channel, on_edge, on_real_channel, on_real, on_end, &h};
    wad_diags *diags = wad_diags_new();
    assert_true(g_file_set_contents(path, text, -1, NULL));
    if (!wad_recording_read(path, &to, diags)) {
        char *said = test_diags_text(diags);
        g_string_assign(h.text, said);
        g_free(said);
    }
    wad_diags_free(diags);
    g_free(path);
    test_remove(folder);
    return g_string_free(h.text, FALSE);
}

static void csv_files_of_several_kinds_are_read(void **state)
{
    static const struct {
        const char *text, *wanted;
    } files[] = {
        {"time,lamp,horn\n0,0,1.5\n1e-3,1,1.5\n2e-3,1,2\n",
         "0=lamp 0~horn 0:00 0:0~1.5 1000000000:01 2000000000:0~2 end 2000000000"},
        {"Time (ms);D0;D1\n0;0;1\n0,5;1;1\n", "is no time"},
        {"\"t [us]\";\"D0\"\n-2;0\n0;1\n3;0\n", "0=D0 0:00 2000000:01 5000000:00 end 5000000"},
        {"# made by hand\n0\t1\n0.000001\t0\n", "0=column1 0:01 1000000:00 end 1000000"},
        {"time_ns,a\n0,x\n5,1\n7,z\n", "0=a 0:0z 5000:01 7000:0z end 7000"},
        {"time,a\n1,0\n0.5,1\n", "the time goes back to 0.5"},
        {"time,a,b\n1,0\n", "the row is cut short: no value of b"},
        {"time,a\n0,0.5\n1,high\n", "'high' is no number"},
        {"time\n1\n", "no signals"},
        {"", "an empty file"},
        {"time,a\n", "no rows"},
    };
    (void)state;
    for (unsigned i = 0; i < G_N_ELEMENTS(files); i++) {
        char *got = read_text(files[i].text, "a.csv");
        if (!strstr(got, files[i].wanted))
            fail_msg("%u: %s", i, got);
        g_free(got);
    }
}

static void a_vcd_file_that_is_cut_short_says_so(void **state)
{
    (void)state;
    char *got = read_text("$timescale 1 ns $end\n$var wire 1 ! a $e", "a.vcd");
    assert_non_null(strstr(got, "a.vcd:"));
    g_free(got);
    got = read_text("$timescale 10 us $end\n$scope module m $end\n$var wire 1 ! a $end\n"
                    "$upscope $end\n$enddefinitions $end\n#0\n0!\n#3\n1!\n",
                    "a.vcd");
    assert_non_null(strstr(got, "0:00 30000000:01"));
    g_free(got);
}

/* ---- expectations on a recording ---- */

static wad_bench *bench_of(wad_board *board, const char *statements)
{
    wad_diags *diags = wad_diags_new();
    wad_bench *b = wad_bench_new("recorded", board);
    if (!wad_bench_say(b, statements, diags)) {
        char *text = test_diags_text(diags);
        fail_msg("%s", text);
    }
    wad_diags_free(diags);
    return b;
}

/* 1 kHz with 25 % from 0.3 s on, a glitch of 100 ns in every tenth period. */
static char *pulses(const char *folder)
{
    GString *text = g_string_new("time (us),D0,D7\n0,1,0\n");
    for (unsigned i = 0; i < 200; i++) {
        double t = 300000 + i * 1000.0;
        g_string_append_printf(text, "%.3f,1,1\n%.3f,1,0\n", t, t + 250);
        if (i % 10 == 0)
            g_string_append_printf(text, "%.3f,1,1\n%.3f,1,0\n", t + 500, t + 500.1);
    }
    char *path = g_build_filename(folder, "probe.csv", NULL);
    assert_true(g_file_set_contents(path, text->str, -1, NULL));
    g_string_free(text, TRUE);
    return path;
}

static void expectations_hold_on_a_recording(void **state)
{
    char *folder = test_folder(), *path = pulses(folder), *why = NULL;
    wad_board *board = test_board("skerry");
    wad_bench *b =
        bench_of(board, "capture LEVEL2\ncapture WARN as lamp\n"
                        "recorded level2 as \"D7\"\nrecorded lamp as \"D0\"\n"
                        "recorded glitches below 200 ns\nrecorded from rising level2 at 0 s\n"
                        "run 1 s\n"
                        "expect level2 frequency 1 kHz within 1 ppm\n"
                        "expect level2 duty 25 % within 0.1 points\n"
                        "expect level2 high 250 us within 1 ns\n"
                        "expect lamp is high at 10 ms\nexpect no findings\n");
    (void)state;
    wad_bench_result *r = wad_bench_judge(b, path, &why);
    if (!r)
        fail_msg("%s", why);
    test_passed(r);
    assert_int_equal(r->n_verdicts, 4); /* findings are not judged */
    assert_int_equal(r->n_notes, 2);
    if (!strstr(r->notes[1], "20 pulses shorter"))
        fail_msg("%s", r->notes[1]);
    wad_bench_result_free(r);
    wad_bench_free(b);
    /* without the filter every pulse counts, and the widths are not all alike */
    b = bench_of(board, "capture LEVEL2\nrecorded level2 as \"D7\"\nrun 1 s\n"
                        "expect level2 high 250 us within 1 us\n");
    r = wad_bench_judge(b, path, &why);
    assert_false(r->passed);
    wad_bench_result_free(r);
    wad_bench_free(b);
    /* a signal that is not there; an edge that never comes */
    b = bench_of(board, "capture LEVEL1\nrun 1 s\nexpect level1 edges 4\n");
    r = wad_bench_judge(b, path, &why);
    assert_false(r->passed);
    assert_string_equal(r->verdicts[0].measured, "not recorded");
    wad_bench_result_free(r);
    wad_bench_free(b);
    b = bench_of(
        board,
        "capture WARN as lamp\nrecorded lamp as \"D0\"\nrecorded from falling lamp\nrun 1 s\n"
        "expect lamp edges 4\n");
    assert_null(wad_bench_judge(b, path, &why));
    assert_non_null(strstr(why, "the edge that the bench counts from"));
    g_free(why);
    wad_bench_free(b);
    wad_board_free(board);
    g_free(path);
    test_remove(folder);
}

/* ---- two captures ---- */

typedef struct made {
    double ppm;      /* the second's time runs fast by this */
    double offset;   /* of one signal, in ps */
    double jitter;   /* of each edge, in ps, at the most */
    unsigned lost;   /* edges that the second lacks (pairs) */
    uint64_t starts; /* the second begins so much later */
} made;

/* A lamp at 2 Hz and a line at 1 kHz, and the same by another clock. */
static void make_captures(const made *m, GRand *rand, wad_capture **a, wad_capture **b)
{
    *a = wad_capture_new();
    *b = wad_capture_new();
    GArray *edges = g_array_new(FALSE, FALSE, sizeof(wad_edge_record));
    for (unsigned i = 0; i < 2; i++) {
        wad_capture_channel(*a, i ? "line" : "lamp");
        wad_capture_channel(*b, i ? "top.line" : "top.lamp");
    }
    for (unsigned i = 1; i < 4000; i++) {
        wad_edge_record e = {(uint64_t)i * 500000000, 1, i % 2 ? WAD_HIGH : WAD_LOW};
        if (i % 500 == 7) {
            const wad_edge_record lamp = {e.ps - 1000, 0, i / 500 % 2 ? WAD_LOW : WAD_HIGH};
            g_array_append_val(edges, lamp);
        }
        g_array_append_val(edges, e);
    }
    for (unsigned k = 0; k < 2; k++)
        for (unsigned i = 0; i < 2; i++)
            wad_capture_edge(k ? *b : *a, i, 0, WAD_LOW);
    for (guint i = 0; i < edges->len; i++) {
        const wad_edge_record *e = &g_array_index(edges, wad_edge_record, i);
        double t = (double)e->ps * (1 - m->ppm / 1e6) + (e->channel ? m->offset : 0);
        wad_capture_edge(*a, e->channel, e->ps, e->level);
        if (m->lost && e->channel && i > 1000 && i < 1000 + 2 * m->lost)
            continue;
        if (e->channel)
            t += (g_rand_double(rand) * 2 - 1) * m->jitter;
        wad_capture_edge(*b, e->channel, (uint64_t)(t + 0.5) + m->starts, e->level);
    }
    g_array_free(edges, TRUE);
}

static void differences_that_were_made_are_found(void **state)
{
    GRand *rand = g_rand_new_with_seed(11);
    (void)state;
    for (unsigned round = 0; round < 60; round++) {
        made m = {.starts = (uint64_t)g_rand_int_range(rand, 0, 1000) * 1000000};
        unsigned kind = round % 5;
        if (kind == 1)
            m.ppm = g_rand_double_range(rand, 20, 2000) * (g_rand_boolean(rand) ? 1 : -1);
        if (kind == 2)
            m.offset = g_rand_double_range(rand, 3e6, 150e6);
        if (kind == 3)
            m.lost = (unsigned)g_rand_int_range(rand, 1, 20);
        if (kind == 4)
            m.jitter = 30e6;
        wad_capture *a, *b;
        wad_captures_compared r;
        const wad_compare_options o = {.align = "lamp"};
        char *text;
        size_t size;
        FILE *f = open_memstream(&text, &size);
        make_captures(&m, rand, &a, &b);
        bool good = wad_capture_compare(a, 2000000000000, b, 2000000000000 + m.starts, &o, &r, f);
        fclose(f);
        bool fine = good && r.signals == 2 && r.apart == 0 &&
                    fabs(r.ppm - m.ppm) < (m.jitter > 0 ? 2 : 0.02 * fabs(m.ppm) + 0.2) &&
                    r.different == (kind >= 3) && r.shifted == (kind == 2) &&
                    (kind == 1 || r.shift_ps == m.starts);
        if (!fine)
            fail_msg("kind %u, %g ppm: %g, %u different, %u shifted\n%s", kind, m.ppm, r.ppm,
                     r.different, r.shifted, text);
        free(text);
        wad_capture *both = wad_capture_overlay(a, b, &r, &o);
        assert_int_equal(wad_capture_channels(both), 4);
        assert_int_equal(wad_capture_edges(both), wad_capture_edges(a) + wad_capture_edges(b));
        wad_capture_free(both);
        wad_capture_free(a);
        wad_capture_free(b);
    }
    g_rand_free(rand);
}

static void captures_with_nothing_in_common_say_so(void **state)
{
    wad_capture *a = wad_capture_new(), *b = wad_capture_new();
    wad_captures_compared r;
    const wad_compare_options o = {0};
    char *text;
    size_t size;
    FILE *f = open_memstream(&text, &size);
    (void)state;
    wad_capture_channel(a, "x");
    wad_capture_channel(b, "y");
    assert_false(wad_capture_compare(a, 1000, b, 1000, &o, &r, f));
    fclose(f);
    assert_non_null(strstr(text, "no signal has the same name in both"));
    free(text);
    wad_capture_free(a);
    wad_capture_free(b);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(csv_files_of_several_kinds_are_read),
        cmocka_unit_test(a_vcd_file_that_is_cut_short_says_so),
        cmocka_unit_test(expectations_hold_on_a_recording),
        cmocka_unit_test(differences_that_were_made_are_found),
        cmocka_unit_test(captures_with_nothing_in_common_say_so),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
