/* SPDX-License-Identifier: MIT */
#include "text.h"

#include <math.h>

#include "bench/language/bench.h"

char *wadi_seconds(double s)
{
    static const char *const units[] = {"s", "ms", "us", "ns", "ps"};
    unsigned i = 0;
    while (i < 4 && fabs(s) < 0.9999999999 && s != 0) {
        s *= 1000;
        i++;
    }
    return g_strdup_printf("%.7g %s", s, units[i]);
}

/* "500 ms, all 10 within 83.3 ps" */
char *wadi_spread(const wad_stats *s)
{
    char *mean = wadi_seconds(wad_stats_mean(s) / 1e12);
    char *width = wadi_seconds((double)(s->max - s->min) / 1e12);
    char *text =
        s->n < 2 ? g_strdup(mean)
        : s->min == s->max
            ? g_strdup_printf("%s, all %llu alike", mean, (unsigned long long)s->n)
            : g_strdup_printf("%s, all %llu within %s", mean, (unsigned long long)s->n, width);
    g_free(width);
    g_free(mean);
    return text;
}

char *wad_amount_text(double value, const char *unit)
{
    static const char *const prefixes[] = {"", "m", "u", "n", "p"};
    unsigned i = 0;
    while (i < 4 && value != 0 && fabs(value) < 0.9999999) {
        value *= 1000;
        i++;
    }
    return g_strdup_printf("%.6g %s%s", value, prefixes[i], unit);
}
