/* SPDX-License-Identifier: MIT */
/*
 * Kind watchdog: resets the chip 2 ** (timeout + plus) clock edges after it was fed, or at once
 * when it is fed within the window's closed part, or with another value than its key.
 */
#include "sim/core/model.h"
#include "sim/core/block.h"
#include "sim/core/line.h"
#include "sim/core/report.h"
#include "sim/core/stop.h"
#include "wadium/kinds.h"

enum {
#define ROLE(name, sort, need, text) ROLE_##name,
    WAD_ROLES_WATCHDOG(ROLE)
#undef ROLE
};

#define BIT(role)  WAD_ROLE_BIT(ROLE_##role)
#define MOST_SHIFT 40

typedef struct watchdog_state {
    wad_event bite;
    uint64_t fed; /* edge it was fed on; while the clock stands, edges that had passed */
    bool running;
    enum { NONE, BIT_LATE, BIT_EARLY } bit; /* the last reset came from here */
    bool fed_once; /* since it was started: the window counts from a feeding */
} watchdog_state;

static uint64_t limit(wad_model *m)
{
    uint64_t said;
    if (wad_model_whole(m, ROLE_timeout, 0, &said))
        return MAX(said, 1);
    uint32_t shift = wad_model_get(m, ROLE_timeout, 0) + wad_model_code(m, ROLE_timeout, "plus", 0);
    return UINT64_C(1) << MIN(shift, (uint32_t)MOST_SHIFT);
}

static void arm(wad_model *m)
{
    watchdog_state *s = wad_model_state(m);
    wad_model_cancel(m, &s->bite);
    s->running = wad_model_get(m, ROLE_enable, 0) && wad_model_clocked(m);
    if (s->running)
        wad_model_schedule(m, &s->bite, wad_model_edge(m, s->fed + limit(m)));
}

static void feed(wad_model *m)
{
    watchdog_state *s = wad_model_state(m);
    s->fed = wad_model_clocked(m) ? wad_model_edges(m) : 0;
    arm(m);
}

static void bite(wad_model *m, bool early)
{
    watchdog_state *s = wad_model_state(m);
    s->bit = early ? BIT_EARLY : BIT_LATE;
    wadi_run_reset(m->sim, m->block->inst->name);
}

static void on_bite(wad_event *e)
{
    bite(e->model, false);
}

static void reset(wad_model *m)
{
    watchdog_state *s = wad_model_state(m);
    s->bite.fn = on_bite;
    s->fed = 0;
    s->running = false;
    wad_model_cancel(m, &s->bite);
    if (wad_model_get(m, ROLE_enable, 0))
        wad_model_enabled(m);
    s->fed_once = false;
    if (!m->sim->reset.by_chip) /* power on */
        s->bit = NONE;
    bool own = s->bit == BIT_EARLY && wad_model_has(m, ROLE_cause_early);
    wad_model_put(m, ROLE_cause, 0, s->bit != NONE && !own);
    wad_model_put(m, ROLE_cause_early, 0, own);
    wad_model_put(m, ROLE_cause_power, 0, !m->sim->reset.by_chip);
    s->bit = NONE;
    if (!m->sim->reset.resetting) /* else its clock comes up, and it begins then */
        feed(m);
}

/* In the closed part of its time, counted from the last feeding. */
static bool too_early(wad_model *m, const watchdog_state *s)
{
    uint64_t closed = wad_model_get(m, ROLE_window, 0);
    if (!s->running || !s->fed_once || !closed)
        return false;
    return (wad_model_edges(m) - s->fed) << wad_model_width(m, ROLE_window) < closed * limit(m);
}

static void fed(wad_model *m)
{
    watchdog_state *s = wad_model_state(m);
    uint32_t value = wad_model_get(m, ROLE_feed, 0);
    if (m->sim->cpu.active_line != WADI_NO_LINE)
        wadi_report(m->sim, WAD_FINDING_FED_IN_HANDLER, NULL,
                    "the handler of interrupt %u feeds %s", m->sim->cpu.active_line,
                    m->block->inst->name);
    if (value != wad_model_code(m, ROLE_feed, "value", value) || too_early(m, s))
        bite(m, true);
    feed(m);
    s->fed_once = true;
}

static void written(wad_model *m, const wad_write *w)
{
    if (w->roles & BIT(feed))
        fed(m);
    if (w->roles & (BIT(enable) | BIT(timeout)) && w->before != w->after) {
        if (wad_model_get(m, ROLE_enable, 0))
            wad_model_enabled(m);
        feed(m);
    }
}

static void clock_changes(wad_model *m, bool before)
{
    watchdog_state *s = wad_model_state(m);
    if (before)
        s->fed = s->running ? wad_model_edges(m) - s->fed : s->fed;
    else if (wad_model_clocked(m))
        s->fed = wad_model_edges(m) - MIN(s->fed, wad_model_edges(m));
    if (before)
        wad_model_cancel(m, &s->bite);
    else
        arm(m);
}

const wad_model_class wadi_model_watchdog = {.kind = "watchdog",
                                             .state_size = sizeof(watchdog_state),
                                             .reset = reset,
                                             .written = written,
                                             .clock = clock_changes};
