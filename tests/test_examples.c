/* SPDX-License-Identifier: MIT */
/* Every example's benches, as a user runs them: the command on the file, and what it says. */
#include <string.h>

#include "support.h"

/* Benches that show what goes wrong: they pass because they expect it, or are meant to fail. */
static const char *const fails[] = {"forgetful.bench", "race.bench", "mistakes"};

static bool is_meant_to_fail(const char *path)
{
    for (unsigned i = 0; i < G_N_ELEMENTS(fails); i++)
        if (strstr(path, fails[i]))
            return true;
    return false;
}

static void run_bench(const char *path)
{
    char *out, *err;
    int status = WADIUM(&out, &err, "run", path, "-d", BUILD_DIR "/firmware");
    if (status != 0 || strstr(out, "\n  FAIL"))
        fail_msg("%s: exit status %d\n%s%s", path, status, out, err);
    assert_non_null(strstr(out, " expectations met"));
    g_free(out);
    g_free(err);
}

static void every_bench_passes(void **state)
{
    unsigned n = 0;
    GDir *examples = g_dir_open(SOURCE_DIR "/examples", 0, NULL);
    (void)state;
    for (const char *name; (name = g_dir_read_name(examples));) {
        char *folder = g_build_filename(SOURCE_DIR "/examples", name, NULL);
        GDir *files = g_dir_open(folder, 0, NULL);
        for (const char *file; files && (file = g_dir_read_name(files));) {
            char *path = g_build_filename(folder, file, NULL);
            if (g_str_has_suffix(file, ".bench") && !is_meant_to_fail(path)) {
                run_bench(path);
                n++;
            }
            g_free(path);
        }
        if (files)
            g_dir_close(files);
        g_free(folder);
    }
    g_dir_close(examples);
    assert_true(n >= 14);
}

/* Pictures of handlers: a file that is a picture, and errors that name the cure. */
static void handlers_are_drawn(void **state)
{
    char *folder = test_folder(), *png = g_build_filename(folder, "t.png", NULL);
    char *svg = g_build_filename(folder, "h.svg", NULL), *text = NULL, *out, *err;
    gsize size;
    (void)state;
    assert_int_equal(WADIUM(&out, &err, "run", SOURCE_DIR "/examples/lamps/lamps.bench", "-d",
                            BUILD_DIR "/firmware", "--timeline", png, "--from", "299ms", "--to",
                            "301ms", "--histogram", svg),
                     0);
    g_free(out);
    g_free(err);
    assert_true(g_file_get_contents(png, &text, &size, NULL));
    assert_memory_equal(text, "\x89PNG", 4);
    g_free(text);
    assert_true(g_file_get_contents(svg, &text, &size, NULL));
    assert_non_null(strstr(text, "CNT0: from request to entry"));
    assert_non_null(strstr(text, "CNT1: from entry to end"));
    g_free(text);
    assert_int_equal(WADIUM(&out, &err, "run", SOURCE_DIR "/examples/square/square.bench", "-d",
                            BUILD_DIR "/firmware", "--timeline", png),
                     3);
    assert_non_null(strstr(err, "no handler ran"));
    g_free(out);
    g_free(err);
    assert_int_equal(
        WADIUM(&out, &err, "run", SOURCE_DIR "/examples/lamps/lamps.bench", "--from", "1s"), 2);
    assert_non_null(strstr(err, "say --timeline FILE"));
    g_free(out);
    g_free(err);
    g_free(png);
    g_free(svg);
    test_remove(folder);
}

/* The line that runs, as a signal of the capture: nesting is there to be read. */
static void the_capture_tells_who_runs(void **state)
{
    char *folder = test_folder(), *vcd = g_build_filename(folder, "t.vcd", NULL), *text, *out, *err;
    (void)state;
    assert_int_equal(WADIUM(&out, &err, "run", SOURCE_DIR "/examples/lamps/lamps.bench", "-d",
                            BUILD_DIR "/firmware", "--vcd", vcd),
                     0);
    g_free(out);
    g_free(err);
    assert_true(g_file_get_contents(vcd, &text, NULL, NULL));
    assert_non_null(strstr(text, " running "));
    /* CNT1 (10), then CNT0 (9) inside of it, then CNT1 goes on, then main */
    const char *ten = strstr(text, "b1010 "), *nine = ten ? strstr(ten, "b1001 ") : NULL;
    const char *again = nine ? strstr(nine, "b1010 ") : NULL;
    assert_non_null(again);
    assert_non_null(strstr(again, "b0 "));
    g_free(text);
    g_free(vcd);
    test_remove(folder);
}

/* Ten calls lie between a step of the pump and main: its line is the user's all the same. */
static void deep_steps_name_the_users_line(void **state)
{
    char *out, *err;
    (void)state;
    assert_int_equal(WADIUM(&out, &err, "steps", SOURCE_DIR "/examples/pump/pump.bench", "-d",
                            BUILD_DIR "/firmware"),
                     0);
    assert_non_null(strstr(out, "PB6 becomes CNT1.LOW1"));
    assert_null(strstr(out, "reg.h"));
    g_free(out);
    g_free(err);
}

static void triggers_are_shown(void **state)
{
    char *out, *err;
    (void)state;
    assert_int_equal(WADIUM(&out, &err, "show", "corran32", "triggers"), 0);
    assert_non_null(
        strstr(out, "  CNT1.TRIG.SRC = 3   CNT0.match[1]    count met the compare value\n"));
    assert_non_null(strstr(out, "  CNT1.TRIG.ACTION = 1 start, 2 gate, 3 reset, 4 count\n"));
    g_free(out);
    g_free(err);
    assert_int_equal(WADIUM(&out, &err, "show", "corran8", "triggers"), 0);
    assert_string_equal(out, "no block of Corran8 listens to another one\n");
    g_free(out);
    g_free(err);
    assert_int_equal(WADIUM(&out, &err, "show", "corran32", "--json"), 0);
    assert_non_null(strstr(out, "\"triggers\" : [\n        {\n          \"value\" : 1,"));
    g_free(out);
    g_free(err);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(every_bench_passes),
        cmocka_unit_test(handlers_are_drawn),
        cmocka_unit_test(the_capture_tells_who_runs),
        cmocka_unit_test(deep_steps_name_the_users_line),
        cmocka_unit_test(triggers_are_shown),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
