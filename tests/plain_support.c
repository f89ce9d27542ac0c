/* SPDX-License-Identifier: MIT */
#include "plain_support.h"

#include <string.h>

static char *folder;
static wad_board *boards[3];

static const char *const chips[] = {"corran32", "corran16", "corran8"};
static const char *const names[] = {"skerry", "skerry16", "skerry8"};
static const char *const levels[] = {"-O0", "-O2", "-Os"};

static const struct {
    const char *name;
    const char *const options[8];
} compilers[] = {
    {"gcc", {"-fsanitize=thread", "--param", "tsan-distinguish-volatile=1"}},
    {"clang",
     {"-fsanitize=thread", "-fno-finite-loops", "-fdebug-info-for-profiling", "-mllvm",
      "-tsan-distinguish-volatile=1", "-mllvm", "-tsan-instrument-read-before-write=1"}},
};

static const char *from;          /* the compiler's folder; NULL: this program's */
static const char *format = "-g"; /* of the debug information */

void plain_compile_as(const char *folder_of_compiler, const char *debug_format)
{
    from = folder_of_compiler;
    format = debug_format ? debug_format : "-g";
}

void plain_set_up(void)
{
    folder = test_folder();
    for (unsigned i = 0; i < G_N_ELEMENTS(boards); i++)
        boards[i] = test_board(names[i]);
}

void plain_tear_down(void)
{
    for (unsigned i = 0; i < G_N_ELEMENTS(boards); i++)
        wad_board_free(boards[i]);
    test_remove(folder);
}

const char *plain_folder(void)
{
    return folder;
}

unsigned plain_compilers(void)
{
    return G_N_ELEMENTS(compilers);
}

const char *plain_compiler_name(unsigned compiler)
{
    return compilers[compiler].name;
}

static void compile(const char *chip, unsigned compiler, const char *level, const char *source,
                    const char *define, const char *object, bool instrumented)
{
    char *out, *err, *include = g_strdup_printf("-I" BUILD_DIR "/generated/%s", chip);
    const char *const head[] = {compilers[compiler].name,
                                level,
                                "-std=gnu11",
                                format,
                                "-ffreestanding",
                                "-fPIC",
                                "-fno-omit-frame-pointer",
                                "-fno-optimize-sibling-calls",
                                "-I" SOURCE_DIR "/include",
                                "-I" SOURCE_DIR "/ports/sim",
                                include,
                                "-DWAD_HOST",
                                define,
                                "-c",
                                source,
                                "-o",
                                object};
    GPtrArray *argv = g_ptr_array_new();
    int status;
    for (unsigned i = 0; i < G_N_ELEMENTS(head); i++)
        g_ptr_array_add(argv, (gpointer)head[i]);
    for (unsigned i = 0; instrumented && compilers[compiler].options[i]; i++)
        g_ptr_array_add(argv, (gpointer)compilers[compiler].options[i]);
    g_ptr_array_add(argv, NULL);
    assert_true(g_spawn_sync(from, (char **)argv->pdata, NULL, G_SPAWN_SEARCH_PATH, NULL, NULL,
                             &out, &err, &status, NULL));
    if (status)
        fail_msg("%s", err);
    g_free(out);
    g_free(err);
    g_free(include);
    g_ptr_array_free(argv, TRUE);
}

/* The vector table, once for each chip and compiler. */
static char *vectors(const char *chip, unsigned compiler)
{
    char *file = g_strdup_printf("%s/%s_%s.o", folder, chip, compilers[compiler].name);
    char *source = g_strdup_printf(BUILD_DIR "/generated/%s/%s_vectors.c", chip, chip);
    if (!g_file_test(file, G_FILE_TEST_EXISTS))
        compile(chip, compiler, "-O1", source, "-DVECTORS", file, false);
    g_free(source);
    return file;
}

void plain_build(const char *chip, unsigned compiler, const char *level, const char *source,
                 const char *define)
{
    char *out, *err, *target = g_build_filename(folder, "fw.wfw", NULL);
    char *object = g_build_filename(folder, "fw.o", NULL), *table = vectors(chip, compiler);
    compile(chip, compiler, level, source, define, object, true);
    int status = test_spawn(
        &out, &err, compilers[compiler].name, "-shared", "-Wl,-Bsymbolic",
        "-Wl,-Ttext-segment=0x20000000",
        "-Wl,--wrap=memcpy,--wrap=memmove,--wrap=memset,--wrap=exit,--wrap=_exit,--wrap=abort",
        "-Wl,--wrap=printf,--wrap=vprintf,--wrap=puts,--wrap=putchar,--wrap=getchar", object, table,
        "-o", target, NULL);
    if (status)
        fail_msg("%s", err);
    g_free(out);
    g_free(err);
    g_free(object);
    g_free(table);
    g_free(target);
}

bool plain_installed(unsigned compiler)
{
    char *path = g_find_program_in_path(compilers[compiler].name);
    g_free(path);
    return path != NULL;
}

static wad_board *board_of(const char *chip)
{
    for (unsigned i = 0; i < G_N_ELEMENTS(chips); i++)
        if (!strcmp(chips[i], chip))
            return boards[i];
    fail_msg("no board for %s", chip);
    return NULL;
}

static wad_bench_result *run(const char *chip, wad_bench **bench, const char *const *say)
{
    char *why;
    wad_diags *diags = wad_diags_new();
    *bench = wad_bench_new("plain", board_of(chip));
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

void plain_everywhere(const char *chip, const char *source, const char *define,
                      const char *const *say, plain_check check, void *ctx)
{
    for (unsigned c = 0; c < G_N_ELEMENTS(compilers); c++)
        for (unsigned l = 0; l < G_N_ELEMENTS(levels) && plain_installed(c); l++) {
            wad_bench *bench;
            plain_build(chip, c, levels[l], source, define);
            wad_bench_result *r = run(chip, &bench, say);
            check(r, c, levels[l], ctx);
            wad_bench_result_free(r);
            wad_bench_free(bench);
        }
}

void plain_complain(const wad_bench_result *r, const char *what, unsigned compiler,
                    const char *level)
{
    wad_report_text(r, stderr);
    fail_msg("%s, %s %s", what, compilers[compiler].name, level);
}

void plain_must_find(const wad_bench_result *r, unsigned compiler, const char *level, void *ctx)
{
    const plain_wanted *w = ctx;
    for (unsigned i = 0; i < wad_sim_finding_count(r->sim); i++) {
        const wad_finding *f = wad_sim_finding(r->sim, i);
        if ((unsigned)f->kind == w->finding && f->n_places && f->places[0].line == w->line)
            return;
    }
    plain_complain(r, w->name, compiler, level);
}
