/* SPDX-License-Identifier: MIT */
/* Expectations of a pin's levels. */
#include "expectation.h"
#include "grid.h"
#include "wadium/host/meter.h"

/* ---- what a meter measures ---- */

static void begin(const wadi_expectation *e, void *state, const wadi_scene *scene)
{
    (void)scene;
    wad_meter_init(state, e->from_ps, e->to_ps);
}

/* All edges: the level at the window's begin is that of the last one before. */
static void hear(const wadi_expectation *e, void *state, const wadi_heard *h)
{
    (void)e;
    wad_meter_edge(state, h->ps, h->level);
}

static wad_meter *ended(void *state, const wadi_scene *scene)
{
    wad_meter_end(state, scene->run->end_ps);
    return state;
}

static wadi_judged judge_frequency(const wadi_expectation *e, void *state, const wadi_scene *scene)
{
    const wad_meter *m = ended(state, scene);
    double value = wad_meter_hz(m);
    if (m->rises < 2)
        return (wadi_judged){
            g_strdup_printf("%llu rising edges: no period", (unsigned long long)m->rises), false};
    return (wadi_judged){g_strdup_printf("%.9g Hz", value), wadi_expect_close(e, value)};
}

static wadi_judged judge_duty(const wadi_expectation *e, void *state, const wadi_scene *scene)
{
    double value = wad_meter_duty(ended(state, scene));
    return (wadi_judged){g_strdup_printf("%.4f %%", value * 100), wadi_expect_close(e, value)};
}

static wadi_judged judge_high(const wadi_expectation *e, void *state, const wadi_scene *scene)
{
    return wadi_judge_spread(e, &ended(state, scene)->high, "no high pulse");
}

static wadi_judged judge_low(const wadi_expectation *e, void *state, const wadi_scene *scene)
{
    return wadi_judge_spread(e, &ended(state, scene)->low, "no low pulse");
}

static wadi_judged judge_period(const wadi_expectation *e, void *state, const wadi_scene *scene)
{
    return wadi_judge_spread(e, &ended(state, scene)->period, "no whole period");
}

static wadi_judged judge_edges(const wadi_expectation *e, void *state, const wadi_scene *scene)
{
    return wadi_judge_count(e, ended(state, scene)->edges);
}

#define METERED(name, word, in, takes, shown)                                                      \
    const wadi_expectation_class wadi_expect_##name = {.words = word,                              \
                                                       .example = shown,                           \
                                                       .about = WADI_ABOUT_PIN,                    \
                                                       .unit = in,                                 \
                                                       .operands = takes,                          \
                                                       .windowed = true,                           \
                                                       .state_size = sizeof(wad_meter),            \
                                                       .begin = begin,                             \
                                                       .hear = hear,                               \
                                                       .judge = judge_##name}

#define NEAR (WADI_TAKES_VALUE | WADI_TAKES_WITHIN)

METERED(frequency, "frequency", WAD_UNIT_HZ, NEAR, "expect warn frequency 1 Hz within 0.1 %");
METERED(duty, "duty", WAD_UNIT_PART, NEAR, "expect warn duty 50 % within 0.1 points");
METERED(high, "high", WAD_UNIT_S, NEAR, "expect warn high 500 ms within 10 us");
METERED(low, "low", WAD_UNIT_S, NEAR, "expect warn low 500 ms within 10 us");
METERED(period, "period", WAD_UNIT_S, NEAR, "expect warn period 1 s within 10 us");
METERED(edges, "edges", WAD_UNIT_NONE, WADI_TAKES_VALUE, "expect warn edges 2 from 1.1 s to 2.1 s");

/* ---- grid ---- */

static void hear_grid(const wadi_expectation *e, void *state, const wadi_heard *h)
{
    if (h->level == WAD_HIGH && wadi_in_window(e, h->ps))
        wadi_grid_edge(state, h->ps);
}

const wadi_expectation_class wadi_expect_grid = {
    .words = "grid",
    .example = "expect warn grid 1 Hz within 10 us",
    .about = WADI_ABOUT_PIN,
    .windowed = true,
    .state_size = sizeof(wadi_grid_meter),
    .parse = wadi_parse_grid,
    .begin = wadi_begin_grid,
    .hear = hear_grid,
    .judge = wadi_judge_grid,
};

/* ---- is ---- */

static const char *no_window(const wadi_expectation *e)
{
    (void)e;
    return "a level is looked at once, at its time: it takes no window";
}

static void begin_level(const wadi_expectation *e, void *state, const wadi_scene *scene)
{
    (void)e;
    (void)scene;
    *(wad_level *)state = WAD_FLOATING;
}

static void hear_level(const wadi_expectation *e, void *state, const wadi_heard *h)
{
    if (h->ps <= e->at_ps)
        *(wad_level *)state = h->level;
}

static wadi_judged judge_level(const wadi_expectation *e, void *state, const wadi_scene *scene)
{
    static const char *const levels[] = {"low", "high", "floating"};
    wad_level then = *(wad_level *)state;
    (void)scene;
    return (wadi_judged){g_strdup(levels[then]), then == e->level};
}

const wadi_expectation_class wadi_expect_level = {
    .words = "is",
    .example = "expect warn is high at 750 ms",
    .about = WADI_ABOUT_PIN,
    .operands = WADI_TAKES_LEVEL | WADI_TAKES_AT,
    .no_window = no_window,
    .state_size = sizeof(wad_level),
    .begin = begin_level,
    .hear = hear_level,
    .judge = judge_level,
};
