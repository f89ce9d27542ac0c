/* SPDX-License-Identifier: MIT */
/* Volts of the bench: shapes, measurements against known signals, files, what cannot be said. */
#include <math.h>
#include <string.h>

#include "support.h"
#include "wadium/host/model.h"

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

/* ---- tones: known amplitude, frequency and harmonics ---- */

static void a_tone_is_measured_as_it_was_made(void **state)
{
    static const double hz[] = {440, 1234.5678, 97.3};
    static const double third[] = {0, 0.01, 0.1};
    enum { N = 50000 };
    wad_sample *s = g_new(wad_sample, N);
    (void)state;
    for (unsigned i = 0; i < G_N_ELEMENTS(hz); i++)
        for (unsigned k = 0; k < G_N_ELEMENTS(third); k++) {
            wad_tone t;
            for (unsigned n = 0; n < N; n++) {
                double x = 2 * M_PI * hz[i] * n / N; /* one second */
                s[n] = (wad_sample){WAD_PS_PER_S / N * n,
                                    1.65 + 1.2 * sin(x) + 1.2 * third[k] * sin(3 * x + 1)};
            }
            assert_true(wad_tone_measure(s, N, 0, WAD_PS_PER_S, &t));
            if (fabs(t.hz / hz[i] - 1) > 1e-5 || fabs(t.amplitude / 1.2 - 1) > 2e-3 ||
                fabs(t.mean - 1.65) > 2e-3 || fabs(t.distortion - third[k]) > 1e-3 + third[k] / 50)
                fail_msg("%g Hz, third %g: %g Hz, %g V, mean %g V, %g", hz[i], third[k], t.hz,
                         t.amplitude, t.mean, t.distortion);
        }
    g_free(s);
}

static void what_has_no_tone_is_said_to_have_none(void **state)
{
    wad_sample flat[32];
    wad_tone t;
    (void)state;
    for (unsigned i = 0; i < 32; i++)
        flat[i] = (wad_sample){i * 1000, 2.5};
    assert_false(wad_tone_measure(flat, 32, 0, 32000, &t));
    assert_true(fabs(t.mean - 2.5) < 1e-12 && t.min == 2.5 && t.max == 2.5);
    assert_false(wad_tone_measure(flat, 0, 0, 32000, &t));
    assert_false(wad_tone_measure(flat, 32, 5, 5, &t));
}

/* ---- shapes ---- */

typedef struct probe {
    uint64_t ps;
    double volts;
} probe;

static probe seen[8];
static unsigned n_seen;

static void look(wad_sim *sim, void *ctx)
{
    const char *pin = ctx;
    seen[n_seen++] =
        (probe){wad_sim_now(sim), wad_sim_volts(sim, wad_sheet_pin(wad_sim_sheet(sim), pin), NULL)};
}

static const uint64_t *looks;

static void prepare(wad_sim *sim, void *ctx)
{
    n_seen = 0;
    for (unsigned i = 0; looks[i]; i++)
        wad_sim_at(sim, looks[i], look, ctx);
}

#define MS UINT64_C(1000000000)

static void expect_volts(const char *statement, const uint64_t *at, const double *want)
{
    wad_bench *bench;
    const char *const say[] = {"run 20 ms", statement, NULL};
    looks = at;
    wad_bench_result *r = test_run_prepared(board, &bench, "wrong_0", say, prepare, "PA4");
    for (unsigned i = 0; at[i]; i++)
        if (isnan(want[i]) ? !isnan(seen[i].volts) : !(fabs(seen[i].volts - want[i]) < 1e-9))
            fail_msg("%s at %g ms: %g V, not %g V", statement, (double)at[i] / 1e9, seen[i].volts,
                     want[i]);
    wad_bench_result_free(r);
    wad_bench_free(bench);
}

