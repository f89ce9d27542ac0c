/* SPDX-License-Identifier: MIT */
/* Plain volatile C, by each compiler at each optimisation level: it must behave alike. */
#include <glib/gstdio.h>
#include <string.h>

#include "support.h"

static wad_board *board;
static char *folder;

static int set_up(void **state)
{
    (void)state;
    board = test_board("skerry");
    folder = test_folder();
    return 0;
}

static int tear_down(void **state)
{
    (void)state;
    wad_board_free(board);
    test_remove(folder);
    return 0;
}

static const char *const levels[] = {"-O0", "-O2", "-Os"};

static const struct {
    const char *name;
    const char *const options[6];
} compilers[] = {
    {"gcc", {"-fsanitize=thread", "--param", "tsan-distinguish-volatile=1"}},
    {"clang",
     {"-fsanitize=thread", "-fno-finite-loops", "-mllvm", "-tsan-distinguish-volatile=1", "-mllvm",
      "-tsan-instrument-read-before-write=1"}},
};

/* Builds FOLDER/fw.wfw from one source, instrumented, and the vectors, which need not be. */
static void build(unsigned compiler, const char *level, const char *source, const char *define)
{
    GPtrArray *argv = g_ptr_array_new();
    char *out, *err, *target = g_build_filename(folder, "fw.wfw", NULL);
    const char *const head[] = {compilers[compiler].name,
                                level,
                                "-std=gnu11",
                                "-g",
                                "-ffreestanding",
                                "-fPIC",
                                "-fno-omit-frame-pointer",
                                "-fno-optimize-sibling-calls",
                                "-I" SOURCE_DIR "/include",
                                "-I" SOURCE_DIR "/ports/sim",
                                "-I" BUILD_DIR "/generated/corran32",
                                "-DWAD_HOST",
                                define,
                                "-c",
                                source,
                                "-o"};
    char *object = g_build_filename(folder, "fw.o", NULL);
    for (unsigned i = 0; i < G_N_ELEMENTS(head); i++)
        g_ptr_array_add(argv, (gpointer)head[i]);
    g_ptr_array_add(argv, object);
    for (unsigned i = 0; i < 6 && compilers[compiler].options[i]; i++)
        g_ptr_array_add(argv, (gpointer)compilers[compiler].options[i]);
    g_ptr_array_add(argv, NULL);
    int status;
    assert_true(g_spawn_sync(NULL, (char **)argv->pdata, NULL, G_SPAWN_SEARCH_PATH, NULL, NULL,
                             NULL, &err, &status, NULL));
    if (status)
        fail_msg("%s", err);
    g_free(err);
    g_ptr_array_free(argv, TRUE);
    status = test_spawn(
        &out, &err, compilers[compiler].name, "-shared", "-fPIC", "-ffreestanding",
        "-I" SOURCE_DIR "/include", "-I" SOURCE_DIR "/ports/sim", "-Wl,-Bsymbolic",
        "-Wl,-Ttext-segment=0x20000000",
        "-Wl,--wrap=memcpy,--wrap=memmove,--wrap=memset,--wrap=exit,--wrap=_exit,--wrap=abort",
        object, BUILD_DIR "/generated/corran32/corran32_vectors.c", "-o", target, NULL);
    if (status)
        fail_msg("%s", err);
    g_free(out);
    g_free(err);
    g_free(object);
    g_free(target);
}

static bool installed(unsigned compiler)
{
    char *path = g_find_program_in_path(compilers[compiler].name);
    g_free(path);
    return path != NULL;
}

static wad_bench_result *run(wad_bench **bench, const char *const *say)
{
    char *why;
    wad_diags *diags = wad_diags_new();
    *bench = wad_bench_new("plain", board);
    bool ok = wad_bench_say(*bench, "firmware fw", diags);
    for (unsigned i = 0; say[i]; i++)
        ok = wad_bench_say(*bench, say[i], diags) && ok;
    wad_diags_print(diags, stderr);
    wad_diags_free(diags);
    assert_true(ok);
    wad_bench_result *r = wad_bench_run(*bench, &(wad_bench_options){.firmware_dir = folder}, &why);
    if (!r)
        fail_msg("%s", why);
    return r;
}

static void complain(const wad_bench_result *r, const char *what, unsigned compiler,
                     const char *level)
{
    wad_report_text(r, stderr);
    fail_msg("%s, %s %s", what, compilers[compiler].name, level);
}

