/* SPDX-License-Identifier: MIT */
#include <string.h>

#include "cli/shared/apart.h"
#include "cli/shared/bridge.h"
#include "wadium/host/recording.h"
#include "wadium/host/report.h"
#include "wadium/host/snapshot.h"

/* A member an option. */
typedef struct run_flags {
    gboolean tap, json, handlers, dma, energy, hex, loop;
    char *terminal, *console, *duration;
    double pace;
    char *firmware_dir, *vcd, *csv, *silence, *trace, *replay, *dump, *snapshot, *report, *junit,
        *recording;
    char *timeline, *histogram, *awake, *from, *to;
    char **trace_blocks;
    gint explore, seed, bench;
} run_flags;

/* The benches that were asked for: one, or all. */
static unsigned first_of(const run_flags *flags)
{
    return flags->bench ? (unsigned)flags->bench - 1 : 0;
}

static unsigned end_of(const wad_bench_list *list, const run_flags *flags)
{
    return flags->bench ? (unsigned)flags->bench : wad_bench_list_count(list);
}

/* ---- exploration ---- */

static int explore_one(wad_bench *bench, const run_flags *flags)
{
    wad_exploration x;
    char *why;
    wad_bench_options options = {.firmware_dir = flags->firmware_dir};
    if (!wad_bench_explore(bench, &options, (unsigned)flags->explore, (uint32_t)flags->seed, &x,
                           &why)) {
        int status = cli_error("%s: %s", wad_bench_title(bench), why);
        g_free(why);
        return status;
    }
    printf("%s\n  1 run as it is, %u with interrupts moved: %u call-ins at %u places touch what "
           "handlers touch\n",
           wad_bench_title(bench), x.runs, x.points, x.places);
    int status = x.broke || x.found ? CLI_FAILED : CLI_GOOD;
    if (!x.points)
        printf("  nothing is shared with a handler: there was nothing to move\n");
    else if (status == CLI_GOOD)
        printf("  all meet the expectations and make the same findings\n");
    if (x.broke && !*x.schedule)
        printf("  already the run as it is fails: %s\n", x.what);
    else if (x.broke)
        printf("  %u break an expectation, the first: %s (again with --replay %s)\n", x.broke,
               x.what, x.schedule);
    if (x.found)
        printf("  %u make other findings than the run as it is (the first with --replay %s)\n",
               x.found, x.found_schedule);
    wad_exploration_clear(&x);
    return status;
}

static int explore_all(const wad_bench_list *list, const run_flags *flags)
{
    int status = CLI_GOOD;
    for (unsigned i = first_of(flags); i < end_of(list, flags); i++) {
        int one = explore_one(wad_bench_list_at(list, i), flags);
        status = MAX(status, one);
    }
    return status;
}

/* ---- runs ---- */

/* In a process of its own: firmware may take it down. */
static wad_bench_result *run_one(wad_bench *bench, const wad_bench_options *options, char **why)
{
    char *how;
    if (cli_apart_run(&how))
        return wad_bench_run(bench, options, why);
    wad_bench_result *r = wad_bench_died(bench, options, cli_apart_words(), how, why);
    g_free(how);
    return r;
}

/* Text, CSV by the ending, `-` for standard output; registers go into --vcd as well. */
static bool open_trace(const run_flags *flags, wad_trace_options *trace, cli_output *out)
{
    *trace = (wad_trace_options){.blocks = (const char *const *)flags->trace_blocks,
                                 .words = flags->vcd != NULL,
                                 .csv = flags->trace && g_str_has_suffix(flags->trace, ".csv")};
    if (!flags->trace)
        return true;
    if (!cli_open_output(out, strcmp(flags->trace, "-") ? flags->trace : NULL))
        return false;
    trace->out = out->file;
    return true;
}

static bool add_silences(const wad_bench_list *list, const char *path)
{
    wad_diags *diags = wad_diags_new();
    char *full = g_canonicalize_filename(path, NULL),
         *say = g_strdup_printf("silence \"%s\"", full);
    bool ok = true;
    for (unsigned i = 0; i < wad_bench_list_count(list) && ok; i++)
        ok = wad_bench_say(wad_bench_list_at(list, i), say, diags);
    cli_tell(diags);
    g_free(say);
    g_free(full);
    return ok;
}

