/* SPDX-License-Identifier: MIT */
/* Firmware for the simulated chip. */
#include <string.h>

#include "builder.h"

typedef struct builder {
    wadi_builder w;
    const wad_build *b;
    char *compiler;
    bool clang;
    guint first_driver; /* objects before are the program's */
} builder;

/* ---- compilers ---- */

static bool find_compiler(builder *w)
{
    static const char *const usual[] = {"gcc", "clang"};
    const char *given = w->b->compiler;
    for (unsigned i = 0; !given && i < G_N_ELEMENTS(usual) && !w->compiler; i++)
        w->compiler = g_find_program_in_path(usual[i]);
    if (given)
        w->compiler = g_find_program_in_path(given);
    if (!w->compiler)
        return wadi_builder_fail(&w->w,
                                 "no compiler '%s' is installed: apt-get install gcc (11 or later)",
                                 given ? given : "gcc");
    char *base = g_path_get_basename(w->compiler);
    w->clang = strstr(base, "clang") != NULL;
    g_free(base);
    return true;
}

static GPtrArray *compile_line(const builder *w)
{
    static const char *const common[] = {"-std=gnu11",
                                         "-g",
                                         "-ffreestanding",
                                         "-fPIC",
                                         "-fno-omit-frame-pointer",
                                         "-fno-optimize-sibling-calls",
                                         "-Wall",
                                         "-O2",
                                         NULL};
    static const char include[] = WADIUM_ROOT "/include", port[] = WADIUM_ROOT "/ports/sim";
    GPtrArray *argv = g_ptr_array_new_with_free_func(g_free);
    char *lower = g_ascii_strdown(w->w.sheet->name, -1);
    wadi_add(argv, "%s", w->compiler);
    wadi_add_all(argv, common);
    wadi_add(argv, "-I%s", include);
    wadi_add(argv, "-I%s", port);
    wadi_add(argv, "-I%s", w->w.folder);
    wadi_add(argv, "-DWAD_CHIP=\"%s_roles.h\"", lower);
    g_free(lower);
    wadi_add(argv, "%s", w->w.sheet->cpu.char_unsigned ? "-funsigned-char" : "-fsigned-char");
    return argv;
}

/* The user's sources are instrumented; generated ones and drivers call the port by themselves. */
static void compile(builder *w, GPtrArray *lines, const char *source, bool users)
{
    static const char *const gcc[] = {"-DWAD_HOST", "-fsanitize=thread", "--param",
                                      "tsan-distinguish-volatile=1", NULL};
    static const char *const clang[] = {"-DWAD_HOST",
                                        "-fsanitize=thread",
                                        "-fno-finite-loops",
                                        "-fdebug-info-for-profiling",
                                        "-mllvm",
                                        "-tsan-distinguish-volatile=1",
                                        "-mllvm",
                                        "-tsan-instrument-read-before-write=1",
                                        NULL};
    GPtrArray *argv = compile_line(w);
    if (users) {
        wadi_add_all(argv, w->clang ? clang : gcc);
        wadi_add_all(argv, w->b->flags);
    }
    wadi_add(argv, "-c%s", "");
    wadi_add_file(argv, source);
    const char *object = wadi_builder_object(&w->w, source);
    wadi_builder_line(&w->w, lines, argv, users ? NULL : source, object);
}

/* The program's own sources and the vectors first, then all of Wadium's drivers. */
static bool compile_all(builder *w)
{
    GPtrArray *lines = g_ptr_array_new();
    for (unsigned i = 0; w->b->sources[i]; i++)
        compile(w, lines, w->b->sources[i], true);
    char *lower = g_ascii_strdown(w->w.sheet->name, -1);
    char *vectors = g_strdup_printf("%s/%s_vectors.c", w->w.folder, lower);
    compile(w, lines, vectors, false);
    g_free(vectors);
    g_free(lower);
    w->first_driver = w->w.objects->len;
    GPtrArray *paths = wadi_builder_sources(&w->w, "drivers");
    for (guint i = 0; paths && i < paths->len; i++)
        compile(w, lines, paths->pdata[i], false);
    bool ok = wadi_builder_compile(&w->w, lines) && paths;
    if (paths)
        g_ptr_array_free(paths, TRUE);
    return ok;
}

