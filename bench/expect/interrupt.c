/* SPDX-License-Identifier: MIT */
/* Expectations of when a handler is entered. */
#include "expectation.h"
#include "grid.h"
#include "wadium/host/meter.h"

typedef struct entries {
    uint64_t n, last_ps;
    wad_stats period, latency;
} entries;

static void hear(const wadi_expectation *e, void *state, const wadi_heard *h)
{
    entries *s = state;
    if (!wadi_in_window(e, h->ps))
        return;
    if (s->n++)
        wad_stats_add(&s->period, h->ps - s->last_ps);
    wad_stats_add(&s->latency, h->ps - h->raised_ps);
    s->last_ps = h->ps;
}

static wadi_judged judge_every(const wadi_expectation *e, void *state, const wadi_scene *scene)
{
    const entries *s = state;
    (void)scene;
    return wadi_judge_spread(e, &s->period, s->n ? "served once only" : "never served");
}

static wadi_judged judge_latency(const wadi_expectation *e, void *state, const wadi_scene *scene)
{
    const entries *s = state;
    (void)scene;
    return wadi_judge_latency(e, &s->latency, "never served");
}

static wadi_judged judge_count(const wadi_expectation *e, void *state, const wadi_scene *scene)
{
    (void)scene;
    return wadi_judge_count(e, ((const entries *)state)->n);
}

static void hear_grid(const wadi_expectation *e, void *state, const wadi_heard *h)
{
    if (wadi_in_window(e, h->ps))
        wadi_grid_edge(state, h->ps);
}

const wadi_expectation_class
    wadi_expect_irq_every = {.words = "every",
                             .example = "expect CNT0 interrupt every 500 ms within 10 us",
                             .about = WADI_ABOUT_INTERRUPT,
                             .unit = WAD_UNIT_S,
                             .operands = WADI_TAKES_VALUE | WADI_TAKES_WITHIN,
                             .windowed = true,
                             .word_is_wanted = true,
                             .state_size = sizeof(entries),
                             .hear = hear,
                             .judge = judge_every},
    wadi_expect_irq_grid = {.words = "grid",
                            .example = "expect CNT0 interrupt grid 500 ms within 10 us",
                            .about = WADI_ABOUT_INTERRUPT,
                            .windowed = true,
                            .state_size = sizeof(wadi_grid_meter),
                            .parse = wadi_parse_grid,
                            .begin = wadi_begin_grid,
                            .hear = hear_grid,
                            .judge = wadi_judge_grid},
    wadi_expect_irq_latency = {.words = "latency below",
                               .example = "expect CNT0 interrupt latency below 10 us",
                               .about = WADI_ABOUT_INTERRUPT,
                               .unit = WAD_UNIT_S,
                               .operands = WADI_TAKES_VALUE,
                               .windowed = true,
                               .state_size = sizeof(entries),
                               .hear = hear,
                               .judge = judge_latency},
    wadi_expect_irq_count = {.words = "count",
                             .example = "expect CNT0 interrupt count 2 from 1.1 s to 2.1 s",
                             .about = WADI_ABOUT_INTERRUPT,
                             .operands = WADI_TAKES_VALUE,
                             .windowed = true,
                             .state_size = sizeof(entries),
                             .hear = hear,
                             .judge = judge_count};
