/* SPDX-License-Identifier: MIT */
#include <math.h>
#include <string.h>

#include "cli.h"
#include "wadium/host/rate.h"
#include "wadium/host/words.h"

typedef struct rate_flags {
    char *clock, *tolerance, *from, *hold, *table;
    gint top;
    gboolean large;
} rate_flags;

#define MOST_ANSWERS 64

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

static bool parse_setting(const wad_rate_law *law, const char *setting, unsigned *given,
                          uint64_t *values)
{
    const char *equals = strchr(setting, '=');
    char *name = equals ? g_strndup(setting, (gsize)(equals - setting)) : g_strdup(setting);
    int var = var_named(law, name);
    uint64_t value = 0;
    bool ok = equals && var >= 0 && wad_parse_number(equals + 1, &value) &&
              value <= wad_rate_var_max(law, (unsigned)var);
    if (!equals || var < 0) {
        char *names = var_names(law);
        cli_error("'%s' is not FIELD=VALUE of this law, whose fields are %s", setting, names);
        g_free(names);
    } else if (!ok) {
        cli_error("'%s' is no value for %s: 0 to %llu", equals + 1, name,
                  (unsigned long long)wad_rate_var_max(law, (unsigned)var));
    } else {
        *given |= 1u << var;
        values[var] = value;
    }
    g_free(name);
    return ok;
}

static bool parse_settings(const wad_rate_law *law, const char *text, unsigned *given,
                           uint64_t *values)
{
    char **parts = g_strsplit(text ? text : "", ",", -1);
    bool ok = true;
    for (unsigned i = 0; parts[i] && ok; i++)
        ok = !*parts[i] || parse_setting(law, parts[i], given, values);
    g_strfreev(parts);
    return ok;
}

/* ---- what is printed ---- */

static void print_error(double ppm)
{
    if (ppm == 0)
        fputs("exact", stdout);
    else
        printf("%+.4g ppm = %+.4g %%", ppm, ppm / 1e4);
}

static void print_table_head(const wad_rate_law *law)
{
    printf("\n%3s", "");
    for (unsigned i = 0; i < wad_rate_vars(law); i++)
        printf("  %*s", (int)MAX(strlen(wad_rate_var_name(law, i)), (size_t)6),
               wad_rate_var_name(law, i));
    printf("  %-18s %s\n", "actual", "error");
}

static void print_answer(const wad_rate_law *law, unsigned n, const wad_rate_answer *a)
{
    char hz[32];
    wad_format_hz(hz, sizeof hz, a->actual);
    printf("%3u", n);
    for (unsigned i = 0; i < wad_rate_vars(law); i++)
        printf("  %*llu", (int)MAX(strlen(wad_rate_var_name(law, i)), (size_t)6),
               (unsigned long long)a->values[i]);
    printf("  %-18s ", hz);
    print_error(a->ppm);
    putchar('\n');
}

/* The registers that hold the setting, each as a word over its reset value. */
static void print_words(const wad_rate_law *law, const wad_rate_answer *a)
{
    wad_word words[WAD_RATE_VARS * 4];
    unsigned n = 0;
    for (unsigned i = 0; i < wad_rate_vars(law); i++) {
        wad_fieldref refs[4];
        uint64_t bits[4];
        unsigned parts = wad_rate_var_words(law, i, a->values[i], refs, bits, 4);
        for (unsigned k = 0; k < parts; k++) {
            unsigned at = 0;
            while (at < n && (words[at].ref.reg != refs[k].reg ||
                              words[at].ref.reg_index != refs[k].reg_index))
                at++;
            if (at == n)
                words[n++] = (wad_word){.ref = refs[k], .value = refs[k].reg->reset};
            words[at].value = (words[at].value & ~wad_fieldref_mask(&refs[k])) | bits[k];
            words[at].ref.field = NULL;
        }
    }
    putchar('\n');
    for (unsigned i = 0; i < n; i++) {
        wad_word *w = &words[i];
        w->ref.index = 0;
        wad_show_word_line(w, stdout);
    }
}

/* ---- forwards and backwards ---- */

