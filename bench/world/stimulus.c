/* SPDX-License-Identifier: MIT */
#include "stimulus.h"

#include <string.h>

#include "bench/language/value.h"
#include "button.h"
#include "lang/rational.h"
#include "pin_defect.h"
#include "sheet/read/number.h"
#include "wadium/host/model.h"

/* What is done to a pin, and when. */
typedef struct stimulus {
    const wad_pin_def *pin;
    const wad_part_def *button; /* of a press, else NULL */
    wad_level level;
    uint64_t at_ps, for_ps, bounce_ps;
    wad_rational pulses_hz; /* num 0: a level, once */
    wad_rational duty;
} stimulus;

/* ---- the language ---- */

static void say_press(wad_bench *b, wadi_cursor *c)
{
    wad_where where = c->tok->where;
    stimulus s = {0};
    s.pin = wadi_parse_pin_of(b, c, &s.button);
    if (s.pin && (!s.button || strcmp(s.button->kind, "button"))) {
        wadi_error(c->src, &where, "'press' takes a button of the board; 'drive' takes any pin");
        c->failed = true;
        return;
    }
    if (s.button)
        s.bounce_ps = (uint64_t)(wadi_rat_double(s.button->bounce_s) * 1e12 + 0.5);
    wadi_need_word(c, "at");
    wadi_parse_ps(c, &s.at_ps);
    wadi_need_word(c, "for");
    wadi_parse_ps(c, &s.for_ps);
    if (wadi_take_word(c, "bounce"))
        wadi_parse_ps(c, &s.bounce_ps);
    if (wadi_need_end(c))
        wadi_bench_keep(b, &wadi_say_stimulus, &s);
}

/* `drive PB8 pulses 137 Hz duty 30 % at 10 ms for 2 s`: from high, the share `duty` of each period.
 */
static void parse_pulses(wadi_cursor *c, stimulus *s)
{
    wad_where where = c->tok->where;
    wadi_take_quantity(c, WAD_UNIT_HZ, &s->pulses_hz);
    if (wadi_take_word(c, "duty"))
        wadi_take_quantity(c, WAD_UNIT_PART, &s->duty);
    double hz = wadi_rat_double(s->pulses_hz), duty = wadi_rat_double(s->duty);
    if (!c->failed && (hz <= 0 || hz > 1e6 || duty <= 0 || duty >= 1)) {
        wadi_error(c->src, &where, "pulses are up to 1 MHz, with a duty between 0 %% and 100 %%");
        c->failed = true;
    }
}

static void say_drive(wad_bench *b, wadi_cursor *c)
{
    stimulus s = {.pulses_hz = {0, 1}, .duty = {1, 2}};
    s.pin = wadi_parse_pin_of(b, c, NULL);
    if (wadi_take_word(c, "pulses"))
        parse_pulses(c, &s);
    else
        wadi_parse_level(c, &s.level);
    if (wadi_take_word(c, "at"))
        wadi_parse_ps(c, &s.at_ps);
    if (s.pulses_hz.num && wadi_take_word(c, "for"))
        wadi_parse_ps(c, &s.for_ps);
    if (wadi_need_end(c))
        wadi_bench_keep(b, &wadi_say_stimulus, &s);
}

static void parse(wad_bench *b, wadi_cursor *c, const char *word)
{
    (strcmp(word, "press") ? say_drive : say_press)(b, c);
}

/* ---- levels ---- */

typedef struct step {
    const wad_pin_def *pin;
    wad_level level;
} step;

static void do_step(wad_sim *sim, void *ctx)
{
    const step *st = ctx;
    wad_sim_drive(sim, st->pin, st->level);
}

static void at(const wadi_setting *s, uint64_t ps, const wad_pin_def *pin, wad_level level)
{
    const step st = {pin, level};
    wadi_plan(s, ps, do_step, &st, sizeof st);
}

void wadi_rest_buttons(const wadi_setting *s)
{
    const wad_board *board = s->bench->board;
    for (unsigned i = 0; board && i < board->n_parts; i++) {
        const wad_part_def *p = &board->parts[i];
        if (!strcmp(p->kind, "button") && p->n_wires && p->wires[0].pin && p->pull &&
            !wadi_pull_is_missing(s->bench, p->wires[0].pin))
            at(s, 0, p->wires[0].pin, p->pull > 0 ? WAD_HIGH : WAD_LOW);
    }
}

