/* SPDX-License-Identifier: MIT */
/*
 * Kind tick: the core's own periodic interrupt, counting down from its reload value.
 *
 * A new reload value counts from the next period on. Writing the count makes it 0, whatever is
 * written, and clears the flag; the next edge loads the reload value.
 */
#include "sim/core/model.h"
#include "sim/core/block.h"
#include "sim/core/clock.h"
#include "wadium/kinds.h"

enum {
#define ROLE(name, sort, need, text) ROLE_##name,
    WAD_ROLES_TICK(ROLE)
#undef ROLE
};

#define BIT(role) WAD_ROLE_BIT(ROLE_##role)

typedef struct tick_state {
    wad_event wrap;
    bool running;
    uint64_t begin;  /* edge on which the count was loaded */
    uint64_t length; /* of this period, in edges; 0: the reload value is 0, and nothing counts */
    uint64_t left;   /* edges to the end while not running */
} tick_state;

static uint64_t reload(const wad_model *m)
{
    return (uint64_t)wad_model_get(m, ROLE_reload, 0) + wad_model_code(m, ROLE_reload, "plus", 0);
}

static void arm(wad_model *m, tick_state *s)
{
    wad_model_cancel(m, &s->wrap);
    if (s->running && s->length)
        wad_model_schedule(m, &s->wrap, wad_model_edge(m, s->begin + s->length));
}

static void begin_period(wad_model *m, tick_state *s, uint64_t edge)
{
    s->begin = edge;
    s->length = wad_model_get(m, ROLE_reload, 0) ? reload(m) : 0;
    arm(m, s);
}

static void on_wrap(wad_event *e)
{
    wad_model *m = e->model;
    tick_state *s = wad_model_state(m);
    wad_model_put(m, ROLE_wrap, 0, 1);
    begin_period(m, s, s->begin + s->length);
    wad_model_event(m, ROLE_wrap, 0);
}

static void stop(wad_model *m, tick_state *s)
{
    if (!s->running)
        return;
    s->left = s->length - (wad_model_edges(m) - s->begin);
    s->running = false;
    arm(m, s);
}

static void start(wad_model *m, tick_state *s)
{
    if (s->running || !wad_model_get(m, ROLE_enable, 0) || !wad_model_clocked(m))
        return;
    s->running = true;
    wad_model_enabled(m);
    if (s->left) { /* goes on; the grid of edges may be another one */
        s->begin = wad_model_edges(m) + s->left - s->length;
        arm(m, s);
    } else {
        begin_period(m, s, wad_model_edges(m) + 1);
    }
}

static void reset(wad_model *m)
{
    tick_state *s = wad_model_state(m);
    s->wrap.fn = on_wrap;
    s->running = false;
    s->left = 0;
    wad_model_cancel(m, &s->wrap);
}

static uint64_t count_now(wad_model *m, const tick_state *s)
{
    if (!s->running)
        return s->left ? s->left - 1 : 0;
    uint64_t edges = wad_model_edges(m);
    return edges < s->begin || !s->length ? 0 : s->length - 1 - (edges - s->begin);
}

static void refresh(wad_model *m, wad_role_set roles)
{
    if (roles & BIT(count))
        wad_model_put(m, ROLE_count, 0, (uint32_t)count_now(m, wad_model_state(m)));
}

static void written(wad_model *m, const wad_write *w)
{
    tick_state *s = wad_model_state(m);
    if (w->roles & BIT(count)) {
        wad_model_put(m, ROLE_wrap, 0, 0);
        wad_model_put(m, ROLE_count, 0, 0);
        s->left = 0;
        if (s->running)
            begin_period(m, s, wad_model_edges(m) + 1);
    }
    if (w->roles & BIT(enable)) {
        if (wad_model_get(m, ROLE_enable, 0))
            start(m, s);
        else
            stop(m, s);
    }
}

static void clock_changes(wad_model *m, bool before)
{
    tick_state *s = wad_model_state(m);
    if (before && s->running)
        wadi_rate_changes(m, s->length);
    if (before)
        stop(m, s);
    else
        start(m, s);
}

const wad_model_class wadi_model_tick = {.kind = "tick",
                                         .state_size = sizeof(tick_state),
                                         .live = BIT(count),
                                         .reset = reset,
                                         .refresh = refresh,
                                         .written = written,
                                         .clock = clock_changes};
