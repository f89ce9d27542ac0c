/* SPDX-License-Identifier: MIT */
/* Kind interrupts: which of the lines that ask is served next. */
#include <string.h>

#include "sim/core/cpu.h"
#include "sim/core/line.h"
#include "sim/core/model.h"
#include "sim/core/sim.h"
#include "wadium/kinds.h"

enum {
#define ROLE(name, sort, need, text) ROLE_##name,
    WAD_ROLES_INTERRUPTS(ROLE)
#undef ROLE
};

#define WORDS     4 /* of 64 lines */
#define BIT(role) WAD_ROLE_BIT(ROLE_##role)

typedef struct interrupts_state {
    uint64_t enabled[WORDS], asking[WORDS];
    uint8_t priority[WORDS * 64];
    unsigned threshold; /* less urgent lines wait */
} interrupts_state;

static void choose(wad_model *m)
{
    wad_sim *sim = m->sim;
    const interrupts_state *s = wad_model_state(m);
    sim->cpu.best_line = WADI_NO_LINE;
    for (unsigned w = 0; w < WORDS; w++)
        for (uint64_t set = s->asking[w] & s->enabled[w]; set; set &= set - 1) {
            unsigned line = w * 64 + (unsigned)__builtin_ctzll(set);
            if (s->priority[line] >= s->threshold ||
                (sim->cpu.best_line != WADI_NO_LINE && s->priority[line] >= sim->cpu.best_priority))
                continue;
            sim->cpu.best_line = line;
            sim->cpu.best_priority = s->priority[line];
        }
    wadi_cpu_recheck(sim);
}

static void load(wad_model *m)
{
    interrupts_state *s = wad_model_state(m);
    uint64_t before = m->sim->cpu.lines_on;
    memset(s->enabled, 0, sizeof s->enabled);
    for (unsigned i = 0; i < MIN(wad_model_count(m, ROLE_enable), WORDS * 64u); i++) {
        bool on = wad_model_get(m, ROLE_enable, i) != 0;
        s->enabled[i / 64] |= (uint64_t)on << i % 64;
        s->priority[i] = (uint8_t)wad_model_get(m, ROLE_priority, i);
        if (on && i < m->sim->sheet->n_vectors)
            m->sim->cpu.lines[i].enabled_at_controller = true;
    }
    m->sim->cpu.lines_on = s->enabled[0];
    uint32_t threshold = wad_model_get(m, ROLE_threshold, 0);
    bool none = !wad_model_has(m, ROLE_threshold) ||
                threshold == wad_model_code(m, ROLE_threshold, "none", UINT32_MAX);
    s->threshold = none ? UINT_MAX : threshold;
    for (uint64_t on = s->enabled[0] & ~before; on; on &= on - 1)
        wadi_line_enabled(m->sim, (unsigned)__builtin_ctzll(on));
    choose(m);
}

static void reset(wad_model *m)
{
    interrupts_state *s = wad_model_state(m);
    memset(s, 0, sizeof *s);
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

static void line(wad_model *m, unsigned n, bool level)
{
    interrupts_state *s = wad_model_state(m);
    if (n >= WORDS * 64)
        return;
    if (level)
        s->asking[n / 64] |= UINT64_C(1) << n % 64;
    else
        s->asking[n / 64] &= ~(UINT64_C(1) << n % 64);
    choose(m);
}

const wad_model_class wadi_model_interrupts = {.kind = "interrupts",
                                               .state_size = sizeof(interrupts_state),
                                               .live = WAD_ROLE_BIT(ROLE_pending) |
                                                       WAD_ROLE_BIT(ROLE_current),
                                               .reset = reset,
                                               .refresh = refresh,
                                               .written = written,
                                               .line = line};
