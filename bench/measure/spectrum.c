/* SPDX-License-Identifier: MIT */
#include "wadium/host/spectrum.h"

#include <fftw3.h>
#include <math.h>

#define POINTS 65536
#define LOBE   4 /* bins to each side that the window spreads a line over */
#define LEAST  5 /* periods in the window: below, line and mean are not told apart */

static double window(size_t i)
{
    double x = 2 * M_PI * (double)i / POINTS;
    return 0.35875 - 0.48829 * cos(x) + 0.14128 * cos(2 * x) - 0.01168 * cos(3 * x);
}

/* The value that stands at each of the points; `tone` gets mean and limits. */
static bool hold(const wad_sample *s, size_t n, uint64_t from, uint64_t to, double *out,
                 wad_tone *tone)
{
    size_t at = 0;
    double sum = 0;
    if (!n || to <= from)
        return false;
    tone->min = INFINITY;
    tone->max = -INFINITY;
    for (size_t i = 0; i < POINTS; i++) {
        double ps = (double)from + (double)(to - from) * (double)i / POINTS;
        while (at + 1 < n && (double)s[at + 1].ps <= ps)
            at++;
        out[i] = s[at].value;
        sum += out[i];
        tone->min = fmin(tone->min, out[i]);
        tone->max = fmax(tone->max, out[i]);
    }
    tone->mean = sum / POINTS;
    return true;
}

static double power(const fftw_complex *x, size_t i)
{
    return x[i][0] * x[i][0] + x[i][1] * x[i][1];
}

/* All that the window has spread around a bin. */
static double lobe(const fftw_complex *x, double bin)
{
    double sum = 0;
    long middle = lround(bin);
    for (long i = middle - LOBE; i <= middle + LOBE; i++)
        if (i > LOBE && i < POINTS / 2)
            sum += power(x, (size_t)i);
    return sum;
}

/* Where the line stands between the bins: the centre of gravity of its lobe. For this window that
 * is exact but for what other lines leak into it. */
static double centre(const fftw_complex *x, size_t peak)
{
    double sum = 0, moment = 0;
    for (size_t i = peak - LOBE; i <= peak + LOBE; i++) {
        sum += power(x, i);
        moment += power(x, i) * (double)i;
    }
    return moment / sum;
}

static void read_lines(const fftw_complex *x, double seconds, double weight, wad_tone *t)
{
    size_t peak = LEAST;
    for (size_t i = LEAST; i < POINTS / 2 - LOBE; i++)
        if (power(x, i) > power(x, peak))
            peak = i;
    double bin = centre(x, peak), first = lobe(x, bin), others = 0;
    const double last = POINTS / 2.0 - LOBE;
    for (unsigned k = 2; k <= 10 && bin * k < last; k++)
        others += lobe(x, bin * k);
    t->hz = bin / seconds;
    t->amplitude = 2 * sqrt(first / (POINTS * weight));
    t->distortion = first > 0 ? sqrt(others / first) : 0;
}

bool wad_tone_measure(const wad_sample *samples, size_t n, uint64_t from, uint64_t to,
                      wad_tone *tone)
{
    *tone = (wad_tone){0};
    double *in = fftw_alloc_real(POINTS), weight = 0, rest = 0, sum = 0;
    fftw_complex *out = fftw_alloc_complex(POINTS / 2 + 1);
    bool any = hold(samples, n, from, to, in, tone);
    bool good = any && n >= 16 && tone->max > tone->min;
    if (good) {
        fftw_plan plan = fftw_plan_dft_r2c_1d(POINTS, in, out, FFTW_ESTIMATE | FFTW_PRESERVE_INPUT);
        for (size_t i = 0; i < POINTS; i++) {
            in[i] = (in[i] - tone->mean) * window(i);
            weight += window(i) * window(i);
            rest += in[i];
            sum += window(i);
        }
        fftw_execute(plan);
        fftw_destroy_plan(plan);
        tone->mean += rest / sum; /* a part of a period at the end counts little so */
        read_lines((const fftw_complex *)out, (double)(to - from) / 1e12, weight, tone);
    }
    fftw_free(in);
    fftw_free(out);
    return good;
}
