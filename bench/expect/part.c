/* SPDX-License-Identifier: MIT */
/* Expectations of what a part beside the chip has counted. */
#include <string.h>

#include "expectation.h"

static const char *no_window(const wadi_expectation *e)
{
    (void)e;
    return "what a device counts it counts over the whole run: it takes no window";
}

static const wadi_part_said *said_of(const wad_bench *b, const wadi_expectation *e)
{
    return b->parts->pdata[e->number];
}

static const char *needs_bus(const wad_bench *b, const wadi_expectation *e)
{
    return said_of(b, e)->shell == &wadi_spi_shell
               ? NULL
               : "that part is on no SPI bus: it counts its refusals, and what its class names";
}

static const char *needs_name(const wad_bench *b, const wadi_expectation *e)
{
    const char *counts = said_of(b, e)->cls->counts;
    char **names = g_strsplit(counts ? counts : "", " ", -1);
    bool there = g_strv_contains((const char *const *)names, e->says);
    g_strfreev(names);
    return there ? NULL : "the part's class counts nothing of that name";
}

static wadi_judged judge_frames(const wadi_expectation *e, void *state, const wadi_scene *scene)
{
    (void)state;
    return wadi_judge_count(e, wadi_spi_frames(wadi_part_at(scene->parts, e->number)));
}

static wadi_judged judge_selects(const wadi_expectation *e, void *state, const wadi_scene *scene)
{
    (void)state;
    return wadi_judge_count(e, wadi_spi_selects(wadi_part_at(scene->parts, e->number)));
}

static wadi_judged judge_refusals(const wadi_expectation *e, void *state, const wadi_scene *scene)
{
    (void)state;
    return wadi_judge_count(e, wadi_part_at(scene->parts, e->number)->refusals);
}

static wadi_judged judge_counts(const wadi_expectation *e, void *state, const wadi_scene *scene)
{
    (void)state;
    return wadi_judge_count(e, wadi_part_counted(wadi_part_at(scene->parts, e->number), e->says));
}

#define COUNTED(name, takes, example_of, why_not)                                                  \
    const wadi_expectation_class wadi_expect_##name = {.words = #name,                             \
                                                       .example = example_of,                      \
                                                       .about = WADI_ABOUT_DEVICE,                 \
                                                       .operands = takes,                          \
                                                       .no_window = no_window,                     \
                                                       .refuses = why_not,                         \
                                                       .judge = judge_##name}

COUNTED(frames, WADI_TAKES_VALUE, "expect THERMO frames 0", needs_bus);
COUNTED(selects, WADI_TAKES_VALUE, "expect THERMO selects 0", needs_bus);
COUNTED(refusals, WADI_TAKES_VALUE, "expect THERMO refusals 0", NULL);
COUNTED(counts, WADI_TAKES_TEXT | WADI_TAKES_VALUE, "expect THERMO counts \"conversions\" 0",
        needs_name);
