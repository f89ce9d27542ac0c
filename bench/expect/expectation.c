/* SPDX-License-Identifier: MIT */
/* What the classes of expectations share: values, tolerances, verdicts. */
#include "expectation.h"

#include <math.h>

#include "bench/language/value.h"
#include "bench/measure/text.h"
#include "lang/rational.h"
#include "sheet/read/number.h"

bool wadi_expect_wanted(wadi_cursor *c, wadi_expectation *e, wad_unit unit)
{
    static const char *const examples[] = {"a plain number",
                                           "a frequency such as 1 Hz",
                                           "a time such as 500 ms",
                                           "a share such as 25 %",
                                           "points",
                                           "bytes",
                                           "a voltage such as 1.2 V",
                                           "cycles",
                                           "a resistance such as 1 kohm",
                                           "a capacity",
                                           "a current such as 12 uA"};
    wad_where where = c->tok->where;
    wad_unit got;
    if (!wadi_take_amount(c, &e->wanted, &got))
        return false;
    if (got != unit) {
        wadi_error(c->src, &where, "expected %s", examples[unit]);
        c->failed = true;
    }
    return !c->failed;
}

bool wadi_expect_within(wadi_cursor *c, wadi_expectation *e, wad_unit unit)
{
    wad_where where = c->tok->where;
    if (!wadi_need_word(c, "within") || !wadi_take_amount(c, &e->within, &e->within_unit))
        return false;
    bool points = unit == WAD_UNIT_PART;
    bool fits = points ? e->within_unit == WAD_UNIT_POINT
                       : e->within_unit == unit || e->within_unit == WAD_UNIT_PART;
    if (!fits) {
        wadi_error(c->src, &where,
                   points ? "a duty's tolerance is given in points: within 0.1 points"
                          : "the tolerance is given in the same unit, in %% or in ppm");
        c->failed = true;
    }
    return !c->failed;
}

bool wadi_expect_close(const wadi_expectation *e, double value)
{
    double wanted = wadi_rat_double(e->wanted), tol = wadi_rat_double(e->within);
    if (e->within_unit == WAD_UNIT_PART)
        tol *= fabs(wanted);
    /* the tolerance itself still passes, whatever its last binary digit */
    return fabs(value - wanted) <= tol * (1 + 1e-9);
}

wadi_judged wadi_judge_count(const wadi_expectation *e, uint64_t n)
{
    return (wadi_judged){g_strdup_printf("%llu", (unsigned long long)n),
                         (double)n == wadi_rat_double(e->wanted)};
}

wadi_judged wadi_judge_share(const wadi_expectation *e, double share)
{
    return (wadi_judged){g_strdup_printf("%.4g %%", share * 100),
                         share < wadi_rat_double(e->wanted)};
}

wadi_judged wadi_judge_spread(const wadi_expectation *e, const wad_stats *s, const char *none)
{
    if (!s->n)
        return (wadi_judged){g_strdup(none), false};
    bool ok =
        wadi_expect_close(e, (double)s->min / 1e12) && wadi_expect_close(e, (double)s->max / 1e12);
    return (wadi_judged){wadi_spread(s), ok};
}

wadi_judged wadi_judge_latency(const wadi_expectation *e, const wad_stats *s, const char *none)
{
    if (!s || !s->n)
        return (wadi_judged){g_strdup(none), false};
    char *most = wadi_seconds((double)s->max / 1e12);
    char *mean = wadi_seconds(wad_stats_mean(s) / 1e12);
    wadi_judged j = {g_strdup_printf("%s at most, mean %s", most, mean),
                     (double)s->max / 1e12 < wadi_rat_double(e->wanted)};
    g_free(mean);
    g_free(most);
    return j;
}
