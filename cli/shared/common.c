/* SPDX-License-Identifier: MIT */
#include <stdarg.h>
#include <string.h>

#include "cli.h"

static void say(const char *format, va_list args)
{
    fputs("wadium: ", stderr);
    vfprintf(stderr, format, args);
    fputc('\n', stderr);
}

int cli_error(const char *format, ...)
{
    va_list args;
    va_start(args, format);
    say(format, args);
    va_end(args);
    return CLI_USAGE;
}

/* Of the whole command: whoever found it out may be far from who knows the status. */
static bool file_trouble;

bool cli_had_file_trouble(void)
{
    return file_trouble;
}

int cli_file_error(const char *format, ...)
{
    va_list args;
    va_start(args, format);
    say(format, args);
    va_end(args);
    file_trouble = true;
    return CLI_FILE;
}

void cli_tell(wad_diags *diags)
{
    wad_diags_print(diags, stderr);
    file_trouble |= wad_diags_errors(diags) != 0;
    wad_diags_free(diags);
}

/* The mark behind which nothing is an option has done its work. */
static void drop_mark(int *argc, char **argv)
{
    for (int i = 1; i < *argc; i++)
        if (!strcmp(argv[i], "--")) {
            memmove(argv + i, argv + i + 1, (size_t)(*argc - i) * sizeof *argv);
            (*argc)--;
            return;
        }
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
    if (ok)
        drop_mark(argc, *argv);
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

bool cli_read_flags(int *argc, char ***argv, const char *verb, const char *synopsis,
                    const char *description, const cli_option *options, void *flags, int *status)
{
    GArray *entries = g_array_new(TRUE, TRUE, sizeof(GOptionEntry));
    for (const cli_option *o = options; o->name; o++) {
        GOptionEntry e = {o->name, o->letter, 0, o->takes, (char *)flags + o->at, o->help, o->what};
        g_array_append_val(entries, e);
    }
    bool good = cli_options(argc, argv, verb, synopsis, description,
                            (const GOptionEntry *)(void *)entries->data, status);
    g_array_free(entries, TRUE);
    return good;
}

void cli_free_flags(void *flags, const cli_option *options)
{
    for (const cli_option *o = options; o->name; o++) {
        void *at = (char *)flags + o->at;
        if (o->takes == G_OPTION_ARG_STRING || o->takes == G_OPTION_ARG_FILENAME)
            g_free(*(char **)at);
        else if (o->takes == G_OPTION_ARG_STRING_ARRAY)
            g_strfreev(*(char ***)at);
    }
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
    cli_tell(diags);
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
    cli_tell(diags);
    g_free(path);
    return true;
}

/* Units of kinds that Wadium has not, and that the bench gives no model. */
static unsigned without_model(const wad_sheet *sheet, const wad_bench *bench)
{
    unsigned n = 0;
    for (unsigned i = 0; i < sheet->n_blocks; i++) {
        const wad_kind *kind = sheet->blocks[i]->layout->kind;
        n += kind && kind->own && !wad_bench_has_model(bench, sheet->blocks[i]);
    }
    return n;
}

void cli_tell_unsimulated(const wad_sheet *sheet, const wad_bench *bench)
{
    wad_diags *diags = wad_diags_new();
    unsigned n = without_model(sheet, bench);
    wad_sheet_lint(sheet, diags);
    for (unsigned i = 0; i < wad_diags_count(diags); i++) {
        const char *text = wad_diags_at(diags, i)->text;
        n +=
            g_str_has_prefix(text, "typed, but not simulated") && !g_str_has_suffix(text, "[L313]");
    }
    if (n)
        fprintf(
            stderr,
            "wadium: %u thing%s of %s %s typed, but not simulated: 'wadium lint %s' says which\n",
            n, n > 1 ? "s" : "", sheet->name, n > 1 ? "are" : "is", sheet->file);
    wad_diags_free(diags);
}

int cli_unknown(const char *what, const char *name, const char *const *names, unsigned n)
{
    const char *near = wad_nearest(name, names, n);
    if (near)
        return cli_error("there is no %s '%s' (did you mean '%s'?)", what, name, near);
    char **list = g_new0(char *, n + 1);
    for (unsigned i = 0; i < n; i++)
        list[i] = (char *)names[i];
    char *all = g_strjoinv(", ", list);
    int status = cli_error("there is no %s '%s'%s%s", what, name,
                           n > 1   ? "; there are "
                           : n > 0 ? "; there is "
                                   : "",
                           all);
    g_free(all);
    g_free(list);
    return status;
}

bool cli_check_blocks(const wad_sheet *sheet, char *const *blocks)
{
    const char **names = g_new0(const char *, sheet->n_blocks + 1);
    bool good = true;
    for (unsigned i = 0; i < sheet->n_blocks; i++)
        names[i] = sheet->blocks[i]->name;
    for (unsigned i = 0; blocks && blocks[i] && good; i++)
        if (!wad_sheet_block(sheet, blocks[i])) {
            char *what = g_strdup_printf("block of %s", sheet->name);
            cli_unknown(what, blocks[i], names, sheet->n_blocks);
            g_free(what);
            good = false;
        }
    g_free(names);
    return good;
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
    char *why;
    out->output = wad_output_open(path, &why);
    out->file = out->output ? wad_output_file(out->output) : NULL;
    if (out->output)
        return true;
    cli_file_error("%s", why);
    g_free(why);
    return false;
}

bool cli_close_output(cli_output *out)
{
    char *why;
    out->file = NULL;
    if (wad_output_close(out->output, &why))
        return true;
    cli_file_error("%s", why);
    g_free(why);
    return false;
}
