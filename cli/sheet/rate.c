/* SPDX-License-Identifier: MIT */
#include <math.h>
#include <string.h>

#include "cli/shared/cli.h"
#include "wadium/host/words.h"

typedef struct rate_flags {
    char *clock, *tolerance, *from, *hold, *table;
    char *sweep, *sweep_clock, *output, *frame, *peer, *own;
    gint top, samples;
    gboolean large, c;
} rate_flags;

/* A law at work: what the options came to. */
typedef struct job {
    const wad_sheet *sheet;
    const wad_rate_law *law;
    const char *name; /* of the rate */
    const rate_flags *flags;
    wad_rational clock, wanted;
    wad_rate_options options;
    double tolerance_ppm; /* 0: not given */
    double own_clock_ppm;
    wad_rate_setting *settings; /* of fields beside the law */
    char **setting_names;
    unsigned n_settings;
} job;

#define MOST_ANSWERS 64
#define SWEEP_POINTS 800

/* ---- settings given: FIELD=VALUE,FIELD=VALUE ---- */

static int var_named(const wad_rate_law *law, const char *name)
{
    for (unsigned i = 0; i < wad_rate_vars(law); i++)
        if (!strcmp(wad_rate_var_name(law, i), name))
            return (int)i;
    return -1;
}

static char *var_names(const wad_rate_law *law)
{
    GString *text = g_string_new(NULL);
    for (unsigned i = 0; i < wad_rate_vars(law); i++)
        g_string_append_printf(text, "%s%s", i ? ", " : "", wad_rate_var_name(law, i));
    return g_string_free(text, FALSE);
}

/* NAME=VALUE; false: it has not this form. */
static bool split_setting(const char *setting, char **name, uint64_t *value)
{
    const char *equals = strchr(setting, '=');
    *name = equals ? g_strndup(setting, (gsize)(equals - setting)) : g_strdup(setting);
    return equals && wad_parse_number(equals + 1, value);
}

/* Fields of the block, or BLOCK.REG.FIELD: what may stand beside a law. */
static void add_settings(job *j, const wad_instance *block, const char *text)
{
    char **parts = g_strsplit(text ? text : "", ",", -1);
    unsigned n = g_strv_length(parts);
    j->settings = g_renew(wad_rate_setting, j->settings, j->n_settings + n);
    j->setting_names = g_renew(char *, j->setting_names, j->n_settings + n);
    for (unsigned i = 0; i < n; i++) {
        wad_rate_setting s = {.used = false};
        char *name, *why = NULL, *other = NULL;
        bool ok = split_setting(parts[i], &name, &s.value);
        char *own = g_strdup_printf("%s.%s", wad_instance_home(block)->name, name);
        ok = ok && (wad_sheet_resolve(j->sheet, own, &s.ref, &why) ||
                    wad_sheet_resolve(j->sheet, name, &s.ref, &other));
        if (ok && !(s.value & ~(wad_fieldref_mask(&s.ref) >> s.ref.lsb))) {
            j->settings[j->n_settings] = s;
            j->setting_names[j->n_settings++] = g_strdup(name);
        }
        g_free(name);
        g_free(own);
        g_free(why);
        g_free(other);
    }
    g_strfreev(parts);
}

/* It decided between ways, or chose the clock. */
static bool is_beside(const job *j, const char *name)
{
    for (unsigned i = 0; i < j->n_settings; i++)
        if (!strcmp(j->setting_names[i], name) && j->settings[i].used)
            return true;
    return false;
}

static bool parse_setting(const job *j, const char *setting, unsigned *given, uint64_t *values)
{
    const wad_rate_law *law = j->law;
    uint64_t value = 0;
    char *name;
    bool has_value = split_setting(setting, &name, &value), ok = true;
    int var = var_named(law, name);
    if (var >= 0 && strchr(setting, '=') &&
        (!has_value || value > wad_rate_var_max(law, (unsigned)var))) {
        cli_error("'%s' is no value for %s: 0 to %llu", strchr(setting, '=') + 1, name,
                  (unsigned long long)wad_rate_var_max(law, (unsigned)var));
        ok = false;
    } else if (var >= 0 && has_value) {
        *given |= 1u << var;
        values[var] = value;
    } else if (!has_value || !is_beside(j, name)) {
        char *names = var_names(law);
        cli_error("'%s' is not FIELD=VALUE of this law, whose fields are %s", setting, names);
        g_free(names);
        ok = false;
    }
    g_free(name);
    return ok;
}

