/* SPDX-License-Identifier: MIT */
/* Plain volatile C, by each compiler at each optimisation level: it must behave alike. */
#include <glib/gstdio.h>
#include <string.h>

#include "plain_support.h"

static int set_up(void **state)
{
    (void)state;
    plain_set_up();
    return 0;
}

static int tear_down(void **state)
{
    (void)state;
    plain_tear_down();
    return 0;
}

static void must_pass(const wad_bench_result *r, unsigned compiler, const char *level, void *ctx)
{
    if (!r->passed)
        plain_complain(r, ctx, compiler, level);
}

static void lamp_runs_by_every_compiler_and_level(void **state)
{
    (void)state;
    const char *const say[] = {"capture WARN",
                               "capture LEVEL1",
                               "capture LEVEL4",
                               "run 2 s",
                               "expect warn high 500 ms within 10 us",
                               "expect level1 duty 10 % within 0.01 points",
                               "expect level4 duty 90 % within 0.01 points",
                               "expect CNT0 interrupt count 3",
                               "expect no findings",
                               NULL};
    plain_everywhere("corran32", SOURCE_DIR "/examples/plain-lamp/plain_lamp.c", "-DPLAIN", say,
                     must_pass, (void *)"the lamp");
}

static void mistakes_are_found_at_their_line(void **state)
{
    static const struct {
        const char *name;
        unsigned finding;
    } cases[] = {{"GATED", 101},   {"IN_RESET", 102}, {"READ_ONLY", 201},
                 {"RMW", 204},     {"STORM", 302},    {"STALE", 303},
                 {"NO_LINE", 304}, {"NO_MASK", 305},  {"UNSTABLE", 205}};
    (void)state;
    for (unsigned i = 0; i < G_N_ELEMENTS(cases); i++) {
        plain_wanted w = {cases[i].finding, test_marked_line("plain_wrong.c", cases[i].name),
                          cases[i].name};
        char *define = g_strdup_printf("-DCASE=%s", cases[i].name);
        const char *const say[] = {"run 5 ms", NULL};
        assert_true(w.line > 0);
        plain_everywhere("corran32", SOURCE_DIR "/tests/firmware/plain_wrong.c", define, say,
                         plain_must_find, &w);
        g_free(define);
    }
}

/* Bit-fields, 64-bit accesses and struct copies reach the registers whole, and raise nothing. */
static void odd_accesses_arrive_whole(void **state)
{
    static const char *const cases[] = {"BITS", "WIDE", "COPY"};
    (void)state;
    for (unsigned i = 0; i < G_N_ELEMENTS(cases); i++) {
        char *define = g_strdup_printf("-DCASE=%s", cases[i]);
        const char *const say[] = {"capture WARN", "run 5 ms", "expect warn edges 6",
                                   "expect no findings", NULL};
        plain_everywhere("corran32", SOURCE_DIR "/tests/firmware/plain_wrong.c", define, say,
                         must_pass, (void *)cases[i]);
        g_free(define);
    }
}

static void right_firmware_raises_nothing(void **state)
{
    (void)state;
    const char *const say[] = {"run 20 ms", "expect CNT0 interrupt count 19", "expect no findings",
                               NULL};
    plain_everywhere("corran32", SOURCE_DIR "/tests/firmware/plain_wrong.c", "-DCASE=RIGHT", say,
                     must_pass, (void *)"right");
}

static void right_ways_to_share_raise_nothing(void **state)
{
    static const char *const cases[] = {"LOCK",      "HAND_OVER",       "ATOMICS", "INIT",
                                        "LINE_OFF",  "HIGH_LOW_HIGH",   "RING",    "SET_REGISTER",
                                        "TAKE_FLAG", "TAKE_ON_ONE_LINE"};
    (void)state;
    for (unsigned i = 0; i < G_N_ELEMENTS(cases); i++) {
        char *define = g_strdup_printf("-DCASE=%s", cases[i]);
        const char *const say[] = {"capture WARN", "run 5 ms", "expect warn edges 6",
                                   "expect no findings", NULL};
        plain_everywhere("corran32", SOURCE_DIR "/tests/firmware/idioms.c", define, say, must_pass,
                         (void *)cases[i]);
        g_free(define);
    }
}

static void wrong_ways_to_share_are_found(void **state)
{
    static const struct {
        const char *name;
        unsigned finding;
    } cases[] = {{"PLAIN_READ", 701}, {"PLAIN_WRITE", 701},     {"WIDE_READ", 702},
                 {"UPDATE", 703},     {"REGISTER_UPDATE", 703}, {"UNGUARDED_PART", 701}};
    (void)state;
    for (unsigned i = 0; i < G_N_ELEMENTS(cases); i++) {
        plain_wanted w = {cases[i].finding, test_marked_line("idioms.c", cases[i].name),
                          cases[i].name};
        char *define = g_strdup_printf("-DCASE=%s", cases[i].name);
        const char *const say[] = {"run 5 ms", NULL};
        assert_true(w.line > 0);
        plain_everywhere("corran32", SOURCE_DIR "/tests/firmware/idioms.c", define, say,
                         plain_must_find, &w);
        g_free(define);
    }
}

