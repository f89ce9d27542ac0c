/* SPDX-License-Identifier: MIT */
/*
 * Kind counter: a prescaled count with reload, compare channels and outputs.
 *
 * The model never ticks. It keeps the clock edge on which the current period
 * began; the position in the period, and from it the count, follow from the
 * edges since then. Events stand only at the period's end and where a channel
 * meets its compare value or changes its level.
 *
 *     position p:  up      count p          length reload + 1
 *                  down    count reload - p length reload + 1
 *                  updown  count p, then 2 * reload - p;  length 2 * reload
 */
#include "sim/core/model.h"
#include "sim/core/block.h"
#include "sim/core/clock.h"
#include "sim/core/report.h"
#include "state.h"

/* ---- where the count stands ---- */

static uint64_t time_of(wad_model *m, const counter_state *s, uint64_t p)
{
    return wad_model_edge(m, (uint64_t)(s->begin + (int64_t)(p * s->divider)));
}

/* ---- when a channel must be looked at ---- */

static void arm_channel(wad_model *m, counter_state *s, counter_channel *ch, uint64_t p)
{
    uint64_t next = s->running ? wadi_counter_next_position(s, ch, p) : s->length;
    if (next < s->length)
        wad_model_schedule(m, &ch->event, time_of(m, s, next));
    else
        wad_model_cancel(m, &ch->event);
}

/* Sorts the channels into idle ones and the rest. */
static void sort_channels(counter_state *s)
{
    s->n_awake = 0;
    s->idle_mask = 0;
    for (unsigned i = 0; i < s->n; i++) {
        const counter_channel *ch = &s->ch[i];
        bool one_register = !ch->flag || !s->idle_mask || s->idle_flags == ch->flag;
        if (!ch->idle || !one_register) {
            s->awake[s->n_awake++] = i;
        } else if (ch->flag) {
            s->idle_flags = ch->flag;
            s->idle_mask |= ch->flag_mask;
        }
    }
}

/* A channel wakes up for good when anything is written that makes it more than a flag at 0. */
static void wake_channels(wad_model *m, counter_state *s)
{
    for (unsigned i = 0; i < s->n; i++)
        if (s->dir != UP || m->heard || wad_model_get(m, ROLE_compare, i) || s->ch[i].drive != OFF)
            s->ch[i].idle = false;
    sort_channels(s);
}

static void on_channel(wad_event *e)
{
    wad_model *m = e->model;
    counter_state *s = wad_model_state(m);
    counter_channel *ch = (counter_channel *)((char *)e - offsetof(counter_channel, event));
    uint64_t p = wadi_counter_position(m, s);
    if (wadi_counter_matches_at(s, ch, p))
        wadi_counter_match(m, ch);
    wadi_counter_pwm_level(m, s, ch, p);
    arm_channel(m, s, ch, p);
}

static void arm_from(wad_model *m, counter_state *s, uint64_t p)
{
    for (unsigned i = 0; i < s->n_awake; i++)
        arm_channel(m, s, &s->ch[s->awake[i]], p);
    if (s->running)
        wad_model_schedule(m, &s->wrap, time_of(m, s, s->length));
    else
        wad_model_cancel(m, &s->wrap);
}

static void arm(wad_model *m, counter_state *s)
{
    arm_from(m, s, wadi_counter_position(m, s));
}

/* ---- taking over what was written ---- */

static void take_compares(wad_model *m, counter_state *s)
{
    for (unsigned i = 0; i < s->n; i++)
        s->ch[i].compare = wad_model_get(m, ROLE_compare, i);
}

/* A period of no counts, or none that is bound, is one of all counts. */
static uint64_t reload_written(wad_model *m, const counter_state *s)
{
    uint64_t counts = 0;
    if (!s->has_start && !wad_model_whole(m, ROLE_reload, 0, &counts))
        counts = (uint64_t)wad_model_get(m, ROLE_reload, 0) + s->reload_plus;
    return (counts ? counts : s->modulus) - 1;
}

static uint64_t divider_written(wad_model *m, const counter_state *s)
{
    uint64_t value = wad_model_get(m, ROLE_prescale, 0), divider = 1;
    if (wad_model_whole(m, ROLE_prescale, 0, &divider))
        return divider;
    divider = 1;
    if (!s->prescale_power)
        return value + s->prescale_plus;
    while (value--)
        divider *= s->prescale_power;
    return divider;
}