/* What a firmware does not use is not linked: on a chip without a timebase the alarms are not
 * missed.
 */
static bool archive_drivers(builder *w, const char *archive)
{
    GPtrArray *argv = g_ptr_array_new_with_free_func(g_free);
    char *ar = g_find_program_in_path("ar");
    if (!ar) {
        g_ptr_array_free(argv, TRUE);
        return wadi_builder_fail(&w->w, "there is no 'ar', which comes with the linker%s", "");
    }
    wadi_add(argv, "%s", ar);
    g_free(ar);
    wadi_add(argv, "%s", "rcs");
    wadi_add(argv, "%s", archive);
    for (guint i = w->first_driver; i < w->w.objects->len; i++)
        wadi_add(argv, "%s", w->w.objects->pdata[i]);
    return wadi_builder_run(&w->w, argv);
}

static bool link_all(builder *w)
{
    static const char *const flags[] = {
        "-shared",
        "-Wl,-Bsymbolic",
        "-Wl,-Ttext-segment=0x20000000",
        "-Wl,--wrap=memcpy,--wrap=memmove,--wrap=memset,--wrap=exit,--wrap=_exit,--wrap=abort",
        "-Wl,--wrap=printf,--wrap=vprintf,--wrap=puts,--wrap=putchar,--wrap=getchar",
        NULL};
    GPtrArray *argv = g_ptr_array_new_with_free_func(g_free);
    char *part = g_build_filename(w->w.folder, "out.wfw", NULL);
    char *archive = g_build_filename(w->w.folder, "drivers.a", NULL);
    wadi_add(argv, "%s", w->compiler);
    wadi_add_all(argv, flags);
    for (guint i = 0; i < w->first_driver; i++)
        wadi_add(argv, "%s", w->w.objects->pdata[i]);
    wadi_add(argv, "%s", archive);
    wadi_add(argv, "-o%s", part);
    bool ok = archive_drivers(w, archive) && wadi_builder_run(&w->w, argv);
    g_free(part);
    g_free(archive);
    return ok && wadi_builder_put(&w->w, "out.wfw", w->b->output);
}

bool wad_build_firmware(const wad_build *b, char **log)
{
    builder w = {.b = b};
    wadi_builder_init(&w.w, b->chip, b->board);
    bool ok = w.w.folder ? wadi_builder_prepare(&w.w) && find_compiler(&w) && compile_all(&w) &&
                               link_all(&w)
                         : wadi_builder_fail(&w.w, "no temporary folder can be made%s", "");
    wadi_builder_clear(&w.w);
    g_free(w.compiler);
    *log = g_string_free(w.w.log, FALSE);
    return ok;
}

bool wad_build_part(const char *source, const char *output, char **log)
{
    static const char *const flags[] = {"-std=gnu11", "-g",    "-O2", "-fPIC",
                                        "-shared",    "-Wall", NULL};
    static const char include[] = WADIUM_ROOT "/include";
    builder w = {.b = &(wad_build){.output = output}};
    wadi_builder_init(&w.w, NULL, NULL);
    bool ok = w.w.folder && find_compiler(&w);
    if (ok) {
        GPtrArray *argv = g_ptr_array_new_with_free_func(g_free);
        char *part = g_build_filename(w.w.folder, "part.so", NULL);
        wadi_add(argv, "%s", w.compiler);
        wadi_add_all(argv, flags);
        wadi_add(argv, "-I%s", include);
        wadi_add_file(argv, source);
        wadi_add(argv, "-o%s", part);
        wadi_add(argv, "%s", "-lm");
        ok = wadi_builder_run(&w.w, argv) && wadi_builder_put(&w.w, "part.so", output);
        g_free(part);
    }
    wadi_builder_clear(&w.w);
    g_free(w.compiler);
    *log = g_string_free(w.w.log, FALSE);
    return ok;
}
