/* SPDX-License-Identifier: MIT */
/* `expect no findings`, `expect finding W204 at "file.c:17"` */
#include <string.h>

#include "bench/language/finding_number.h"
#include "expectation.h"

static bool parse(wad_bench *b, wadi_cursor *c, wadi_expectation *e)
{
    if (!wadi_parse_finding_number(c, &e->number))
        return false;
    if (!wadi_take_word(c, "at"))
        return true;
    const char *place = wadi_need_string(c, "\"FILE:LINE\"");
    if (!place)
        return false;
    const char *colon = strrchr(place, ':');
    e->file_line = colon ? (unsigned)g_ascii_strtoull(colon + 1, NULL, 10) : 0;
    e->file = wadi_arena_strndup(b->arena, place, colon ? (size_t)(colon - place) : strlen(place));
    return true;
}

static void say(wad_bench *b, wadi_expectation *e)
{
    e->subject = wadi_arena_printf(b->arena, "finding W%u", e->number);
    e->text =
        e->file ? wadi_arena_printf(b->arena, "at %s:%u", e->file, e->file_line) : "once or more";
}

static bool matches(const wadi_expectation *e, const wad_finding *f)
{
    if ((unsigned)f->kind != e->number)
        return false;
    if (!e->file)
        return true;
    for (unsigned i = 0; i < f->n_places; i++)
        if (f->places[i].file && wad_place_is_in(f->places[i].file, e->file) &&
            (!e->file_line || f->places[i].line == e->file_line))
            return true;
    return false;
}

static wadi_judged judge(const wadi_expectation *e, void *state, const wadi_scene *scene)
{
    unsigned hits = 0;
    (void)state;
    for (unsigned i = 0; i < wad_sim_finding_count(scene->sim); i++)
        hits += matches(e, wad_sim_finding(scene->sim, i));
    return (wadi_judged){g_strdup_printf(hits ? "%u" : "not found", hits), hits > 0};
}

static void say_none(wad_bench *b, wadi_expectation *e)
{
    (void)b;
    e->subject = "findings";
    e->text = "none";
}

static wadi_judged judge_none(const wadi_expectation *e, void *state, const wadi_scene *scene)
{
    unsigned n = wad_sim_finding_count(scene->sim);
    (void)e;
    (void)state;
    return (wadi_judged){n ? g_strdup_printf("%u", n) : g_strdup("none"), n == 0};
}

const wadi_expectation_class wadi_expect_finding = {.words = "finding",
                                                    .example =
                                                        "expect finding W204 at \"lamp.c:17\"",
                                                    .about = WADI_ABOUT_RUN,
                                                    .parse = parse,
                                                    .say = say,
                                                    .judge = judge},
                             wadi_expect_no_findings = {.words = "no findings",
                                                        .example = "expect no findings",
                                                        .about = WADI_ABOUT_RUN,
                                                        .say = say_none,
                                                        .judge = judge_none};
