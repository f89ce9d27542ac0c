/* SPDX-License-Identifier: MIT */
#include "watch.h"

#include <errno.h>
#include <string.h>
#include <unistd.h>

#include "cli/shared/apart.h"
#include "cli/shared/bridge.h"

typedef struct watch_flags {
    gboolean text, all;
    char *firmware_dir, *every, *window, *duration, *commands;
    char **variables, **blocks;
    gint bench;
    double pace;
    cli_on on;
} watch_flags;

/* ---- lines of text ---- */

typedef struct lines {
    bool all;
    FILE *commands; /* NULL: none */
    const char *name;
    unsigned line;
    bool failed;
} lines;

/* `show`, `show registers`; false: it is something else. */
static bool show(wad_live *live, const char *command, bool *known)
{
    static const char *const panels[] = {"pins",       "variables", "registers",
                                         "interrupts", "inputs",    "findings"};
    if (strncmp(command, "show", 4) || (command[4] && command[4] != ' '))
        return false;
    char *what = g_strstrip(g_strdup(command + 4));
    *known = !*what;
    if (!*what)
        wad_live_print(live, true, stdout);
    for (unsigned i = 0; i < G_N_ELEMENTS(panels); i++)
        if (!strcmp(what, panels[i])) {
            wad_live_print_panel(live, (wad_live_panel)i, true, stdout);
            *known = true;
        }
    g_free(what);
    return true;
}

static void obey(lines *l, wad_live *live, const char *command)
{
    bool known = true;
    if (show(live, command, &known)) {
        if (known)
            return;
        cli_error("%s:%u: show takes 'pins', 'variables', 'registers', 'interrupts', 'inputs', "
                  "'findings', or nothing for all of them",
                  l->name, l->line);
    } else {
        wad_diags *diags = wad_diags_new();
        bool good = wad_live_say(live, command, diags);
        for (unsigned i = 0; i < wad_diags_count(diags); i++)
            cli_error("%s:%u: %s", l->name, l->line, wad_diags_at(diags, i)->text);
        wad_diags_free(diags);
        if (good)
            return;
    }
    l->failed = true;
    wad_live_stop(live);
}

static void next_commands(lines *l, wad_live *live)
{
    char *text = NULL;
    size_t room = 0;
    while (!l->failed && !wad_live_goes(live) && !cli_interrupted()) {
        if (getline(&text, &room, l->commands) < 0)
            break;
        l->line++;
        text[strcspn(text, "#\r\n")] = 0;
        if (*g_strstrip(text))
            obey(l, live, text);
    }
    free(text);
}

static void look_lines(void *ctx, wad_live *live, wad_live_reason reason)
{
    lines *l = ctx;
    wad_live_print(live, l->all || reason == WAD_LIVE_BEGIN, stdout);
    if (l->commands && (reason == WAD_LIVE_BEGIN || reason == WAD_LIVE_STEP))
        next_commands(l, live);
    if (cli_interrupted())
        wad_live_stop(live);
    fflush(stdout);
}

/* ---- runs ---- */

static bool open_commands(lines *l, const char *path)
{
    l->name = strcmp(path, "-") ? path : "standard input";
    l->commands = strcmp(path, "-") ? fopen(path, "r") : stdin;
    if (!l->commands)
        cli_error("cannot read '%s': %s", path, g_strerror(errno));
    return l->commands != NULL;
}

static int run(wad_bench *bench, const watch_flags *flags, wad_live_options *live,
               wad_bench_options *options)
{
    lines text = {.all = flags->all};
    cli_screen *screen = NULL;
    char *why = NULL, *how;
    if (!cli_apart_run(&how))
        return cli_apart_died(bench, options, how);
    if (flags->commands && !open_commands(&text, flags->commands))
        return CLI_USAGE;
    if (!flags->text && !flags->commands && !(screen = cli_screen_open(flags->pace)))
        return CLI_USAGE;
    live->look = screen ? cli_screen_look : look_lines;
    live->ctx = screen ? (void *)screen : (void *)&text;
    options->live = live;
    cli_catch_interrupt();
    wad_bench_result *r = wad_bench_run(bench, options, &why);
    cli_screen_close(screen);
    int status = CLI_GOOD;
    if (!r) {
        status = cli_error("%s: %s", wad_bench_title(bench), why);
    } else {
        wad_report_text(r, stdout);
        status = text.failed ? CLI_USAGE : r->passed ? CLI_GOOD : CLI_FAILED;
    }
    wad_bench_result_free(r);
    if (text.commands && text.commands != stdin)
        fclose(text.commands);
    g_free(why);
    return status;
}

static int prepare(wad_bench *bench, const watch_flags *flags)
{
    bool screen = !flags->text && !flags->commands;
    double pace = flags->pace < 0 ? (screen ? 1 : 0) : flags->pace;
    double real = pace > 0 ? pace : 1;
    wad_live_options live = {
        .every_ps = screen ? (uint64_t)(real * WAD_PS_PER_S / 20) : WAD_PS_PER_S / 10,
        .window_ps = (uint64_t)(2 * real * WAD_PS_PER_S),
        .pace = pace,
        .variables = (const char *const *)flags->variables,
        .blocks = (const char *const *)flags->blocks,
    };
    wad_bench_options options = {.firmware_dir = flags->firmware_dir};
    if (flags->commands)
        live.every_ps = 0;
    if ((flags->every && !cli_time(flags->every, &live.every_ps)) ||
        (flags->window && !cli_time(flags->window, &live.window_ps)) ||
        (flags->duration && !cli_time(flags->duration, &options.until_ps)))
        return CLI_USAGE;
    live.offset_ps = screen ? live.every_ps * 38 / 100 : 0;
    if (flags->every && live.every_ps < 1000000)
        return cli_error("--every takes 1 us of the chip's time, or more");
    if (live.window_ps < 1000000)
        return cli_error("--window takes 1 us, or more");
    return run(bench, flags, &live, &options);
}