static bool parse_settings(const job *j, const char *text, unsigned *given, uint64_t *values)
{
    char **parts = g_strsplit(text ? text : "", ",", -1);
    bool ok = true;
    for (unsigned i = 0; parts[i] && ok; i++)
        ok = !*parts[i] || parse_setting(j, parts[i], given, values);
    g_strfreev(parts);
    return ok;
}

/* "300..1MHz" */
static bool parse_range(const char *text, const char *option, wad_rational *from, wad_rational *to)
{
    char **ends = g_strsplit(text, "..", 2);
    bool ok = ends[0] && ends[1] && wad_parse_rate(ends[0], from) && wad_parse_rate(ends[1], to) &&
              (double)from->num / (double)from->den < (double)to->num / (double)to->den;
    g_strfreev(ends);
    if (!ok)
        cli_error("%s takes two rates, the lower first: 300..1MHz", option);
    return ok;
}

static bool parse_ppm(const char *text, const char *what, double *ppm)
{
    wad_rational share;
    if (!wad_parse_share(text, &share)) {
        cli_error("'%s' is no %s: write 1%% or 300ppm", text, what);
        return false;
    }
    *ppm = (double)share.num / (double)share.den * 1e6;
    return true;
}

/* ---- backwards ---- */

static int rate_from(const job *j)
{
    uint64_t values[WAD_RATE_VARS] = {0};
    unsigned given = 0;
    wad_rational hz;
    char text[32];
    if (!parse_settings(j, j->flags->from, &given, values))
        return CLI_USAGE;
    for (unsigned i = 0; i < wad_rate_vars(j->law); i++)
        if (!(given >> i & 1))
            return cli_error("--from must give %s too", wad_rate_var_name(j->law, i));
    if (!wad_rate_of(j->law, j->clock, values, &hz))
        return cli_error("this setting divides by 0");
    wad_format_hz(text, sizeof text, hz);
    printf("%s", text);
    if (hz.num > 0) {
        wad_format_seconds(text, sizeof text, (wad_rational){hz.den, hz.num});
        printf(", one every %s", text);
    }
    putchar('\n');
    return CLI_GOOD;
}

/* ---- both ends of a line ---- */

/* How often a bit is looked at: as given, else what the law's field of choice stands for. */
static unsigned samples_of(const job *j, const wad_rate_answer *a)
{
    wad_rate_target t;
    if (j->flags->samples)
        return (unsigned)j->flags->samples;
    if (!wad_rate_for_target(j->law, &t) || !t.divider.set || t.prescale_var < 0)
        return 16;
    for (unsigned i = 0; i < t.divider.n_set; i++)
        if (t.codes[i] == a->values[t.prescale_var] && t.set[i] >= 4 && t.set[i] <= 64)
            return t.set[i];
    return 16;
}

static int show_budget(const job *j, const wad_rate_answer *a)
{
    wad_frame frame = {.samples = samples_of(j, a)};
    wad_budget_ends ends = {.own_ppm = a->ppm, .own_clock_ppm = j->own_clock_ppm};
    wad_budget budget;
    if (!wad_frame_parse(j->flags->frame, &frame))
        return cli_error("'%s' is no frame: write data bits, parity (N E O M S) and stop bits, "
                         "such as 8N1",
                         j->flags->frame);
    if (frame.samples < 3)
        return cli_error("--samples is at least 3");
    if (j->flags->peer && !parse_ppm(j->flags->peer, "error of the other end", &ends.peer_ppm))
        return CLI_USAGE;
    wad_budget_make(&frame, &ends, &budget);
    wad_show_budget(&frame, &ends, &budget, stdout);
    return budget.good ? CLI_GOOD : CLI_FAILED;
}

