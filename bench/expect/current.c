/* SPDX-License-Identifier: MIT */
/* `expect current 12.3 uA within 1 %`, `expect current below 20 uA`, of all from a time on. */
#include "bench/language/value.h"
#include "expectation.h"
#include "lang/rational.h"
#include "wadium/host/analog.h"

/* What was drawn before the window does not count. */
static void note_charge(wad_sim *sim, void *ctx)
{
    *(double *)ctx = wad_sim_charge(sim)->coulombs;
}

static void begin(const wadi_expectation *e, void *state, const wadi_scene *scene)
{
    if (e->from_ps && scene->sim)
        wad_sim_at(scene->sim, e->from_ps, note_charge, state);
}

static bool parse(wadi_cursor *c, wadi_expectation *e, bool within)
{
    if (wadi_expect_wanted(c, e, WAD_UNIT_A) && within)
        wadi_expect_within(c, e, WAD_UNIT_A);
    if (wadi_take_word(c, "from"))
        wadi_parse_ps(c, &e->from_ps);
    return !c->failed;
}

static bool parse_value(wad_bench *b, wadi_cursor *c, wadi_expectation *e)
{
    (void)b;
    return parse(c, e, true);
}

static bool parse_below(wad_bench *b, wadi_cursor *c, wadi_expectation *e)
{
    (void)b;
    return parse(c, e, false);
}

/* False: `j` says why there is none. */
static bool average(const wadi_expectation *e, const double *before, const wadi_scene *scene,
                    double *amperes, wadi_judged *j)
{
    const wad_charge *c = wad_sim_charge(scene->sim);
    uint64_t end = scene->run->end_ps;
    const char *why = end <= e->from_ps ? "the run ended before"
                      : !c->known       ? "the sheet states no currents"
                                        : NULL;
    *j = (wadi_judged){g_strdup(why), false};
    if (!why)
        *amperes = (c->coulombs - *before) / ((double)(end - e->from_ps) / 1e12);
    return !why;
}

static wadi_judged judge_value(const wadi_expectation *e, void *state, const wadi_scene *scene)
{
    wadi_judged j;
    double amperes;
    if (average(e, state, scene, &amperes, &j))
        j = (wadi_judged){wad_amount_text(amperes, "A"), wadi_expect_close(e, amperes)};
    return j;
}

static wadi_judged judge_below(const wadi_expectation *e, void *state, const wadi_scene *scene)
{
    wadi_judged j;
    double amperes;
    if (average(e, state, scene, &amperes, &j))
        j = (wadi_judged){wad_amount_text(amperes, "A"), amperes < wadi_rat_double(e->wanted)};
    return j;
}

const wadi_expectation_class wadi_expect_current = {.words = "current",
                                                    .example = "expect current 5 mA within 90 %",
                                                    .about = WADI_ABOUT_RUN,
                                                    .state_size = sizeof(double),
                                                    .parse = parse_value,
                                                    .begin = begin,
                                                    .judge = judge_value},
                             wadi_expect_current_below = {.words = "current below",
                                                          .example =
                                                              "expect current below 1 A from 1 s",
                                                          .about = WADI_ABOUT_RUN,
                                                          .state_size = sizeof(double),
                                                          .parse = parse_below,
                                                          .begin = begin,
                                                          .judge = judge_below};