static void take_over(wad_model *m, counter_state *s)
{
    s->divider = divider_written(m, s);
    s->start = wad_model_get(m, ROLE_start, 0);
    if (!wad_model_has(m, ROLE_prescale) || !s->divider)
        s->divider = 1;
    s->reload = reload_written(m, s);
    take_compares(m, s);
    s->stale = false;
}

/* Begins a period on the clock's edge now. */
static void begin_period(wad_model *m, counter_state *s, int64_t edge)
{
    s->begin = edge;
    if (s->stale)
        take_over(m, s);
    bool loads = !wad_model_has(m, ROLE_autoload) || wad_model_get(m, ROLE_autoload, 0);
    s->base = loads ? s->start : 0;
    s->length = wadi_counter_natural_length(s);
    if (s->idle_mask && !s->base)
        wadi_slot_store(s->idle_flags, s->idle_flags->value | s->idle_mask);
    for (unsigned i = 0; i < s->n_awake; i++) {
        counter_channel *ch = &s->ch[s->awake[i]];
        if (wadi_counter_matches_at(s, ch, 0))
            wadi_counter_match(m, ch);
        wadi_counter_pwm_level(m, s, ch, 0);
    }
}

static void stop(wad_model *m, counter_state *s)
{
    if (!s->running)
        return;
    uint64_t edges = wadi_counter_period(m, s);
    s->position = edges / s->divider;
    s->phase = edges % s->divider;
    s->running = false;
    wad_model_cancel(m, &s->first_edge);
    arm(m, s);
}

/* The edge with which counting begins: outputs change here, not when the enable bit is written. */
static void on_first_edge(wad_event *e)
{
    counter_state *s = wad_model_state(e->model);
    uint64_t p = wadi_counter_position(e->model, s);
    for (unsigned i = 0; i < s->n; i++)
        wadi_counter_pwm_level(e->model, s, &s->ch[i], p);
}

static void begin_with_next_edge(wad_model *m, counter_state *s)
{
    int64_t next = (int64_t)wad_model_edges(m) + 1;
    s->begin = next - (int64_t)(s->position * s->divider + s->phase);
    wad_model_schedule(m, &s->first_edge, wad_model_edge(m, (uint64_t)next));
}

static void start(wad_model *m, counter_state *s)
{
    if (s->running || !s->enabled || s->gate || !wad_model_clocked(m))
        return;
    if (!wad_model_has(m, ROLE_load) && s->position == 0)
        take_over(m, s);
    if (s->position == 0)
        s->length = wadi_counter_natural_length(s);
    if (s->action == COUNT) /* moves with the trigger, not with the clock */
        return;
    s->running = true;
    begin_with_next_edge(m, s);
    arm(m, s);
}

static void wrap(wad_model *m, counter_state *s)
{
    wad_model_put(m, ROLE_wrap, 0, 1);
    begin_period(m, s, s->begin + (int64_t)(s->length * s->divider));
    if (s->one_shot) {
        wad_model_put(m, ROLE_enable, 0, 0);
        s->enabled = false;
        stop(m, s);
        s->position = s->phase = 0;
    }
    arm_from(m, s, 0);
    wad_model_event(m, ROLE_wrap, 0);
}

static void on_wrap(wad_event *e)
{
    wrap(e->model, wad_model_state(e->model));
}

static void load_now(wad_model *m, counter_state *s)
{
    s->position = s->phase = 0;
    take_over(m, s);
    s->base = s->start;
    s->length = wadi_counter_natural_length(s);
    if (s->running) {
        begin_with_next_edge(m, s);
        arm(m, s);
    }
    if (s->load_flags) {
        wad_model_put(m, ROLE_wrap, 0, 1);
    }
}

/* ---- triggers ---- */

/* One edge of the trigger, counted. */
static void count_trigger(wad_model *m, counter_state *s)
{
    if (!s->enabled || ++s->phase < s->divider)
        return;
    s->phase = 0;
    if (++s->position >= s->length) {
        s->position = 0;
        wrap(m, s);
        return;
    }
    for (unsigned i = 0; i < s->n; i++) {
        if (wadi_counter_matches_at(s, &s->ch[i], s->position))
            wadi_counter_match(m, &s->ch[i]);
        wadi_counter_pwm_level(m, s, &s->ch[i], s->position);
    }
}

