/* SPDX-License-Identifier: MIT */
/* Captures, VCD files and the instruments over them. */
#include <glib/gstdio.h>
#include <math.h>
#include <string.h>
#include <unistd.h>

#include "support.h"

typedef struct heard {
    GString *text;
    uint64_t end;
} heard;

static void on_channel(void *ctx, unsigned number, const char *name)
{
    g_string_append_printf(((heard *)ctx)->text, "%u=%s;", number, name);
}

static void on_edge(void *ctx, unsigned channel, uint64_t ps, wad_level level)
{
    g_string_append_printf(((heard *)ctx)->text, "%llu:%u%c;", (unsigned long long)ps, channel,
                           "01z"[level]);
}

static void on_end(void *ctx, uint64_t ps)
{
    ((heard *)ctx)->end = ps;
}

/* What a text reads as, or its errors. */
static char *read_text(const char *text)
{
    heard h = {g_string_new(NULL), 0};
    wad_vcd_listener to = {.channel = on_channel, .edge = on_edge, .end = on_end, .ctx = &h};
    wad_diags *diags = wad_diags_new();
    if (wad_vcd_parse(text, strlen(text), "t.vcd", &to, diags)) {
        g_string_append_printf(h.text, "end %llu", (unsigned long long)h.end);
    } else {
        char *errors = test_diags_text(diags);
        g_string_assign(h.text, errors);
        g_free(errors);
    }
    wad_diags_free(diags);
    return g_string_free(h.text, FALSE);
}

static void check(const char *text, const char *want)
{
    char *got = read_text(text);
    if (strcmp(got, want))
        fail_msg("wanted %s\ngot %s", want, got);
    g_free(got);
}

#define HEAD "$timescale 1 ns $end $var wire 1 ! a $end $enddefinitions $end\n"

static void other_tools_files_are_read(void **state)
{
    (void)state;
    check("$date today $end\n$timescale\n  10 us\n$end\n$scope module top $end\n"
          "$var reg 1 aa clk $end\n$var wire 8 # data [7:0] $end\n$var wire 1 longid x $end\n"
          "$upscope $end\n$enddefinitions $end\n$dumpvars\n0aa\nb00000000 #\nxlongid\n$end\n"
          "#1\n1aa\nb101 #\n#2 0aa b1 longid\n$comment 0zz $end\n#7\n",
          "0=clk;1=x;0:00;0:1z;10000000:01;20000000:00;20000000:11;end 70000000");
}

static void broken_files_name_the_line(void **state)
{
    (void)state;
    check("", "t.vcd:1:1: error: the file ends within its header: no $enddefinitions\n");
    check("hello", "t.vcd:1:1: error: no VCD file: a section beginning with '$' was expected\n");
    check("$timescale 3 ns $end", "t.vcd:1:1: error: timescale '3ns' is none of 1, 10, 100 of s, "
                                  "ms, us, ns, ps, fs\n");
    check(HEAD "#5\n1?\n", "t.vcd:3:1: error: a change of an identifier that no $var declared\n");
    check(HEAD "#5\n1!\n#4\n", "t.vcd:4:1: error: time goes back\n");
    check(HEAD "#x\n", "t.vcd:2:1: error: '#' must be followed by a time\n");
    check(HEAD "#5\nq!\n", "t.vcd:3:1: error: neither a time nor a change\n");
    check(HEAD "$comment never ends", "t.vcd:2:1: error: this section has no $end\n");
}

/* Many channels, so that identifiers of one, two and three characters occur. */
static void what_is_written_is_read_back(void **state)
{
    (void)state;
    char *folder = test_folder(), *path = g_build_filename(folder, "a.vcd", NULL), *why;
    GRand *rand = g_rand_new_with_seed(21);
    GString *want = g_string_new(NULL);
    wad_capture *c = wad_capture_new();
    const unsigned channels = 94 + 94 * 94 + 40;
    for (unsigned i = 0; i < channels; i++) {
        char *name = g_strdup_printf("s%u", i);
        wad_capture_channel(c, name);
        g_string_append_printf(want, "%u=%s;", i, name);
        g_free(name);
    }
    uint64_t ps = 0;
    for (unsigned i = 0; i < 200000; i++) {
        ps += (uint64_t)g_rand_int_range(rand, 0, 3) * (uint64_t)g_rand_int(rand);
        unsigned channel = (unsigned)g_rand_int_range(rand, 0, (int)channels);
        wad_level level = (wad_level)g_rand_int_range(rand, 0, 3);
        wad_capture_edge(c, channel, ps, level);
        g_string_append_printf(want, "%llu:%u%c;", (unsigned long long)ps, channel, "01z"[level]);
    }
    assert_int_equal(wad_capture_edges(c), 200000);
    assert_true(wad_vcd_write(c, path, ps + 9, &why));
    heard h = {g_string_new(NULL), 0};
    wad_diags *diags = wad_diags_new();
    assert_true(wad_vcd_read(
        path, &(wad_vcd_listener){.channel = on_channel, .edge = on_edge, .end = on_end, .ctx = &h},
        diags));
    assert_true(g_string_equal(h.text, want));
    assert_int_equal(h.end, ps + 9);
    wad_diags_free(diags);
    g_string_free(h.text, TRUE);
    g_string_free(want, TRUE);
    wad_capture_free(c);
    g_rand_free(rand);
    g_free(path);
    test_remove(folder);
}

