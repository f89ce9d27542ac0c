/* SPDX-License-Identifier: MIT */
/*
 * Kind timebase: a count that runs freely, channels that it meets, and edges that it is noted at.
 *
 * The model never ticks: the count follows from the clock's edges since it began, and events stand
 * only where a channel's compare value will be met. Written to a value that has passed, a channel
 * is met after the count has gone all the way round.
 */
#include "sim/core/model.h"
#include "kinds/shared/input.h"
#include "lang/bits.h"
#include "sim/core/block.h"
#include "sim/core/clock.h"
#include "sim/core/report.h"
#include "wadium/kinds.h"

enum {
#define ROLE(name, sort, need, text) ROLE_##name,
    WAD_ROLES_TIMEBASE(ROLE)
#undef ROLE
};

#define CHANNELS  8
#define BIT(role) WAD_ROLE_BIT(ROLE_##role)
#define FARTHEST  (UINT64_C(1) << 62)

typedef struct channel {
    wad_event event;
    wad_event judge; /* a value was written: is it met? */
    wadi_trace written;
    unsigned index;
} channel;

typedef struct timebase_state {
    channel ch[CHANNELS];
    unsigned n;
    wadi_input in[CHANNELS];
    unsigned n_inputs;
    uint32_t rise, fall, both;
    uint64_t mask;  /* of the count */
    uint64_t count; /* while not running; else on edge `begin` */
    uint64_t phase; /* edges into the prescaler while not running; else on edge `begin` */
    uint64_t begin;
    uint64_t divider;
    bool running;
} timebase_state;

static bool is_enabled(wad_model *m)
{
    return !wad_model_has(m, ROLE_enable) || wad_model_get(m, ROLE_enable, 0);
}

static uint64_t divider_of(wad_model *m)
{
    uint64_t said;
    if (wad_model_whole(m, ROLE_prescale, 0, &said))
        return MAX(said, 1);
    uint64_t d = wad_model_has(m, ROLE_prescale) ? (uint64_t)wad_model_get(m, ROLE_prescale, 0) +
                                                       wad_model_code(m, ROLE_prescale, "plus", 0)
                                                 : 1;
    return d ? d : 1;
}

static uint64_t edges_since(wad_model *m, const timebase_state *s)
{
    return wad_model_edges(m) - s->begin + s->phase;
}

static uint64_t count_now(wad_model *m, const timebase_state *s)
{
    return s->running ? (s->count + edges_since(m, s) / s->divider) & s->mask : s->count;
}

/* The edge on which the count meets the channel's value. */
static void arm(wad_model *m, timebase_state *s, channel *ch)
{
    uint64_t steps = (wad_model_get64(m, ROLE_compare, ch->index) - count_now(m, s)) & s->mask;
    uint64_t done = s->running ? edges_since(m, s) / s->divider : 0;
    if (!s->running || !steps || steps > FARTHEST / s->divider - done)
        wad_model_cancel(m, &ch->event);
    else
        wad_model_schedule(m, &ch->event,
                           wad_model_edge(m, s->begin + (done + steps) * s->divider - s->phase));
}

static void arm_all(wad_model *m, timebase_state *s)
{
    for (unsigned i = 0; i < s->n; i++)
        arm(m, s, &s->ch[i]);
}

static void on_match(wad_event *e)
{
    wad_model *m = e->model;
    const channel *ch = (const channel *)((const char *)e - offsetof(channel, event));
    wad_model_put(m, ROLE_match, ch->index, 1);
    wad_model_event(m, ROLE_match, ch->index);
}

/* ---- values that have passed ---- */

#define AFTERTHOUGHT 64 /* accesses in which the firmware may look again */

/* The count is beyond it, by less than a quarter of the way round. */
static void on_judge(wad_event *e)
{
    wad_model *m = e->model;
    const timebase_state *s = wad_model_state(m);
    const channel *ch = (const channel *)((const char *)e - offsetof(channel, judge));
    uint64_t value = wad_model_get64(m, ROLE_compare, ch->index), now = count_now(m, s);
    uint64_t behind = (now - value) & s->mask;
    if (!s->running || !wad_model_get(m, ROLE_match_irq, ch->index) ||
        wad_model_get(m, ROLE_match, ch->index) || !behind || behind > s->mask / 4)
        return;
    wadi_slot stand_in = {.address = m->block->inst->base};
    if (!wadi_report_again(m->sim, WAD_FINDING_COMPARE_MISSED, &stand_in, &ch->written))
        wadi_report_at(
            m->sim, WAD_FINDING_COMPARE_MISSED, &stand_in, &ch->written,
            "%s compare %u was set to %llu when the count was beyond it (%llu now): it is "
            "met after a whole round",
            m->block->inst->name, ch->index, (unsigned long long)value, (unsigned long long)now);
}

/* Parts of a value are written one after the other, and careful firmware looks at the count
 * afterwards: judged a moment later. */
static void judge_later(wad_model *m, timebase_state *s)
{
    for (unsigned i = 0; i < s->n; i++) {
        channel *ch = &s->ch[i];
        uint64_t behind = (count_now(m, s) - wad_model_get64(m, ROLE_compare, i)) & s->mask;
        wad_model_cancel(m, &ch->judge);
        if (!s->running || !behind || behind > s->mask / 4)
            continue;
        ch->written = wadi_trace_here(m->sim);
        wad_model_schedule(m, &ch->judge, m->sim->now + AFTERTHOUGHT * m->sim->cost.access_ps);
    }
}

