/* SPDX-License-Identifier: MIT */
/* Expectations of volts and of the chip's current. */

#include "bench/language/bench.h"
#include "bench/language/value.h"
#include "bench/measure/text.h"
#include "expect.h"
#include "lang/cursor.h"
#include "lang/rational.h"

/* ---- reading ---- */

static const struct {
    const char *word;
    wadi_expect_type type;
    wad_unit unit;
    bool below; /* a limit, not a value */
} words[] = {{"frequency", WADI_EXPECT_TONE, WAD_UNIT_HZ, false},
             {"amplitude", WADI_EXPECT_AMPLITUDE, WAD_UNIT_V, false},
             {"mean", WADI_EXPECT_MEAN, WAD_UNIT_V, false},
             {"distortion", WADI_EXPECT_DISTORTION, WAD_UNIT_PART, true},
             {"samples", WADI_EXPECT_SAMPLES, WAD_UNIT_S, false}};

/* `frequency 440 Hz within 100 ppm`, `distortion below 1 %`, `samples every 35.5 us within 1 ns`,
 * `stays 0.5 V to 2 V` */
void wadi_parse_volts(wadi_cursor *c, wadi_expect *e)
{
    if (wadi_take_word(c, "stays")) {
        e->type = WADI_EXPECT_STAYS;
        if (wadi_expect_wanted(c, e, WAD_UNIT_V) && wadi_need_word(c, "to"))
            wadi_parse_amount(c, &e->within, &e->within_unit);
        return;
    }
    for (unsigned i = 0; i < G_N_ELEMENTS(words); i++) {
        if (!wadi_take_word(c, words[i].word))
            continue;
        e->type = words[i].type;
        if (words[i].below && !wadi_need_word(c, "below"))
            return;
        if (e->type == WADI_EXPECT_SAMPLES && !wadi_need_word(c, "every"))
            return;
        if (wadi_expect_wanted(c, e, words[i].unit) && !words[i].below)
            wadi_expect_within(c, e, words[i].unit);
        return;
    }
    wadi_expected(c, "'frequency', 'amplitude', 'mean', 'distortion', 'samples' or 'stays'");
}

/* `expect current 12.3 uA within 1 %`, `expect current below 20 uA` */
void wadi_parse_current(wadi_cursor *c, wadi_expect *e)
{
    bool below = wadi_take_word(c, "below");
    e->type = below ? WADI_EXPECT_CURRENT_BELOW : WADI_EXPECT_CURRENT;
    if (wadi_expect_wanted(c, e, WAD_UNIT_A) && !below)
        wadi_expect_within(c, e, WAD_UNIT_A);
}

/* ---- judging ---- */

static wadi_judged judged(double value, const char *unit, bool passed)
{
    return (wadi_judged){wad_amount_text(value, unit), passed};
}

wadi_judged wadi_judge_current(const wadi_gauge *g, wad_sim *sim, const wad_run_result *run)
{
    const wadi_expect *e = g->expect;
    const wad_charge *c = wad_sim_charge(sim);
    if (run->end_ps <= e->from_ps)
        return (wadi_judged){g_strdup("the run ended before"), false};
    if (!c->known)
        return (wadi_judged){g_strdup("the sheet states no currents"), false};
    double average = (c->coulombs - g->charge_then) / ((double)(run->end_ps - e->from_ps) / 1e12);
    bool ok = e->type == WADI_EXPECT_CURRENT_BELOW ? average < wadi_rat_double(e->wanted)
                                                   : wadi_expect_close(e, average);
    return judged(average, "A", ok);
}

static wadi_judged judge_samples(const wadi_expect *e, const wad_stats *s)
{
    if (!s->n)
        return (wadi_judged){g_strdup("fewer than two samples"), false};
    bool ok =
        wadi_expect_close(e, (double)s->min / 1e12) && wadi_expect_close(e, (double)s->max / 1e12);
    return (wadi_judged){wadi_spread(s), ok};
}

static wadi_judged judge_stays(const wadi_expect *e, const wad_tone *t)
{
    char *low = wad_amount_text(t->min, "V"), *high = wad_amount_text(t->max, "V");
    bool ok = t->min >= wadi_rat_double(e->wanted) && t->max <= wadi_rat_double(e->within);
    wadi_judged j = {g_strdup_printf("%s to %s", low, high), ok};
    g_free(low);
    g_free(high);
    return j;
}

wadi_judged wadi_judge_volts(const wadi_gauge *g, const wad_capture *capture,
                             const wad_run_result *run)
{
    const wadi_expect *e = g->expect;
    wad_tone t;
    size_t n;
    if (e->type == WADI_EXPECT_SAMPLES)
        return judge_samples(e, &g->period);
    const wad_sample *samples = wad_capture_samples(capture, e->probe, &n);
    if (!n)
        return (wadi_judged){g_strdup("nothing was captured"), false};
    bool tone = wad_tone_measure(samples, n, e->from_ps, MIN(e->to_ps, run->end_ps), &t);
    if (e->type == WADI_EXPECT_STAYS)
        return judge_stays(e, &t);
    if (e->type == WADI_EXPECT_MEAN)
        return judged(t.mean, "V", wadi_expect_close(e, t.mean));
    if (!tone)
        return (wadi_judged){g_strdup("no tone: it does not change, or too seldom"), false};
    if (e->type == WADI_EXPECT_DISTORTION)
        return (wadi_judged){g_strdup_printf("%.4g %%", 100 * t.distortion),
                             t.distortion < wadi_rat_double(e->wanted)};
    if (e->type == WADI_EXPECT_TONE)
        return (wadi_judged){g_strdup_printf("%.9g Hz", t.hz), wadi_expect_close(e, t.hz)};
    return judged(t.amplitude, "V", wadi_expect_close(e, t.amplitude));
}
