/* SPDX-License-Identifier: MIT */
#include <string.h>

#include "cli/shared/cli.h"
#include "wadium/host/clocktree.h"
#include "wadium/host/rate.h"

#define MOST_WISHES 8

typedef struct clocks_flags {
    char **set, *dump;
} clocks_flags;

static bool apply(const wad_sheet *sheet, wad_regs *regs, const clocks_flags *flags)
{
    bool ok = true;
    if (flags->dump) {
        wad_diags *diags = wad_diags_new();
        wad_dump *dump = wad_dump_read(sheet, flags->dump, diags);
        cli_tell(diags);
        ok = dump != NULL;
        if (dump)
            wad_regs_load(regs, dump);
        wad_dump_free(dump);
    }
    for (unsigned i = 0; ok && flags->set && flags->set[i]; i++) {
        char *why;
        ok = wad_regs_set(regs, flags->set[i], &why);
        if (!ok)
            cli_error("%s", why);
        g_free(why);
    }
    return ok;
}

static void no_clock(const wad_sheet *sheet, const char *name)
{
    const char **names = g_new0(const char *, sheet->n_clocks + 1);
    char *what = g_strdup_printf("clock of %s", sheet->name);
    for (unsigned i = 0; i < sheet->n_clocks; i++)
        names[i] = sheet->clocks[i]->name;
    cli_unknown(what, name, names, sheet->n_clocks);
    g_free(what);
    g_free(names);
}

static bool parse_wish(const wad_sheet *sheet, const char *text, wad_clock_wish *wish)
{
    char **parts = g_strsplit(text, "=", 2);
    wish->clock = wad_sheet_clock(sheet, parts[0]);
    bool ok = wish->clock && parts[1] && wad_parse_rate(parts[1], &wish->hz);
    if (!wish->clock)
        no_clock(sheet, parts[0]);
    else if (!ok)
        cli_error("'%s' is not CLOCK=FREQUENCY, such as core=48MHz", text);
    g_strfreev(parts);
    return ok;
}

/* The settings, and the tree that they make. */
static int show_plan(const wad_sheet *sheet, const wad_clock_plan *plan)
{
    wad_regs *regs = wad_regs_new(sheet);
    if (plan->worst_ppm == 0)
        puts("exact");
    else
        printf("the nearest is off by %.6g ppm = %.4g %%\n", plan->worst_ppm,
               plan->worst_ppm / 1e4);
    if (!plan->n_settings)
        puts("as after reset");
    for (unsigned i = 0; i < plan->n_settings; i++) {
        const wad_clock_setting *s = &plan->settings[i];
        const wad_enumerator *e =
            s->field.field ? wad_bitfield_enum(s->field.field, s->value) : NULL;
        char *name = wad_fieldref_name(&s->field), *why;
        char *setting = g_strdup_printf("%s=%llu", name, (unsigned long long)s->value);
        printf("  %s%s%s\n", setting, e ? "   " : "", e ? e->name : "");
        if (!wad_regs_set(regs, setting, &why))
            g_free(why);
        g_free(setting);
        g_free(name);
    }
    putchar('\n');
    unsigned broken = wad_show_clocks(sheet, regs, stdout);
    wad_regs_free(regs);
    return broken ? CLI_FAILED : CLI_GOOD;
}

/* Fields given with --set are held while the others are looked for. */
static bool parse_held(const wad_sheet *sheet, const clocks_flags *flags, wad_clock_setting *held,
                       unsigned *n)
{
    wad_regs *regs = wad_regs_new(sheet);
    bool ok = apply(sheet, regs, flags);
    for (unsigned i = 0; ok && flags->set && flags->set[i] && *n < MOST_WISHES; i++) {
        char **parts = g_strsplit(flags->set[i], "=", 2), *why = NULL;
        ok = wad_sheet_resolve(sheet, parts[0], &held[*n].field, &why);
        if (ok) {
            held[*n].value = wad_regs_get(regs, &held[*n].field);
            ++*n;
        }
        g_free(why);
        g_strfreev(parts);
    }
    wad_regs_free(regs);
    return ok;
}

static int solve(const wad_sheet *sheet, char **args, int n, const clocks_flags *flags)
{
    wad_clock_setting held[MOST_WISHES];
    unsigned n_held = 0;
    wad_clock_wish wishes[MOST_WISHES];
    wad_clock_plan plan;
    char *why;
    if (n > MOST_WISHES)
        return cli_error("at most %d clocks at once", MOST_WISHES);
    for (int i = 0; i < n; i++)
        if (!parse_wish(sheet, args[i], &wishes[i]))
            return CLI_USAGE;
    if (flags->dump)
        return cli_error(
            "--dump shows a chip's clocks; hold fields with --set while others are looked "
            "for");
    if (!parse_held(sheet, flags, held, &n_held))
        return CLI_USAGE;
    if (!wad_clock_solve(sheet, wishes, (unsigned)n, held, n_held, &plan, &why)) {
        int status = cli_error("%s", why);
        g_free(why);
        return status;
    }
    int status = show_plan(sheet, &plan);
    wad_clock_plan_clear(&plan);
    return status;
}

static int show(const wad_sheet *sheet, const clocks_flags *flags)
{
    wad_regs *regs = wad_regs_new(sheet);
    int status = !apply(sheet, regs, flags)             ? CLI_USAGE
                 : wad_show_clocks(sheet, regs, stdout) ? CLI_FAILED
                                                        : CLI_GOOD;
    wad_regs_free(regs);
    return status;
}

int cli_clocks(int argc, char **argv)
{
    clocks_flags flags = {0};
    const GOptionEntry entries[] = {
        {"set", 0, 0, G_OPTION_ARG_STRING_ARRAY, &flags.set,
         "a field's value, if not as after reset, or to be held while the others are looked for; "
         "may "
         "be given several times",
         "BLOCK.REG.FIELD=V"},
        {"dump", 0, 0, G_OPTION_ARG_FILENAME, &flags.dump,
         "register values of a chip: lines of a register or an address, and a value", "FILE"},
        {0}};
    int status;
    if (!cli_options(
            &argc, &argv, "clocks", "CHIP [CLOCK=FREQUENCY...]",
            "Shows the clock tree: each clock below its source, with the fields that set it, "
            "what keeps it\noff, the blocks it feeds, limits that it breaks (exit status 1). "
            "With wanted frequencies: the\nfields' values, PLL included, that come nearest to "
            "all of them at once.",
            entries, &status))
        return status;
    wad_sheet *sheet = argc > 1 ? cli_read_sheet(argv[1]) : NULL;
    if (argc < 2)
        status = cli_error("clocks takes a chip; see 'wadium clocks --help'");
    else if (!sheet)
        status = CLI_USAGE;
    else
        status = argc > 2 ? solve(sheet, argv + 2, argc - 2, &flags) : show(sheet, &flags);
    wad_sheet_free(sheet);
    g_strfreev(flags.set);
    g_free(flags.dump);
    return status;
}
