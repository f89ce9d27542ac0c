/* SPDX-License-Identifier: MIT */
/* Expectations of what the other end of a serial line has heard. */
#include "bench/measure/text.h"
#include "expectation.h"

static const char *no_window(const wadi_expectation *e)
{
    return e->at_ps == UINT64_MAX ? NULL
                                  : "'by' is the end of the window: say 'from T to T' instead";
}

static wadi_judged judge_says(const wadi_expectation *e, void *state, const wadi_scene *scene)
{
    const wad_part *peer = wadi_part_at(scene->parts, e->number);
    uint64_t ps = wadi_peer_heard(peer, e->says, e->from_ps, e->to_ps);
    (void)state;
    if (ps) {
        char *when = wadi_seconds((double)ps / 1e12);
        wadi_judged j = {g_strdup_printf("at %s", when), ps <= e->at_ps};
        g_free(when);
        return j;
    }
    char *tail = wadi_peer_tail(peer);
    wadi_judged j = {g_strdup_printf(*tail ? "not heard, but \"%s\"" : "nothing heard", tail),
                     false};
    g_free(tail);
    return j;
}

static wadi_judged judge_bytes(const wadi_expectation *e, void *state, const wadi_scene *scene)
{
    (void)state;
    return wadi_judge_count(
        e, wadi_peer_bytes(wadi_part_at(scene->parts, e->number), e->from_ps, e->to_ps));
}

static wadi_judged judge_errors(const wadi_expectation *e, void *state, const wadi_scene *scene)
{
    (void)state;
    return wadi_judge_count(
        e, wadi_peer_errors(wadi_part_at(scene->parts, e->number), e->from_ps, e->to_ps));
}

const wadi_expectation_class wadi_expect_says = {.words = "says",
                                                 .example = "expect LINK says \"ready\" by 2 s",
                                                 .about = WADI_ABOUT_PEER,
                                                 .operands = WADI_TAKES_TEXT | WADI_TAKES_BY,
                                                 .windowed = true,
                                                 .no_window = no_window,
                                                 .judge = judge_says},
                             wadi_expect_bytes = {.words = "bytes",
                                                  .example = "expect LINK bytes 0",
                                                  .about = WADI_ABOUT_PEER,
                                                  .operands = WADI_TAKES_VALUE,
                                                  .windowed = true,
                                                  .judge = judge_bytes},
                             wadi_expect_errors = {.words = "errors",
                                                   .example = "expect LINK errors 0 from 1 s",
                                                   .about = WADI_ABOUT_PEER,
                                                   .operands = WADI_TAKES_VALUE,
                                                   .windowed = true,
                                                   .judge = judge_errors};