static void restart(wad_model *m, counter_state *s)
{
    s->position = s->phase = 0;
    s->base = s->start;
    s->length = wadi_counter_natural_length(s);
    if (s->running)
        begin_with_next_edge(m, s);
    arm(m, s);
}

static void set_gate(wad_model *m, counter_state *s, bool closed)
{
    bool ran = s->running;
    s->gate = closed;
    if (closed)
        stop(m, s);
    else
        start(m, s);
    if (!closed && s->running && !ran) {
        s->begin--; /* the next edge is counted already */
        arm(m, s);
    }
}

static void triggered(wad_model *m, wad_trigger_edge edge)
{
    counter_state *s = wad_model_state(m);
    if (s->action == GATE && edge != WAD_TRIGGER_EVENT)
        set_gate(m, s, edge == WAD_TRIGGER_FALL);
    if (edge == WAD_TRIGGER_FALL)
        return;
    if (s->action == START && !s->enabled) {
        wad_model_put(m, ROLE_enable, 0, 1);
        wad_model_enabled(m);
        s->enabled = true;
        start(m, s);
    } else if (s->action == RESTART) {
        restart(m, s);
    } else if (s->action == COUNT) {
        count_trigger(m, s);
    }
}

static void set_action(wad_model *m, counter_state *s)
{
    uint32_t value = wad_model_get(m, ROLE_action, 0);
    stop(m, s);
    s->action = NO_ACTION;
    for (unsigned a = START; a <= COUNT; a++)
        if (s->actions[a] == value)
            s->action = (action)a;
    if (s->action != NO_ACTION && s->action != COUNT && s->action != GATE)
        wad_model_enabled(m); /* it waits to be */
    wad_model_listens(m, s->action != NO_ACTION);
    set_gate(m, s, s->action == GATE && !wad_model_trigger_level(m));
}

/* ---- values that are written while it counts ---- */

static void report_glitch(wad_model *m, const counter_state *s, uint64_t p, uint64_t reload)
{
    wadi_report(m->sim, WAD_FINDING_PERIOD_GLITCH, NULL,
                "%s gets a period of %llu counts at count %llu: the count has passed its end, and "
                "this period takes %llu counts (%.6g us)",
                m->block->inst->name, (unsigned long long)reload + 1, (unsigned long long)p,
                (unsigned long long)s->modulus,
                (double)(time_of(m, s, s->modulus) - time_of(m, s, 0)) / 1e6);
}

/* Without shadow a reload below the count is missed: the count runs on to its modulus. */
static void reload_at_once(wad_model *m, counter_state *s)
{
    uint64_t p = wadi_counter_position(m, s), reload = reload_written(m, s);
    if (s->dir != UP && s->running)
        return; /* counts down, or turns, from the value it has loaded */
    if (s->running && p > reload)
        report_glitch(m, s, p, reload);
    s->reload = reload;
    s->length = p > reload ? s->modulus : wadi_counter_natural_length(s);
    arm(m, s);
}

/* From the written count to the overflow. */
static void set_start_count(wad_model *m, counter_state *s)
{
    s->base = wad_model_get(m, ROLE_count, 0);
    s->position = s->phase = 0;
    s->length = wadi_counter_natural_length(s);
    s->begin = (int64_t)wad_model_edges(m);
    arm(m, s);
}

static void set_count(wad_model *m, counter_state *s)
{
    uint64_t count = wad_model_get(m, ROLE_count, 0);
    if (s->has_start) {
        set_start_count(m, s);
        return;
    }
    uint64_t p = s->dir == DOWN ? (s->length - 1 - count) & (s->modulus - 1) : count;
    s->length = p >= wadi_counter_natural_length(s) ? s->modulus : wadi_counter_natural_length(s);
    s->position = p;
    s->phase = 0;
    s->begin = (int64_t)wad_model_edges(m) - (int64_t)(p * s->divider);
    arm(m, s);
}

/* By how the count and what it begins from or goes to are bound now. */
static uint64_t modulus_of(const wad_model *m, const counter_state *s)
{
    unsigned count = wad_model_width(m, ROLE_count);
    unsigned width = wad_model_width(m, s->has_start ? ROLE_start : ROLE_reload);
    width = count && (!width || count < width) ? count : width;
    return UINT64_C(1) << (width && width < 64 ? width : 32);
}

/* A register was written that holds more than the count: is that another now? A condition may bind
 * it otherwise, too: it counts on from what it reads then. */