static bool write_dump(wad_sim *sim, const char *path)
{
    cli_output out;
    if (!cli_open_output(&out, path))
        return false;
    wad_sim_dump(sim, out.file);
    return cli_close_output(&out);
}

static bool write_snapshot(const wad_bench_result *r, const char *path)
{
    cli_output out;
    if (!cli_open_output(&out, path))
        return false;
    char *source = g_strdup_printf("the simulator, '%s' at %.9g s", r->title,
                                   (double)r->run.end_ps / WAD_PS_PER_S);
    wad_snapshot *s = wad_snapshot_new(wad_sim_sheet(r->sim), source);
    wad_sim_snapshot(r->sim, s);
    wad_snapshot_write(s, out.file);
    wad_snapshot_free(s);
    g_free(source);
    return cli_close_output(&out);
}

/* All benches, for others to read. */
static bool write_pages(const run_flags *f, wad_bench_result *const *results, unsigned n)
{
    char *why = NULL;
    const wad_page page = {.version = WADIUM_VERSION};
    cli_output out;
    if (f->report && !wad_report_html(results, n, &page, f->report, &why)) {
        cli_file_error("%s", why);
        g_free(why);
        return false;
    }
    if (!f->junit)
        return true;
    if (!cli_open_output(&out, f->junit))
        return false;
    wad_report_junit(results, n, out.file);
    return cli_close_output(&out);
}

/* Pictures of the first bench's handlers. */
static bool draw_handlers(const wad_bench_result *r, const run_flags *flags)
{
    wad_plot_options o = {0};
    char *why = NULL;
    if ((flags->from && !cli_time(flags->from, &o.from_ps)) ||
        (flags->to && !cli_time(flags->to, &o.to_ps)))
        return false;
    bool ok = (!flags->timeline || wad_plot_timeline(r, &o, flags->timeline, &why)) &&
              (!flags->histogram || wad_plot_histograms(r, &o, flags->histogram, &why));
    if (!ok)
        cli_file_error("%s", why);
    if (ok && r->lost_spans)
        fprintf(stderr, "wadium: the picture lacks the last %u calls of handlers\n", r->lost_spans);
    g_free(why);
    return ok;
}

/* Somebody at the other end of a line: the run goes on until it is ended. */
typedef struct visitor {
    wad_bridge bridge;
    cli_terminal *terminal;
    cli_console *console;
} visitor;

static bool let_in(const run_flags *flags, visitor *v, wad_bench_options *options)
{
    if (!flags->terminal && !flags->console)
        return true;
    if (flags->duration && !cli_time(flags->duration, &options->until_ps))
        return false;
    if (flags->duration && !options->until_ps) {
        cli_error("--for takes some time: --for 10s");
        return false;
    }
    if (!flags->duration)
        options->until_ps = UINT64_C(18000000) * WAD_PS_PER_S; /* some 200 days */
    if (flags->terminal)
        v->terminal = cli_terminal_open(flags->terminal, flags->pace, &v->bridge);
    else
        v->console = cli_console_open(flags->console, flags->pace, flags->hex, &v->bridge);
    options->bridge = &v->bridge;
    return v->terminal || v->console;
}

static void let_out(visitor *v)
{
    cli_terminal_close(v->terminal);
    cli_console_close(v->console);
    v->terminal = NULL;
    v->console = NULL;
}

/* The reports of all, the files of the first: CLI_GOOD, or what went wrong. */
static int write_all(const run_flags *flags, wad_bench_result *const *results, unsigned n)
{
    int status = CLI_GOOD;
    char *why = NULL;
    if (flags->tap)
        wad_report_tap(results, n, stdout);
    else if (flags->json)
        wad_report_json(results, n, stdout);
    if (!write_pages(flags, results, n))
        status = CLI_USAGE;
    if (flags->awake && !wad_plot_awake(results, n, flags->awake, &why))
        status = cli_file_error("%s", why);
    g_clear_pointer(&why, g_free);
    if (!n)
        return status;
    const wad_bench_result *r = results[0];
    if ((flags->timeline || flags->histogram) && !draw_handlers(r, flags))
        status = CLI_USAGE;
    if (flags->snapshot && !write_snapshot(r, flags->snapshot))
        status = CLI_USAGE;
    if (flags->dump && !write_dump(r->sim, flags->dump))
        status = CLI_USAGE;
    if (flags->vcd && !wad_vcd_write(r->capture, flags->vcd, r->run.end_ps, &why))
        status = cli_file_error("%s", why);
    if (!why && flags->csv && !wad_csv_write(r->capture, flags->csv, r->run.end_ps, &why))
        status = cli_file_error("%s", why);
    g_free(why);
    return status;
}

