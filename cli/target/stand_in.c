/* SPDX-License-Identifier: MIT */
#include <errno.h>
#include <string.h>
#include <unistd.h>

#include "cli/shared/apart.h"
#include "cli/shared/bridge.h"
#include "wadium/host/standin.h"

typedef struct board_flags {
    char *listen, *serial, *firmware, *vcd, *duration, *world;
    char **defects;
    gdouble pace;
} board_flags;

typedef struct stand {
    wad_board *board;
    wad_sheet *sheet;
    wad_bench *bench;
    wad_diags *diags;
} stand;

#define ERRATUM "erratum "

/* ---- what stands there ---- */

/* The sheet that `--defect 'erratum SHEET'` names; NULL: none. */
static const char *erratum_of(const board_flags *f)
{
    for (unsigned i = 0; f->defects && f->defects[i]; i++)
        if (g_str_has_prefix(f->defects[i], ERRATUM))
            return f->defects[i] + strlen(ERRATUM);
    return NULL;
}

static char *sheet_named(const char *name)
{
    char *path = wad_locate(name, ".sheet", NULL);
    if (!path)
        cli_error("there is no sheet '%s'", name);
    return path;
}

static bool read_board(stand *s, const char *name, const char *erratum)
{
    char *path = wad_locate(name, ".board", NULL), *sheet = NULL;
    if (erratum && !(sheet = sheet_named(erratum))) {
        g_free(path);
        return false;
    }
    if (path)
        s->board = wad_board_read_on(path, sheet, s->diags);
    else if (sheet || (sheet = sheet_named(name)))
        s->sheet = wad_sheet_read(sheet, s->diags);
    if (s->board)
        s->bench = wad_bench_new("stand-in", s->board);
    else if (s->sheet)
        s->bench = wad_bench_new_chip("stand-in", s->sheet);
    g_free(path);
    g_free(sheet);
    return s->bench != NULL;
}

static bool say(stand *s, const char *statement)
{
    return wad_bench_say(s->bench, statement, s->diags);
}

static bool say_world(stand *s, const char *path)
{
    char *text = NULL;
    GError *error = NULL;
    if (!g_file_get_contents(path, &text, NULL, &error)) {
        cli_error("%s", error->message);
        g_error_free(error);
        return false;
    }
    bool good = say(s, text);
    g_free(text);
    return good;
}

static bool say_all(stand *s, const board_flags *f)
{
    uint64_t ps = 0;
    char *run;
    if (f->duration && !cli_time(f->duration, &ps))
        return false;
    run =
        f->duration ? g_strdup_printf("run %.12g s", (double)ps / 1e12) : g_strdup("run 1000000 s");
    char *line = f->serial ? g_strndup(f->serial, strcspn(f->serial, "=")) : NULL;
    const wad_part_def *part = line && s->board ? wad_board_part(s->board, line) : NULL;
    char *uart = part ? g_strdup_printf("uart %s as chip", part->name) : NULL;
    /* wires first, so that defects can name them */
    bool good = say(s, run) && (!f->world || say_world(s, f->world)) && (!uart || say(s, uart));
    for (unsigned i = 0; good && f->defects && f->defects[i]; i++)
        good = g_str_has_prefix(f->defects[i], ERRATUM) || say(s, f->defects[i]);
    g_free(uart);
    g_free(line);
    g_free(run);
    return good;
}

/* ---- the run ---- */

static void say_ready(void *ctx, unsigned port)
{
    const board_flags *f = ctx;
    const char *colon = f->listen ? strrchr(f->listen, ':') : NULL;
    int host = colon ? (int)(colon - f->listen) : 0;
    if (port) /* a number, not a name: not every system knows one for it */
        printf("ready at %.*s:%u\n", host ? host : 9, host ? f->listen : "127.0.0.1", port);
    else
        puts("ready");
    fflush(stdout);
}

static bool is_over(void *ctx)
{
    (void)ctx;
    return cli_interrupted();
}

/* LINE, or LINE=PATH: a link to the terminal, so that others know its name. */
static cli_terminal *open_serial(const char *text, wad_bridge *bridge, char **link)
{
    const char *equals = strchr(text, '=');
    char *line = equals ? g_strndup(text, (gsize)(equals - text)) : g_strdup(text);
    cli_terminal *t = cli_terminal_open(line, 0, bridge);
    *link = equals ? g_strdup(equals + 1) : NULL;
    if (t && *link) {
        unlink(*link);
        if (symlink(cli_terminal_name(t), *link)) {
            cli_error("cannot make '%s': %s", *link, g_strerror(errno));
            cli_terminal_close(t);
            t = NULL;
        }
    }
    bridge->line = line; /* freed with the link */
    return t;
}