/* ---- one rate ---- */

static int judge(const job *j, const wad_rate_answer *a)
{
    if (j->tolerance_ppm <= 0)
        return CLI_GOOD;
    bool good = fabs(a->ppm) <= j->tolerance_ppm;
    printf("\n%s the tolerance of %.6g ppm\n", good ? "within" : "outside", j->tolerance_ppm);
    return good ? CLI_GOOD : CLI_FAILED;
}

/* Beyond the fields' reach is an error, even where the end of the reach is near. */
static int refuse(const job *j, const char *why)
{
    char hz[32];
    wad_format_hz(hz, sizeof hz, j->wanted);
    return cli_error("%s is out of reach: %s", hz, why);
}

static int solve(const job *j)
{
    wad_rate_answer answers[MOST_ANSWERS];
    unsigned top = (unsigned)CLAMP(j->flags->top, 1, MOST_ANSWERS);
    unsigned n = wad_rate_solve(j->law, j->clock, j->wanted, &j->options, answers, top);
    if (!n)
        return cli_error(
            "no setting of these fields gives a rate, or there are too many to search: "
            "hold some with --hold");
    char *why = NULL;
    size_t size;
    FILE *text = open_memstream(&why, &size);
    bool beyond = wad_rate_beyond(j->law, j->clock, &j->options, j->wanted, text);
    fclose(text);
    wad_show_rate_head(j->law, 3, "", stdout);
    for (unsigned i = 0; i < n; i++) {
        char number[16];
        snprintf(number, sizeof number, "%u", i + 1);
        wad_show_rate_answer(j->law, 3, number, &answers[i], stdout);
        putchar('\n');
    }
    wad_show_rate_words(j->law, &answers[0], stdout);
    if (j->flags->c)
        wad_show_rate_c(j->law, j->clock, j->wanted, &answers[0], j->tolerance_ppm, stdout);
    int status = j->flags->frame ? show_budget(j, &answers[0]) : CLI_GOOD;
    int judged = judge(j, &answers[0]);
    fflush(stdout);
    if (beyond)
        status = refuse(j, why);
    free(why);
    return MAX(status, judged);
}

/* ---- a table of rates ---- */

static char **listed_rates(const char *list)
{
    if (strcmp(list, "standard"))
        return g_strsplit(list, ",", -1);
    GPtrArray *rates = g_ptr_array_new();
    for (unsigned i = 0; wad_usual_baud(i); i++)
        g_ptr_array_add(rates, g_strdup_printf("%u", wad_usual_baud(i)));
    g_ptr_array_add(rates, NULL);
    return (char **)g_ptr_array_free(rates, FALSE);
}

static int table(const job *j)
{
    double allowed = j->tolerance_ppm > 0 ? j->tolerance_ppm : 20000;
    bool outside = false;
    char **rates = listed_rates(j->flags->table);
    int status = CLI_GOOD;
    wad_show_rate_head(j->law, 7, "wanted", stdout);
    for (unsigned i = 0; rates[i] && status == CLI_GOOD; i++) {
        wad_rational wanted;
        wad_rate_answer a;
        if (!wad_parse_rate(rates[i], &wanted)) {
            status = cli_error("'%s' is no rate", rates[i]);
            break;
        }
        if (!wad_rate_solve(j->law, j->clock, wanted, &j->options, &a, 1))
            continue;
        wad_show_rate_answer(j->law, 7, rates[i], &a, stdout);
        bool off = fabs(a.ppm) > allowed;
        outside |= off;
        if (off)
            printf("\n%7s  off by more than %.6g %%", "", allowed / 1e4);
        putchar('\n');
    }
    g_strfreev(rates);
    return status == CLI_GOOD && outside && j->tolerance_ppm > 0 ? CLI_FAILED : status;
}

/* ---- a sweep, drawn ---- */

