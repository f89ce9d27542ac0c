/* SPDX-License-Identifier: MIT */
/* How regular something is: the times from one event to the next as histograms on one axis. */
#include <glib.h>
#include <math.h>
#include <string.h>

#include "gnuplot.h"
#include "wadium/host/bench.h"

#define BINS 240

typedef struct picture {
    const wad_intervals *series;
    unsigned n;
    const char *title;
    double low, width, scale; /* of a bin, in the unit */
    const char *unit;
} picture;

static wad_stats stats_of(const wad_intervals *s)
{
    wad_stats stats = {0};
    for (size_t i = 0; i < s->n; i++)
        wad_stats_add(&stats, s->ps[i]);
    return stats;
}

/* One axis for all, a bin wider than what they span on both sides. */
static void choose_axis(picture *p)
{
    uint64_t low = UINT64_MAX, high = 0;
    for (unsigned i = 0; i < p->n; i++)
        for (size_t k = 0; k < p->series[i].n; k++) {
            low = MIN(low, p->series[i].ps[k]);
            high = MAX(high, p->series[i].ps[k]);
        }
    wadi_axis x = wadi_axis_of(0, high, 1);
    p->scale = x.scale;
    p->unit = x.unit;
    double span =
        fmax((double)(high - low), (double)high * 1e-3); /* all alike: a bar, not a wall */
    double centre = (double)low / 2 + (double)high / 2;
    p->width = span * 1.1 / BINS / p->scale;
    p->low = (centre - span * 0.55) / p->scale;
}

static void draw_one(FILE *gp, const picture *p, unsigned i)
{
    static const char *const colours[] = {"#0B5C7A", "#B4551E", "#2F7D3B", "#7A3E8C"};
    const wad_intervals *s = &p->series[i];
    unsigned counts[BINS] = {0}, most = 1;
    wad_stats stats = stats_of(s);
    for (size_t k = 0; k < s->n; k++) {
        double at = ((double)s->ps[k] / p->scale - p->low) / p->width;
        unsigned bin = at > 0 ? MIN((unsigned)at, BINS - 1u) : 0;
        counts[bin]++;
        most = MAX(most, counts[bin]);
    }
    fprintf(gp, "$h << EOD\n");
    for (unsigned b = 0; b < BINS; b++)
        if (counts[b])
            fprintf(gp, "%.9g %u\n", p->low + (b + 0.5) * p->width, counts[b]);
    char *spread = wad_amount_text((double)(stats.max - stats.min) / 1e12, "s");
    char *title = g_strdup_printf(
        "%s: %llu times, %.6g to %.6g %s, mean %.6g%s%s", s->name, (unsigned long long)s->n,
        (double)stats.min / p->scale, (double)stats.max / p->scale, p->unit,
        wad_stats_mean(&stats) / p->scale, stats.max > stats.min ? ", end to end " : ", all alike",
        stats.max > stats.min ? spread : "");
    wadi_gnuplot_text(gp, "EOD\nset title ", title, " font ',11' offset 0,-0.5\n");
    fprintf(gp,
            "set xlabel '%s'\nset yrange [0.6:%g]\n"
            "plot $h with boxes fs solid 1.0 noborder lc rgb '%s' notitle\n",
            i + 1 == p->n ? p->unit : "", most * 2.0, colours[i % G_N_ELEMENTS(colours)]);
    g_free(spread);
    g_free(title);
}

static void draw(FILE *gp, const char *terminal, const void *data)
{
    const picture *p = data;
    fprintf(gp,
            "set terminal %s\nset encoding utf8\nset lmargin 10\nset rmargin 4\n"
            "set border 3 lc rgb '#444444'\nset xtics nomirror out\nset ytics nomirror out\n"
            "set grid xtics ytics lc rgb '#DDDDDD'\nset key off\nset logscale y\n"
            "set format y '%%g'\nset ylabel 'times'\nset boxwidth %.9g\n"
            "set xrange [%.9g:%.9g]\nset multiplot layout %u,1 ",
            terminal, p->width, p->low, p->low + BINS * p->width, p->n);
    wadi_gnuplot_text(gp, "title ", p->title, " font ',12'\n");
    for (unsigned i = 0; i < p->n; i++)
        draw_one(gp, p, i);
    fprintf(gp, "unset multiplot\n");
}

bool wad_plot_intervals(const wad_intervals *series, unsigned n, const wad_plot_options *options,
                        const char *path, char **why)
{
    picture p = {.series = series, .n = n, .title = options->title ? options->title : ""};
    *why = NULL;
    for (unsigned i = 0; i < n; i++)
        if (!series[i].n) {
            *why = g_strdup_printf("%s changes too rarely to have intervals", series[i].name);
            return false;
        }
    choose_axis(&p);
    return wadi_gnuplot_file(path, options->width ? options->width : 1280,
                             options->height ? options->height : 800, draw, &p, why);
}

void wad_report_intervals(const wad_intervals *series, unsigned n, FILE *out)
{
    size_t width = 8;
    for (unsigned i = 0; i < n; i++)
        width = MAX(width, strlen(series[i].name));
    fprintf(out, "%-*s  %8s  %-14s %-14s %-14s %s\n", (int)width, "signal", "times", "mean",
            "shortest", "longest", "end to end");
    for (unsigned i = 0; i < n; i++) {
        wad_stats stats = stats_of(&series[i]);
        double values[] = {wad_stats_mean(&stats), (double)stats.min, (double)stats.max,
                           (double)(stats.max - stats.min)};
        fprintf(out, "%-*s  %8llu", (int)width, series[i].name, (unsigned long long)series[i].n);
        for (unsigned k = 0; k < 4 && series[i].n; k++) {
            char *text = wad_amount_text(values[k] / 1e12, "s");
            fprintf(out, k < 3 ? "  %-13s" : "  %s", text);
            g_free(text);
        }
        fputc('\n', out);
    }
}
