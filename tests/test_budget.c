/* SPDX-License-Identifier: MIT */
/* What surrounds the solver: both ends of a line, sweeps, rates in control words, constants in C.
 */
#include <math.h>
#include <string.h>

#include "support.h"
#include "wadium/host/rate.h"
#include "wadium/host/words.h"

/* ---- both ends of a line ---- */

/* Sampled bit by bit: does a receiver whose bit is longer by a share e read every bit right? */
static bool reads_all(const wad_frame *f, double e)
{
    unsigned bits = 1 + f->data_bits + f->parity + 1; /* start, data, parity, first stop */
    for (unsigned phase = 0; phase <= 50; phase++) {
        double late = phase / 50.0 / f->samples; /* the start edge, up to one sample late */
        for (unsigned k = 0; k < bits; k++) {
            double at = (k + 0.5 + late) * (1 + e); /* in the sender's bits */
            if (at < k || at > k + 1)
                return false;
        }
    }
    return true;
}

static double limit(const wad_frame *f, double sign)
{
    double good = 0, bad = 0.5;
    for (unsigned i = 0; i < 60; i++) {
        double mid = (good + bad) / 2;
        if (reads_all(f, sign * mid))
            good = mid;
        else
            bad = mid;
    }
    return sign * good;
}

static void the_budget_is_that_of_sampling_bit_by_bit(void **state)
{
    static const char *const frames[] = {"8N1", "8E1", "7O2", "9N1.5", "5N1", "8M2"};
    GRand *rand = g_rand_new_with_seed(8);
    (void)state;
    for (unsigned i = 0; i < G_N_ELEMENTS(frames); i++)
        for (unsigned samples = 8; samples <= 16; samples += 8) {
            wad_frame f = {.samples = samples};
            wad_budget_ends none = {0};
            wad_budget b;
            assert_true(wad_frame_parse(frames[i], &f));
            wad_budget_make(&f, &none, &b);
            assert_true(b.good);
            assert_true(fabs(b.most_ppm / 1e6 - limit(&f, 1)) < 1e-9);
            assert_true(fabs(b.least_ppm / 1e6 - limit(&f, -1)) < 1e-9);
            for (unsigned n = 0; n < 300; n++) {
                wad_budget_ends ends = {.own_ppm = g_rand_double_range(rand, -40000, 40000),
                                        .own_clock_ppm = g_rand_double_range(rand, 0, 20000),
                                        .peer_ppm = g_rand_double_range(rand, 0, 40000)};
                wad_budget_make(&f, &ends, &b);
                bool good = true;
                double worst = 0;
                for (unsigned c = 0; c < 4; c++) { /* each end fast and slow */
                    double own = (1 + ends.own_ppm / 1e6) *
                                 (1 + (c & 1 ? 1 : -1) * ends.own_clock_ppm / 1e6);
                    double peer = 1 + (c & 2 ? 1 : -1) * ends.peer_ppm / 1e6;
                    good = good && reads_all(&f, peer / own - 1) && reads_all(&f, own / peer - 1);
                    worst = fmax(worst, fabs(own / peer - 1));
                }
                assert_int_equal(b.good, good);
                assert_true(fabs(b.worst_ppm / 1e6 - worst) < 1e-12);
            }
        }
    g_rand_free(rand);
}

static void frames_are_read_as_people_write_them(void **state)
{
    static const char *const bad[] = {"", "8", "8N", "4N1", "8X1", "8N3", "8N1x", "N81"};
    wad_frame f = {.samples = 16};
    (void)state;
    assert_true(wad_frame_parse("7e1.5", &f));
    assert_int_equal(f.data_bits, 7);
    assert_true(f.parity);
    assert_int_equal(f.half_stops, 3);
    for (unsigned i = 0; i < G_N_ELEMENTS(bad); i++)
        if (wad_frame_parse(bad[i], &f))
            fail_msg("'%s' was taken", bad[i]);
}

/* ---- sweeps ---- */