static void sources_have_their_shapes(void **state)
{
    static const uint64_t at[] = {1 * MS, 5 * MS, 10 * MS, 15 * MS, 0};
    (void)state;
    expect_volts("analog PRESSURE level 1.25 V", at, (const double[]){1.25, 1.25, 1.25, 1.25});
    expect_volts("analog PRESSURE ground", at, (const double[]){0, 0, 0, 0});
    expect_volts("supply 2.5 V\nanalog PRESSURE supply", at, (const double[]){2.5, 2.5, 2.5, 2.5});
    expect_volts("analog PRESSURE sine 1 V 50 Hz offset 1.5 V", at,
                 (const double[]){1.5 + sin(M_PI / 10), 2.5, 1.5, 0.5});
    expect_volts("analog PRESSURE square 1 V 50 Hz offset 1.5 V", at,
                 (const double[]){2.5, 2.5, 0.5, 0.5});
    expect_volts("analog PRESSURE ramp 0 V to 3 V in 10 ms", at, (const double[]){0.3, 1.5, 3, 3});
    expect_volts("analog PRESSURE ramp 3 V to 0 V in 10 ms repeat", at,
                 (const double[]){2.7, 1.5, 3, 1.5});
    expect_volts("analog PRESSURE level 1 V\nanalog PRESSURE open at 7 ms", at,
                 (const double[]){1, 1, NAN, NAN});
    expect_volts("analog PA6 level 0.7 V\nanalog PRESSURE pin PA6 behind 1 kohm", at,
                 (const double[]){0.7, 0.7, 0.7, 0.7});
}

static void a_file_is_followed_point_by_point(void **state)
{
    static const uint64_t at[] = {1 * MS, 5 * MS, 10 * MS, 15 * MS, 0};
    char *folder = test_folder(), *path = g_build_filename(folder, "tide.csv", NULL);
    (void)state;
    assert_true(g_file_set_contents(path, "seconds,volts\n0,1\n0.010,2\n0.012,0.5\n", -1, NULL));
    char *say = g_strdup_printf("analog PRESSURE file \"%s\"", path);
    expect_volts(say, at, (const double[]){1.1, 1.5, 2, 0.5});
    g_free(say);
    test_remove(folder);
    g_free(path);
}

/* ---- what cannot be ---- */

static void expect_error(const char *statement, const char *message)
{
    wad_bench *b = wad_bench_new("b", board);
    wad_diags *diags = wad_diags_new();
    assert_false(wad_bench_say(b, statement, diags));
    char *text = test_diags_text(diags);
    if (!strstr(text, message))
        fail_msg("%s: %s", statement, text);
    g_free(text);
    wad_diags_free(diags);
    wad_bench_free(b);
}

static void slips_are_told_with_their_cure(void **state)
{
    (void)state;
    expect_error("analog PRESSURE level 5", "a voltage such as 3.3 V");
    expect_error("analog PRESSURE sine 1 V 0 Hz offset 1 V", "above 0 Hz");
    expect_error("analog PRESSURE ramp 0 V to 1 V in 0 s", "takes some time");
    expect_error("analog PRESSURE wobble", "'level', 'sine'");
    expect_error("analog NOWHERE level 1 V", "neither the board has a part");
    expect_error("analog PRESSURE file \"none.csv\"", "cannot read");
    expect_error("analog PRESSURE level 1 V behind 10 V", "a resistance such as");
    expect_error("supply 5 V", "runs from 2 V to 3.6 V");
    expect_error("converter CNT0 noise off", "no analog to digital converter");
    expect_error("converter ADC0 wobble", "'noise off'");
    expect_error("capture HORN volts as a b", "expected the end of the statement");
    expect_error("capture HORN volts every 10 ns", "every 100 ns at the most");
    expect_error("expect horn frequency 440 Hz within 1 %", "nothing is captured as 'horn'");
}

static void a_file_out_of_order_is_refused(void **state)
{
    char *folder = test_folder(), *path = g_build_filename(folder, "bad.csv", NULL);
    (void)state;
    assert_true(g_file_set_contents(path, "0,1\n2,1\n1,1\n", -1, NULL));
    char *say = g_strdup_printf("analog PRESSURE file \"%s\"", path);
    expect_error(say, "bad.csv:3: expected seconds, then volts, the seconds rising");
    g_free(say);
    test_remove(folder);
    g_free(path);
}

/* ---- what is captured is written and read back ---- */

typedef struct heard {
    GString *names;
    unsigned n;
    double last;
    uint64_t ps;
} heard;

static void on_channel(void *ctx, unsigned number, const char *name)
{
    (void)ctx;
    (void)number;
    (void)name;
}

static void on_edge(void *ctx, unsigned channel, uint64_t ps, wad_level level)
{
    (void)ctx;
    (void)channel;
    (void)ps;
    (void)level;
}

static void on_real_channel(void *ctx, unsigned number, const char *name)
{
    g_string_append_printf(((heard *)ctx)->names, "%u %s;", number, name);
}

static void on_real(void *ctx, unsigned channel, uint64_t ps, double value)
{
    heard *h = ctx;
    h->n += channel == 1;
    h->last = value;
    h->ps = ps;
}

