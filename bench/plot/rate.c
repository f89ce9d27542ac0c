/* SPDX-License-Identifier: MIT */
/* The error of the nearest setting over rates or clocks. */
#include <glib.h>
#include <math.h>

#include "gnuplot.h"
#include "wadium/host/bench.h"

/* Half the height, in percent: what is out of reach altogether would hide the rest. */
static double shown_percent(const wad_rate_plot *p)
{
    double most = 0, useful = MAX(2.5 * p->tolerance_ppm / 1e4, 5);
    for (unsigned i = 0; i < p->n; i++)
        most = MAX(most, fabs(p->points[i].ppm) / 1e4);
    most = MIN(most * 1.05, useful);
    return most > 0 ? most : 1;
}

static void draw(FILE *gp, const char *terminal, const void *data)
{
    const wad_rate_plot *p = data;
    bool text = g_str_has_prefix(terminal, "dumb");
    double most = p->tolerance_ppm / 1e4;
    fprintf(gp, "$curve << EOD\n");
    for (unsigned i = 0; i < p->n; i++)
        fprintf(gp, "%.12g %.9g\n", p->points[i].hz, p->points[i].ppm / 1e4);
    fprintf(gp, "EOD\n$marks << EOD\n");
    for (unsigned i = 0; i < p->n_marks; i++)
        fprintf(gp, "%.12g %.9g %.6g\n", p->marks[i].hz, p->marks[i].ppm / 1e4, p->marks[i].hz);
    fprintf(gp, "EOD\nset terminal %s\nset encoding utf8\n", terminal);
    wadi_gnuplot_text(gp, "set title ", p->title, "\n");
    fprintf(gp,
            "set logscale x\nset format x '%%.0s %%cHz'\nset xlabel '%s'\nset ylabel 'error, "
            "%%'\n",
            p->over_clock ? "clock" : "wanted rate");
    if (!text)
        fprintf(gp, "set border 3 lc rgb '#444444'\nset tics nomirror out\nset grid lc rgb "
                    "'#DDDDDD'\nset lmargin 10\nset rmargin 5\n");
    fprintf(gp, "set key %s\nset xrange [%.12g:%.12g]\n", text ? "off" : "top left",
            p->n ? p->points[0].hz : 1, p->n ? p->points[p->n - 1].hz : 2);
    fprintf(gp, "set yrange [-%g:%g]\n", shown_percent(p), shown_percent(p));
    fprintf(gp, "plot $curve using 1:2 with lines %s title 'nearest setting'",
            text ? "" : "lw 1.2 lc rgb '#0B5C7A'");
    if (most > 0)
        fprintf(gp, ", %g with lines %s title 'tolerance', %g with lines %s notitle", most,
                text ? "" : "dt 2 lw 1.6 lc rgb '#B4551E'", -most,
                text ? "" : "dt 2 lw 1.6 lc rgb '#B4551E'");
    if (!text)
        fprintf(gp, ", 0 with lines lw 1 lc rgb '#888888' notitle");
    if (p->n_marks)
        fprintf(gp, ", $marks using 1:2 with points %s title 'usual rates'",
                text ? "pt 'O'" : "pt 7 ps 0.9 lc rgb '#2F7D3B'");
    fputc('\n', gp);
}

bool wad_plot_rates(const wad_rate_plot *plot, const char *path, char **why)
{
    return wadi_gnuplot_file(path, plot->width ? plot->width : 1280,
                             plot->height ? plot->height : 800, draw, plot, why);
}

bool wad_plot_rates_text(const wad_rate_plot *plot, FILE *out, char **why)
{
    return wadi_gnuplot_characters(24, draw, plot, out, why);
}