static void follow_count(wad_model *m, counter_state *s)
{
    uint64_t modulus = modulus_of(m, s);
    uint64_t was = wadi_counter_count_at(s, wadi_counter_position(m, s));
    if (modulus == s->modulus && wad_model_get(m, ROLE_count, 0) == was)
        return;
    s->modulus = modulus;
    s->stale = true;
    s->reload = reload_written(m, s);
    set_count(m, s);
}

static void set_control(wad_model *m, counter_state *s)
{
    uint32_t mode = wad_model_get(m, ROLE_mode, 0);
    direction dir = mode == s->mode_down ? DOWN : mode == s->mode_updown ? UPDOWN : UP;
    s->shadow = wad_model_get(m, ROLE_shadow, 0) != 0;
    s->one_shot = wad_model_get(m, ROLE_one_shot, 0) != 0;
    s->enabled = wad_model_get(m, ROLE_enable, 0) != 0;
    if (dir != s->dir) {
        stop(m, s);
        s->dir = dir;
        wake_channels(m, s);
        s->length = wadi_counter_natural_length(s);
        s->position = s->phase = 0;
    }
    if (s->enabled) {
        wad_model_enabled(m);
        start(m, s);
    } else {
        stop(m, s);
    }
}

static void set_compares(wad_model *m, counter_state *s)
{
    uint64_t p = wadi_counter_position(m, s);
    take_compares(m, s);
    for (unsigned i = 0; i < s->n; i++) {
        if (s->running)
            wadi_counter_pwm_level(m, s, &s->ch[i], p);
        arm_channel(m, s, &s->ch[i], p);
    }
}

/* A value beyond the period's end is never met. */
static void check_compare(wad_model *m, const counter_state *s, unsigned i)
{
    uint64_t value = wad_model_get(m, ROLE_compare, i), reload = reload_written(m, s);
    bool asked = wad_model_get(m, ROLE_match_irq, i) != 0;
    bool edges = s->ch[i].drive == SET || s->ch[i].drive == CLEAR || s->ch[i].drive == TOGGLE;
    if (s->running && value > reload && (asked || edges))
        wadi_report(m->sim, WAD_FINDING_COMPARE_MISSED, NULL,
                    "%s compare %u was set to %llu, and the count goes to %llu: it is never met",
                    m->block->inst->name, i, (unsigned long long)value, (unsigned long long)reload);
}

static void heard(wad_model *m)
{
    counter_state *s = wad_model_state(m);
    wake_channels(m, s);
    arm(m, s);
}

/* ---- the model's interface ---- */

/* Where the channels' flags are, if each is a bit. */
static void find_flags(wad_model *m, counter_state *s)
{
    const wadi_binding *b = &m->roles[ROLE_match];
    for (unsigned i = 0; i < MIN(b->count, CHANNELS) && b->n_parts == 1 && !b->odd; i++)
        if (!b->parts[i].flip) {
            s->ch[i].flag = b->parts[i].slot;
            s->ch[i].flag_mask = b->parts[i].mask << b->parts[i].lsb;
        }
}

static void look_up(wad_model *m, counter_state *s)
{
    static const char *const names[] = {"off", "set", "clear", "toggle", "pwm", "pwm_low"};
    s->reload_plus = wad_model_code(m, ROLE_reload, "plus", 0);
    s->prescale_plus = wad_model_code(m, ROLE_prescale, "plus", 0);
    s->prescale_power = wad_model_code(m, ROLE_prescale, "power", 0);
    s->has_start = wad_model_has(m, ROLE_start);
    s->load_flags = wad_model_code(m, ROLE_load, "flags", 0) != 0;
    s->mode_down = wad_model_code(m, ROLE_mode, "down", UINT32_MAX);
    s->mode_updown = wad_model_code(m, ROLE_mode, "updown", UINT32_MAX);
    for (unsigned d = OFF; d <= PWM_LOW; d++)
        s->drives[d] = wad_model_code(m, ROLE_drive, names[d], UINT32_MAX);
    static const char *const actions[] = {"off", "start", "gate", "reset", "count"};
    for (unsigned a = NO_ACTION; a <= COUNT; a++)
        s->actions[a] = wad_model_code(m, ROLE_action, actions[a], UINT32_MAX);
    find_flags(m, s);
}

