/* SPDX-License-Identifier: MIT */
/* The core: what its time costs, which interrupt it takes, sleep. */
#include <stdlib.h>

#include "race.h"

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
        if (!sim->running) /* wad_sim_run looks for itself */
            return;
        wadi_report(sim, WAD_FINDING_CLOCK_LOST, NULL,
                    "the core clock was switched to a source that does not run");
        wadi_run_stop(sim, WAD_RUN_DEAD, g_strdup("the core has no clock: it stands still"));
    }
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

static void advance(wad_sim *sim, uint64_t cycles)
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

void wadi_cpu_spend(wad_sim *sim, uint64_t cycles)
{
    sim->calls++;
    do { /* from event to event, so that an interrupt in the middle comes in the middle */
        const wad_event *e = sim->masked ? NULL : wadi_queue_first(&sim->queue);
        uint64_t part = cycles;
        if (e && e->ps > sim->now)
            part = MIN(part, (e->ps - sim->now) / sim->cycle_ps + 1);
        advance(sim, part);
        wadi_cpu_service(sim);
        cycles -= part;
    } while (cycles);
}

/* ---- interrupts ---- */

static void tell(wad_sim *sim, const wad_irq_record *record)
{
    for (guint i = 0; i < sim->irq_watches->len; i++) {
        const wadi_irq_watch *w = &g_array_index(sim->irq_watches, wadi_irq_watch, i);
        w->fn(w->ctx, record);
    }
}

void wadi_cpu_no_handler(wad_sim *sim, unsigned line)
{
    static const wadi_line unknown;
    if ((int)line == sim->sheet->cpu.bus_fault && sim->fault_story)
        wadi_bus_fault_unhandled(sim);
    const wadi_line *l = line < sim->sheet->n_vectors ? &sim->lines[line] : &unknown;
    const char *owner = l->owner ? l->owner->inst->name : "nobody";
    wadi_report_at(sim, WAD_FINDING_NO_HANDLER, NULL, &l->asked_trace,
                   "interrupt %u of %s has no handler: the firmware defines neither handle_%s nor "
                   "handle_vector_%u",
                   line, owner, owner, line);
    wadi_cpu_idle(sim);
}

/* A handler of which no flag fell between entry and exit did not clear the one it came for. */
static void check_storm(wad_sim *sim, unsigned line, unsigned falls, wad_handler handler)
{
    const wadi_line *l = &sim->lines[line];
    if (!l->level || l->falls != falls)
        return;
    wadi_trace trace = {{(uintptr_t)handler + 1}, 1, true};
    wadi_report_at(sim, WAD_FINDING_STORM, NULL, &trace,
                   "the handler of interrupt %u (%s) returned and its flag is still set", line,
                   l->owner ? l->owner->inst->name : "?");
}

#define AGAIN 8 /* times in a row, so that a burst is none */

/* The flag was cleared, and stands again when the handler returns: it asks faster than it is
 * served.
 */
static void check_period(wad_sim *sim, unsigned line, unsigned falls, wad_handler handler,
                         const wad_irq_record *record)
{
    wadi_line *l = &sim->lines[line];
    l->again = l->level && l->falls != falls ? l->again + 1 : 0;
    if (l->again < AGAIN)
        return;
    wadi_trace trace = {{(uintptr_t)handler + 1}, 1, true};
    wadi_report_at(sim, WAD_FINDING_SLOW_HANDLER, NULL, &trace,
                   "the handler of interrupt %u (%s) took %.3f us, and the next request had come "
                   "meanwhile, %u times in a row",
                   line, l->owner ? l->owner->inst->name : "?",
                   (double)(record->left_ps - record->entered_ps) / 1e6, l->again);
}

static void take(wad_sim *sim, unsigned line, unsigned priority)
{
    unsigned outer_priority = sim->priority, outer_line = sim->active_line;
    wad_irq_record record = {line, sim->lines[line].raised_ps, 0, 0};
    wad_handler handler = wadi_firmware_handler(sim, line);
    sim->priority = priority;
    sim->active_line = line;
    sim->lines[line].served = true;
    advance(sim, sim->sheet->cpu.interrupt_entry);
    record.entered_ps = sim->now;
    tell(sim, &record);
    unsigned falls = sim->lines[line].falls;
    sim->last_read.slot = NULL;
    if (!handler)
        wadi_cpu_no_handler(sim, line);
    wadi_cpu_recheck(sim);
    if (sim->race)
        wadi_race_enter(sim, line);
    handler();
    wadi_plain_flush(sim); /* the handler's last write */
    if (sim->race)
        wadi_race_leave(sim);
    record.left_ps = sim->now;
    check_storm(sim, line, falls, handler);
    check_period(sim, line, falls, handler, &record);
    tell(sim, &record);
    sim->priority = outer_priority;
    sim->active_line = outer_line;
    sim->last_read.slot = NULL;
    advance(sim, sim->sheet->cpu.interrupt_exit);
}

