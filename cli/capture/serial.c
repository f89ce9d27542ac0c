/* SPDX-License-Identifier: MIT */
#include "cli/shared/cli.h"
#include "wadium/host/decode.h"

typedef struct serial_flags {
    char *format, *output, *from, *to;
    gboolean inverted;
    int baud;
} serial_flags;

static int draw(const wad_serial_decoded *d, const serial_flags *f, const char *name)
{
    wad_plot_options o = {.title = name};
    char *why;
    if ((f->from && !cli_time(f->from, &o.from_ps)) || (f->to && !cli_time(f->to, &o.to_ps)))
        return CLI_USAGE;
    if (wad_plot_serial(d, &o, f->output, &why)) {
        printf("%s\n", f->output);
        return CLI_GOOD;
    }
    int status = cli_file_error("%s", why);
    g_free(why);
    return status;
}

static int decode(const wad_capture *capture, uint64_t end, const serial_flags *f, const char *name)
{
    wad_serial_format format = {{f->baud, 1}, 8, 'N', 2};
    char *why;
    int channel = wad_capture_find(capture, name);
    if (channel < 0)
        return cli_error("'%s' is a row of numbers: a line has levels", name);
    if (f->format && !wad_serial_parse(f->format, &format))
        return cli_error("a format is data bits, parity and stop bits: 8N1, 7E1.5");
    wad_serial_decoded *d =
        wad_serial_decode(capture, (unsigned)channel, end, &format, f->inverted, &why);
    if (!d) {
        int status = cli_error("%s: %s", name, why);
        g_free(why);
        return status;
    }
    wad_show_serial(d, name, stdout);
    int status = d->framing || d->parity ? CLI_FAILED : CLI_GOOD;
    if (f->output && draw(d, f, name) != CLI_GOOD)
        status = CLI_USAGE;
    wad_serial_decoded_free(d);
    return status;
}

static int read_and_decode(const char *path, const char *name, const serial_flags *f)
{
    const wad_wanted_signal wanted[] = {{name, false}, {0}};
    uint64_t end;
    wad_capture *capture = cli_load_signals(path, wanted, &end);
    int status = capture ? decode(capture, end, f, name) : CLI_USAGE;
    wad_capture_free(capture);
    return status;
}

int cli_serial(int argc, char **argv)
{
    serial_flags f = {0};
    const GOptionEntry entries[] = {
        {"baud", 'b', 0, G_OPTION_ARG_INT, &f.baud, "instead of what the edges tell", "N"},
        {"format", 'f', 0, G_OPTION_ARG_STRING, &f.format, "data bits, parity, stop bits (8N1)",
         "FORMAT"},
        {"inverted", 'i', 0, G_OPTION_ARG_NONE, &f.inverted, "the line rests low", NULL},
        {"output", 'o', 0, G_OPTION_ARG_FILENAME, &f.output,
         "draw the line with bits, looked-at points and errors: .png or .svg", "FILE"},
        {"from", 0, 0, G_OPTION_ARG_STRING, &f.from,
         "the picture begins here, or with the first byte after it", "TIME"},
        {"to", 0, 0, G_OPTION_ARG_STRING, &f.to, "and ends here (six bytes on)", "TIME"},
        {0}};
    int status;
    if (!cli_options(&argc, &argv, "serial", "FILE.vcd SIGNAL",
                     "Decodes a captured pin to bytes, with the errors of each; the baud is "
                     "estimated from the edges.\nExit status 1: there were framing or parity "
                     "errors.",
                     entries, &status))
        return status;
    if (argc != 3)
        status = cli_error("serial takes a VCD file and one of its signals; see 'wadium serial "
                           "--help'");
    else if (f.baud < 0 || f.baud > 100000000)
        status = cli_error("--baud is 1 to 100000000");
    else if ((f.from || f.to) && !f.output)
        status = cli_error("--from and --to are the ends of a picture: say -o FILE.png");
    else
        status = read_and_decode(argv[1], argv[2], &f);
    g_free(f.format);
    g_free(f.output);
    g_free(f.from);
    g_free(f.to);
    return status;
}