static void init(wad_model *m)
{
    counter_state *s = wad_model_state(m);
    look_up(m, s);
    s->wrap.fn = on_wrap;
    s->first_edge.fn = on_first_edge;
    wadi_counter_outputs_init(m, s);
    for (unsigned i = 0; i < s->n; i++)
        s->ch[i].event.fn = on_channel;
    s->modulus = modulus_of(m, s);
}

static void reset(wad_model *m)
{
    counter_state *s = wad_model_state(m);
    wad_model_cancel(m, &s->wrap);
    wad_model_cancel(m, &s->first_edge);
    s->enabled = s->running = s->shadow = s->one_shot = false;
    s->position = s->phase = 0;
    s->begin = 0;
    s->base = 0;
    s->dir = UP;
    s->action = NO_ACTION;
    wad_model_listens(m, false);
    s->gate = false;
    wadi_counter_outputs_reset(m, s);
    sort_channels(s);
    s->modulus = modulus_of(m, s);
    take_over(m, s);
    s->length = wadi_counter_natural_length(s);
    /* what outputs and a trigger do may be fixed, or stand in reset values */
    if (wad_model_has(m, ROLE_drive))
        wadi_counter_set_outputs(m, s, 0);
    if (wad_model_has(m, ROLE_action))
        set_action(m, s);
}

static void refresh(wad_model *m, wad_role_set roles)
{
    const counter_state *s = wad_model_state(m);
    if (roles & BIT(count))
        wad_model_put(m, ROLE_count, 0,
                      (uint32_t)wadi_counter_count_at(s, wadi_counter_position(m, s)));
}

/* Codes choose the clock that counts, at once; a prescaler's number waits for the next period. */
static void choose_clock(wad_model *m, counter_state *s)
{
    wad_rational said;
    uint64_t divider = divider_written(m, s);
    if (!s->running || divider == s->divider || !divider ||
        !wad_model_says(m, ROLE_prescale, 0, &said))
        return;
    stop(m, s);
    s->divider = divider;
    s->phase = 0;
    start(m, s);
}

static void written(wad_model *m, const wad_write *w)
{
    counter_state *s = wad_model_state(m);
    if (!(w->roles & ~(BIT(wrap) | BIT(match)))) /* the commonest: a handler clears its flag */
        return;
    if (w->roles & (BIT(prescale) | BIT(reload) | BIT(start) | BIT(compare)))
        s->stale = true;
    if (w->roles & BIT(count) && !(w->roles & ~BIT(count)))
        set_count(m, s);
    else if (w->roles & BIT(count))
        follow_count(m, s);
    if (w->roles & BIT(prescale))
        choose_clock(m, s);
    if (w->roles & (BIT(enable) | BIT(mode) | BIT(shadow) | BIT(one_shot)))
        set_control(m, s);
    if (w->roles & BIT(load) && wad_model_get(m, ROLE_load, 0)) {
        wad_model_put(m, ROLE_load, 0, 0);
        load_now(m, s);
    }
    if (w->roles & BIT(reload) && !s->shadow)
        reload_at_once(m, s);
    if (w->roles & BIT(compare)) {
        wake_channels(m, s);
        for (unsigned i = 0; i < s->n; i++)
            if (wadi_model_lies_in(m, ROLE_compare, i, w))
                check_compare(m, s, i);
    }
    if (w->roles & (BIT(action) | BIT(trigger)))
        set_action(m, s);
    if (w->roles & BIT(compare) && !s->shadow)
        set_compares(m, s);
    if (w->roles & (BIT(drive) | BIT(output_on) | BIT(pair_on) | BIT(dead_time))) {
        wadi_counter_set_outputs(m, s, wadi_counter_position(m, s));
        wake_channels(m, s);
        arm(m, s);
    }
}

/* A divider moves to other edges of the same grid: what was counted, prescaler included, stays. */
static void clock_changes(wad_model *m, bool before)
{
    counter_state *s = wad_model_state(m);
    if (before) {
        if (s->running)
            wadi_rate_changes(m, s->length * s->divider);
        stop(m, s);
        return;
    }
    start(m, s);
    if (s->running) {
        s->begin--; /* the edge at or before now counts as the last one before the change */
        arm(m, s);
    }
}

const wad_model_class wadi_model_counter = {.kind = "counter",
                                            .state_size = sizeof(counter_state),
                                            .live = BIT(count),
                                            .init = init,
                                            .reset = reset,
                                            .refresh = refresh,
                                            .written = written,
                                            .trigger = triggered,
                                            .heard = heard,
                                            .clock = clock_changes};
