/* SPDX-License-Identifier: MIT */
/* Kind interrupts: which lines are let through, and how urgent they are. */
#include "sim/core/model.h"
#include "sim/core/line.h"
#include "sim/core/sim.h"
#include "wadium/kinds.h"

enum {
#define ROLE(name, sort, need, text) ROLE_##name,
    WAD_ROLES_INTERRUPTS(ROLE)
#undef ROLE
};

#define BIT(role) WAD_ROLE_BIT(ROLE_##role)

typedef struct interrupts_state {
    unsigned n;      /* lines that it masks */
    uint32_t most;   /* of a priority */
    bool first_high; /* the greater one goes first */
    uint32_t no_threshold;
} interrupts_state;

static uint32_t key_of(const interrupts_state *s, uint32_t priority)
{
    return s->first_high ? s->most - priority : priority;
}

static void init(wad_model *m)
{
    interrupts_state *s = wad_model_state(m);
    unsigned bits = wad_model_width(m, ROLE_priority);
    s->n = MIN(wad_model_count(m, ROLE_enable), m->sim->sheet->n_vectors);
    s->most = (UINT32_C(1) << MIN(bits, 31u)) - 1;
    s->first_high = wad_model_code(m, ROLE_priority, "first", 0) != 0;
    s->no_threshold = wad_model_code(m, ROLE_threshold, "none", UINT32_MAX);
    for (unsigned i = 0; i < s->n; i++)
        m->sim->cpu.lines[i].governed = true;
}

static void load(wad_model *m)
{
    wad_sim *sim = m->sim;
    const interrupts_state *s = wad_model_state(m);
    uint32_t threshold = wad_model_get(m, ROLE_threshold, 0);
    for (unsigned i = 0; i < s->n; i++) {
        uint32_t priority = wad_model_get(m, ROLE_priority, i);
        wadi_line_rank(sim, i, priority, key_of(s, priority));
        wadi_line_enable(sim, i, wad_model_get(m, ROLE_enable, i) != 0);
    }
    sim->cpu.threshold = !wad_model_has(m, ROLE_threshold) || threshold == s->no_threshold
                             ? UINT32_MAX
                             : key_of(s, threshold);
    wadi_lines_choose(sim);
}

static void reset(wad_model *m)
{
    wad_model_enabled(m);
    load(m);
}

static void refresh(wad_model *m, wad_role_set roles)
{
    const wad_sim *sim = m->sim;
    if (roles & WAD_ROLE_BIT(ROLE_pending))
        for (unsigned i = 0; i < sim->sheet->n_vectors; i++)
            wad_model_put(m, ROLE_pending, i, sim->cpu.lines[i].asks);
    if (roles & WAD_ROLE_BIT(ROLE_current)) {
        uint32_t none = wad_model_code(m, ROLE_current, "none", 0);
        unsigned line =
            sim->cpu.active_line != WADI_NO_LINE ? sim->cpu.active_line : sim->cpu.best_line;
        wad_model_put(m, ROLE_current, 0, line == WADI_NO_LINE ? none : line);
    }
}

static void written(wad_model *m, const wad_write *w)
{
    for (unsigned i = 0; w->roles & BIT(raise) && i < wad_model_count(m, ROLE_raise); i++)
        if (wad_model_get(m, ROLE_raise, i)) {
            wad_model_put(m, ROLE_raise, i, 0);
            wadi_line_force(m->sim, i, true);
        }
    for (unsigned i = 0; w->roles & BIT(dismiss) && i < wad_model_count(m, ROLE_dismiss); i++)
        if (wad_model_get(m, ROLE_dismiss, i)) {
            wad_model_put(m, ROLE_dismiss, i, 0);
            wadi_line_force(m->sim, i, false);
        }
    if (w->roles & ~(BIT(raise) | BIT(dismiss)))
        load(m);
}

const wad_model_class wadi_model_interrupts = {.kind = "interrupts",
                                               .state_size = sizeof(interrupts_state),
                                               .live = WAD_ROLE_BIT(ROLE_pending) |
                                                       WAD_ROLE_BIT(ROLE_current),
                                               .init = init,
                                               .reset = reset,
                                               .refresh = refresh,
                                               .written = written};
