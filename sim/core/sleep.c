/* SPDX-License-Identifier: MIT */
/*
 * Sleep: how deep, what stops, the way back, and both habits of silicon: a core that stays awake
 * after a handler, and one that goes back to sleep unless it is told otherwise.
 */
#include "sleep.h"

#include "advance.h"
#include "clock.h"
#include "lang/rational.h"
#include "model.h"
#include "sim.h"
#include "wadium/kinds.h"

enum {
#define ROLE(name, sort, need, text) ROLE_##name,
    WAD_ROLES_POWER(ROLE)
#undef ROLE
};

/* The last level whose condition holds; the one without any is for all other cases. */
static int level_now(const wad_sim *sim)
{
    int level = -1;
    for (unsigned i = 0; i < sim->sheet->n_sleeps; i++) {
        const wad_sleep_def *l = &sim->sheet->sleeps[i];
        if (l->when.n ? wadi_clock_cond_holds(sim, &l->when) : level < 0)
            level = (int)i;
    }
    return level;
}

static void tell(wad_sim *sim, wadi_sleep_phase phase, int level)
{
    wadi_tell(sim, &(wadi_told){.ear = WADI_EAR_SLEEP, .phase = phase, .value = (uint32_t)level});
}

void wadi_sleep_enter(wad_sim *sim)
{
    int n = level_now(sim);
    tell(sim, WADI_SLEEP_BEGINS, n);
    sim->sleep.asleep = true;
    sim->sleep.sleep_level = n;
    if (sim->sleep.power && wad_model_has(sim->sleep.power, ROLE_stay))
        wad_model_put(sim->sleep.power, ROLE_stay, 0, 0);
    if (sim->ears & WADI_EAR_STANDS)
        wadi_tell(sim, &(wadi_told){.ear = WADI_EAR_STANDS, .on = true, .value = (uint32_t)n});
    if (n < 0 || !sim->sheet->sleeps[n].n_stops)
        return;
    const wad_sleep_def *level = &sim->sheet->sleeps[n];
    tell(sim, WADI_SLEEP_STOPS, n);
    wadi_clocks_halt(sim, level, true);
    tell(sim, WADI_SLEEP_STOPPED, n);
}

void wadi_sleep_leave(wad_sim *sim)
{
    int n = sim->sleep.sleep_level;
    if (sim->ears & WADI_EAR_STANDS)
        wadi_tell(sim, &(wadi_told){.ear = WADI_EAR_STANDS, .line = sim->cpu.best_line});
    if (n >= 0) {
        const wad_sleep_def *level = &sim->sheet->sleeps[n];
        wadi_cpu_let_pass(sim, (uint64_t)(wadi_rat_double(level->wake_s) * 1e12 + 0.5));
        if (level->n_stops)
            wadi_clocks_halt(sim, level, false);
    }
    sim->sleep.asleep = false;
}

/* On a core that saves its status these bits put it to sleep by themselves. */
bool wadi_sleep_by_status(const wad_sim *sim)
{
    for (unsigned i = 0; i < sim->sheet->n_sleeps; i++) {
        const wad_cond *when = &sim->sheet->sleeps[i].when;
        for (const wad_cond *c = when; c; c = c->or_else)
            for (unsigned k = 0; k < c->n; k++)
                if (c->terms[k].ref.reg == sim->sheet->cpu.saves.reg &&
                    c->terms[k].ref.block == sim->sheet->cpu.saves.block &&
                    wadi_clock_cond_holds(sim, when))
                    return true;
    }
    return false;
}

bool wadi_sleep_again(wad_sim *sim)
{
    if (sim->cpu.saves && wadi_sleep_by_status(sim))
        return true;
    const wad_model *m = sim->sleep.power;
    if (m && wad_model_has(m, ROLE_again))
        return wad_model_get(m, ROLE_again, 0) != 0;
    if (sim->sleep.sleep_level < 0 || !sim->sheet->sleeps[sim->sleep.sleep_level].again)
        return false;
    return !m || !wad_model_has(m, ROLE_stay) || !wad_model_get(m, ROLE_stay, 0);
}

bool wadi_sleep_on_exit(const wad_sim *sim)
{
    return wad_model_has(sim->sleep.power, ROLE_again) &&
           wad_model_get(sim->sleep.power, ROLE_again, 0);
}
