/* SPDX-License-Identifier: MIT */
#include "power.h"

#include <glib.h>
#include <string.h>

#include "lang/rational.h"

/* "12.5 uA" */
static const char *amperes(char *text, size_t size, wad_rational a)
{
    static const char *const units[] = {"A", "mA", "uA", "nA"};
    double value = wadi_rat_double(a);
    unsigned i = 0;
    for (; i < 3 && value > 0 && value < 0.9999; i++)
        value *= 1000;
    snprintf(text, size, "%.6g %s", value, units[i]);
    return text;
}

static void add(GString *text, const wad_rational *a, const char *behind)
{
    char one[32];
    if (a->num)
        g_string_append_printf(text, "%s%s%s", text->len ? ", " : "", amperes(one, sizeof one, *a),
                               behind);
}

static char *draws_text(const wad_draws *d)
{
    GString *text = g_string_new(NULL);
    add(text, &d->base, "");
    add(text, &d->per_mhz, " a MHz");
    add(text, &d->active, " while it is on");
    return g_string_free(text, FALSE);
}

void wadi_show_draws(const char *word, const wad_draws *draws, FILE *out)
{
    char *text = draws_text(draws);
    if (*text)
        fprintf(out, "%s %s\n", word, text);
    g_free(text);
}

static void show_level(const wad_sleep_def *l, FILE *out)
{
    char text[32], *when = l->when.n ? wad_cond_text(&l->when) : g_strdup("else");
    fprintf(out, "%-10s %-10s %s", l->name, amperes(text, sizeof text, l->draws), when);
    for (unsigned i = 0; i < l->n_stops; i++)
        fprintf(out, "%s%s", i ? " " : ", stops ", l->stops[i]->name);
    if (l->wake_s.num) {
        wad_format_seconds(text, sizeof text, l->wake_s);
        fprintf(out, ", wakes after %s", text);
    }
    fprintf(out, "%s\n", l->again ? ", goes back behind a handler" : "");
    g_free(when);
}

void wadi_show_power(const wad_sheet *s, FILE *out)
{
    char text[32];
    if (!s->supply.num && !s->n_sleeps)
        return;
    fputc('\n', out);
    if (s->supply.num)
        fprintf(out, "supply %.4g V, from %.4g V to %.4g V\n", wadi_rat_double(s->supply),
                wadi_rat_double(s->supply_min), wadi_rat_double(s->supply_max));
    wadi_show_draws("core draws", &s->cpu.draws, out);
    const char *between = "clocks draw ";
    for (unsigned i = 0; i < s->n_clocks; i++)
        if (s->clocks[i]->draws.num) {
            fprintf(out, "%s%s %s", between, s->clocks[i]->name,
                    amperes(text, sizeof text, s->clocks[i]->draws));
            between = ", ";
        }
    if (*between == ',')
        fputc('\n', out);
    if (!s->n_sleeps)
        return;
    fprintf(out, "\n%-10s %-10s %s\n", "sleep", "draws", "when");
    for (unsigned i = 0; i < s->n_sleeps; i++)
        show_level(&s->sleeps[i], out);
}
