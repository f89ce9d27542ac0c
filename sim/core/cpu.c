/* SPDX-License-Identifier: MIT */
/* The core: what its time costs, when it looks up, sleep. */
#include "cpu.h"

#include "clock.h"
#include "interrupt.h"
#include "line.h"
#include "report.h"
#include "sim/check/habit.h"
#include "sleep.h"
#include "stop.h"

_Thread_local wad_sim *wadi_current;

__extension__ typedef unsigned __int128 u128;

/* ---- the queue, seen from the core ---- */

static void set_due(wad_sim *sim)
{
    const wad_event *first = wadi_queue_first(&sim->queue);
    sim->due = first ? first->ps : UINT64_MAX;
}

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

static void run_events(wad_sim *sim)
{
    uint64_t until = sim->now;
    wad_event *e;
    while ((e = wadi_queue_first(&sim->queue)) && e->ps <= until) {
        wadi_queue_remove(&sim->queue, e);
        sim->now = e->ps;
        e->fn(e);
    }
    sim->now = until;
}

/* ---- time spent ---- */

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
    u128 cycle = (u128)dom->step * dom->d * WAD_PS_PER_S;
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
        run_events(sim);
}

static void service(wad_sim *sim, bool needs_bus);

void wadi_cpu_spend(wad_sim *sim, uint64_t cycles)
{
    sim->calls++;
    do { /* from event to event, so that an interrupt in the middle comes in the middle */
        const wad_event *e = sim->masked ? NULL : wadi_queue_first(&sim->queue);
        uint64_t part = cycles;
        if (e && e->ps > sim->now)
            part = MIN(part, (e->ps - sim->now) / sim->cycle_ps + 1);
        wadi_cpu_advance(sim, part);
        service(sim, false); /* it computes */
        cycles -= part;
    } while (cycles);
}

/* ---- a look from outside ---- */

void wad_sim_on_look(wad_sim *sim, void (*look)(void *ctx), void *ctx)
{
    sim->look = look;
    sim->look_ctx = ctx;
}

void wad_sim_ask_look(wad_sim *sim)
{
    sim->look_asked = sim->look != NULL;
}

static void look(wad_sim *sim)
{
    sim->look_asked = false;
    sim->look(sim->look_ctx);
}

void wad_sim_let_pass(wad_sim *sim, uint64_t ps)
{
    wadi_cpu_let_pass(sim, ps);
}

/* ---- interrupts that are due ---- */

static void sleep_on(wad_sim *sim);

/* Another master has the bus: the core's access waits for the element in flight, not for those
 * behind it, and has the bus itself then. */
static void wait_for_bus(wad_sim *sim)
{
    uint64_t until = sim->bus_until;
    sim->bus_waited += until - sim->now;
    sim->now = until;
    sim->bus_free = until + sim->access_ps;
    run_events(sim);
}

static void service(wad_sim *sim, bool needs_bus)
{
    run_events(sim);
    if (__builtin_expect(sim->look_asked, 0))
        look(sim);
    if (needs_bus && sim->bus_until > sim->now)
        wait_for_bus(sim);
    if (wadi_irq_deliverable(sim)) {
        /* what the firmware was doing is put back for the findings of the access that follows */
        uintptr_t pc = sim->pc;
        void *frame = sim->frame;
        wadi_irq_deliver(sim);
        sim->pc = pc;
        sim->frame = frame;
        if (sim->power && !sim->sleeping && sim->active_line == WADI_NO_LINE &&
            wadi_sleep_on_exit(sim))
            sleep_on(sim);
    }
    set_due(sim);
}

void wadi_cpu_service(wad_sim *sim)
{
    service(sim, true);
}

/* ---- sleep ---- */