static void report(const wad_bench_result *r, const run_flags *flags)
{
    if (flags->tap || flags->json)
        return;
    wad_report_text(r, stdout);
    if (flags->handlers)
        wad_report_handlers(r, stdout);
    if (flags->dma)
        wad_report_dma(r, stdout);
    if (flags->energy)
        wad_report_charge(r, stdout);
    wad_report_memories(r, isatty(STDOUT_FILENO), stdout);
}

/* One line a chip, whatever number of benches it has. */
static void tell_unsimulated(const wad_bench_list *list, const run_flags *flags)
{
    const char *last = NULL;
    for (unsigned i = first_of(flags); i < end_of(list, flags); i++) {
        const wad_bench *bench = wad_bench_list_at(list, i);
        const wad_sheet *sheet = wad_bench_sheet(bench);
        if (!last || strcmp(last, sheet->file))
            cli_tell_unsimulated(sheet, bench);
        last = sheet->file;
    }
}

static int run_all(const wad_bench_list *list, const run_flags *flags)
{
    wad_trace_options trace;
    visitor guest = {0};
    cli_output trace_out = {0};
    uint64_t *stops = NULL;
    unsigned n_stops = 0;
    if (flags->replay && !wad_schedule_parse(flags->replay, &stops, &n_stops))
        return cli_error("'%s' is no schedule: numbers that ascend, such as 17 or 17,204",
                         flags->replay);
    if (!open_trace(flags, &trace, &trace_out))
        return CLI_USAGE;
    unsigned n = wad_bench_list_count(list), done = 0;
    wad_bench_result **results = g_new0(wad_bench_result *, n + 1);
    bool traced = flags->trace || flags->trace_blocks;
    wad_bench_options options = {.firmware_dir = flags->firmware_dir,
                                 .trace = traced ? &trace : NULL,
                                 .spans = flags->timeline || flags->histogram,
                                 .stops = stops,
                                 .n_stops = n_stops};
    int status = let_in(flags, &guest, &options) ? CLI_GOOD : CLI_USAGE;
    tell_unsimulated(list, flags);
    for (unsigned i = first_of(flags); i < end_of(list, flags) && status != CLI_USAGE; i++) {
        char *why = NULL;
        wad_bench *bench = wad_bench_list_at(list, i);
        wad_bench_result *r = flags->recording ? wad_bench_judge(bench, flags->recording, &why)
                                               : run_one(bench, &options, &why);
        let_out(&guest); /* before the report */
        if (!r) {
            status = cli_error("%s: %s", wad_bench_title(wad_bench_list_at(list, i)), why);
            g_free(why);
            continue;
        }
        if (!r->passed && status == CLI_GOOD)
            status = CLI_FAILED;
        report(r, flags);
        results[done++] = r;
    }
    int written = write_all(flags, results, done);
    status = written == CLI_GOOD ? status : written;
    for (unsigned i = 0; i < done; i++)
        wad_bench_result_free(results[i]);
    g_free(results);
    g_free(stops);
    if (flags->trace && !cli_close_output(&trace_out))
        status = CLI_USAGE;
    return status;
}

/* ---- options ---- */

static bool check_blocks(const wad_bench_list *list, char *const *blocks)
{
    for (unsigned i = 0; i < wad_bench_list_count(list); i++)
        if (!cli_check_blocks(wad_bench_sheet(wad_bench_list_at(list, i)), blocks))
            return false;
    return true;
}