static void a_sweep_is_one_answer_after_the_other(void **state)
{
    (void)state;
    char *why;
    wad_sheet *sheet = test_chip("corran32");
    wad_rate_law *law = wad_rate_open(sheet, wad_sheet_block(sheet, "UART0"), "baud", &why);
    for (int over_clock = 0; over_clock < 2; over_clock++) {
        wad_rate_range_of range = {.from = {over_clock ? 1000000 : 300, 1},
                                   .to = {over_clock ? 48000000 : 900000, 1},
                                   .points = 60,
                                   .over_clock = over_clock,
                                   .clock = {8000000, 1},
                                   .wanted = {57600, 1}};
        wad_rate_point points[60];
        assert_int_equal(wad_rate_sweep(law, &range, NULL, points), 60);
        assert_true(points[0].hz == (over_clock ? 1e6 : 300));
        assert_true(points[59].hz == (over_clock ? 48e6 : 900000));
        for (unsigned i = 0; i < 60; i++) {
            wad_rational at = {(int64_t)floor(points[i].hz * 1000 + 0.5), 1000};
            wad_rational clock = over_clock ? at : range.clock,
                         wanted = over_clock ? range.wanted : at, hz;
            double want = (double)wanted.num / (double)wanted.den;
            assert_true(i == 0 || points[i].hz > points[i - 1].hz);
            assert_true(wad_rate_of(law, clock, points[i].answer.values, &hz));
            double got = (double)hz.num / (double)hz.den;
            assert_true(fabs((got / want - 1) * 1e6 - points[i].ppm) < 1e-3);
        }
    }
    wad_rate_close(law);
    wad_sheet_free(sheet);
}

/* ---- rates in control words ---- */

static void a_control_word_takes_a_rate(void **state)
{
    (void)state;
    wad_sheet *sheet = test_chip("corran32");
    wad_fieldref reg;
    wad_word w;
    char *why;
    wad_encode_rates rates = {.sheet = sheet, .clock = {24000000, 1}};
    const char *const baud[] = {"baud=9600", NULL}, *const integer[] = {"FRAC=0", "INT=9600Hz",
                                                                        NULL};
    assert_true(wad_sheet_resolve(sheet, "UART0.BAUD", &reg, &why));
    unsigned best = 0; /* of all divisors, with 16 samples as after reset */
    for (unsigned d = 32; d < 1u << 21; d++)
        if (fabs(24e6 * 2 / d - 9600) < fabs(24e6 * 2 / best - 9600))
            best = d;
    assert_true(wad_encode_rated(&rates, &reg, 0x20, baud, &w, &why));
    assert_int_equal(w.value, best);
    assert_non_null(
        strstr(rates.told, "baud=9600: 9600 Hz exactly from 24 MHz with CTRL.OVER = 0\n"));
    assert_true(wad_encode_rated(&rates, &reg, 0x20, integer, &w, &why));
    assert_int_equal(w.value, 156u << 5); /* 24 MHz / 16 / 9600 = 156.25 */
    g_free(rates.told);
    rates.told = NULL;
    const char *const slow[] = {"VALUE=500ms", NULL}, *const plain[] = {"VALUE=500", NULL},
                      *const nothing[] = {"EN=2kHz", NULL};
    assert_true(wad_sheet_resolve(sheet, "CNT0.RELOAD", &reg, &why));
    assert_false(wad_encode_rated(&rates, &reg, 0, slow, &w, &why));
    assert_non_null(strstr(why, "VALUE=500ms is out of reach: the slowest is 366.2109375 Hz with "
                                "PRESC.DIV = 0, RELOAD.VALUE = 65535"));
    g_free(why);
    assert_true(wad_encode_rated(&rates, &reg, 0, plain, &w, &why)); /* a number is a number */
    assert_int_equal(w.value, 500);
    assert_null(rates.told);
    assert_true(wad_sheet_resolve(sheet, "CNT0.CTRL", &reg, &why));
    assert_false(wad_encode_rated(&rates, &reg, 0, nothing, &w, &why));
    assert_string_equal(why, "no rate law of CNT0 rests on 'EN': it takes a plain number");
    g_free(why);
    wad_sheet_free(sheet);
}

/* ---- C ---- */

