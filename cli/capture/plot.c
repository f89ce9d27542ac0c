/* SPDX-License-Identifier: MIT */
#include "cli/shared/cli.h"
#include "wadium/host/recording.h"

typedef struct plot_flags {
    char *from, *to, *detail, *output, *title, *signals;
    gboolean text, intervals;
    int width, height;
} plot_flags;

static bool parse_times(const plot_flags *f, wad_plot_options *o)
{
    if ((f->from && !cli_time(f->from, &o->from_ps)) || (f->to && !cli_time(f->to, &o->to_ps)))
        return false;
    if (o->to_ps && o->to_ps <= o->from_ps) {
        cli_error("--to lies before --from");
        return false;
    }
    if (!f->detail)
        return true;
    char **ends = g_strsplit(f->detail, "..", 2);
    bool ok = ends[0] && ends[1] && cli_time(ends[0], &o->detail_from) &&
              cli_time(ends[1], &o->detail_to) && o->detail_to > o->detail_from;
    g_strfreev(ends);
    if (!ok)
        cli_error("--detail takes two times: --detail 1999ms..2003ms");
    return ok;
}

static int draw(const char *path, const plot_flags *f, const wad_wanted_signal *wanted)
{
    wad_plot_options o = {.width = (unsigned)f->width, .height = (unsigned)f->height};
    uint64_t end = 0;
    wad_capture *capture = cli_load_signals(path, wanted, &end);
    int status = capture && parse_times(f, &o) ? CLI_GOOD : CLI_USAGE;
    char *base = g_path_get_basename(path), *why = NULL;
    o.title = f->title ? f->title : base;
    if (status == CLI_GOOD && o.from_ps >= end && end)
        status =
            cli_error("--from lies behind the end of %s, %.9g s", path, (double)end / WAD_PS_PER_S);
    else if (status == CLI_GOOD && f->text)
        wad_plot_text(capture, end, &o, stdout);
    else if (status == CLI_GOOD && wad_plot_file(capture, end, &o, f->output, &why))
        printf("%s\n", f->output);
    if (why)
        status = cli_file_error("%s", why);
    g_free(why);
    g_free(base);
    wad_capture_free(capture);
    return status;
}

static int draw_intervals(char *const *paths, unsigned n, const plot_flags *f,
                          const wad_wanted_signal *wanted)
{
    wad_plot_options o = {.width = (unsigned)f->width,
                          .height = (unsigned)f->height,
                          .title = f->title ? f->title : "from one to the next"};
    if (!parse_times(f, &o))
        return CLI_USAGE;
    return cli_plot_intervals(paths, n, wanted, &o, f->text ? NULL : f->output);
}

static void free_flags(plot_flags *f)
{
    g_free(f->from);
    g_free(f->to);
    g_free(f->detail);
    g_free(f->output);
    g_free(f->title);
    g_free(f->signals);
}

int cli_plot(int argc, char **argv)
{
    plot_flags f = {0};
    const GOptionEntry entries[] = {
        {"output", 'o', 0, G_OPTION_ARG_FILENAME, &f.output, "a .png or .svg file", "FILE"},
        {"text", 0, 0, G_OPTION_ARG_NONE, &f.text, "draw in the terminal", NULL},
        {"intervals", 0, 0, G_OPTION_ARG_NONE, &f.intervals,
         "how regular the signals of one file or several are: histograms of the time from rise to "
         "rise, or from one analog step to the next; with --text a table",
         NULL},
        {"from", 0, 0, G_OPTION_ARG_STRING, &f.from, "left end of the time axis", "TIME"},
        {"to", 0, 0, G_OPTION_ARG_STRING, &f.to, "right end", "TIME"},
        {"detail", 0, 0, G_OPTION_ARG_STRING, &f.detail, "a second panel below", "TIME..TIME"},
        {"signals", 0, 0, G_OPTION_ARG_STRING, &f.signals, "only these", "A,B,..."},
        {"title", 0, 0, G_OPTION_ARG_STRING, &f.title, "above the picture", "TEXT"},
        {"width", 0, 0, G_OPTION_ARG_INT, &f.width, "pixels, or characters (1280, 100)", "N"},
        {"height", 0, 0, G_OPTION_ARG_INT, &f.height, "pixels (800)", "N"},
        {0}};
    int status = CLI_USAGE;
    if (!cli_options(&argc, &argv, "plot", "FILE.vcd -o FILE.png | FILE.svg | --text",
                     "Draws a timing diagram of a VCD file, each signal with its measured "
                     "frequency and duty;\nor, with --intervals, how regular its signals are.",
                     entries, &status))
        return status;
    wad_wanted_signal *wanted = cli_wanted_signals(f.signals);
    if (argc < 2 || (argc > 2 && !f.intervals))
        status = cli_error(
            "plot takes one VCD file, several with --intervals; see 'wadium plot --help'");
    else if (!f.text && !f.output)
        status = cli_error("say where to: -o FILE.png, -o FILE.svg or --text");
    else if (f.width < 0 || f.height < 0 || f.width > 10000 || f.height > 10000)
        status = cli_error("width and height are 1 to 10000");
    else if (f.intervals && f.detail)
        status = cli_error("--detail goes with a timing diagram, not with --intervals");
    else if (f.intervals)
        status = draw_intervals(argv + 1, (unsigned)argc - 1, &f, wanted);
    else
        status = draw(argv[1], &f, wanted);
    cli_free_wanted(wanted);
    free_flags(&f);
    return status;
}
