/* SPDX-License-Identifier: MIT */
#include <glib.h>
#include <glib/gstdio.h>
#include <string.h>

#include "wadium/host/toolchain.h"

#ifndef WADIUM_ROOT
#error "WADIUM_ROOT names the folder that holds include/, ports/ and drivers/"
#endif

typedef struct builder {
    const wad_build *b;
    wad_sheet *sheet;
    char *folder; /* generated files and objects; removed at the end */
    char *compiler;
    bool clang;
    GPtrArray *objects;
    GString *log;
} builder;

static bool fail(builder *w, const char *format, const char *arg)
{
    g_string_append_printf(w->log, format, arg);
    g_string_append_c(w->log, '\n');
    return false;
}

/* ---- generated files ---- */

typedef void (*writer)(const wad_sheet *sheet, FILE *out);

static bool generate(builder *w, const char *suffix, writer write)
{
    char *lower = g_ascii_strdown(w->sheet->name, -1), *file = g_strconcat(lower, suffix, NULL);
    char *path = g_build_filename(w->folder, file, NULL);
    FILE *out = g_fopen(path, "w");
    if (out)
        write(w->sheet, out);
    bool ok = out && fclose(out) == 0;
    if (!ok)
        fail(w, "cannot write '%s'", path);
    g_free(path);
    g_free(file);
    g_free(lower);
    return ok;
}

static bool generate_pins(builder *w, wad_diags *diags)
{
    if (!w->b->board)
        return true;
    char *found = wad_locate(w->b->board, ".board", NULL);
    wad_board *board = found ? wad_board_read(found, diags) : NULL;
    bool ok = false;
    if (!found) {
        fail(w, "there is no board '%s'", w->b->board);
    } else if (board) {
        char *lower = g_ascii_strdown(board->name, -1), *file = g_strconcat(lower, "_pins.h", NULL);
        char *path = g_build_filename(w->folder, file, NULL);
        FILE *out = g_fopen(path, "w");
        if (out)
            wad_emit_pins(board, out);
        ok = out && fclose(out) == 0;
        g_free(path);
        g_free(file);
        g_free(lower);
    }
    wad_board_free(board);
    g_free(found);
    return ok;
}

static bool read_sheet(builder *w, wad_diags *diags)
{
    char *path = wad_locate(w->b->chip, ".sheet", NULL);
    if (!path)
        return fail(w, "there is no chip '%s': give its name or the path of its .sheet file",
                    w->b->chip);
    w->sheet = wad_sheet_read(path, diags);
    g_free(path);
    return w->sheet != NULL;
}

static void log_diags(builder *w, const wad_diags *diags)
{
    char *text;
    size_t size;
    FILE *f = open_memstream(&text, &size);
    wad_diags_print(diags, f);
    fclose(f);
    g_string_append(w->log, text);
    free(text);
}

static bool prepare(builder *w)
{
    wad_diags *diags = wad_diags_new();
    bool ok = read_sheet(w, diags) && generate(w, ".h", wad_emit_header) &&
              generate(w, "_roles.h", wad_emit_roles) &&
              generate(w, "_vectors.c", wad_emit_vectors) && generate_pins(w, diags);
    log_diags(w, diags);
    wad_diags_free(diags);
    return ok;
}

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
        return fail(w, "no compiler '%s' is installed: apt-get install gcc (11 or later)",
                    given ? given : "gcc");
    char *base = g_path_get_basename(w->compiler);
    w->clang = strstr(base, "clang") != NULL;
    g_free(base);
    return true;
}

static void add(GPtrArray *argv, const char *format, const char *arg)
{
    g_ptr_array_add(argv, g_strdup_printf(format, arg));
}

static void add_all(GPtrArray *argv, const char *const *list)
{
    for (unsigned i = 0; list && list[i]; i++)
        add(argv, "%s", list[i]);
}

/* Runs it; what it says goes to the log. Frees argv. */
static bool run(builder *w, GPtrArray *argv)
{
    char *err = NULL;
    int status = -1;
    GError *error = NULL;
    g_ptr_array_add(argv, NULL);
    bool ok = g_spawn_sync(NULL, (char **)argv->pdata, NULL, G_SPAWN_STDOUT_TO_DEV_NULL, NULL, NULL,
                           NULL, &err, &status, &error);
    if (!ok) {
        fail(w, "%s", error->message);
        g_error_free(error);
    } else if (err) {
        g_string_append(w->log, err);
    }
    g_free(err);
    g_ptr_array_free(argv, TRUE);
    return ok && status == 0;
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
    char *lower = g_ascii_strdown(w->sheet->name, -1);
    add(argv, "%s", w->compiler);
    add_all(argv, common);
    add(argv, "-I%s", include);
    add(argv, "-I%s", port);
    add(argv, "-I%s", w->folder);
    add(argv, "-DWAD_CHIP=\"%s_roles.h\"", lower);
    g_free(lower);
    add(argv, "%s", w->sheet->cpu.char_unsigned ? "-funsigned-char" : "-fsigned-char");
    return argv;
}

