/* SPDX-License-Identifier: MIT */
#include "grid.h"

#include <glib.h>
#include <math.h>

__extension__ typedef __int128 i128;

void wadi_grid_init(wadi_grid_meter *g, wad_rational period_s)
{
    *g = (wadi_grid_meter){.period = period_s};
}

/* n * period, in picoseconds, rounded to nearest. */
static i128 place(const wadi_grid_meter *g, uint64_t n)
{
    i128 ps = (i128)n * g->period.num * (i128)WAD_PS_PER_S;
    return (ps + g->period.den / 2) / g->period.den;
}

void wadi_grid_edge(wadi_grid_meter *g, uint64_t ps)
{
    if (!g->n++) {
        g->first_ps = ps;
        return;
    }
    i128 since = (i128)(ps - g->first_ps), unit = (i128)g->period.num * (i128)WAD_PS_PER_S;
    uint64_t k = (uint64_t)((since * g->period.den + unit / 2) / unit);
    int64_t off = (int64_t)(since - place(g, k));
    if (k <= g->last)
        g->doubled++;
    else
        g->missing += k - g->last - 1;
    g->last = MAX(k, g->last);
    g->last_off = off;
    g->earliest = MIN(g->earliest, off);
    g->latest = MAX(g->latest, off);
    g->sum_squares += (double)off * (double)off;
}

double wadi_grid_rms(const wadi_grid_meter *g)
{
    return g->n ? sqrt(g->sum_squares / (double)g->n) : 0;
}

double wadi_grid_drift(const wadi_grid_meter *g)
{
    return g->last ? (double)g->last_off / (double)place(g, g->last) : 0;
}
