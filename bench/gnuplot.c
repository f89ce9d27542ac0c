/* SPDX-License-Identifier: MIT */
#include "gnuplot.h"

#include <errno.h>
#include <glib.h>
#include <glib/gstdio.h>
#include <string.h>
#include <unistd.h>

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

char *wadi_gnuplot_quoted(const char *text)
{
    char **parts = g_strsplit(text, "'", -1);
    char *joined = g_strjoinv("''", parts);
    g_strfreev(parts);
    return joined;
}

static bool is_installed(char **why)
{
    char *gnuplot = g_find_program_in_path("gnuplot");
    if (!gnuplot)
        *why = g_strdup("gnuplot is not installed: apt-get install gnuplot-nox");
    g_free(gnuplot);
    return *why == NULL;
}

static bool run(const char *terminal, const char *path, wadi_script_fn script, const void *data)
{
    char *file = wadi_gnuplot_quoted(path);
    FILE *gp = popen("gnuplot 2>&1 >/dev/null", "w");
    if (gp)
        script(gp, terminal, file, data);
    g_free(file);
    return gp && pclose(gp) == 0;
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
    if (!is_installed(why))
        return false;
    char *temp = g_strconcat(path, ".part", NULL);
    char *terminal =
        g_strdup_printf("%s noenhanced size %u,%u font 'DejaVu Sans,11' background rgb 'white'",
                        svg ? "svg" : "pngcairo", width, height);
    errno = 0;
    bool ok = run(terminal, temp, script, data) && g_rename(temp, path) == 0;
    if (!ok) {
        *why = g_strdup_printf("cannot write '%s'%s%s", path, errno ? ": " : "",
                               errno ? g_strerror(errno) : "");
        g_unlink(temp);
    }
    g_free(terminal);
    g_free(temp);
    return ok;
}

bool wadi_gnuplot_text(unsigned rows, wadi_script_fn script, const void *data, FILE *out,
                       char **why)
{
    *why = NULL;
    if (!is_installed(why))
        return false;
    char *path = NULL, *text = NULL;
    int fd = g_file_open_tmp("wadium-XXXXXX.txt", &path, NULL);
    char *terminal = g_strdup_printf("dumb noenhanced size 79,%u", rows);
    bool ok = fd >= 0 && run(terminal, path, script, data) &&
              g_file_get_contents(path, &text, NULL, NULL);
    if (!ok)
        *why = g_strdup("gnuplot drew nothing");
    else
        fputs(g_str_has_prefix(text, "\f") ? text + 1 : text, out);
    if (fd >= 0) {
        close(fd);
        g_unlink(path);
    }
    g_free(terminal);
    g_free(path);
    g_free(text);
    return ok;
}