static int stand_in(stand *s, const board_flags *f)
{
    wad_bridge bridge = {0};
    char *link = NULL, *why = NULL, *how;
    if (!cli_apart_run(&how))
        return cli_apart_died(s->bench, NULL, how);
    cli_terminal *terminal = f->serial ? open_serial(f->serial, &bridge, &link) : NULL;
    int status = CLI_USAGE;
    wad_standin_options o = {.listen = f->listen ? f->listen : "127.0.0.1:3333",
                             .firmware = f->firmware,
                             .vcd = f->vcd,
                             .bridge = terminal ? &bridge : NULL,
                             .pace = f->pace,
                             .ready = say_ready,
                             .over = is_over,
                             .ctx = (void *)f};
    cli_catch_interrupt();
    if (!f->serial || terminal)
        status = wad_standin_run(s->bench, &o, &why)            ? CLI_GOOD
                 : why && g_str_has_prefix(why, "cannot write") ? cli_file_error("%s", why)
                                                                : cli_error("%s", why);
    cli_terminal_close(terminal);
    if (link)
        unlink(link);
    g_free((char *)bridge.line);
    g_free(link);
    g_free(why);
    return status;
}

static int run(const char *name, const board_flags *f)
{
    stand s = {.diags = wad_diags_new()};
    int status = CLI_USAGE;
    bool good = read_board(&s, name, erratum_of(f)) && say_all(&s, f);
    wad_diags_print(s.diags, stderr);
    if (good)
        status = stand_in(&s, f);
    wad_bench_free(s.bench);
    wad_board_free(s.board);
    wad_sheet_free(s.sheet);
    wad_diags_free(s.diags);
    return status;
}

int cli_board(int argc, char **argv)
{
    board_flags f = {.pace = 1};
    const GOptionEntry entries[] = {
        {"listen", 'l', 0, G_OPTION_ARG_STRING, &f.listen,
         "where the GDB remote protocol is spoken; loopback unless a host is named (3333; 0: any "
         "free port)",
         "[HOST:]PORT"},
        {"firmware", 'f', 0, G_OPTION_ARG_FILENAME, &f.firmware,
         "an image for the chip's own core (.elf), executed instruction by instruction, or "
         "firmware for the simulated chip (.wfw)",
         "FILE"},
        {"serial", 's', 0, G_OPTION_ARG_STRING, &f.serial,
         "a pseudo-terminal at this serial line; a link to it at PATH", "LINE[=PATH]"},
        {"defect", 0, 0, G_OPTION_ARG_STRING_ARRAY, &f.defects,
         "what is wrong with it, as a bench says it: 'cut LINK RX', 'stick LEVEL1 low', 'clock "
         "xtal "
         "off 300 ppm', 'pull TEST missing'",
         "STATEMENT"},
        {"world", 0, 0, G_OPTION_ARG_FILENAME, &f.world,
         "bench statements of what is around it: jumpers, sources, devices", "FILE"},
        {"vcd", 0, 0, G_OPTION_ARG_FILENAME, &f.vcd, "the board's pins, as they change", "FILE"},
        {"for", 0, 0, G_OPTION_ARG_STRING, &f.duration, "ends after so much of the board's time",
         "TIME"},
        {"pace", 0, 0, G_OPTION_ARG_DOUBLE, &f.pace,
         "the board's seconds in a real one (1; 0: as fast as it goes)", "N"},
        {0}};
    int status;
    if (!cli_options(
            &argc, &argv, "board", "BOARD|CHIP",
            "A stand-in for a board, in a process of its own: the simulated chip in step "
            "with real time, behind the\nprotocol that debug probes' servers speak. Ctrl-C "
            "ends it.",
            entries, &status))
        return status;
    status = argc == 2 ? run(argv[1], &f)
                       : cli_error("board takes a board or a chip; see 'wadium board --help'");
    g_free(f.listen);
    g_free(f.serial);
    g_free(f.firmware);
    g_free(f.vcd);
    g_free(f.duration);
    g_free(f.world);
    g_strfreev(f.defects);
    return status;
}