/* ---- presses ---- */

/* When something else is done to the pin: a contact that is let go bounces no more from its press.
 */
static uint64_t next_change(const wad_bench *b, const wad_pin_def *pin, uint64_t ps)
{
    const stimulus *st;
    uint64_t next = UINT64_MAX;
    for (unsigned i = 0; (st = wadi_bench_said(b, &wadi_say_stimulus, i)); i++) {
        const uint64_t times[] = {st->at_ps, st->at_ps + st->for_ps};
        for (unsigned k = 0; st->pin == pin && k < (st->for_ps ? 2 : 1); k++)
            if (times[k] > ps)
                next = MIN(next, times[k]);
    }
    return next;
}

/* A contact that bounces: an even number of extra changes at random times, then it rests. */
static void bounce(const wadi_setting *s, GRand *rand, uint64_t ps, const stimulus *st,
                   wad_level to, wad_level from)
{
    uint64_t times[8] = {0}, next = next_change(s->bench, st->pin, ps);
    unsigned n = wadi_bounce_times(rand, ps, MIN(st->bounce_ps, next - ps), times);
    at(s, ps, st->pin, to);
    for (unsigned i = 0; i < n; i++)
        at(s, times[i], st->pin, i % 2 ? to : from);
}

static void press(const wadi_setting *s, GRand *rand, const stimulus *st)
{
    wad_level on = wadi_button_level(st->button, true);
    wad_level off = wadi_pull_is_missing(s->bench, st->pin) ? WAD_FLOATING
                                                            : wadi_button_level(st->button, false);
    bounce(s, rand, st->at_ps, st, on, off);
    bounce(s, rand, st->at_ps + st->for_ps, st, off, on);
}

/* ---- pulses ---- */

/* A train of pulses, an edge at a time: they may be many millions. */
typedef struct train {
    wad_event event;
    wad_sim *sim;
    const stimulus *st;
    uint64_t n, end;
    bool high;
} train;

/* Each edge from its number, so that nothing drifts: n * den / num seconds after the first. */
static uint64_t rise_of(const train *t)
{
    return t->st->at_ps + (uint64_t)((wadi_u128)t->st->pulses_hz.den * WAD_PS_PER_S * t->n /
                                     (uint64_t)t->st->pulses_hz.num);
}

static uint64_t width_of(const stimulus *st)
{
    return (uint64_t)((wadi_u128)st->pulses_hz.den * WAD_PS_PER_S * (uint64_t)st->duty.num /
                      (uint64_t)st->duty.den / (uint64_t)st->pulses_hz.num);
}

static void on_pulse(wad_event *e)
{
    train *t = (train *)e;
    t->high = !t->high;
    wad_sim_drive(t->sim, t->st->pin, t->high ? WAD_HIGH : WAD_LOW);
    if (t->high) {
        wad_sim_schedule(t->sim, e, rise_of(t) + width_of(t->st));
        return;
    }
    t->n++;
    if (rise_of(t) < t->end)
        wad_sim_schedule(t->sim, e, rise_of(t));
}

static void start_train(wad_sim *sim, void *ctx)
{
    train *t = ctx;
    (void)sim;
    on_pulse(&t->event);
}

static void pulses(const wadi_setting *s, const stimulus *st)
{
    train *t = g_new0(train, 1);
    t->event.fn = on_pulse;
    t->sim = s->sim;
    t->st = st;
    t->end = st->for_ps ? MIN(st->at_ps + st->for_ps, s->bench->run_ps) : s->bench->run_ps;
    g_ptr_array_add(s->owned, t);
    if (st->at_ps < t->end)
        wad_sim_at(s->sim, st->at_ps, start_train, t);
}

static bool begin(const wadi_setting *s, const void *said, char **why)
{
    const stimulus *st = said;
    (void)why;
    if (st->pulses_hz.num)
        pulses(s, st);
    else if (!st->button)
        at(s, st->at_ps, st->pin, st->level);
    else
        press(s, s->contacts, st);
    return true;
}

const wadi_statement_class wadi_say_stimulus = {.words = "press drive",
                                                .parse = parse,
                                                .said_size = sizeof(stimulus),
                                                .phase = WADI_WITH_WORLD,
                                                .begin = begin};
