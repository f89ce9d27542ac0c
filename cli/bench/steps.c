/* SPDX-License-Identifier: MIT */
#include <string.h>

#include "cli/shared/apart.h"
#include "cli/shared/cli.h"
#include "wadium/host/steps.h"

typedef struct steps_flags {
    char *firmware_dir, *until, *call, *output, *c;
    char **blocks;
    gboolean markdown, handlers;
} steps_flags;

static int show(const wad_steps *steps, const steps_flags *flags)
{
    cli_output out;
    if (!wad_steps_count(steps))
        return cli_error("no steps were recorded%s%s%s", flags->call ? " inside of '" : "",
                         flags->call ? flags->call : "", flags->call ? "'" : "");
    if (!cli_open_output(&out, flags->output))
        return CLI_USAGE;
    if (flags->markdown)
        wad_show_steps_markdown(steps, out.file);
    else if (flags->c)
        wad_show_steps_c(steps, flags->c, out.file);
    else
        wad_show_steps(steps, out.file);
    if (!cli_close_output(&out))
        return CLI_USAGE;
    return wad_steps_warnings(steps) ? CLI_FAILED : CLI_GOOD;
}

/* Of the first bench of a file, which must outlive the steps. */
static wad_steps *from_bench(const char *path, const wad_steps_options *options,
                             wad_bench_list **list, int *status)
{
    wad_diags *diags = wad_diags_new();
    *list = wad_bench_read(path, diags);
    cli_tell(diags);
    char *why = NULL, *how = NULL;
    const wad_bench_options where = {.firmware_dir = options->firmware_dir};
    if (*list && !cli_check_blocks(wad_bench_sheet(wad_bench_list_at(*list, 0)),
                                   (char *const *)options->blocks))
        return NULL;
    if (*list && !cli_apart_run(&how)) {
        *status = cli_apart_died(wad_bench_list_at(*list, 0), &where, how);
        return NULL;
    }
    wad_steps *steps = *list ? wad_steps_run(wad_bench_list_at(*list, 0), options, &why) : NULL;
    if (why)
        cli_error("%s", why);
    g_free(why);
    return steps;
}

static wad_steps *from_trace(const wad_sheet *sheet, const char *path,
                             const wad_steps_options *options)
{
    wad_diags *diags = wad_diags_new();
    wad_steps *steps = wad_steps_read(sheet, path, options, diags);
    cli_tell(diags);
    return steps;
}

static bool is_c_name(const char *name)
{
    bool good = g_ascii_isalpha(*name) || *name == '_';
    for (; *name; name++)
        good = good && (g_ascii_isalnum(*name) || *name == '_');
    return good;
}

static int record(int argc, char **argv, const steps_flags *flags)
{
    wad_steps_options options = {.firmware_dir = flags->firmware_dir,
                                 .call = flags->call,
                                 .blocks = (const char *const *)flags->blocks,
                                 .handlers = flags->handlers};
    if (flags->until && !cli_time(flags->until, &options.until_ps))
        return CLI_USAGE;
    if (flags->markdown && flags->c)
        return cli_error("--markdown and --c are two forms: use one");
    if (flags->c && !is_c_name(flags->c))
        return cli_error("'%s' is no name of a C function", flags->c);
    wad_sheet *sheet = argc == 3 ? cli_read_sheet(argv[1]) : NULL;
    if (argc == 3 && !sheet)
        return CLI_USAGE;
    if (sheet && flags->firmware_dir) {
        wad_sheet_free(sheet);
        return cli_error("--firmware-dir is for a bench; a trace has been run already");
    }
    if (sheet && !cli_check_blocks(sheet, flags->blocks)) {
        wad_sheet_free(sheet);
        return CLI_USAGE;
    }
    wad_bench_list *list = NULL;
    int status = CLI_USAGE;
    wad_steps *steps = sheet ? from_trace(sheet, argv[2], &options)
                             : from_bench(argv[1], &options, &list, &status);
    status = steps ? show(steps, flags) : status;
    wad_steps_free(steps);
    wad_bench_list_free(list);
    wad_sheet_free(sheet);
    return status;
}

int cli_steps(int argc, char **argv)
{
    steps_flags flags = {0};
    const GOptionEntry entries[] = {
        {"firmware-dir", 'd', 0, G_OPTION_ARG_FILENAME, &flags.firmware_dir,
         "where the firmware lies, if not beside the bench", "DIR"},
        {"until", 0, 0, G_OPTION_ARG_STRING, &flags.until, "up to here, not to the bench's end",
         "TIME"},
        {"call", 0, 0, G_OPTION_ARG_STRING, &flags.call, "only inside of this function",
         "FUNCTION"},
        {"block", 0, 0, G_OPTION_ARG_STRING_ARRAY, &flags.blocks,
         "only this block's registers; may be given several times", "BLOCK"},
        {"handlers", 0, 0, G_OPTION_ARG_NONE, &flags.handlers, "also what interrupt handlers do",
         NULL},
        {"markdown", 0, 0, G_OPTION_ARG_NONE, &flags.markdown, "as a table in Markdown", NULL},
        {"c", 0, 0, G_OPTION_ARG_STRING, &flags.c, "as a C function of this name", "NAME"},
        {"output", 'o', 0, G_OPTION_ARG_FILENAME, &flags.output, "write to a file", "FILE"},
        {0}};
    int status;
    if (!cli_options(
            &argc, &argv, "steps", "FILE.bench  or  CHIP TRACE.csv",
            "Records a bring-up: each register write with the fields it changes, what for (from "
            "the sheet),\nand where in the source; each wait; what is missing or out of order. "
            "From the first bench of a\nfile, run here, or from a trace that 'wadium run --trace' "
            "wrote. Exit status 1: something is\nout of order, missing or wrong.",
            entries, &status))
        return status;
    if (argc != 2 && argc != 3)
        status = cli_error("steps takes a bench file, or a chip and a trace; see 'wadium steps "
                           "--help'");
    else
        status = record(argc, argv, &flags);
    g_free(flags.firmware_dir);
    g_free(flags.until);
    g_free(flags.call);
    g_free(flags.output);
    g_free(flags.c);
    g_strfreev(flags.blocks);
    return status;
}