static int rate_from(const wad_rate_law *law, wad_rational clock, const char *from)
{
    uint64_t values[WAD_RATE_VARS] = {0};
    unsigned given = 0;
    wad_rational hz;
    char text[32];
    if (!parse_settings(law, from, &given, values))
        return CLI_USAGE;
    for (unsigned i = 0; i < wad_rate_vars(law); i++)
        if (!(given >> i & 1))
            return cli_error("--from must give %s too", wad_rate_var_name(law, i));
    if (!wad_rate_of(law, clock, values, &hz))
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

/* Why it cannot be nearer: the ends of what the fields reach. */
static void print_range(const wad_rate_law *law, wad_rational clock,
                        const wad_rate_options *options, wad_rational wanted)
{
    wad_rate_answer slow, fast;
    char a[32], b[32];
    if (!wad_rate_range(law, clock, options, &slow, &fast))
        return;
    double hz = (double)wanted.num / (double)wanted.den;
    double low = (double)slow.actual.num / (double)slow.actual.den;
    double high = (double)fast.actual.num / (double)fast.actual.den;
    if (hz >= low && hz <= high)
        return;
    wad_format_hz(a, sizeof a, slow.actual);
    wad_format_hz(b, sizeof b, fast.actual);
    printf("\nout of reach: from this clock the fields give %s to %s\n", a, b);
}

static int solve(const wad_rate_law *law, wad_rational clock, wad_rational wanted,
                 const rate_flags *flags)
{
    wad_rate_answer answers[MOST_ANSWERS];
    wad_rate_options options = {.prefer_large = flags->large ? ~0u : 0};
    wad_rational tolerance;
    unsigned top = (unsigned)CLAMP(flags->top, 1, MOST_ANSWERS);
    if (!parse_settings(law, flags->hold, &options.fixed, options.values))
        return CLI_USAGE;
    if (flags->tolerance && !wad_parse_share(flags->tolerance, &tolerance))
        return cli_error("'%s' is no tolerance: write 1%% or 300ppm", flags->tolerance);
    unsigned n = wad_rate_solve(law, clock, wanted, &options, answers, top);
    if (!n)
        return cli_error(
            "no setting of these fields gives a rate, or there are too many to search: "
            "hold some with --hold");
    print_table_head(law);
    for (unsigned i = 0; i < n; i++)
        print_answer(law, i + 1, &answers[i]);
    print_words(law, &answers[0]);
    print_range(law, clock, &options, wanted);
    if (!flags->tolerance)
        return CLI_GOOD;
    double allowed = (double)tolerance.num / (double)tolerance.den * 1e6;
    bool good = fabs(answers[0].ppm) <= allowed;
    printf("\n%s the tolerance of %.6g ppm\n", good ? "within" : "outside", allowed);
    return good ? CLI_GOOD : CLI_FAILED;
}

/* ---- a table of rates ---- */

static int table(const wad_rate_law *law, wad_rational clock, const rate_flags *flags)
{
    const char *list = flags->table;
    wad_rate_options options = {.prefer_large = flags->large ? ~0u : 0};
    wad_rational tolerance = {2, 100};
    static const char standard[] = "300,600,1200,2400,4800,9600,14400,19200,38400,57600,115200,"
                                   "230400,460800,921600";
    if (!parse_settings(law, flags->hold, &options.fixed, options.values))
        return CLI_USAGE;
    if (flags->tolerance && !wad_parse_share(flags->tolerance, &tolerance))
        return cli_error("'%s' is no tolerance: write 1%% or 300ppm", flags->tolerance);
    double allowed = (double)tolerance.num / (double)tolerance.den * 1e6;
    bool outside = false;
    char **rates = g_strsplit(!strcmp(list, "standard") ? standard : list, ",", -1);
    int status = CLI_GOOD;
    printf("\n%10s", "wanted");
    for (unsigned i = 0; i < wad_rate_vars(law); i++)
        printf("  %*s", (int)MAX(strlen(wad_rate_var_name(law, i)), (size_t)6),
               wad_rate_var_name(law, i));
    printf("  %-18s %s\n", "actual", "error");
    for (unsigned i = 0; rates[i] && status == CLI_GOOD; i++) {
        wad_rational wanted;
        wad_rate_answer a;
        char hz[32];
        if (!wad_parse_rate(rates[i], &wanted)) {
            status = cli_error("'%s' is no rate", rates[i]);
            break;
        }
        if (!wad_rate_solve(law, clock, wanted, &options, &a, 1))
            continue;
        wad_format_hz(hz, sizeof hz, a.actual);
        printf("%10s", rates[i]);
        for (unsigned k = 0; k < wad_rate_vars(law); k++)
            printf("  %*llu", (int)MAX(strlen(wad_rate_var_name(law, k)), (size_t)6),
                   (unsigned long long)a.values[k]);
        printf("  %-18s ", hz);
        print_error(a.ppm);
        bool off = fabs(a.ppm) > allowed;
        outside |= off;
        if (off)
            printf("   off by more than %.6g %%", allowed / 1e4);
        putchar('\n');
    }
    g_strfreev(rates);
    return status == CLI_GOOD && outside && flags->tolerance ? CLI_FAILED : status;
}

/* ---- the verb ---- */

static bool find_clock(const wad_sheet *sheet, const wad_instance *block, const wad_rate_law *law,
                       const char *given, wad_rational *clock)
{
    const char *name = block->clock ? block->clock->name : sheet->core->name;
    char hz[32];
    if (given && !wad_parse_rate(given, clock)) {
        cli_error("'%s' is no frequency: write 48MHz", given);
        return false;
    }
    if (!given && !wad_rate_clock(law, clock)) {
        cli_error("clock '%s' of %s does not run after reset: say --clock 48MHz", name,
                  block->name);
        return false;
    }
    wad_format_hz(hz, sizeof hz, *clock);
    printf("%s.%s: %s\nclock %s%s%s%s\n", sheet->name, block->name, wad_rate_text(law), hz,
           given ? "" : " (", given ? "" : name, given ? "" : ", as after reset)");
    return true;
}

static int rate(const wad_sheet *sheet, char **args, const rate_flags *flags)
{
    const wad_instance *block = wad_sheet_block(sheet, args[0]);
    if (!block)
        return cli_error("%s has no block '%s'", sheet->name, args[0]);
    char **parts = g_strsplit(args[1], "=", 2), *why = NULL;
    wad_rate_law *law = wad_rate_open(sheet, block, parts[0], &why);
    wad_rational clock, wanted;
    int status = CLI_USAGE;
    if (!law)
        cli_error("%s", why);
    else if (flags->from && (flags->hold || flags->tolerance || flags->table || flags->large))
        cli_error(
            "--from tells the rate of one setting: --hold, --tolerance, --large and --table look "
            "for settings");
    else if ((flags->from || flags->table) && parts[1])
        cli_error("with --from or --table write the rate's name alone: %s", parts[0]);
    else if (!flags->from && !flags->table && (!parts[1] || !wad_parse_rate(parts[1], &wanted)))
        cli_error("'%s' is not NAME=RATE: write wrap=2Hz or wrap=500ms", args[1]);
    else if (find_clock(sheet, block, law, flags->clock, &clock))
        status = flags->from    ? rate_from(law, clock, flags->from)
                 : flags->table ? table(law, clock, flags)
                                : solve(law, clock, wanted, flags);
    wad_rate_close(law);
    g_strfreev(parts);
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
        {"from", 0, 0, G_OPTION_ARG_STRING, &flags.from, "backwards: the rate of a setting",
         "F=V,..."},
        {"table", 0, 0, G_OPTION_ARG_STRING, &flags.table,
         "the best setting for each rate of a list; 'standard' are the usual baud rates",
         "RATE,..."},
        {0}};
    int status;
    if (!cli_options(
            &argc, &argv, "rate", "CHIP BLOCK NAME=RATE",
            "Finds the fields' values that give a rate (2Hz, 1.5kHz, or a period: 500ms) by "
            "the block's law:\nthe nearest of all there are, in exact arithmetic, with the "
            "next best and the registers' words.\nA counter has the rates wrap (a period, an "
            "interrupt, PWM) and toggle (an output that changes\nonce a period, so half).",
            entries, &status))
        return status;
    wad_sheet *sheet = NULL;
    if (argc != 4)
        status = cli_error("rate takes a chip, a block and NAME=RATE; see 'wadium rate --help'");
    else
        sheet = cli_read_sheet(argv[1]);
    status = sheet ? rate(sheet, argv + 2, &flags) : CLI_USAGE;
    wad_sheet_free(sheet);
    g_free(flags.clock);
    g_free(flags.tolerance);
    g_free(flags.from);
    g_free(flags.hold);
    g_free(flags.table);
    return status;
}
