/* SPDX-License-Identifier: MIT */
/* Time goes on: events run when they are due. */
#include "advance.h"
#include "clock.h"
#include "lang/rational.h"
#include "report.h"
#include "stop.h"

void wadi_schedule(wad_sim *sim, wad_event *e, uint64_t ps)
{
    wadi_queue_add(&sim->queue, e, ps);
    if (ps < sim->due)
        sim->due = ps;
}

void wadi_unschedule(wad_sim *sim, wad_event *e)
{
    wadi_queue_remove(&sim->queue, e);
}

void wadi_cpu_set_core(wad_sim *sim)
{
    const wadi_domain *dom = &sim->core->domain;
    if (!dom->runs) {
        const wad_clock *root = sim->core->next_root;
        if (!sim->running || (root && sim->clocks[root->index].halted))
            return; /* wad_sim_run looks for itself; a sleep may stop it */
        if (!sim->core->next_root || !sim->clocks[sim->core->next_root->index].failed)
            wadi_report(sim, WAD_FINDING_CLOCK_LOST, NULL,
                        "the core clock was switched to a source that does not run");
        if (sim->outlives) {
            sim->stands = true;
            wad_sim_ask_look(sim);
            return;
        }
        wadi_run_stop(sim, WAD_RUN_DEAD, g_strdup("the core has no clock: it stands still"));
    }
    sim->stands = false;
    uint64_t n = dom->n;
    wadi_u128 cycle = (wadi_u128)dom->step * dom->d * WAD_PS_PER_S;
    if (sim->load) { /* the rest of the time is all there is */
        n *= 100 - sim->load;
        cycle *= 100;
    }
    sim->access_den = n;
    sim->cycle_ps = (uint64_t)(cycle / n);
    sim->cycle_rem = (uint64_t)(cycle % n);
    sim->access_ps = (uint64_t)(sim->sheet->cpu.access * cycle / n);
    sim->access_rem = (uint64_t)(sim->sheet->cpu.access * cycle % n);
    sim->access_carry = 0;
}

void wadi_cpu_advance(wad_sim *sim, uint64_t cycles)
{
    sim->now += cycles * sim->cycle_ps;
    sim->access_carry += cycles * sim->cycle_rem;
    if (sim->access_carry >= sim->access_den) {
        sim->now += sim->access_carry / sim->access_den;
        sim->access_carry %= sim->access_den;
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
