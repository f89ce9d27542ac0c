/* SPDX-License-Identifier: MIT */
#include "builder.h"

#include "cache.h"

#include <glib/gstdio.h>
#include <string.h>

#include "wadium/host/output.h"

bool wadi_builder_fail(wadi_builder *w, const char *format, const char *arg)
{
    g_string_append_printf(w->log, format, arg);
    g_string_append_c(w->log, '\n');
    return false;
}

/* ---- generated files ---- */

bool wadi_builder_generate(wadi_builder *w, const char *suffix, wadi_writer write)
{
    bool whole = g_ascii_isalpha(*suffix);
    char *lower = g_ascii_strdown(w->sheet->name, -1);
    char *file = whole ? g_strdup(suffix) : g_strconcat(lower, suffix, NULL);
    char *path = g_build_filename(w->folder, file, NULL);
    FILE *out = g_fopen(path, "w");
    if (out)
        write(w->sheet, out);
    bool ok = out && fclose(out) == 0;
    if (!ok)
        wadi_builder_fail(w, "cannot write '%s'", path);
    g_free(path);
    g_free(file);
    g_free(lower);
    return ok;
}

static bool generate_pins(wadi_builder *w, wad_diags *diags)
{
    if (!w->board)
        return true;
    char *found = wad_locate(w->board, ".board", NULL);
    wad_board *board = found ? wad_board_read(found, diags) : NULL;
    bool ok = false;
    if (!found) {
        wadi_builder_fail(w, "there is no board '%s'", w->board);
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

static bool read_sheet(wadi_builder *w, wad_diags *diags)
{
    char *path = wad_locate(w->chip, ".sheet", NULL);
    if (!path)
        return wadi_builder_fail(
            w, "there is no chip '%s': give its name or the path of its .sheet file", w->chip);
    w->sheet = wad_sheet_read(path, diags);
    g_free(path);
    return w->sheet != NULL;
}

static void log_diags(wadi_builder *w, const wad_diags *diags)
{
    char *text;
    size_t size;
    FILE *f = open_memstream(&text, &size);
    wad_diags_print(diags, f);
    fclose(f);
    g_string_append(w->log, text);
    free(text);
}

bool wadi_builder_prepare(wadi_builder *w)
{
    wad_diags *diags = wad_diags_new();
    bool ok = w->folder && read_sheet(w, diags) && wad_emit_check(w->sheet, diags) &&
              wadi_builder_generate(w, ".h", wad_emit_header) &&
              wadi_builder_generate(w, "_roles.h", wad_emit_roles) &&
              wadi_builder_generate(w, "_vectors.c", wad_emit_vectors) && generate_pins(w, diags);
    log_diags(w, diags);
    wad_diags_free(diags);
    return ok;
}

/* ---- programs that are run ---- */

void wadi_add(GPtrArray *argv, const char *format, const char *arg)
{
    g_ptr_array_add(argv, g_strdup_printf(format, arg));
}

void wadi_add_file(GPtrArray *argv, const char *path)
{
    wadi_add(argv, *path == '-' || *path == '@' ? "./%s" : "%s", path);
}

void wadi_add_all(GPtrArray *argv, const char *const *list)
{
    for (unsigned i = 0; list && list[i]; i++)
        wadi_add(argv, "%s", list[i]);
}

/* One of them, and what came of it. */
typedef struct job {
    GPtrArray *argv;
    char *said;
    bool good;
} job;

static void run_job(void *data, void *unused)
{
    job *j = data;
    int status = -1;
    GError *error = NULL;
    (void)unused;
    g_ptr_array_add(j->argv, NULL);
    bool started = g_spawn_sync(NULL, (char **)j->argv->pdata, NULL, G_SPAWN_STDOUT_TO_DEV_NULL,
                                NULL, NULL, NULL, &j->said, &status, &error);
    if (!started) {
        j->said = g_strdup_printf("%s\n", error->message);
        g_error_free(error);
    }
    j->good = started && status == 0;
}

static bool end_job(wadi_builder *w, job *j)
{
    if (j->said)
        g_string_append(w->log, j->said);
    g_free(j->said);
    g_ptr_array_free(j->argv, TRUE);
    return j->good;
}

bool wadi_builder_run(wadi_builder *w, GPtrArray *argv)
{
    job j = {.argv = argv};
    run_job(&j, NULL);
    return end_job(w, &j);
}

void wadi_builder_line(wadi_builder *w, GPtrArray *lines, GPtrArray *argv, const char *kept,
                       const char *object)
{
    if (kept && wadi_cache_find(w, argv, kept, object)) {
        g_ptr_array_free(argv, TRUE);
        return;
    }
    wadi_add(argv, "-o%s", object);
    g_ptr_array_add(lines, argv);
}

bool wadi_builder_compile(wadi_builder *w, GPtrArray *lines)
{
    job *jobs = g_new0(job, lines->len + 1);
    bool good = true;
    GThreadPool *pool = g_thread_pool_new(run_job, NULL, (gint)g_get_num_processors(), FALSE, NULL);
    for (guint i = 0; i < lines->len; i++) {
        jobs[i].argv = lines->pdata[i];
        g_thread_pool_push(pool, &jobs[i], NULL);
    }
    g_thread_pool_free(pool, FALSE, TRUE); /* waits for all */
    for (guint i = 0; i < lines->len; i++)
        good = end_job(w, &jobs[i]) && good;
    g_ptr_array_free(lines, TRUE);
    g_free(jobs);
    if (good)
        wadi_cache_keep(w);
    return good;
}

/* ---- files ---- */

const char *wadi_builder_object(wadi_builder *w, const char *source)
{
    char *base = g_path_get_basename(source);
    char *object =
        g_strdup_printf("%s/%u_%.*s.o", w->folder, w->objects->len, (int)strcspn(base, "."), base);
    g_ptr_array_add(w->objects, object);
    g_free(base);
    return object;
}

static int by_name(const void *a, const void *b)
{
    return strcmp(*(char *const *)a, *(char *const *)b);
}

GPtrArray *wadi_builder_sources(wadi_builder *w, const char *folder)
{
    GError *error = NULL;
    char *path = g_build_filename(WADIUM_ROOT, folder, NULL);
    GDir *dir = g_dir_open(path, 0, &error);
    GPtrArray *paths = dir ? g_ptr_array_new_with_free_func(g_free) : NULL;
    if (!dir) {
        wadi_builder_fail(w, "%s", error->message);
        g_error_free(error);
    }
    for (const char *name; dir && (name = g_dir_read_name(dir));)
        if (g_str_has_suffix(name, ".c"))
            g_ptr_array_add(paths, g_build_filename(path, name, NULL));
    if (dir) {
        g_ptr_array_sort(paths, by_name);
        g_dir_close(dir);
    }
    g_free(path);
    return paths;
}

bool wadi_builder_put(wadi_builder *w, const char *name, const char *output)
{
    char *part = g_build_filename(w->folder, name, NULL), *bytes = NULL, *why = NULL;
    gsize size;
    GError *error = NULL;
    bool ok = g_file_get_contents(part, &bytes, &size, &error) &&
              wad_output_bytes(output, bytes, size, &why);
    if (!ok)
        wadi_builder_fail(w, "%s", why ? why : error->message);
    g_clear_error(&error);
    g_free(why);
    g_free(bytes);
    g_free(part);
    return ok;
}

/* ---- life ---- */

void wadi_builder_init(wadi_builder *w, const char *chip, const char *board)
{
    char *why;
    *w = (wadi_builder){.chip = chip,
                        .board = board,
                        .folder = wad_output_folder("wadium-build", &why),
                        .objects = g_ptr_array_new_with_free_func(g_free),
                        .fresh = g_ptr_array_new_with_free_func(g_free),
                        .log = g_string_new(NULL)};
    if (!w->folder)
        wadi_builder_fail(w, "no folder to build in: %s", why);
    g_free(why);
}

void wadi_builder_clear(wadi_builder *w)
{
    wad_output_remove_folder(w->folder);
    wad_sheet_free(w->sheet);
    g_ptr_array_free(w->objects, TRUE);
    g_ptr_array_free(w->fresh, TRUE);
    g_free(w->headers);
    g_free(w->folder);
}