/* Usual baud rates within a sweep of rates are marked. */
static unsigned mark_rates(const job *j, const wad_rate_range_of *range, wad_rate_point *marks)
{
    double from = (double)range->from.num / (double)range->from.den,
           to = (double)range->to.num / (double)range->to.den;
    char **rates = listed_rates("standard");
    unsigned n = 0;
    for (unsigned i = 0; rates[i] && !range->over_clock; i++) {
        wad_rational wanted;
        wad_rate_answer a;
        if (!wad_parse_rate(rates[i], &wanted) || (double)wanted.num < from ||
            (double)wanted.num > to ||
            !wad_rate_solve(j->law, j->clock, wanted, &j->options, &a, 1))
            continue;
        marks[n++] = (wad_rate_point){(double)wanted.num, a.ppm, a};
    }
    g_strfreev(rates);
    return n;
}

static int draw(const job *j, const wad_rate_plot *plot)
{
    char *why = NULL;
    bool ok = j->flags->output ? wad_plot_rates(plot, j->flags->output, &why)
                               : wad_plot_rates_text(plot, stdout, &why);
    int status = ok ? CLI_GOOD : cli_file_error("%s", why);
    if (ok && j->flags->output)
        printf("%s\n", j->flags->output);
    g_free(why);
    return status;
}

static int sweep(const job *j)
{
    wad_rate_range_of range = {.points = SWEEP_POINTS,
                               .over_clock = j->flags->sweep_clock != NULL,
                               .clock = j->clock,
                               .wanted = j->wanted};
    const char *text = range.over_clock ? j->flags->sweep_clock : j->flags->sweep;
    if (!parse_range(text, range.over_clock ? "--sweep-clock" : "--sweep", &range.from, &range.to))
        return CLI_USAGE;
    wad_rate_point *points = g_new(wad_rate_point, SWEEP_POINTS), marks[16];
    char hz[32];
    wad_format_hz(hz, sizeof hz, range.over_clock ? j->wanted : j->clock);
    char *title = g_strdup_printf("%s %s: error of the nearest setting, %s %s", j->sheet->name,
                                  j->name, range.over_clock ? "wanted" : "clock", hz);
    wad_rate_plot plot = {.title = title,
                          .points = points,
                          .marks = marks,
                          .n = wad_rate_sweep(j->law, &range, &j->options, points),
                          .n_marks = mark_rates(j, &range, marks),
                          .over_clock = range.over_clock,
                          .tolerance_ppm = j->tolerance_ppm};
    int status =
        plot.n > 1 ? draw(j, &plot) : cli_error("no setting of these fields gives a rate there");
    g_free(title);
    g_free(points);
    return status;
}

/* ---- the verb ---- */

static bool find_clock(job *j, const wad_instance *block)
{
    const wad_clock *clock = block->clock ? block->clock : j->sheet->core, *root = NULL;
    const char *given = j->flags->clock;
    wad_rational hz;
    if (given && !wad_parse_rate(given, &j->clock)) {
        cli_error("'%s' is no frequency: write 48MHz", given);
        return false;
    }
    if (!given && !wad_rate_clock(j->law, &j->clock)) {
        cli_error("clock '%s' of %s does not run after reset: say --clock 48MHz%s", clock->name,
                  block->name, clock->own ? ", or by --hold the fields that choose it" : "");
        return false;
    }
    if (j->flags->own && !parse_ppm(j->flags->own, "tolerance of the clock", &j->own_clock_ppm))
        return false;
    if (!j->flags->own && !given && wad_clock_rate(j->sheet, clock, NULL, NULL, &hz, &root) && root)
        j->own_clock_ppm = (double)root->tolerance.num / (double)root->tolerance.den * 1e6;
    return true;
}

