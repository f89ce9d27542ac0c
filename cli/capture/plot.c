/* SPDX-License-Identifier: MIT */
#include <string.h>

#include "cli/shared/cli.h"
#include "wadium/host/recording.h"

typedef struct plot_flags {
    char *from, *to, *detail, *output, *title, *signals;
    gboolean text, intervals;
    int width, height;
} plot_flags;

typedef struct reading {
    wad_capture *capture;
    GArray *reals; /* the same for analog channels */
    GArray *map;   /* channel of the file -> channel of the capture, -1: left out */
    char **wanted;
    uint64_t end;
    GPtrArray *names; /* of all signals of the file */
} reading;

static bool takes(reading *r, const char *name)
{
    g_ptr_array_add(r->names, g_strdup(name));
    return !r->wanted || g_strv_contains((const char *const *)r->wanted, name);
}

/* Each signal that was asked for is there. */
static bool has_all(const reading *r)
{
    for (unsigned i = 0; r->wanted && r->wanted[i]; i++)
        if (!g_ptr_array_find_with_equal_func(r->names, r->wanted[i], g_str_equal, NULL)) {
            cli_unknown("signal", r->wanted[i], (const char *const *)r->names->pdata,
                        r->names->len);
            return false;
        }
    return true;
}

static void on_channel(void *ctx, unsigned number, const char *name)
{
    reading *r = ctx;
    (void)number;
    int channel = takes(r, name) ? (int)wad_capture_channel(r->capture, name) : -1;
    g_array_append_val(r->map, channel);
}

static void on_edge(void *ctx, unsigned channel, uint64_t ps, wad_level level)
{
    reading *r = ctx;
    int to = g_array_index(r->map, int, channel);
    if (to >= 0)
        wad_capture_edge(r->capture, (unsigned)to, ps, level);
}

static void on_real_channel(void *ctx, unsigned number, const char *name)
{
    reading *r = ctx;
    (void)number;
    const char *unit = g_str_has_suffix(name, "current") ? "A" : "V";
    int channel = takes(r, name) ? (int)wad_capture_analog(r->capture, name, unit) : -1;
    g_array_append_val(r->reals, channel);
}

static void on_real(void *ctx, unsigned channel, uint64_t ps, double value)
{
    reading *r = ctx;
    int to = g_array_index(r->reals, int, channel);
    if (to >= 0)
        wad_capture_sample(r->capture, (unsigned)to, ps, value);
}

static void on_end(void *ctx, uint64_t ps)
{
    ((reading *)ctx)->end = ps;
}

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

static int draw(const char *path, const plot_flags *f, reading *r)
{
    wad_plot_options o = {.width = (unsigned)f->width, .height = (unsigned)f->height};
    wad_diags *diags = wad_diags_new();
    wad_vcd_listener listener = {.channel = on_channel,
                                 .edge = on_edge,
                                 .end = on_end,
                                 .ctx = r,
                                 .real_channel = on_real_channel,
                                 .real = on_real};
    bool ok = wad_recording_read(path, &listener, diags);
    cli_tell(diags);
    if (!ok || !parse_times(f, &o) || !has_all(r))
        return CLI_USAGE;
    if (o.from_ps >= r->end && r->end)
        return cli_error("--from lies behind the end of %s, %.9g s", path,
                         (double)r->end / WAD_PS_PER_S);
    char *base = g_path_get_basename(path), *why = NULL;
    o.title = f->title ? f->title : base;
    if (!wad_capture_channels(r->capture) && !wad_capture_analogs(r->capture))
        why = g_strdup_printf("%s has none of the signals asked for", path);
    else if (f->text)
        wad_plot_text(r->capture, r->end, &o, stdout);
    else if (wad_plot_file(r->capture, r->end, &o, f->output, &why))
        printf("%s\n", f->output);
    int status = why ? cli_file_error("%s", why) : CLI_GOOD;
    g_free(why);
    g_free(base);
    return status;
}

static int draw_intervals(char *const *paths, unsigned n, const plot_flags *f, char **wanted)
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
    reading r = {wad_capture_new(),
                 g_array_new(FALSE, FALSE, sizeof(int)),
                 g_array_new(FALSE, FALSE, sizeof(int)),
                 f.signals ? g_strsplit(f.signals, ",", -1) : NULL,
                 0,
                 g_ptr_array_new_with_free_func(g_free)};
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
        status = draw_intervals(argv + 1, (unsigned)argc - 1, &f, r.wanted);
    else
        status = draw(argv[1], &f, &r);
    wad_capture_free(r.capture);
    g_ptr_array_free(r.names, TRUE);
    g_array_free(r.map, TRUE);
    g_array_free(r.reals, TRUE);
    g_strfreev(r.wanted);
    free_flags(&f);
    return status;
}