/* The user's sources are instrumented; generated ones and drivers call the port by themselves. */
static bool compile(builder *w, const char *source, bool users)
{
    static const char *const gcc[] = {"-DWAD_HOST", "-fsanitize=thread", "--param",
                                      "tsan-distinguish-volatile=1", NULL};
    static const char *const clang[] = {"-DWAD_HOST",
                                        "-fsanitize=thread",
                                        "-fno-finite-loops",
                                        "-mllvm",
                                        "-tsan-distinguish-volatile=1",
                                        "-mllvm",
                                        "-tsan-instrument-read-before-write=1",
                                        NULL};
    GPtrArray *argv = compile_line(w);
    char *object = g_strdup_printf("%s/%u.o", w->folder, w->objects->len);
    if (users) {
        add_all(argv, w->clang ? clang : gcc);
        add_all(argv, w->b->flags);
    }
    add(argv, "-c%s", "");
    add(argv, "%s", source);
    add(argv, "-o%s", object);
    g_ptr_array_add(w->objects, object);
    return run(w, argv);
}

static int by_name(const void *a, const void *b)
{
    return strcmp(*(char *const *)a, *(char *const *)b);
}

/* Wadium's own, all of them: what a firmware does not use costs it nothing here. */
static bool compile_drivers(builder *w)
{
    GError *error = NULL;
    char *folder = g_build_filename(WADIUM_ROOT, "drivers", NULL);
    GDir *dir = g_dir_open(folder, 0, &error);
    GPtrArray *paths = g_ptr_array_new_with_free_func(g_free);
    bool ok = dir || fail(w, "%s", error->message);
    g_clear_error(&error);
    for (const char *name; dir && (name = g_dir_read_name(dir));)
        if (g_str_has_suffix(name, ".c"))
            g_ptr_array_add(paths, g_build_filename(folder, name, NULL));
    g_ptr_array_sort(paths, by_name);
    for (guint i = 0; ok && i < paths->len; i++)
        ok = compile(w, paths->pdata[i], false);
    if (dir)
        g_dir_close(dir);
    g_ptr_array_free(paths, TRUE);
    g_free(folder);
    return ok;
}

static bool compile_all(builder *w)
{
    bool ok = true;
    for (unsigned i = 0; w->b->sources[i]; i++)
        ok = compile(w, w->b->sources[i], true) && ok;
    ok = ok && compile_drivers(w);
    char *lower = g_ascii_strdown(w->sheet->name, -1);
    char *vectors = g_strdup_printf("%s/%s_vectors.c", w->folder, lower);
    ok = ok && compile(w, vectors, false);
    g_free(vectors);
    g_free(lower);
    return ok;
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
    char *part = g_build_filename(w->folder, "out.wfw", NULL);
    add(argv, "%s", w->compiler);
    add_all(argv, flags);
    for (guint i = 0; i < w->objects->len; i++)
        add(argv, "%s", w->objects->pdata[i]);
    add(argv, "-o%s", part);
    bool ok = run(w, argv);
    char *bytes = NULL;
    gsize size;
    GError *error = NULL;
    if (ok && (!g_file_get_contents(part, &bytes, &size, &error) ||
               !g_file_set_contents(w->b->output, bytes, (gssize)size, &error))) {
        ok = fail(w, "%s", error->message);
        g_error_free(error);
    }
    g_free(bytes);
    g_free(part);
    return ok;
}

static void remove_folder(const char *folder)
{
    GDir *dir = folder ? g_dir_open(folder, 0, NULL) : NULL;
    for (const char *name; dir && (name = g_dir_read_name(dir));) {
        char *path = g_build_filename(folder, name, NULL);
        g_unlink(path);
        g_free(path);
    }
    if (dir)
        g_dir_close(dir);
    if (folder)
        g_rmdir(folder);
}

bool wad_build_firmware(const wad_build *b, char **log)
{
    builder w = {.b = b,
                 .folder = g_dir_make_tmp("wadium-build-XXXXXX", NULL),
                 .objects = g_ptr_array_new_with_free_func(g_free),
                 .log = g_string_new(NULL)};
    bool ok = w.folder ? prepare(&w) && find_compiler(&w) && compile_all(&w) && link_all(&w)
                       : fail(&w, "no temporary folder can be made%s", "");
    remove_folder(w.folder);
    wad_sheet_free(w.sheet);
    g_ptr_array_free(w.objects, TRUE);
    g_free(w.folder);
    g_free(w.compiler);
    *log = g_string_free(w.log, FALSE);
    return ok;
}
