/* SPDX-License-Identifier: MIT */
/* Clocks that come out at a pin: high for the first half of each period. Rendered only while the
 * signal is routed: nobody pays for 24 million changes a second that no pin shows. */
#include "clock_out.h"

#include "advance.h"
#include "clock.h"
#include "pin.h"
#include "report.h"
#include "sim.h"

static void on_toggle(wad_event *e)
{
    wadi_clock *clock = (wadi_clock *)((char *)e - offsetof(wadi_clock, toggle));
    wadi_signal_drive(clock->output, clock->half % 2 == 0);
    clock->half++;
    wadi_schedule(clock->sim, e, wadi_domain_edge(&clock->halves, clock->half));
}

static void stop(wadi_clock *clock)
{
    wadi_unschedule(clock->sim, &clock->toggle);
    clock->halves.runs = false;
    wadi_signal_drive(clock->output, false);
}

/* Twice as many edges on the same grid: even ones are the clock's own. */
static void start(wadi_clock *clock)
{
    clock->halves = clock->domain;
    clock->halves.n *= 2;
    clock->halves.first *= 2;
    wadi_domain_prepare(&clock->halves);
    clock->half = wadi_domain_count(&clock->halves, clock->sim->now) + 1;
    clock->half += clock->half % 2; /* begins with a whole period */
    clock->toggle.fn = on_toggle;
    wadi_schedule(clock->sim, &clock->toggle, wadi_domain_edge(&clock->halves, clock->half));
}

static void update(wadi_signal *signal)
{
    wadi_clock *clock = signal->clock;
    const wad_sim *sim = clock->sim;
    bool wanted = clock->domain.runs && signal->nets->len;
    if (clock->on && !signal->used) {
        signal->used = true;
        signal->used_trace = wadi_trace_here(sim);
    }
    bool same = wanted && clock->halves.runs && clock->halves.t0 == clock->domain.t0 &&
                clock->halves.n == clock->domain.n * 2 && clock->halves.d == clock->domain.d &&
                clock->halves.step == clock->domain.step &&
                clock->halves.first == clock->domain.first * 2;
    if (same)
        return;
    if (clock->halves.runs)
        stop(clock);
    if (wanted)
        start(clock);
}

void wadi_clockouts_build(wad_sim *sim)
{
    for (unsigned i = 0; i < sim->sheet->n_clocks; i++) {
        wadi_clock *clock = &sim->clocks[i];
        if (!clock->def->output)
            continue;
        clock->output = wadi_signal_find(sim, clock->def->output->block, clock->def->output->name);
        clock->output->clock = clock;
        clock->output->rerouted = update;
    }
}

void wadi_clockouts_update(wad_sim *sim)
{
    for (unsigned i = 0; i < sim->sheet->n_clocks; i++)
        if (sim->clocks[i].output)
            update(sim->clocks[i].output);
}
