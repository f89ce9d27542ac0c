/* SPDX-License-Identifier: MIT */
#include "gnuplot.h"

#include <errno.h>
#include <glib.h>
#include <stdlib.h>
#include <string.h>
#include <sys/mman.h>
#include <sys/wait.h>
#include <unistd.h>

#include "files/quote.h"
#include "wadium/host/output.h"

wadi_axis wadi_axis_of(uint64_t from, uint64_t to, unsigned columns)
{
    static const struct {
        double scale;
        const char *unit;
    } units[] = {{1e12, "s"}, {1e9, "ms"}, {1e6, "us"}, {1e3, "ns"}, {1, "ps"}};
    unsigned i = 0;
    while (i < 4 && (double)(to - from) < units[i].scale)
        i++;
    return (wadi_axis){from, to, columns, units[i].scale, units[i].unit};
}

/* ---- text ---- */

/* In single quotes gnuplot takes all as it stands, a quote doubled; a mark at an axis is besides a
 * format. */
static char *quoted(const char *text, bool is_format)
{
    GString *out = g_string_new("'");
    char *line = wadi_line_copy(text);
    for (const char *p = line; *p; p++) {
        if (*p == '\'' || (*p == '%' && is_format))
            g_string_append_c(out, *p);
        g_string_append_c(out, *p);
    }
    g_string_append_c(out, '\'');
    g_free(line);
    return g_string_free(out, FALSE);
}

void wadi_gnuplot_text(FILE *gp, const char *before, const char *text, const char *after)
{
    char *string = quoted(text, false);
    fprintf(gp, "%s%s%s", before, string, after);
    g_free(string);
}

void wadi_gnuplot_mark(FILE *gp, const char *text, double at)
{
    char *string = quoted(text, true);
    fprintf(gp, "%s %.12g", string, at);
    g_free(string);
}

/* ---- the process ---- */

static bool is_installed(char **why)
{
    char *gnuplot = g_find_program_in_path("gnuplot");
    if (!gnuplot)
        *why = g_strdup("gnuplot is not installed: apt-get install gnuplot-nox");
    g_free(gnuplot);
    return *why == NULL;
}

/* The script in memory, as a file to be read. */
static int script_file(const char *terminal, wadi_script_fn script, const void *data)
{
    int fd = memfd_create("picture", MFD_CLOEXEC);
    FILE *gp = fd < 0 ? NULL : fdopen(dup(fd), "w");
    if (!gp)
        return -1;
    script(gp, terminal, data);
    bool good = !ferror(gp);
    good = fclose(gp) == 0 && good && lseek(fd, 0, SEEK_SET) == 0;
    if (good)
        return fd;
    close(fd);
    return -1;
}

/* Its first words, for a message; g_free. */
static char *complaint(int fd)
{
    char text[400] = "";
    ssize_t n = pread(fd, text, sizeof text - 1, 0);
    text[n > 0 ? n : 0] = 0;
    return g_strdup(g_strstrip(g_strdelimit(text, "\n\r\t", ' ')));
}

/* What gnuplot draws, to `out`: its own exit status says nothing of a full disk. */
static bool run(const char *terminal, wadi_script_fn script, const void *data, FILE *out,
                char **why)
{
    char *argv[] = {"gnuplot", "-d", "-", NULL};
    char bytes[4096];
    int from = -1, status = -1, in = script_file(terminal, script, data);
    int said = memfd_create("complaints", MFD_CLOEXEC);
    size_t drawn = 0;
    GPid pid;
    bool started = in >= 0 && said >= 0 &&
                   g_spawn_async_with_pipes_and_fds(NULL, (const char *const *)argv, NULL,
                                                    G_SPAWN_SEARCH_PATH | G_SPAWN_DO_NOT_REAP_CHILD,
                                                    NULL, NULL, in, -1, said, NULL, NULL, 0, &pid,
                                                    NULL, &from, NULL, NULL);
    for (ssize_t n; started && ((n = read(from, bytes, sizeof bytes)) > 0 || errno == EINTR);) {
        if (n < 0)
            continue;
        drawn += fwrite(bytes, 1, (size_t)n, out);
    }
    while (started && waitpid(pid, &status, 0) < 0 && errno == EINTR)
        ;
    if (!started) {
        *why = g_strdup_printf("gnuplot cannot be started: %s", g_strerror(errno));
    } else if (status || !drawn) {
        char *words = complaint(said);
        *why = g_strdup_printf("gnuplot drew nothing: %s", *words ? words : "it does not say why");
        g_free(words);
    }
    if (from >= 0)
        close(from);
    if (in >= 0)
        close(in);
    if (said >= 0)
        close(said);
    return *why == NULL;
}

bool wadi_gnuplot_file(const char *path, unsigned width, unsigned height, wadi_script_fn script,
                       const void *data, char **why)
{
    *why = NULL;
    bool svg = g_str_has_suffix(path, ".svg");
    if (!svg && !g_str_has_suffix(path, ".png")) {
        *why = g_strdup_printf("'%s' ends neither in .png nor in .svg", path);
        return false;
    }
    wad_output *out = is_installed(why) ? wad_output_open(path, why) : NULL;
    if (!out)
        return false;
    char *terminal =
        g_strdup_printf("%s noenhanced size %u,%u font 'DejaVu Sans,11' background rgb 'white'",
                        svg ? "svg" : "pngcairo", width, height);
    bool ok = run(terminal, script, data, wad_output_file(out), why);
    if (ok)
        ok = wad_output_close(out, why);
    else
        wad_output_drop(out);
    g_free(terminal);
    return ok;
}

bool wadi_gnuplot_characters(unsigned rows, wadi_script_fn script, const void *data, FILE *out,
                             char **why)
{
    char *text = NULL;
    size_t size = 0;
    *why = NULL;
    if (!is_installed(why))
        return false;
    char *terminal = g_strdup_printf("dumb noenhanced size 79,%u", rows);
    FILE *memory = open_memstream(&text, &size);
    bool ok = run(terminal, script, data, memory, why);
    fclose(memory);
    if (ok)
        fputs(g_str_has_prefix(text, "\f") ? text + 1 : text, out);
    g_free(terminal);
    free(text);
    return ok;
}