/* The constants compile under their assertion, and with one of them changed they do not. */
static void constants_stand_under_an_assertion(void **state)
{
    static const char *const rates[] = {
        "corran32 UART0 baud=115200 --clock 24MHz", "corran32 CNT0 wrap=500ms --clock 48MHz",
        "corran16 CNT0 wrap=440Hz --clock 8MHz", "corran8 CNT0 toggle=50Hz --clock 8MHz",
        "corran32 CNT3 wrap=0.1Hz --clock 48MHz"};
    char *folder = test_folder(), *out, *err;
    (void)state;
    for (unsigned i = 0; i < G_N_ELEMENTS(rates); i++) {
        char *script = g_strdup_printf(
            "set -e; cd %s; " BUILD_DIR "/bin/wadium rate %s --c --top 1 > all.txt;"
            "echo '#include <wadium/rate.h>' > t.c;"
            "sed -n '/^C:/,/);$/p' all.txt | sed 's/^C:  //' >> t.c;"
            "grep -q WAD_ASSERT_DIVISOR t.c; gcc -std=c11 -Wall -Werror -I" SOURCE_DIR
            "/include -c t.c -o t.o;"
            "n=$(grep -n ' = [1-9]' t.c | tail -1 | cut -d: -f1);"
            "sed \"${n}s/ = \\([0-9]*\\)/ = 3\\1/\" t.c > bad.c;"
            "if gcc -std=c11 -I" SOURCE_DIR
            "/include -c bad.c -o bad.o 2> why.txt; then echo compiled: ; cat bad.c; exit 1; fi;"
            "grep -q 'no setting of this divider is near enough' why.txt",
            folder, rates[i]);
        int status = test_spawn(&out, &err, "bash", "-c", script, NULL);
        if (status)
            fail_msg("%s: %s%s", rates[i], out, err);
        g_free(out);
        g_free(err);
        g_free(script);
    }
    test_remove(folder);
}

/* ---- the command ---- */

static void the_command_draws_and_judges(void **state)
{
    (void)state;
    char *folder = test_folder(), *png = g_build_filename(folder, "s.png", NULL), *out, *err, *data;
    gsize size;
    assert_int_equal(WADIUM(&out, &err, "rate", "corran32", "UART0", "baud", "--sweep", "300..1MHz",
                            "--clock", "8MHz", "-o", png),
                     0);
    assert_true(g_file_get_contents(png, &data, &size, NULL));
    assert_memory_equal(data, "\x89PNG", 4);
    g_free(data);
    g_free(out);
    g_free(err);
    assert_int_equal(WADIUM(&out, &err, "rate", "corran32", "UART0", "baud=115200", "--sweep-clock",
                            "1MHz..48MHz", "--tolerance", "2%"),
                     0);
    assert_non_null(strstr(out, "error of the nearest setting, wanted 115.2 kHz"));
    g_free(out);
    g_free(err);
    assert_int_equal(WADIUM(&out, &err, "rate", "corran32", "UART0", "baud=115200", "--clock",
                            "24MHz", "--frame", "8N1", "--peer", "2%", "--hold", "CTRL.OVER=0"),
                     0);
    assert_non_null(strstr(out, "16 samples a bit"));
    assert_non_null(strstr(out, "both ways work"));
    g_free(out);
    g_free(err);
    assert_int_equal(WADIUM(&out, &err, "rate", "corran32", "UART0", "baud=115200", "--clock",
                            "1MHz", "--frame", "8N1", "--peer", "6%"),
                     1);
    assert_non_null(strstr(out, "this does not work"));
    g_free(out);
    g_free(err);
    static const struct {
        const char *option, *value, *want;
    } wrong[] = {{"--frame", "8Q1", "'8Q1' is no frame"},
                 {"--peer", "2%", "--peer, --own and --samples are for --frame"},
                 {"--sweep", "1MHz..300", "write the rate's name alone"},
                 {"--sweep-clock", "2MHz..1MHz", "takes two rates, the lower first"},
                 {"--output", "x.png", "--output is for --sweep"}};
    for (unsigned i = 0; i < G_N_ELEMENTS(wrong); i++) {
        assert_int_equal(WADIUM(&out, &err, "rate", "corran32", "UART0", "baud=9600",
                                wrong[i].option, wrong[i].value),
                         2);
        if (!strstr(err, wrong[i].want))
            fail_msg("wanted '%s' in %s", wrong[i].want, err);
        g_free(out);
        g_free(err);
    }
    g_free(png);
    test_remove(folder);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(the_budget_is_that_of_sampling_bit_by_bit),
        cmocka_unit_test(frames_are_read_as_people_write_them),
        cmocka_unit_test(a_sweep_is_one_answer_after_the_other),
        cmocka_unit_test(a_control_word_takes_a_rate),
        cmocka_unit_test(constants_stand_under_an_assertion),
        cmocka_unit_test(the_command_draws_and_judges),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