static void one_plain_firmware_a_process(void **state)
{
    (void)state;
    char *why = NULL, *path = g_build_filename(plain_folder(), "fw.wfw", NULL);
    plain_build("corran32", 0, "-O2", SOURCE_DIR "/tests/firmware/plain_wrong.c", "-DCASE=RIGHT");
    wad_sheet *sheet = test_chip("corran32");
    wad_sim *a = wad_sim_new(sheet, &why), *b = wad_sim_new(sheet, &why);
    assert_true(wad_sim_load(a, path, &why));
    assert_false(wad_sim_load(b, path, &why));
    assert_non_null(strstr(why, "plain firmware runs once in a process"));
    g_free(why);
    wad_sim_free(a);
    assert_true(wad_sim_load(b, path, &why)); /* the place is free again */
    wad_sim_free(b);
    wad_sheet_free(sheet);
    g_free(path);
}

/* ---- debug information ---- */

static const char own_firmware[] = "#include <wadium/cpu.h>\n"
                                   "#include \"corran32.h\"\n"
                                   "volatile uint32_t level = 40;\n"
                                   "struct {\n"
                                   "    volatile uint16_t low, high;\n"
                                   "} marks = {3, 7};\n"
                                   "int main(void)\n"
                                   "{\n"
                                   "    CORRAN32_CNT0->RELOAD = 7;\n" /* its clock is off: line 9 */
                                   "    level += 2;\n"
                                   "    marks.high = 9;\n"
                                   "    for (;;)\n"
                                   "        WAD_CPU_SLEEP();\n"
                                   "}\n";

/* Looked at from another folder: the line is shown with its text, the variables have values. */
static void look_at_own(const char *bench, const char *what)
{
    char *out, *err;
    assert_int_equal(test_spawn(&out, &err, "env", "-C", "/", BUILD_DIR "/bin/wadium", "run", bench,
                                "-d", plain_folder(), NULL),
                     0);
    if (!strstr(out, "/parts/own.c:9 in main\n          9 |     CORRAN32_CNT0->RELOAD = 7;\n"))
        fail_msg("%s: %s%s", what, out, err);
    g_free(out);
    g_free(err);
    assert_int_equal(test_spawn(&out, &err, "env", "-C", "/", BUILD_DIR "/bin/wadium", "watch",
                                bench, "-d", plain_folder(), "--text", "-v", "level", "-v",
                                "marks.high", NULL),
                     0);
    const char *after = strstr(out, "\n0.00");
    if (!strstr(out, "level            40\n") || !strstr(out, "marks.high       7\n") || !after ||
        !strstr(after, "level            42*\n") || !strstr(after, "marks.high       9*\n"))
        fail_msg("%s: %s%s", what, out, err);
    g_free(out);
    g_free(err);
}

static void lines_and_variables_have_their_names(void **state)
{
    static const char *const formats[] = {"-gdwarf-4", "-gdwarf-5"};
    char *parts = g_build_filename(plain_folder(), "parts", NULL);
    char *source = g_build_filename(parts, "own.c", NULL);
    char *bench = g_build_filename(plain_folder(), "own.bench", NULL);
    const char *const paths[] = {"parts/own.c", "./parts/../parts/own.c", source};
    (void)state;
    assert_int_equal(g_mkdir(parts, 0700), 0);
    assert_true(g_file_set_contents(source, own_firmware, -1, NULL));
    assert_true(g_file_set_contents(bench,
                                    "bench \"own\" {\n board Skerry\n firmware fw\n run 1 ms\n"
                                    " expect finding W101 at \"parts/own.c:9\"\n}\n",
                                    -1, NULL));
    for (unsigned c = 0; c < plain_compilers() && plain_installed(c); c++)
        for (unsigned f = 0; f < G_N_ELEMENTS(formats); f++)
            for (unsigned p = 0; p < G_N_ELEMENTS(paths); p++) {
                char *what =
                    g_strdup_printf("%s %s %s", plain_compiler_name(c), formats[f], paths[p]);
                plain_compile_as(plain_folder(), formats[f]);
                plain_build("corran32", c, "-O1", paths[p], "-DOWN");
                look_at_own(bench, what);
                g_free(what);
            }
    plain_compile_as(NULL, NULL);
    g_free(parts);
    g_free(source);
    g_free(bench);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(lamp_runs_by_every_compiler_and_level),
        cmocka_unit_test(mistakes_are_found_at_their_line),
        cmocka_unit_test(odd_accesses_arrive_whole),
        cmocka_unit_test(right_firmware_raises_nothing),
        cmocka_unit_test(right_ways_to_share_raise_nothing),
        cmocka_unit_test(wrong_ways_to_share_are_found),
        cmocka_unit_test(one_plain_firmware_a_process),
        cmocka_unit_test(lines_and_variables_have_their_names),
    };
    return cmocka_run_group_tests(tests, set_up, tear_down);
}
