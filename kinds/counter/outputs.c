/* SPDX-License-Identifier: MIT */
/* Kind counter: what its channels do to flags and pins. */
#include "sim/core/model.h"
#include "sim/core/pin.h"
#include "state.h"

static bool output_on(wad_model *m, unsigned i)
{
    return !wad_model_has(m, ROLE_output_on) || wad_model_get(m, ROLE_output_on, i);
}

/* ---- pairs: what goes low goes at once, what goes high waits for the dead time ---- */

static bool has_pair(const wad_model *m, unsigned i)
{
    return i < wad_model_count(m, ROLE_output_low) && wad_model_get(m, ROLE_pair_on, i);
}

static bool wants_high(wad_model *m, const counter_channel *ch)
{
    return output_on(m, ch->index) && ch->drive != OFF && ch->level;
}

static bool wants_low(const wad_model *m, const counter_channel *ch)
{
    return has_pair(m, ch->index) && ch->drive != OFF && !ch->level;
}

static void on_rise(wad_event *e)
{
    const counter_channel *ch =
        (const counter_channel *)((const char *)e - offsetof(counter_channel, rises));
    wad_model_drive(e->model, ROLE_output, ch->index, wants_high(e->model, ch));
    wad_model_drive(e->model, ROLE_output_low, ch->index, wants_low(e->model, ch));
}

static void show_pair(wad_model *m, counter_channel *ch)
{
    bool high = wants_high(m, ch), low = wants_low(m, ch);
    uint32_t dead = wad_model_get(m, ROLE_dead_time, 0);
    wad_model_cancel(m, &ch->rises);
    if (!high)
        wad_model_drive(m, ROLE_output, ch->index, false);
    if (!low)
        wad_model_drive(m, ROLE_output_low, ch->index, false);
    ch->rises.model = m;
    if (m->roles[ROLE_output].signals[ch->index]->level == high &&
        m->roles[ROLE_output_low].signals[ch->index]->level == low)
        return;
    if (dead && wad_model_clocked(m))
        wad_model_schedule(m, &ch->rises, wad_model_edge(m, wad_model_edges(m) + dead));
    else
        on_rise(&ch->rises);
}

static void show_output(wad_model *m, counter_channel *ch)
{
    bool pair = has_pair(m, ch->index);
    wad_model_uses(m, ROLE_output, ch->index, output_on(m, ch->index) && ch->drive != OFF);
    wad_model_uses(m, ROLE_output_low, ch->index, pair && ch->drive != OFF);
    if (pair) {
        show_pair(m, ch);
        return;
    }
    wad_model_drive(m, ROLE_output, ch->index, wants_high(m, ch));
    wad_model_drive(m, ROLE_output_low, ch->index, false);
}

/* ---- levels ---- */

static void set_level(wad_model *m, counter_channel *ch, bool level)
{
    if (ch->level == level)
        return;
    ch->level = level;
    show_output(m, ch);
}

void wadi_counter_match(wad_model *m, counter_channel *ch)
{
    wad_model_put(m, ROLE_match, ch->index, 1);
    if (ch->drive == SET)
        set_level(m, ch, true);
    else if (ch->drive == CLEAR)
        set_level(m, ch, false);
    else if (ch->drive == TOGGLE)
        set_level(m, ch, !ch->level);
    wad_model_event(m, ROLE_match, ch->index);
}

void wadi_counter_pwm_level(wad_model *m, const counter_state *s, counter_channel *ch, uint64_t p)
{
    bool below = wadi_counter_count_at(s, p) < ch->compare;
    if (ch->drive == PWM)
        set_level(m, ch, below);
    else if (ch->drive == PWM_LOW)
        set_level(m, ch, !below);
}

bool wadi_counter_matches_at(const counter_state *s, const counter_channel *ch, uint64_t p)
{
    return wadi_counter_count_at(s, p) == ch->compare;
}

uint64_t wadi_counter_next_position(const counter_state *s, const counter_channel *ch, uint64_t p)
{
    uint64_t c = ch->compare, best = s->length, spots[3];
    unsigned n = 0;
    if (s->dir == UP) {
        spots[n++] = c - s->base; /* below the start it wraps: never */
    } else if (s->dir == DOWN && c < s->length) {
        spots[n++] = s->length - 1 - c;
        spots[n++] = s->length - c;
    } else if (s->dir == UPDOWN && c <= s->reload) {
        spots[n++] = c;
        spots[n++] = 2 * s->reload - c;
        spots[n++] = 2 * s->reload - c + 1;
    }
    for (unsigned i = 0; i < n; i++)
        if (spots[i] > p && spots[i] < best)
            best = spots[i];
    return best;
}

static drive decode_drive(wad_model *m, const counter_state *s, unsigned i)
{
    uint32_t value = wad_model_get(m, ROLE_drive, i);
    for (unsigned d = SET; d <= PWM_LOW; d++)
        if (s->drives[d] == value)
            return (drive)d;
    return OFF;
}

void wadi_counter_set_outputs(wad_model *m, counter_state *s, uint64_t p)
{
    for (unsigned i = 0; i < s->n; i++) {
        counter_channel *ch = &s->ch[i];
        ch->drive = decode_drive(m, s, i);
        if (s->running)
            wadi_counter_pwm_level(m, s, ch, p);
        show_output(m, ch);
    }
}

void wadi_counter_outputs_init(wad_model *m, counter_state *s)
{
    s->n = MIN(wad_model_count(m, ROLE_compare), (unsigned)CHANNELS);
    for (unsigned i = 0; i < s->n; i++) {
        s->ch[i].index = i;
        s->ch[i].rises.fn = on_rise;
    }
}

void wadi_counter_outputs_reset(wad_model *m, counter_state *s)
{
    for (unsigned i = 0; i < s->n; i++) {
        counter_channel *ch = &s->ch[i];
        wad_model_cancel(m, &ch->event);
        wad_model_cancel(m, &ch->rises);
        ch->drive = OFF;
        ch->level = false;
        ch->idle = !m->heard;
        wad_model_drive(m, ROLE_output, i, false);
        wad_model_drive(m, ROLE_output_low, i, false);
    }
}
