/* SPDX-License-Identifier: MIT */
/* The nearest setting's error over many rates, or many clocks. */
#include <math.h>

#include "sheet/laws/rate.h"

/* To a whole hertz; below 1 kHz to a thousandth. */
static wad_rational at_hz(double hz)
{
    wad_rational r = {1, 1};
    if (hz >= 1000)
        return wadi_int((int64_t)(hz + 0.5));
    wadi_rat_make((wadi_i128)(hz * 1000 + 0.5), 1000, &r);
    return r;
}

unsigned wad_rate_sweep(const wad_rate_law *law, const wad_rate_range_of *range,
                        const wad_rate_options *options, wad_rate_point *points)
{
    double low = log(wadi_rat_double(range->from)), high = log(wadi_rat_double(range->to));
    unsigned n = 0;
    for (unsigned i = 0; i < range->points; i++) {
        double part = range->points > 1 ? (double)i / (range->points - 1) : 0;
        wad_rational at = i == 0                   ? range->from
                          : i + 1 == range->points ? range->to
                                                   : at_hz(exp(low + part * (high - low)));
        wad_rate_answer a;
        wad_rational clock = range->over_clock ? at : range->clock;
        wad_rational wanted = range->over_clock ? range->wanted : at;
        if (at.num > 0 && wad_rate_solve(law, clock, wanted, options, &a, 1))
            points[n++] = (wad_rate_point){wadi_rat_double(at), a.ppm, a};
    }
    return n;
}