static bool deliverable(const wad_sim *sim)
{
    return !sim->masked && sim->best_line != WADI_NO_LINE && sim->best_priority < sim->priority;
}

static void deliver(wad_sim *sim)
{
    while (deliverable(sim))
        take(sim, sim->best_line, sim->best_priority);
}

void wadi_cpu_recheck(wad_sim *sim)
{
    if (deliverable(sim))
        sim->due = 0;
}

void wadi_cpu_service(wad_sim *sim)
{
    run_events(sim);
    if (deliverable(sim)) {
        /* what the firmware was doing is put back for the findings of the access that follows */
        uintptr_t pc = sim->pc;
        void *frame = sim->frame;
        deliver(sim);
        sim->pc = pc;
        sim->frame = frame;
    }
    set_due(sim);
}

/* ---- sleep ---- */

/* Until the next event; the run ends by its own event, so there is always one. */
static void skip_to_event(wad_sim *sim, bool asleep)
{
    const wad_event *e = wadi_queue_first(&sim->queue);
    if (!e)
        wadi_run_stop(sim, WAD_RUN_DEAD, g_strdup("asleep, and nothing is left to wake it"));
    if (e->ps > sim->now) {
        if (asleep)
            sim->asleep_ps += e->ps - sim->now;
        sim->now = e->ps;
    }
    run_events(sim);
}

void wadi_cpu_sleep(wad_sim *sim)
{
    wadi_cpu_spend(sim, 1);
    /* pending and enabled ends the sleep even where the mask keeps the handler from running */
    while (sim->best_line == WADI_NO_LINE)
        skip_to_event(sim, true);
    wadi_cpu_service(sim);
}

void wadi_cpu_hold(wad_sim *sim, uint64_t limit_ps)
{
    uint64_t until = sim->now + limit_ps;
    const wad_event *e = wadi_queue_first(&sim->queue);
    while (!deliverable(sim) && e && e->ps <= until) {
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
    sim->masked = true;
    sim->was_unmasked = false;
    sim->priority = UINT_MAX;
    sim->active_line = WADI_NO_LINE;
    sim->best_line = WADI_NO_LINE;
    sim->calls = 0;
    sim->last_read.slot = NULL;
    for (unsigned i = 0; i < sim->sheet->n_vectors; i++) {
        wadi_block *owner = sim->lines[i].owner;
        sim->lines[i] = (wadi_line){.owner = owner};
    }
    wadi_cpu_set_core(sim);
}

void wad_sim_set_load(wad_sim *sim, unsigned percent)
{
    sim->load = MIN(percent, 95u);
}

void wad_sim_watch_irq(wad_sim *sim, wad_irq_fn fn, void *ctx)
{
    wadi_irq_watch w = {fn, ctx};
    g_array_append_val(sim->irq_watches, w);
}

/* ---- what models say about lines ---- */

void wad_model_line(wad_model *m, unsigned i, bool level)
{
    wad_sim *sim = m->sim;
    if (i >= m->block->inst->n_irqs)
        return;
    unsigned line = (unsigned)m->block->inst->irqs[i];
    wadi_line *l = &sim->lines[line];
    if (l->level == level)
        return;
    l->level = level;
    if (level) {
        l->raised_ps = sim->now;
        l->ever_raised = true;
    } else {
        l->falls++;
    }
    if (sim->irqc && sim->irqc->cls->line)
        sim->irqc->cls->line(sim->irqc, line, level);
}

void wad_model_asks(wad_model *m, unsigned i, bool on, bool stale)
{
    wad_sim *sim = m->sim;
    if (i >= m->block->inst->n_irqs || !on)
        return;
    unsigned line = (unsigned)m->block->inst->irqs[i];
    sim->lines[line].asked = true;
    wadi_race_enabled(sim, line);
    sim->lines[line].asked_trace = wadi_trace_here(sim);
    if (stale)
        wadi_report(sim, WAD_FINDING_STALE_FLAG, NULL,
                    "interrupt %u (%s) enabled while its flag is already set", line,
                    m->block->inst->name);
}
