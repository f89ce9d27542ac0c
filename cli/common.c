/* SPDX-License-Identifier: MIT */
#include <errno.h>
#include <glib/gstdio.h>
#include <stdarg.h>
#include <string.h>

#include "cli.h"

int cli_error(const char *format, ...)
{
    va_list args;
    fputs("wadium: ", stderr);
    va_start(args, format);
    vfprintf(stderr, format, args);
    va_end(args);
    fputc('\n', stderr);
    return CLI_USAGE;
}

bool cli_options(int *argc, char ***argv, const char *verb, const char *synopsis,
                 const char *description, const GOptionEntry *entries, int *status)
{
    GError *error = NULL;
    GOptionContext *context = g_option_context_new(synopsis);
    char *name = g_strconcat("wadium ", verb, NULL);
    g_set_prgname(name);
    g_option_context_set_summary(context, description);
    if (entries)
        g_option_context_add_main_entries(context, entries, NULL);
    g_option_context_set_help_enabled(context, FALSE);
    bool help = FALSE;
    for (int i = 1; i < *argc; i++)
        help |= !strcmp((*argv)[i], "--help") || !strcmp((*argv)[i], "-h");
    bool ok = !help && g_option_context_parse(context, argc, argv, &error);
    if (help) {
        char *text = g_option_context_get_help(context, TRUE, NULL);
        fputs(text, stdout);
        g_free(text);
        *status = CLI_GOOD;
    } else if (!ok) {
        *status = cli_error("%s; see 'wadium %s --help'", error->message, verb);
        g_error_free(error);
    }
    g_option_context_free(context);
    g_free(name);
    return ok;
}

static void hint_names(const char *name)
{
    cli_error("there is no chip '%s': give its name or the path of its .sheet file (looked for "
              "here, in WADIUM_PATH and in Wadium's chips/)",
              name);
}

wad_sheet *cli_read_sheet(const char *name)
{
    char *path = wad_locate(name, ".sheet", NULL);
    if (!path) {
        hint_names(name);
        return NULL;
    }
    wad_diags *diags = wad_diags_new();
    wad_sheet *sheet = wad_sheet_read(path, diags);
    wad_diags_print(diags, stderr);
    wad_diags_free(diags);
    g_free(path);
    return sheet;
}

bool cli_find_board(const char *name, wad_board **board)
{
    *board = NULL;
    char *path = wad_locate(name, ".board", NULL);
    if (!path)
        return false;
    wad_diags *diags = wad_diags_new();
    *board = wad_board_read(path, diags);
    wad_diags_print(diags, stderr);
    wad_diags_free(diags);
    g_free(path);
    return true;
}

bool cli_time(const char *text, uint64_t *ps)
{
    static const struct {
        const char *unit;
        double scale;
    } units[] = {{"s", 1e12}, {"ms", 1e9}, {"us", 1e6}, {"ns", 1e3}, {"ps", 1}};
    char *end;
    double value = g_ascii_strtod(text, &end);
    while (*end == ' ')
        end++;
    for (unsigned i = 0; end != text && value >= 0 && i < G_N_ELEMENTS(units); i++)
        if (!strcmp(end, units[i].unit) && value * units[i].scale < 1.8e19) {
            *ps = (uint64_t)(value * units[i].scale + 0.5);
            return true;
        }
    cli_error("'%s' is no time; write it with its unit, such as 200ms or '1.5 s'", text);
    return false;
}

bool cli_open_output(cli_output *out, const char *path)
{
    *out = (cli_output){.file = stdout};
    if (!path)
        return true;
    out->path = g_strdup(path);
    out->temp = g_strconcat(path, ".part", NULL);
    out->file = g_fopen(out->temp, "w");
    if (out->file)
        return true;
    cli_error("cannot write '%s': %s", path, g_strerror(errno));
    g_free(out->path);
    g_free(out->temp);
    return false;
}

bool cli_close_output(cli_output *out)
{
    bool ok = !ferror(out->file);
    if (!out->path)
        return fflush(stdout) == 0 && ok;
    ok = fclose(out->file) == 0 && ok;
    ok = ok && g_rename(out->temp, out->path) == 0;
    if (!ok) {
        cli_error("cannot write '%s': %s", out->path, g_strerror(errno));
        g_unlink(out->temp);
    }
    g_free(out->path);
    g_free(out->temp);
    return ok;
}
