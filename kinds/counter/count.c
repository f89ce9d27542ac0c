/* SPDX-License-Identifier: MIT */
/* Kind counter: from edges to counts. */
#include "sim/core/model.h"
#include "state.h"

uint64_t wadi_counter_period(wad_model *m, const counter_state *s)
{
    int64_t edges = (int64_t)wad_model_edges(m) - s->begin;
    return edges > 0 ? (uint64_t)edges : 0; /* 0: it begins with the next edge */
}

uint64_t wadi_counter_position(wad_model *m, const counter_state *s)
{
    if (!s->running)
        return s->position;
    uint64_t edges = wadi_counter_period(m, s);
    return s->divider == 1 ? edges : edges / s->divider;
}

uint64_t wadi_counter_count_at(const counter_state *s, uint64_t p)
{
    if (s->dir == DOWN)
        return (s->length - 1 - p) & (s->modulus - 1);
    if (s->dir == UPDOWN && p > s->reload)
        return 2 * s->reload - p;
    return (s->base + p) & (s->modulus - 1);
}

uint64_t wadi_counter_natural_length(const counter_state *s)
{
    if (s->dir == UPDOWN)
        return s->reload ? 2 * s->reload : 1;
    return s->reload + 1 - s->base;
}
