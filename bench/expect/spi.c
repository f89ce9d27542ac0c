/* SPDX-License-Identifier: MIT */
/* Expectations of what a device on an SPI bus has counted. */
#include "expectation.h"

static const char *no_window(const wadi_expectation *e)
{
    (void)e;
    return "what a device counts it counts over the whole run: it takes no window";
}

static wadi_judged judge_frames(const wadi_expectation *e, void *state, const wadi_scene *scene)
{
    (void)state;
    return wadi_judge_count(e, wadi_spi_frames(scene->buses, e->number));
}

static wadi_judged judge_selects(const wadi_expectation *e, void *state, const wadi_scene *scene)
{
    (void)state;
    return wadi_judge_count(e, wadi_spi_selects(scene->buses, e->number));
}

static wadi_judged judge_refusals(const wadi_expectation *e, void *state, const wadi_scene *scene)
{
    (void)state;
    return wadi_judge_count(e, wadi_spi_refusals(scene->buses, e->number));
}

#define COUNTED(name)                                                                              \
    const wadi_expectation_class wadi_expect_##name = {.words = #name,                             \
                                                       .example = "expect THERMO " #name " 0",     \
                                                       .about = WADI_ABOUT_DEVICE,                 \
                                                       .operands = WADI_TAKES_VALUE,               \
                                                       .no_window = no_window,                     \
                                                       .judge = judge_##name}

COUNTED(frames);
COUNTED(selects);
COUNTED(refusals);