/* What does not go together; NULL: all does. */
static const char *contradiction(const run_flags *f, unsigned benches)
{
    if (f->bench < 0 || (unsigned)f->bench > benches)
        return "--bench is the number of one of the file's benches, from 1";
    if (f->bench)
        benches = 1;
    bool visited = f->terminal || f->console;
    if (f->explore < 0)
        return "--explore takes a number of runs";
    if (f->explore && (f->vcd || f->trace || f->trace_blocks || f->tap || f->json || f->replay ||
                       f->dump || f->snapshot || f->timeline || f->histogram || f->awake || f->dma))
        return "--explore tells of many runs: look at one of them with --replay, which takes "
               "--vcd, --trace, --tap and --json";
    if (f->terminal && f->console)
        return "one of --terminal and --console";
    if (!visited && (f->duration || f->pace != 1))
        return "--for and --pace go with --terminal or --console";
    if (visited && (f->explore || benches > 1))
        return "--terminal and --console take one bench, and not --explore";
    if (f->console && (f->tap || f->json))
        return "--console has the output for itself: not with --tap or --json";
    if (f->hex && !f->console)
        return "--hex goes with --console";
    if (f->pace < 0)
        return "--pace is the chip's seconds in a real one: 1, 0.1, 0 for no limit";
    if ((f->from || f->to) && !f->timeline && !f->histogram)
        return "--from and --to are the ends of a picture: say --timeline FILE or --histogram FILE";
    if (f->trace_blocks && !f->trace && !f->vcd)
        return "--trace-block narrows a trace: say --trace FILE, or --vcd FILE";
    return NULL;
}

