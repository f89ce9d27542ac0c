/* SPDX-License-Identifier: MIT */
/* One picture of several benches: how much of the time the core was awake, and movers had the bus.
 */
#include "bench/language/bench.h"
#include "gnuplot.h"

typedef struct shares {
    wad_bench_result *const *results;
    unsigned n;
} shares;

static double percent(uint64_t part, const wad_bench_result *r)
{
    return r->run.end_ps ? 100 * (double)part / (double)r->run.end_ps : 0;
}

static double bus(const wad_bench_result *r)
{
    uint64_t waited;
    return percent(wad_sim_bus_taken(r->sim, &waited), r);
}

static void emit_script(FILE *gp, const char *terminal, const void *data)
{
    const shares *s = data;
    double least = 1;
    for (unsigned i = 0; i < s->n; i++) {
        least = MIN(least, MAX(percent(s->results[i]->run.awake_ps, s->results[i]), 1e-4));
        if (bus(s->results[i]) > 0)
            least = MIN(least, MAX(bus(s->results[i]), 1e-4));
    }
    fprintf(gp, "set terminal %s\nset encoding utf8\n$d << EOD\n", terminal);
    for (unsigned i = 0; i < s->n; i++)
        fprintf(gp, "%u %g %g\n", i, percent(s->results[i]->run.awake_ps, s->results[i]),
                bus(s->results[i]));
    fputs("EOD\nset xtics (", gp);
    for (unsigned i = 0; i < s->n; i++) {
        fputs(i ? ", " : "", gp);
        wadi_gnuplot_mark(gp, s->results[i]->title, i);
    }
    fprintf(
        gp,
        ") scale 0\nset logscale y\nset yrange [%g:300]\nset xrange [-0.6:%g]\n"
        "set ytics nomirror\nset ylabel 'share of the time, %%'\nset grid ytics lc rgb '#DDDDDD'\n"
        "set border 3 lc rgb '#444444'\nset style fill solid\nset key top right\n"
        "set boxwidth 0.32\nset title 'awake, and bus taken by DMA controllers' font ',12'\n"
        "plot $d using ($1-0.18):2 with boxes lc rgb '#0B5D7A' title 'core awake', \\\n"
        "  '' using ($1+0.18):3 with boxes lc rgb '#B4561F' title 'bus taken', \\\n"
        "  '' using ($1-0.18):2:(sprintf('%%.3g %%%%', $2)) with labels offset 0,0.7 notitle, \\\n"
        "  '' using ($1+0.18):3:($3 > 0 ? sprintf('%%.3g %%%%', $3) : '') with labels offset "
        "0,0.7 notitle\n",
        least / 3, s->n - 0.4);
}

bool wad_plot_awake(wad_bench_result *const *results, unsigned n, const char *path, char **why)
{
    shares s = {results, n};
    *why = NULL;
    if (n)
        return wadi_gnuplot_file(path, 1280, 800, emit_script, &s, why);
    *why = g_strdup("no bench was run, so there is nothing to draw");
    return false;
}
