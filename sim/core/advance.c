/* SPDX-License-Identifier: MIT */
/* Time goes on: events run when they are due. */
#include "advance.h"
#include "clock.h"
#include "lang/rational.h"
#include "report.h"
#include "stop.h"

void wadi_cpu_set_core(wad_sim *sim)
{
    const wadi_domain *dom = &sim->cpu.core->domain;
    if (!dom->runs) {
        const wad_clock *root = sim->cpu.core->next_root;
        if (!sim->run.running || (root && sim->clocks[root->index].halted))
            return; /* wad_sim_run looks for itself; a sleep may stop it */
        if (!sim->cpu.core->next_root || !sim->clocks[sim->cpu.core->next_root->index].failed)
            wadi_report(sim, WAD_FINDING_CLOCK_LOST, NULL,
                        "the core clock was switched to a source that does not run");
        if (sim->run.outlives) {
            sim->run.stands = true;
            wad_sim_ask_look(sim);
            return;
        }
        wadi_run_stop(sim, WAD_RUN_DEAD, g_strdup("the core has no clock: it stands still"));
    }
    sim->run.stands = false;
    uint64_t n = dom->n;
    wadi_u128 cycle = (wadi_u128)dom->step * dom->d * WAD_PS_PER_S;
    if (sim->run.load) { /* the rest of the time is all there is */
        n *= 100 - sim->run.load;
        cycle *= 100;
    }
    sim->cost.access_den = n;
    sim->cost.cycle_ps = (uint64_t)(cycle / n);
    sim->cost.cycle_rem = (uint64_t)(cycle % n);
    sim->cost.access_ps = (uint64_t)(sim->sheet->cpu.access * cycle / n);
    sim->cost.access_rem = (uint64_t)(sim->sheet->cpu.access * cycle % n);
    sim->cost.access_carry = 0;
}

void wadi_cpu_advance(wad_sim *sim, uint64_t cycles)
{
    sim->now += cycles * sim->cost.cycle_ps;
    sim->cost.access_carry += cycles * sim->cost.cycle_rem;
    if (sim->cost.access_carry >= sim->cost.access_den) {
        sim->now += sim->cost.access_carry / sim->cost.access_den;
        sim->cost.access_carry %= sim->cost.access_den;
    }
    if (sim->now >= sim->due)
        wadi_run_events(sim);
}

void wadi_cpu_let_pass(wad_sim *sim, uint64_t ps)
{
    sim->now += ps;
    if (sim->now >= sim->due)
        wadi_run_events(sim);
}