static void tell_law(const job *j, const wad_instance *block)
{
    const wad_clock *clock = block->clock ? block->clock : j->sheet->core;
    const char *while_ = wad_rate_while(j->law), *given = j->flags->clock;
    bool chosen = false;
    char text[32];
    for (unsigned i = 0; i < j->n_settings; i++)
        chosen |= j->settings[i].used;
    wad_format_hz(text, sizeof text, j->clock);
    printf("%s.%s: %s\n", j->sheet->name, block->name, wad_rate_text(j->law));
    if (while_)
        printf("while %s%s\n", while_, chosen ? "" : ", as after reset; --hold chooses others");
    if (!j->flags->sweep_clock)
        printf("clock %s%s%s%s\n", text, given ? "" : " (", given ? "" : clock->name,
               given    ? ""
               : chosen ? ", as it is held)"
                        : ", as after reset)");
}

/* What does not go together; CLI_GOOD when all does. */
static int check_flags(const rate_flags *f, const char *name, bool has_rate)
{
    unsigned ways =
        (f->from != NULL) + (f->table != NULL) + (f->sweep != NULL) + (f->sweep_clock != NULL);
    if (ways > 1)
        return cli_error(
            "--from, --table, --sweep and --sweep-clock are four ways to ask: use one");
    if (f->from && (f->hold || f->tolerance || f->large))
        return cli_error("--from tells the rate of one setting: --hold, --tolerance and --large "
                         "look for settings");
    if (ways && !f->sweep_clock && has_rate)
        return cli_error("with --from, --table or --sweep write the rate's name alone: %s", name);
    if (ways && (f->frame || f->c))
        return cli_error("--frame and --c are for one wanted rate");
    if (!f->frame && (f->peer || f->own || f->samples))
        return cli_error("--peer, --own and --samples are for --frame");
    if (f->output && !f->sweep && !f->sweep_clock)
        return cli_error("--output is for --sweep and --sweep-clock");
    if (f->sweep_clock && f->clock)
        return cli_error("--sweep-clock moves the clock: leave --clock out");
    return CLI_GOOD;
}

static int work(job *j, const wad_instance *block)
{
    const rate_flags *f = j->flags;
    j->options.prefer_large = f->large ? ~0u : 0;
    if (!find_clock(j, block) ||
        !parse_settings(j, f->hold, &j->options.fixed, j->options.values) ||
        (f->tolerance && !parse_ppm(f->tolerance, "tolerance", &j->tolerance_ppm)))
        return CLI_USAGE;
    tell_law(j, block);
    return f->from                      ? rate_from(j)
           : f->table                   ? table(j)
           : f->sweep || f->sweep_clock ? sweep(j)
                                        : solve(j);
}

static int rate(const wad_sheet *sheet, char **args, const rate_flags *flags)
{
    const wad_instance *block = wad_sheet_block(sheet, args[0]);
    if (!cli_check_blocks(sheet, (char *[]){args[0], NULL}))
        return CLI_USAGE;
    char **parts = g_strsplit(args[1], "=", 2), *why = NULL;
    char *full = g_strdup_printf("%s.%s", block->name, parts[0]);
    job j = {.sheet = sheet, .name = full, .flags = flags};
    add_settings(&j, block, flags->hold);
    add_settings(&j, block, flags->from);
    wad_rate_law *law = wad_rate_open_with(sheet, block, parts[0], j.settings, j.n_settings, &why);
    j.law = law;
    bool alone = flags->from || flags->table || flags->sweep;
    int status = law ? check_flags(flags, parts[0], parts[1] != NULL) : CLI_USAGE;
    if (!law)
        cli_error("%s", why);
    else if (status == CLI_GOOD && !alone && (!parts[1] || !wad_parse_rate(parts[1], &j.wanted)))
        status = cli_error("'%s' is not NAME=RATE: write wrap=2Hz or wrap=500ms", args[1]);
    else if (status == CLI_GOOD)
        status = work(&j, block);
    wad_rate_close(law);
    for (unsigned i = 0; i < j.n_settings; i++)
        g_free(j.setting_names[i]);
    g_free(j.setting_names);
    g_free(j.settings);
    g_strfreev(parts);
    g_free(full);
    g_free(why);
    return status;
}

