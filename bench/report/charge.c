/* SPDX-License-Identifier: MIT */
/* What the chip drew: on average, by consumer, by activity. */
#include "bench/language/bench.h"

static int by_share(const void *a, const void *b)
{
    double x = ((const wad_consumer *)a)->coulombs, y = ((const wad_consumer *)b)->coulombs;
    return (x < y) - (x > y);
}

static void row(FILE *out, const char *name, char *charge, double share, char *average)
{
    fprintf(out, "  %-14s %14s %8.2f %% %14s\n", name, charge, 100 * share, average);
    g_free(charge);
    g_free(average);
}

static void consumers(const wad_charge *c, double seconds, FILE *out)
{
    wad_consumer *list = g_new(wad_consumer, c->n_consumers + 1);
    for (unsigned i = 0; i < c->n_consumers; i++)
        list[i] = c->consumers[i];
    qsort(list, c->n_consumers, sizeof *list, by_share);
    fprintf(out, "  %-14s %14s %10s %14s\n", "drawn by", "charge", "share", "on average");
    for (unsigned i = 0; i < c->n_consumers; i++)
        row(out, list[i].name, wad_amount_text(list[i].coulombs, "C"),
            list[i].coulombs / c->coulombs, wad_amount_text(list[i].coulombs / seconds, "A"));
    g_free(list);
}

static void activities(const wad_charge *c, const wad_sheet *sheet, FILE *out)
{
    if (c->n_activities)
        fprintf(out, "  %-14s %8s %14s %14s %14s\n", "woken by", "times", "awake each",
                "charge each", "energy each");
    for (unsigned i = 0; i < c->n_activities; i++) {
        const wad_activity *a = &c->activities[i];
        const wad_instance *owner = wad_sheet_irq_owner(sheet, a->line);
        double n = (double)a->count;
        char *awake = wad_amount_text((double)a->awake_ps / 1e12 / n, "s");
        char *charge = wad_amount_text(a->coulombs / n, "C");
        char *energy = wad_amount_text(a->coulombs * c->volts / n, "J");
        fprintf(out, "  %-14s %8llu %14s %14s %14s\n", owner ? owner->name : "?",
                (unsigned long long)a->count, awake, charge, energy);
        g_free(awake);
        g_free(charge);
        g_free(energy);
    }
}

void wad_report_charge(const wad_bench_result *r, FILE *out)
{
    const wad_charge *c = wad_sim_charge(r->sim);
    double seconds = (double)r->run.end_ps / 1e12;
    if (!c->known || seconds <= 0) {
        fputs("\n  the chip's sheet states no currents\n", out);
        return;
    }
    char *average = wad_amount_text(c->average, "A"), *charge = wad_amount_text(c->coulombs, "C");
    char *energy = wad_amount_text(c->coulombs * c->volts, "J");
    fprintf(out, "\n  current %s on average at %.4g V: %s, %s in %.6g s, by the sheet's currents\n",
            average, c->volts, charge, energy, seconds);
    g_free(average);
    g_free(charge);
    g_free(energy);
    consumers(c, seconds, out);
    activities(c, wad_sim_sheet(r->sim), out);
}