/* ---- captures ---- */

static void on_input(wad_event *e)
{
    wad_model *m = e->model;
    timebase_state *s = wad_model_state(m);
    const wadi_input *in = wadi_input_changed(e);
    uint32_t edge = wad_model_get(m, ROLE_edge, in->index);
    bool wanted = edge == s->both || edge == (in->level ? s->rise : s->fall);
    if (!wanted || !s->running)
        return;
    if (wad_model_get(m, ROLE_captured, in->index))
        wad_model_put(m, ROLE_lost, in->index, 1);
    wad_model_put64(m, ROLE_capture, in->index, count_now(m, s));
    wad_model_put(m, ROLE_captured, in->index, 1);
    wad_model_event(m, ROLE_captured, in->index);
}

static void hear(wad_model *m, unsigned role, unsigned i, bool level)
{
    timebase_state *s = wad_model_state(m);
    if (role != ROLE_input || i >= s->n_inputs)
        return;
    wadi_input_hear(m, &s->in[i], level,
                    wad_model_has(m, ROLE_filter) ? wad_model_get(m, ROLE_filter, i) : 0);
}

static void stop(wad_model *m, timebase_state *s)
{
    if (!s->running)
        return;
    uint64_t edges = edges_since(m, s);
    s->count = (s->count + edges / s->divider) & s->mask;
    s->phase = edges % s->divider;
    s->running = false;
    arm_all(m, s);
}

static void start(wad_model *m, timebase_state *s)
{
    if (s->running || !is_enabled(m) || !wad_model_clocked(m))
        return;
    s->divider = divider_of(m);
    s->begin = wad_model_edges(m);
    s->running = true;
    wad_model_enabled(m);
    arm_all(m, s);
}

static void init(wad_model *m)
{
    timebase_state *s = wad_model_state(m);
    unsigned width = wad_model_width(m, ROLE_count);
    s->mask = wadi_ones(width);
    s->n = MIN(wad_model_count(m, ROLE_compare), (unsigned)CHANNELS);
    for (unsigned i = 0; i < s->n; i++) {
        s->ch[i].index = i;
        s->ch[i].event.fn = on_match;
        s->ch[i].judge.fn = on_judge;
    }
    s->n_inputs = MIN(wad_model_count(m, ROLE_input), (unsigned)CHANNELS);
    for (unsigned i = 0; i < s->n_inputs; i++) {
        s->in[i].index = i;
        s->in[i].event.fn = on_input;
    }
    s->rise = wad_model_code(m, ROLE_edge, "rise", UINT32_MAX);
    s->fall = wad_model_code(m, ROLE_edge, "fall", UINT32_MAX);
    s->both = wad_model_code(m, ROLE_edge, "both", UINT32_MAX);
}

static void use_inputs(wad_model *m, const timebase_state *s)
{
    for (unsigned i = 0; i < s->n_inputs; i++)
        if (wad_model_get(m, ROLE_edge, i) != wad_model_code(m, ROLE_edge, "off", 0))
            wad_model_uses(m, ROLE_input, i, true);
}

static void reset(wad_model *m)
{
    timebase_state *s = wad_model_state(m);
    s->running = false;
    s->count = s->phase = 0;
    for (unsigned i = 0; i < s->n; i++) {
        wad_model_cancel(m, &s->ch[i].event);
        wad_model_cancel(m, &s->ch[i].judge);
    }
    for (unsigned i = 0; i < s->n_inputs; i++) {
        wadi_input_forget(m, &s->in[i]);
        s->in[i].known = s->in[i].known && !m->sim->reset.resetting;
    }
    use_inputs(m, s);             /* edges may be fixed, or stand in reset values */
    if (!m->sim->reset.resetting) /* else its clock comes up, and it begins then */
        start(m, s);
}

static void refresh(wad_model *m, wad_role_set roles)
{
    const timebase_state *s = wad_model_state(m);
    if (roles & BIT(count))
        wad_model_put64(m, ROLE_count, 0, count_now(m, s));
}

/* An edge was chosen: the input must come from somewhere. */
static void written(wad_model *m, const wad_write *w)
{
    timebase_state *s = wad_model_state(m);
    if (w->roles & (BIT(enable) | BIT(prescale)) && w->before != w->after) {
        stop(m, s);
        start(m, s);
    }
    if (w->roles & BIT(compare)) {
        arm_all(m, s);
        judge_later(m, s);
    }
    if (w->roles & BIT(edge) && (w->after & ~w->before))
        use_inputs(m, s);
}

static void clock_changes(wad_model *m, bool before)
{
    timebase_state *s = wad_model_state(m);
    if (before && s->running)
        wadi_rate_changes(m, 0);
    if (before)
        stop(m, s);
    else
        start(m, s);
}

const wad_model_class wadi_model_timebase = {.kind = "timebase",
                                             .state_size = sizeof(timebase_state),
                                             .live = BIT(count),
                                             .init = init,
                                             .reset = reset,
                                             .refresh = refresh,
                                             .written = written,
                                             .input = hear,
                                             .clock = clock_changes};