int cli_rate(int argc, char **argv)
{
    rate_flags flags = {.top = 3};
    const GOptionEntry entries[] = {
        {"clock", 0, 0, G_OPTION_ARG_STRING, &flags.clock,
         "the block's clock, if not as after reset", "HZ"},
        {"top", 0, 0, G_OPTION_ARG_INT, &flags.top, "how many settings to show (3)", "N"},
        {"tolerance", 0, 0, G_OPTION_ARG_STRING, &flags.tolerance,
         "judge the best against it, such as 1% or 300ppm; exit status 1 if outside", "SHARE"},
        {"hold", 0, 0, G_OPTION_ARG_STRING, &flags.hold, "fields that must keep a value",
         "F=V,..."},
        {"large", 0, 0, G_OPTION_ARG_NONE, &flags.large,
         "of equally near settings prefer large values of the first field, not small ones", NULL},
        {"c", 0, 0, G_OPTION_ARG_NONE, &flags.c,
         "also as C: constants, and an assertion on the error", NULL},
        {"from", 0, 0, G_OPTION_ARG_STRING, &flags.from, "backwards: the rate of a setting",
         "F=V,..."},
        {"table", 0, 0, G_OPTION_ARG_STRING, &flags.table,
         "the best setting for each rate of a list; 'standard' are the usual baud rates",
         "RATE,..."},
        {"sweep", 0, 0, G_OPTION_ARG_STRING, &flags.sweep,
         "draw the error over wanted rates, such as 300..1MHz", "FROM..TO"},
        {"sweep-clock", 0, 0, G_OPTION_ARG_STRING, &flags.sweep_clock,
         "draw the error of the wanted rate over clocks", "FROM..TO"},
        {"output", 'o', 0, G_OPTION_ARG_FILENAME, &flags.output,
         "the drawing as PNG or SVG, by the name's ending; else it is text", "FILE"},
        {"frame", 0, 0, G_OPTION_ARG_STRING, &flags.frame,
         "of an asynchronous line, such as 8N1: what both ends' errors come to by the stop bit; "
         "exit status 1 if it does not work",
         "FRAME"},
        {"peer", 0, 0, G_OPTION_ARG_STRING, &flags.peer, "error of the other end in all (0)",
         "SHARE"},
        {"own", 0, 0, G_OPTION_ARG_STRING, &flags.own,
         "tolerance of the own clock (the sheet's for the clock after reset, else 0)", "SHARE"},
        {"samples", 0, 0, G_OPTION_ARG_INT, &flags.samples,
         "how often a receiver looks at a bit (by the law, else 16)", "N"},
        {0}};
    int status;
    if (!cli_options(
            &argc, &argv, "rate", "CHIP BLOCK NAME=RATE",
            "Finds the fields' values that give a rate (2Hz, 1.5kHz, or a period: 500ms) by "
            "the block's law:\nthe nearest of all there are, in exact arithmetic, with the "
            "next best and the registers' words.\nA sheet's own rates have its names; else "
            "counters have wrap (a period, an interrupt, PWM),\ntoggle (an output that changes "
            "once a period, so half) and updown, a tick wrap, a timebase count, uart baud,\nspi "
            "bitrate, frames bitrate[FORMAT], a watchdog timeout (timeout=2s), adc clock.",
            entries, &status))
        return status;
    wad_sheet *sheet = NULL;
    if (argc != 4)
        status = cli_error("rate takes a chip, a block and NAME=RATE; see 'wadium rate --help'");
    else
        sheet = cli_read_sheet(argv[1]);
    status = sheet ? rate(sheet, argv + 2, &flags) : CLI_USAGE;
    wad_sheet_free(sheet);
    char *const owned[] = {flags.clock, flags.tolerance, flags.from,        flags.hold,
                           flags.table, flags.sweep,     flags.sweep_clock, flags.output,
                           flags.frame, flags.peer,      flags.own};
    for (unsigned i = 0; i < G_N_ELEMENTS(owned); i++)
        g_free(owned[i]);
    return status;
}