static const cli_option options[] = {
    {"firmware-dir", 'd', G_OPTION_ARG_FILENAME, offsetof(run_flags, firmware_dir),
     "where the firmware lies, if not beside the bench", "DIR"},
    {"bench", 0, G_OPTION_ARG_INT, offsetof(run_flags, bench), "only this one of the file, from 1",
     "N"},
    {"vcd", 0, G_OPTION_ARG_FILENAME, offsetof(run_flags, vcd), "write the first bench's capture",
     "FILE"},
    {"recording", 0, G_OPTION_ARG_FILENAME, offsetof(run_flags, recording),
     "judges the expectations of pins by a capture made elsewhere (VCD, CSV); nothing is run",
     "FILE"},
    {"report", 0, G_OPTION_ARG_FILENAME, offsetof(run_flags, report),
     "everything on one page: verdicts, diagrams, findings, registers, sums of what was used",
     "FILE.html"},
    {"junit", 0, G_OPTION_ARG_FILENAME, offsetof(run_flags, junit),
     "verdicts as JUnit XML, for CI servers", "FILE.xml"},
    {"snapshot", 0, G_OPTION_ARG_FILENAME, offsetof(run_flags, snapshot),
     "the same as JSON, for 'wadium compare' with a board's ('wadium dump --json')", "FILE"},
    {"dump", 0, G_OPTION_ARG_FILENAME, offsetof(run_flags, dump),
     "write the first bench's registers at its end, for decode @FILE, diff and clocks --dump",
     "FILE"},
    {"tap", 0, G_OPTION_ARG_NONE, offsetof(run_flags, tap), "report as TAP", NULL},
    {"json", 0, G_OPTION_ARG_NONE, offsetof(run_flags, json), "report as JSON", NULL},
    {"dma", 0, G_OPTION_ARG_NONE, offsetof(run_flags, dma),
     "also what DMA controllers' channels moved, how fast and how late (JSON always says)", NULL},
    {"handlers", 0, G_OPTION_ARG_NONE, offsetof(run_flags, handlers),
     "also how often interrupt handlers ran, how late and how long (JSON always says)", NULL},
    {"energy", 0, G_OPTION_ARG_NONE, offsetof(run_flags, energy),
     "also what the chip drew, by consumer and by what woke it (JSON always says)", NULL},
    {"csv", 0, G_OPTION_ARG_FILENAME, offsetof(run_flags, csv),
     "write the first bench's capture as a table: seconds, then each signal", "FILE"},
    {"timeline", 0, G_OPTION_ARG_FILENAME, offsetof(run_flags, timeline),
     "draw when the first bench's handlers waited, ran and were interrupted: .png or .svg", "FILE"},
    {"awake", 0, G_OPTION_ARG_FILENAME, offsetof(run_flags, awake),
     "draw the share of time that the core was awake in each bench: .png or .svg", "FILE"},
    {"histogram", 0, G_OPTION_ARG_FILENAME, offsetof(run_flags, histogram),
     "draw how late its handlers were and how long they ran", "FILE"},
    {"from", 0, G_OPTION_ARG_STRING, offsetof(run_flags, from), "pictures begin here", "TIME"},
    {"to", 0, G_OPTION_ARG_STRING, offsetof(run_flags, to), "and end here", "TIME"},
    {"silence", 0, G_OPTION_ARG_FILENAME, offsetof(run_flags, silence),
     "findings not to be told, one a line: W304 at \"main.c:17\" \"reason\"", "FILE"},
    {"trace", 0, G_OPTION_ARG_FILENAME, offsetof(run_flags, trace),
     "write each register access: text, CSV for FILE.csv, - for standard output; with --vcd "
     "registers are signals there too",
     "FILE"},
    {"trace-block", 0, G_OPTION_ARG_STRING_ARRAY, offsetof(run_flags, trace_blocks),
     "only this block's registers; may be given several times", "BLOCK"},
    {"explore", 0, G_OPTION_ARG_INT, offsetof(run_flags, explore),
     "run N times more with interrupts arriving elsewhere; tells the first run that differs", "N"},
    {"seed", 0, G_OPTION_ARG_INT, offsetof(run_flags, seed), "of --explore (1)", "SEED"},
    {"terminal", 0, G_OPTION_ARG_STRING, offsetof(run_flags, terminal),
     "in real time, with a pseudo-terminal at the other end of this serial line; Ctrl-C ends "
     "it",
     "LINE"},
    {"console", 0, G_OPTION_ARG_STRING, offsetof(run_flags, console),
     "the same with this keyboard and screen; Ctrl-] ends it", "LINE"},
    {"hex", 0, G_OPTION_ARG_NONE, offsetof(run_flags, hex),
     "--console shows rows of bytes with their times", NULL},
    {"loop", 0, G_OPTION_ARG_NONE, offsetof(run_flags, loop),
     "check a pseudo-terminal by itself, without a bench", NULL},
    {"for", 0, G_OPTION_ARG_STRING, offsetof(run_flags, duration),
     "--terminal and --console end after so much of the chip's time", "TIME"},
    {"pace", 0, G_OPTION_ARG_DOUBLE, offsetof(run_flags, pace),
     "the chip's seconds in a real one (1); 0: as fast as it goes", "N"},
    {"replay", 0, G_OPTION_ARG_STRING, offsetof(run_flags, replay), "the run that --explore named",
     "SCHEDULE"},
    {0}};

int cli_run(int argc, char **argv)
{
    run_flags flags = {.seed = 1, .pace = 1};
    int status;
    if (!cli_read_flags(
            &argc, &argv, "run", "FILE.bench",
            "Runs the benches of a file: loads the firmware, simulates, measures, and "
            "judges each\nexpectation, printing measured against wanted; then the "
            "findings with their source lines.\nExit status 1: an expectation failed or "
            "the firmware ended by itself.",
            options, &flags, &status))
        return status;
    if (flags.loop)
        return argc == 1 ? cli_terminal_loop()
                         : cli_error("--loop looks at the pseudo-terminal alone: no bench");
    if (argc != 2)
        return cli_error("run takes one bench file; see 'wadium run --help'");
    const char *why;
    wad_diags *diags = wad_diags_new();
    wad_bench_list *list = wad_bench_read(argv[1], diags);
    cli_tell(diags);
    if (!list || (flags.silence && !add_silences(list, flags.silence)))
        status = CLI_USAGE;
    else if ((why = contradiction(&flags, wad_bench_list_count(list))))
        status = cli_error("%s", why);
    else
        status = !check_blocks(list, flags.trace_blocks) ? CLI_USAGE
                 : flags.explore                         ? explore_all(list, &flags)
                                                         : run_all(list, &flags);
    wad_bench_list_free(list);
    cli_free_flags(&flags, options);
    return status;
}
