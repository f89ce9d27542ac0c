/* SPDX-License-Identifier: MIT */
/* Two of a kind: snapshots of registers, captures of pins, traces of accesses. */
#include <errno.h>
#include <string.h>
#include <unistd.h>

#include "cli/shared/cli.h"
#include "wadium/host/recording.h"
#include "wadium/host/snapshot.h"

typedef struct compare_flags {
    gboolean all, falling;
    char *align, *within, *output, *bench, *chip, *from, *to;
    gint most;
} compare_flags;

/* ---- snapshots ---- */

static wad_snapshot *read_snapshot(const wad_sheet *sheet, const char *path)
{
    char *why = NULL, *note = NULL;
    wad_snapshot *s = wad_snapshot_read(sheet, path, &note, &why);
    if (!s)
        cli_file_error("%s", why);
    if (note)
        fprintf(stderr, "wadium: %s\n", note);
    g_free(why);
    g_free(note);
    return s;
}

static int compare_snapshots(const char *a, const char *b, const compare_flags *f)
{
    char *why = NULL, *chip = wad_snapshot_chip(a, &why);
    wad_sheet *sheet = chip ? cli_read_sheet(f->chip ? f->chip : chip) : NULL;
    int status = CLI_USAGE;
    if (!chip)
        cli_file_error("%s", why);
    wad_snapshot *x = sheet ? read_snapshot(sheet, a) : NULL;
    wad_snapshot *y = x ? read_snapshot(sheet, b) : NULL;
    if (y)
        status = wad_snapshot_compare(x, y, f->all, stdout).different ? CLI_FAILED : CLI_GOOD;
    wad_snapshot_free(x);
    wad_snapshot_free(y);
    wad_sheet_free(sheet);
    g_free(chip);
    g_free(why);
    return status;
}

/* ---- traces ---- */

static int compare_traces(const char *a, const char *b, const compare_flags *f)
{
    char *why = NULL;
    wad_traces_compared r;
    wad_sheet *sheet = f->chip ? cli_read_sheet(f->chip) : NULL;
    int status = CLI_USAGE;
    if (!f->chip)
        cli_error("register traces need their chip: --chip CHIP");
    else if (sheet && !wad_trace_compare(sheet, a, b, &r, stdout, &why))
        cli_file_error("%s", why);
    else if (sheet)
        status = r.different ? CLI_FAILED : CLI_GOOD;
    g_free(why);
    wad_sheet_free(sheet);
    return status;
}

/* ---- captures ---- */

static int draw(const wad_capture *a, const wad_capture *b, uint64_t end,
                const wad_captures_compared *r, const wad_compare_options *o,
                const compare_flags *f, const char *first, const char *second)
{
    char *why = NULL;
    char *x = g_path_get_basename(first), *y = g_path_get_basename(second);
    char *title = g_strdup_printf("first: %s, second: %s", x, y);
    wad_plot_options p = {.title = title};
    bool good =
        (!f->from || cli_time(f->from, &p.from_ps)) && (!f->to || cli_time(f->to, &p.to_ps));
    wad_capture *both = wad_capture_overlay(a, b, r, o);
    if (good && !(good = wad_plot_file(both, end + r->shift_ps, &p, f->output, &why)))
        cli_file_error("%s", why);
    else if (good)
        printf("%s\n", f->output);
    g_free(why);
    g_free(title);
    g_free(x);
    g_free(y);
    wad_capture_free(both);
    return good ? CLI_GOOD : CLI_USAGE;
}

/* The bench's expectations on both, side by side. */
static int judge_both(const char *a, const char *b, const compare_flags *f)
{
    wad_diags *diags = wad_diags_new();
    wad_bench_list *list = wad_bench_read(f->bench, diags);
    int status = list ? CLI_GOOD : CLI_USAGE;
    cli_tell(diags);
    for (unsigned i = 0; list && i < wad_bench_list_count(list); i++) {
        char *why = NULL, *why_b = NULL;
        wad_bench *bench = wad_bench_list_at(list, i);
        wad_bench_result *x = wad_bench_judge(bench, a, &why);
        wad_bench_result *y = x ? wad_bench_judge(bench, b, &why_b) : NULL;
        if (!y)
            status = cli_error("%s", why ? why : why_b);
        else {
            wad_report_side_by_side(x, y, stdout);
            if (!x->passed || !y->passed)
                status = MAX(status, CLI_FAILED);
        }
        g_free(why);
        g_free(why_b);
        wad_bench_result_free(x);
        wad_bench_result_free(y);
    }
    wad_bench_list_free(list);
    return status;
}