static void failed_write_leaves_no_file(void **state)
{
    (void)state;
    char *why;
    wad_capture *c = wad_capture_new();
    assert_false(wad_vcd_write(c, "/nowhere/at/all.vcd", 0, &why));
    assert_non_null(strstr(why, "cannot write '/nowhere/at/all.vcd': No such file"));
    g_free(why);
    /* a device that is full from the start */
    if (g_file_test("/dev/full", G_FILE_TEST_EXISTS)) {
        char *folder = test_folder(), *path = g_build_filename(folder, "a.vcd", NULL);
        assert_int_equal(symlink("/dev/full", path), 0);
        wad_capture_channel(c, "a");
        assert_false(wad_vcd_write(c, path, 0, &why));
        assert_non_null(strstr(why, "No space left"));
        assert_true(g_file_test(path, G_FILE_TEST_IS_SYMLINK)); /* neither is replaced by a file */
        assert_false(g_file_test("/dev/full", G_FILE_TEST_IS_REGULAR));
        g_free(why);
        g_free(path);
        test_remove(folder);
    }
    wad_capture_free(c);
}

/* ---- instruments against sums done the long way ---- */

static void meter_equals_the_long_way(void **state)
{
    (void)state;
    GRand *rand = g_rand_new_with_seed(22);
    for (int round = 0; round < 300; round++) {
        uint64_t rises[200], falls[200], ps = 1000;
        unsigned n = (unsigned)g_rand_int_range(rand, 2, 200);
        wad_meter m;
        wad_meter_init(&m, 0, UINT64_MAX);
        wad_meter_edge(&m, 0, WAD_LOW);
        for (unsigned i = 0; i < n; i++) {
            rises[i] = ps += (uint64_t)g_rand_int_range(rand, 1, 1000000);
            wad_meter_edge(&m, ps, WAD_HIGH);
            falls[i] = ps += (uint64_t)g_rand_int_range(rand, 1, 1000000);
            wad_meter_edge(&m, ps, WAD_LOW);
        }
        wad_meter_end(&m, ps);
        double high = 0, mean = (double)(rises[n - 1] - rises[0]) / (n - 1), var = 0;
        uint64_t min = UINT64_MAX, max = 0;
        for (unsigned i = 0; i + 1 < n; i++) {
            uint64_t period = rises[i + 1] - rises[i];
            high += (double)(falls[i] - rises[i]);
            var += ((double)period - mean) * ((double)period - mean) / (n - 1);
            min = MIN(min, period);
            max = MAX(max, period);
        }
        assert_true(m.high_ps == (uint64_t)high);
        assert_int_equal(m.edges, 2 * n);
        assert_int_equal(m.period.min, min);
        assert_int_equal(m.period.max, max);
        assert_true(fabs(wad_meter_hz(&m) * mean / 1e12 - 1) < 1e-12);
        assert_true(fabs(wad_meter_duty(&m) - high / (mean * (n - 1))) < 1e-12);
        assert_true(fabs(wad_stats_deviation(&m.period) - sqrt(var)) < 1e-3);
    }
    g_rand_free(rand);
}

static void window_cuts_what_is_outside(void **state)
{
    (void)state;
    wad_meter m;
    wad_meter_init(&m, 100, 200);
    for (uint64_t ps = 0; ps < 300; ps += 10)
        wad_meter_edge(&m, ps, ps % 20 ? WAD_LOW : WAD_HIGH);
    wad_meter_end(&m, 300);
    assert_int_equal(m.edges, 11);
    assert_int_equal(m.first_rise, 100);
    assert_int_equal(m.last_rise, 200);
}

static void level_that_never_changes_has_a_duty(void **state)
{
    (void)state;
    wad_meter m;
    wad_meter_init(&m, 0, UINT64_MAX);
    wad_meter_edge(&m, 0, WAD_HIGH);
    wad_meter_end(&m, 100);
    assert_true(wad_meter_duty(&m) == 1.0);
    assert_true(wad_meter_hz(&m) == 0);
    assert_int_equal(m.edges, 0);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(other_tools_files_are_read),
        cmocka_unit_test(broken_files_name_the_line),
        cmocka_unit_test(what_is_written_is_read_back),
        cmocka_unit_test(failed_write_leaves_no_file),
        cmocka_unit_test(meter_equals_the_long_way),
        cmocka_unit_test(window_cuts_what_is_outside),
        cmocka_unit_test(level_that_never_changes_has_a_duty),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