/* Calls `check` for each compiler that is installed, at each level. */
static void everywhere(const char *source, const char *define, const char *const *say,
                       void (*check)(const wad_bench_result *r, unsigned compiler,
                                     const char *level, void *ctx),
                       void *ctx)
{
    for (unsigned c = 0; c < G_N_ELEMENTS(compilers); c++)
        for (unsigned l = 0; l < G_N_ELEMENTS(levels) && installed(c); l++) {
            wad_bench *bench;
            build(c, levels[l], source, define);
            wad_bench_result *r = run(&bench, say);
            check(r, c, levels[l], ctx);
            wad_bench_result_free(r);
            wad_bench_free(bench);
        }
}

static void must_pass(const wad_bench_result *r, unsigned compiler, const char *level, void *ctx)
{
    if (!r->passed)
        complain(r, ctx, compiler, level);
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
    everywhere(SOURCE_DIR "/examples/plain-lamp/plain_lamp.c", "-DPLAIN", say, must_pass,
               (void *)"the lamp");
}

typedef struct wanted {
    unsigned finding, line;
    const char *name;
} wanted;

static void must_find(const wad_bench_result *r, unsigned compiler, const char *level, void *ctx)
{
    const wanted *w = ctx;
    for (unsigned i = 0; i < wad_sim_finding_count(r->sim); i++) {
        const wad_finding *f = wad_sim_finding(r->sim, i);
        if ((unsigned)f->kind == w->finding && f->n_places && f->places[0].line == w->line)
            return;
    }
    complain(r, w->name, compiler, level);
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
        wanted w = {cases[i].finding, test_marked_line("plain_wrong.c", cases[i].name),
                    cases[i].name};
        char *define = g_strdup_printf("-DCASE=%s", cases[i].name);
        const char *const say[] = {"run 5 ms", NULL};
        assert_true(w.line > 0);
        everywhere(SOURCE_DIR "/tests/firmware/plain_wrong.c", define, say, must_find, &w);
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
        everywhere(SOURCE_DIR "/tests/firmware/plain_wrong.c", define, say, must_pass,
                   (void *)cases[i]);
        g_free(define);
    }
}

static void right_firmware_raises_nothing(void **state)
{
    (void)state;
    const char *const say[] = {"run 20 ms", "expect CNT0 interrupt count 19", "expect no findings",
                               NULL};
    everywhere(SOURCE_DIR "/tests/firmware/plain_wrong.c", "-DCASE=RIGHT", say, must_pass,
               (void *)"right");
}

static void right_ways_to_share_raise_nothing(void **state)
{
    static const char *const cases[] = {"LOCK", "HAND_OVER",    "ATOMICS",
                                        "INIT", "LINE_OFF",     "HIGH_LOW_HIGH",
                                        "RING", "SET_REGISTER", "TAKE_FLAG"};
    (void)state;
    for (unsigned i = 0; i < G_N_ELEMENTS(cases); i++) {
        char *define = g_strdup_printf("-DCASE=%s", cases[i]);
        const char *const say[] = {"capture WARN", "run 5 ms", "expect warn edges 6",
                                   "expect no findings", NULL};
        everywhere(SOURCE_DIR "/tests/firmware/idioms.c", define, say, must_pass, (void *)cases[i]);
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
        wanted w = {cases[i].finding, test_marked_line("idioms.c", cases[i].name), cases[i].name};
        char *define = g_strdup_printf("-DCASE=%s", cases[i].name);
        const char *const say[] = {"run 5 ms", NULL};
        assert_true(w.line > 0);
        everywhere(SOURCE_DIR "/tests/firmware/idioms.c", define, say, must_find, &w);
        g_free(define);
    }
}

static void one_plain_firmware_a_process(void **state)
{
    (void)state;
    char *why = NULL, *path = g_build_filename(folder, "fw.wfw", NULL);
    build(0, "-O2", SOURCE_DIR "/tests/firmware/plain_wrong.c", "-DCASE=RIGHT");
    wad_sim *a = wad_sim_new(board->sheet, &why), *b = wad_sim_new(board->sheet, &why);
    assert_true(wad_sim_load(a, path, &why));
    assert_false(wad_sim_load(b, path, &why));
    assert_non_null(strstr(why, "plain firmware runs once in a process"));
    g_free(why);
    wad_sim_free(a);
    assert_true(wad_sim_load(b, path, &why)); /* the place is free again */
    wad_sim_free(b);
    g_free(path);
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
    };
    return cmocka_run_group_tests(tests, set_up, tear_down);
}