static int compare_captures(const char *a, const char *b, const compare_flags *f)
{
    uint64_t a_end = 0, b_end = 0;
    wad_compare_options o = {.align = f->align,
                             .falling = f->falling,
                             .a = "first",
                             .b = "second",
                             .most = (unsigned)MAX(f->most, 0)};
    wad_captures_compared r;
    int status = CLI_USAGE;
    if (f->within && !cli_time(f->within, &o.within_ps))
        return CLI_USAGE;
    wad_capture *x = cli_load_signals(a, NULL, &a_end),
                *y = x ? cli_load_signals(b, NULL, &b_end) : NULL;
    if (y) {
        printf("first: %s, second: %s\n", a, b);
        bool good = wad_capture_compare(x, a_end, y, b_end, &o, &r, stdout);
        status = !good || r.different || r.ppm != 0 ? CLI_FAILED : CLI_GOOD;
        if (good && f->output && draw(x, y, MAX(a_end, b_end), &r, &o, f, a, b) != CLI_GOOD)
            status = CLI_USAGE;
    }
    wad_capture_free(x);
    wad_capture_free(y);
    if (f->bench && status != CLI_USAGE)
        status = MAX(status, judge_both(a, b, f));
    return status;
}

/* ---- which ---- */

typedef enum kind { CAPTURE, TRACE, SNAPSHOT } kind;

/* By what stands in it: names say little. */
static kind kind_of(const char *path)
{
    char head[256] = "";
    FILE *f = fopen(path, "r");
    size_t n = f ? fread(head, 1, sizeof head - 1, f) : 0;
    if (f)
        fclose(f);
    head[n] = 0;
    head[strcspn(head, "\r\n")] = 0;
    const char *first = head + strspn(head, " \t");
    if (*first == '{' || *first == '[' || (!n && g_str_has_suffix(path, ".json")))
        return SNAPSHOT;
    return g_str_has_prefix(first, "time_ps,file,") || strstr(first, ",access,register") ? TRACE
                                                                                         : CAPTURE;
}

static int compare(const char *a, const char *b, const compare_flags *f)
{
    static const char *const names[] = {"a capture of pins", "a register trace",
                                        "a snapshot of registers"};
    kind of_a = kind_of(a), of_b = kind_of(b);
    if (access(a, R_OK) || access(b, R_OK))
        return cli_file_error("cannot read '%s': %s", access(a, R_OK) ? a : b, g_strerror(errno));
    if (of_a != of_b)
        return cli_error("'%s' is %s, '%s' is %s: two of a kind are compared", a, names[of_a], b,
                         names[of_b]);
    return of_a == SNAPSHOT ? compare_snapshots(a, b, f)
           : of_a == TRACE  ? compare_traces(a, b, f)
                            : compare_captures(a, b, f);
}

int cli_compare(int argc, char **argv)
{
    compare_flags f = {0};
    const GOptionEntry entries[] = {
        {"all", 0, 0, G_OPTION_ARG_NONE, &f.all, "snapshots: what is expected to differ, too",
         NULL},
        {"chip", 0, 0, G_OPTION_ARG_STRING, &f.chip, "register traces: their chip", "CHIP"},
        {"align", 0, 0, G_OPTION_ARG_STRING, &f.align,
         "captures: this signal's first rise is the same moment (else the first edge of the signal "
         "with the fewest)",
         "SIGNAL"},
        {"falling", 0, 0, G_OPTION_ARG_NONE, &f.falling, "its first fall", NULL},
        {"within", 0, 0, G_OPTION_ARG_STRING, &f.within, "edges may be apart by so much (1us)",
         "TIME"},
        {"most", 0, 0, G_OPTION_ARG_INT, &f.most, "differences listed of each signal (4)", "N"},
        {"bench", 0, 0, G_OPTION_ARG_FILENAME, &f.bench,
         "its expectations on both captures, side by side", "FILE.bench"},
        {"output", 'o', 0, G_OPTION_ARG_FILENAME, &f.output, "both captures on one axis",
         "FILE.png|FILE.svg"},
        {"from", 0, 0, G_OPTION_ARG_STRING, &f.from, "of the picture", "TIME"},
        {"to", 0, 0, G_OPTION_ARG_STRING, &f.to, "of the picture", "TIME"},
        {0}};
    int status;
    if (!cli_options(&argc, &argv, "compare", "A.json B.json | A.vcd B.vcd | A.csv B.csv",
                     "Compares two snapshots of registers field by field, two captures of pins "
                     "edge by edge, or two register\ntraces access by access: the simulator's and "
                     "the board's, for instance. Exit status 1: they differ.",
                     entries, &status))
        return status;
    if (argc != 3)
        status = cli_error("compare takes two files; see 'wadium compare --help'");
    else
        status = compare(argv[1], argv[2], &f);
    g_free(f.align);
    g_free(f.within);
    g_free(f.output);
    g_free(f.bench);
    g_free(f.chip);
    g_free(f.from);
    g_free(f.to);
    return status;
}
