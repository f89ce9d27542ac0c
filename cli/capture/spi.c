/* SPDX-License-Identifier: MIT */
#include <string.h>

#include "cli/shared/cli.h"
#include "wadium/host/exchange.h"

typedef struct spi_flags {
    char *names[WAD_EXCHANGE_LINES];
    char *output, *from, *to, *setup, *hold;
    int bits, mode, rows;
    gboolean lsb_first, select_high;
} spi_flags;

static int draw(const wad_exchanges *x, const spi_flags *f, const char *title)
{
    wad_plot_options o = {.title = title};
    char *why;
    if ((f->from && !cli_time(f->from, &o.from_ps)) || (f->to && !cli_time(f->to, &o.to_ps)))
        return CLI_USAGE;
    if (wad_plot_exchanges(x, &o, f->output, &why)) {
        printf("%s\n", f->output);
        return CLI_GOOD;
    }
    int status = cli_file_error("%s", why);
    g_free(why);
    return status;
}

static int decode(const char *path, const wad_capture *capture, uint64_t end, const int *channels,
                  const spi_flags *f)
{
    wad_exchange_form form = {.bits = (unsigned)f->bits,
                              .mode = f->mode,
                              .lsb_first = f->lsb_first,
                              .select_high = f->select_high};
    char *why, *title = g_path_get_basename(path);
    if ((f->setup && !cli_time(f->setup, &form.setup_ps)) ||
        (f->hold && !cli_time(f->hold, &form.hold_ps))) {
        g_free(title);
        return CLI_USAGE;
    }
    wad_exchanges *x = wad_exchange_decode(capture, channels, end, &form, &why);
    int status;
    if (!x) {
        status = cli_error("%s: %s", f->names[WAD_LINE_CLOCK], why);
        g_free(why);
        g_free(title);
        return status;
    }
    wad_show_exchanges(x, (unsigned)f->rows, stdout);
    status =
        x->shorts || x->glitches || x->early || x->late || x->disagreeing ? CLI_FAILED : CLI_GOOD;
    if (f->output && draw(x, f, title) != CLI_GOOD)
        status = CLI_USAGE;
    wad_exchanges_free(x);
    g_free(title);
    return status;
}

/* Lines by name; those that are not named are looked for by their usual ones. */
static int read_and_decode(const char *path, spi_flags *f)
{
    static const char *const usual[] = {"select", "sck", "mosi", "miso"};
    wad_wanted_signal wanted[WAD_EXCHANGE_LINES + 1] = {{0}};
    int channels[WAD_EXCHANGE_LINES];
    uint64_t end;
    for (unsigned i = 0; i < WAD_EXCHANGE_LINES; i++) {
        wanted[i].may_lack = !f->names[i] && i != WAD_LINE_CLOCK;
        if (!f->names[i])
            f->names[i] = g_strdup(usual[i]);
        wanted[i].name = f->names[i];
    }
    wad_capture *capture = cli_load_signals(path, wanted, &end);
    int status = capture ? CLI_GOOD : CLI_USAGE;
    for (unsigned i = 0; i < WAD_EXCHANGE_LINES && capture; i++)
        channels[i] = wad_capture_find(capture, wanted[i].name);
    if (capture && channels[WAD_LINE_CLOCK] < 0)
        status =
            cli_error("'%s' is a row of numbers: a clock has levels", wanted[WAD_LINE_CLOCK].name);
    else if (capture && channels[WAD_LINE_MOSI] < 0 && channels[WAD_LINE_MISO] < 0)
        status = cli_error("%s has neither '%s' nor '%s': name a data line with --mosi or --miso",
                           path, wanted[WAD_LINE_MOSI].name, wanted[WAD_LINE_MISO].name);
    else if (capture)
        status = decode(path, capture, end, channels, f);
    wad_capture_free(capture);
    return status;
}

static int check(int argc, const spi_flags *f)
{
    if (argc != 2)
        return cli_error("spi takes a VCD file; see 'wadium spi --help'");
    if (f->bits < 1 || f->bits > 32)
        return cli_error("--bits is 1 to 32");
    if (f->mode < -1 || f->mode > 3)
        return cli_error("--mode is 0 to 3");
    if (f->rows < 0)
        return cli_error("--rows is a number of rows, 0 for all");
    if ((f->from || f->to) && !f->output)
        return cli_error("--from and --to are the ends of a picture: say -o FILE.png");
    return CLI_GOOD;
}

int cli_spi(int argc, char **argv)
{
    spi_flags f = {.bits = 8, .mode = -1, .rows = 4};
    const GOptionEntry entries[] = {
        {"select", 's', 0, G_OPTION_ARG_STRING, &f.names[WAD_LINE_SELECT],
         "the select's signal (select, if there is one)", "SIGNAL"},
        {"clock", 'c', 0, G_OPTION_ARG_STRING, &f.names[WAD_LINE_CLOCK], "the clock's (sck)",
         "SIGNAL"},
        {"mosi", 0, 0, G_OPTION_ARG_STRING, &f.names[WAD_LINE_MOSI],
         "data out of the controller (mosi, if there is one)", "SIGNAL"},
        {"miso", 0, 0, G_OPTION_ARG_STRING, &f.names[WAD_LINE_MISO],
         "data into the controller (miso, if there is one)", "SIGNAL"},
        {"bits", 'b', 0, G_OPTION_ARG_INT, &f.bits, "bits of a frame (8)", "N"},
        {"mode", 'm', 0, G_OPTION_ARG_INT, &f.mode, "instead of what the edges tell", "N"},
        {"lsb-first", 0, 0, G_OPTION_ARG_NONE, &f.lsb_first, "least significant bit first", NULL},
        {"select-high", 0, 0, G_OPTION_ARG_NONE, &f.select_high, "the select is active high", NULL},
        {"setup", 0, 0, G_OPTION_ARG_STRING, &f.setup,
         "data must stand so long before the edge that takes them (0)", "TIME"},
        {"hold", 0, 0, G_OPTION_ARG_STRING, &f.hold, "and so long behind it (0)", "TIME"},
        {"rows", 'n', 0, G_OPTION_ARG_INT, &f.rows, "rows of frames an exchange (4); 0: all", "N"},
        {"output", 'o', 0, G_OPTION_ARG_FILENAME, &f.output,
         "draw the lines with bits taken and frames: .png or .svg", "FILE"},
        {"from", 0, 0, G_OPTION_ARG_STRING, &f.from, "the picture begins here", "TIME"},
        {"to", 0, 0, G_OPTION_ARG_STRING, &f.to, "and ends here (a few exchanges on)", "TIME"},
        {0}};
    int status;
    if (!cli_options(&argc, &argv, "spi", "FILE.vcd",
                     "Decodes captured pins to exchanges: frames out and in by select, clock rate, "
                     "and the mode that the\nedges tell. Exit status 1: short frames, select "
                     "glitches, data that change where they are taken.",
                     entries, &status))
        return status;
    status = check(argc, &f);
    if (status == CLI_GOOD)
        status = read_and_decode(argv[1], &f);
    for (unsigned i = 0; i < WAD_EXCHANGE_LINES; i++)
        g_free(f.names[i]);
    g_free(f.output);
    g_free(f.from);
    g_free(f.to);
    g_free(f.setup);
    g_free(f.hold);
    return status;
}