static wad_bench *choose(const wad_bench_list *list, const watch_flags *flags)
{
    unsigned n = wad_bench_list_count(list);
    if (n == 1 && flags->bench <= 1)
        return wad_bench_list_at(list, 0);
    if (flags->bench >= 1 && (unsigned)flags->bench <= n)
        return wad_bench_list_at(list, (unsigned)flags->bench - 1);
    cli_error("the file has %u bench%s: say which one with --bench N", n, n == 1 ? "" : "es");
    for (unsigned i = 0; i < n; i++)
        fprintf(stderr, "  %u  %s\n", i + 1, wad_bench_title(wad_bench_list_at(list, i)));
    return NULL;
}

/* ---- options ---- */

static const char *contradiction(const watch_flags *f)
{
    if (!f->text && !f->commands && (!isatty(STDOUT_FILENO) || !isatty(STDIN_FILENO)))
        return "watch draws on a terminal, and this is none: say --text for lines, or --commands";
    if (f->text && f->commands)
        return "--commands prints lines by itself: without --text";
    if (f->every && f->commands)
        return "--commands looks when it is told to: without --every";
    if (f->all && !f->text && !f->commands)
        return "--all goes with --text or --commands";
    return NULL;
}

static bool read_flags(int *argc, char ***argv, watch_flags *flags, int *status)
{
    const GOptionEntry entries[] = {
        {"firmware-dir", 'd', 0, G_OPTION_ARG_FILENAME, &flags->firmware_dir,
         "where the firmware lies, if not beside the bench", "DIR"},
        {"bench", 0, 0, G_OPTION_ARG_INT, &flags->bench, "which one of the file, from 1", "N"},
        {"variable", 'v', 0, G_OPTION_ARG_STRING_ARRAY, &flags->variables,
         "only this variable, samples[3] or log.head too; may be given several times", "NAME"},
        {"block", 'b', 0, G_OPTION_ARG_STRING_ARRAY, &flags->blocks,
         "only this block's registers; may be given several times (else those that are used)",
         "BLOCK"},
        {"text", 't', 0, G_OPTION_ARG_NONE, &flags->text,
         "lines instead of a screen: everything at first, then what has changed, marked with *",
         NULL},
        {"commands", 'c', 0, G_OPTION_ARG_FILENAME, &flags->commands,
         "lines, at the times that a file's commands say (- for standard input): go 100ms, step "
         "access UART0, step interrupt, press TEST, analog PRESSURE level 1.2 V, show registers",
         "FILE"},
        {"all", 0, 0, G_OPTION_ARG_NONE, &flags->all, "everything each time, changed or not", NULL},
        {"every", 0, 0, G_OPTION_ARG_STRING, &flags->every,
         "of the chip's time between looks (screen: 20 a second, lines: 100ms)", "TIME"},
        {"window", 0, 0, G_OPTION_ARG_STRING, &flags->window, "the pins' past that is drawn (2s)",
         "TIME"},
        {"pace", 0, 0, G_OPTION_ARG_DOUBLE, &flags->pace,
         "the chip's seconds in a real one (screen: 1, lines: 0, as fast as it goes)", "N"},
        CLI_ON_OPTIONS(&flags->on),
        {"image", 'i', 0, G_OPTION_ARG_FILENAME, &flags->on.image,
         "with --on: the program on the target, for its variables", "FILE.elf"},
        {"for", 0, 0, G_OPTION_ARG_STRING, &flags->duration,
         "ends after so much of the chip's time, not when the bench says", "TIME"},
        {0}};
    return cli_options(
        argc, argv, "watch", "FILE.bench  or  CHIP|BOARD NAME... --on HOST:PORT",
        "Runs a bench and shows it as it goes: the firmware's variables and buffers, "
        "registers with what\nhas changed, pins, interrupts, inputs and findings. "
        "Time can be held and let go to the next register\naccess or interrupt, and "
        "inputs moved by hand. Keys: space holds and lets go, a steps to an access,\n"
        "i to an interrupt, 1 to 9 choose an input, ? says the rest. With --on: registers "
        "and variables of a live target,\nas they change; the core halts for each "
        "look.",
        entries, status);
}

int cli_watch(int argc, char **argv)
{
    watch_flags flags = {.pace = -1};
    int status;
    if (!read_flags(&argc, &argv, &flags, &status))
        return status;
    wad_bench_list *list = NULL;
    const char *why = flags.on.where ? NULL : contradiction(&flags);
    if (flags.on.where && argc > 1)
        status = cli_watch_target(&flags.on, argv[1], argv + 2, flags.every, flags.duration);
    else if (argc != 2)
        status = cli_error("watch takes one bench file; see 'wadium watch --help'");
    else if (why)
        status = cli_error("%s", why);
    else {
        wad_diags *diags = wad_diags_new();
        list = wad_bench_read(argv[1], diags);
        cli_tell(diags);
        wad_bench *bench = list ? choose(list, &flags) : NULL;
        status = bench ? prepare(bench, &flags) : CLI_USAGE;
    }
    wad_bench_list_free(list);
    cli_on_close(&flags.on);
    g_free(flags.firmware_dir);
    g_free(flags.every);
    g_free(flags.window);
    g_free(flags.duration);
    g_free(flags.commands);
    g_strfreev(flags.variables);
    g_strfreev(flags.blocks);
    return status;
}