/* Until the next event; the run ends by its own event, so there is always one. */
static void skip_to_event(wad_sim *sim, bool asleep)
{
    const wad_event *e = wadi_queue_first(&sim->queue);
    if (!e)
        wadi_run_stop(sim, WAD_RUN_DEAD, g_strdup("asleep, and nothing is left to wake it"));
    if (e->ps > sim->now) {
        if (asleep) {
            sim->asleep_ps += e->ps - sim->now;
            if (sim->sleep_fn)
                sim->sleep_fn(sim->sleep_ctx, sim->now, e->ps);
        }
        sim->now = e->ps;
    }
    run_events(sim);
    if (__builtin_expect(sim->look_asked, 0))
        look(sim);
}

/* Pending and enabled ends it even where the mask keeps the handler from running. */
static void sleep_once(wad_sim *sim)
{
    if (sim->best_line != WADI_NO_LINE)
        return;
    wadi_sleep_enter(sim);
    while (sim->best_line == WADI_NO_LINE)
        skip_to_event(sim, true);
    wadi_sleep_leave(sim);
}

void wadi_cpu_let_pass(wad_sim *sim, uint64_t ps)
{
    sim->now += ps;
    if (sim->now >= sim->due)
        run_events(sim);
}

/* Where the core goes back to sleep after its handlers, main does not come back here. */
static void sleep_on(wad_sim *sim)
{
    bool outer = sim->sleeping;
    sim->sleeping = true;
    sim->put_back = 0;
    sim->put_back_ps = sim->now;
    sim->put_back_trace = wadi_trace_here(sim);
    for (;;) {
        sleep_once(sim);
        bool served = wadi_irq_deliverable(sim);
        wadi_cpu_service(sim);
        if (!served || sim->active_line != WADI_NO_LINE || !wadi_sleep_again(sim))
            break;
        sim->put_back++;
    }
    sim->put_back_most = MAX(sim->put_back_most, sim->put_back);
    sim->put_back = 0;
    sim->sleeping = outer;
}

void wadi_cpu_sleep(wad_sim *sim)
{
    wadi_handler_sleeps(sim);
    wadi_cpu_spend(sim, 1);
    sleep_on(sim);
}

void wadi_cpu_hold(wad_sim *sim, uint64_t limit_ps)
{
    uint64_t until = sim->now + limit_ps;
    const wad_event *e = wadi_queue_first(&sim->queue);
    while (!wadi_irq_deliverable(sim) && e && e->ps <= until) {
        skip_to_event(sim, false);
        e = wadi_queue_first(&sim->queue);
    }
    wadi_cpu_service(sim);
}

void wadi_cpu_idle(wad_sim *sim)
{
    for (;;) {
        skip_to_event(sim, false);
        wadi_cpu_service(sim);
    }
}

void wadi_cpu_reset(wad_sim *sim)
{
    sim->stands = false;
    sim->masked = true;
    sim->was_unmasked = false;
    sim->priority = UINT_MAX;
    sim->active_line = WADI_NO_LINE;
    sim->best_line = WADI_NO_LINE;
    sim->calls = 0;
    sim->last_read.slot = NULL;
    sim->bus_until = sim->bus_free = 0;
    for (unsigned i = 0; i < sim->sheet->n_vectors; i++) {
        const wadi_line *l = &sim->lines[i];
        sim->lines[i] = (wadi_line){.owner = l->owner, .edge = l->edge, .wanted_ps = l->wanted_ps};
    }
    wadi_cpu_set_core(sim);
}

void wad_sim_watch_sleep(wad_sim *sim, wad_sleep_fn fn, void *ctx)
{
    sim->sleep_fn = fn;
    sim->sleep_ctx = ctx;
}

void wad_sim_set_load(wad_sim *sim, unsigned percent)
{
    sim->load = MIN(percent, 95u);
}

uint64_t wad_sim_asleep(const wad_sim *sim, bool *now)
{
    *now = sim->asleep;
    return sim->asleep_ps;
}

void wad_sim_hold(wad_sim *sim, bool on)
{
    sim->looking_up += on ? 1 : -1;
}