static void reals_come_back_from_a_file(void **state)
{
    char *folder = test_folder(), *vcd = g_build_filename(folder, "v.vcd", NULL), *why;
    char *csv = g_build_filename(folder, "v.csv", NULL), *text;
    wad_capture *c = wad_capture_new();
    (void)state;
    unsigned lamp = wad_capture_channel(c, "lamp"), a = wad_capture_analog(c, "a", "V"),
             b = wad_capture_analog(c, "current", "A");
    wad_capture_edge(c, lamp, 0, WAD_LOW);
    for (unsigned i = 0; i < 1000; i++) {
        wad_capture_sample(c, a, i * 7, 0.001 * i);
        wad_capture_sample(c, b, i * 11, 1e-6 * i);
    }
    wad_capture_edge(c, lamp, 500, WAD_HIGH);
    assert_true(wad_vcd_write(c, vcd, 20000, &why));
    heard h = {.names = g_string_new(NULL)};
    wad_diags *diags = wad_diags_new();
    wad_vcd_listener to = {.channel = on_channel,
                           .edge = on_edge,
                           .real_channel = on_real_channel,
                           .real = on_real,
                           .ctx = &h};
    assert_true(wad_vcd_read(vcd, &to, diags));
    assert_string_equal(h.names->str, "0 a;1 current;");
    assert_int_equal(h.n, 1000);
    assert_true(fabs(h.last - 999e-6) < 1e-12 && h.ps == 999 * 11);
    assert_true(wad_csv_write(c, csv, 20000, &why));
    assert_true(g_file_get_contents(csv, &text, NULL, NULL));
    assert_true(g_str_has_prefix(text, "time_s,lamp,a_V,current_A\n0.000000000000,0,0,0\n"));
    assert_non_null(strstr(text, "\n0.000000000500,1,0.071,4.5e-05\n"));
    g_free(text);
    g_string_free(h.names, TRUE);
    wad_diags_free(diags);
    wad_capture_free(c);
    test_remove(folder);
    g_free(vcd);
    g_free(csv);
}

/* A microsecond of 1 mA in each millisecond: 1 uA on average, whatever a spectrum makes of it. */
static void short_peaks_count_in_the_mean_and_are_drawn(void **state)
{
    char *folder = test_folder(), *svg = g_build_filename(folder, "a.svg", NULL), *why = NULL,
         *text, *drawn = NULL;
    size_t size;
    wad_capture *c = wad_capture_new();
    (void)state;
    unsigned i = wad_capture_analog(c, "current", "A");
    for (unsigned ms = 0; ms < 20; ms++) {
        wad_capture_sample(c, i, ms * WAD_PS_PER_S / 1000, 1e-3);
        wad_capture_sample(c, i, ms * WAD_PS_PER_S / 1000 + 1000000, 0);
    }
    uint64_t end = 20 * WAD_PS_PER_S / 1000;
    assert_true(wad_plot_file(c, end, &(wad_plot_options){0}, svg, &why));
    assert_true(g_file_get_contents(svg, &text, NULL, NULL));
    assert_non_null(strstr(text, "mean 1 uA"));
    g_free(text);
    FILE *out = open_memstream(&drawn, &size);
    wad_plot_text(c, end, &(wad_plot_options){.width = 54}, out); /* 23 columns */
    fclose(out);
    unsigned peaks = 0;
    for (const char *p = drawn; (p = strstr(p, "█")); p++)
        peaks++;
    if (peaks < 18 || peaks > 20 || !strstr(drawn, "0 to 1 mA"))
        fail_msg("%u peaks in '%s'", peaks, drawn);
    assert_false(
        wad_plot_file(c, end, &(wad_plot_options){.detail_from = 1, .detail_to = 9}, svg, &why));
    assert_non_null(strstr(why, "--from"));
    g_free(why);
    free(drawn);
    wad_capture_free(c);
    test_remove(folder);
    g_free(svg);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(a_tone_is_measured_as_it_was_made),
        cmocka_unit_test(what_has_no_tone_is_said_to_have_none),
        cmocka_unit_test(sources_have_their_shapes),
        cmocka_unit_test(a_file_is_followed_point_by_point),
        cmocka_unit_test(slips_are_told_with_their_cure),
        cmocka_unit_test(a_file_out_of_order_is_refused),
        cmocka_unit_test(reals_come_back_from_a_file),
        cmocka_unit_test(short_peaks_count_in_the_mean_and_are_drawn),
    };
    return cmocka_run_group_tests(tests, set_up, tear_down);
}
