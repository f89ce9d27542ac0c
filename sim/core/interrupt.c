/* SPDX-License-Identifier: MIT */
/* Interrupts: lines that ask, which one the core takes, what its handler leaves behind. */
#include "interrupt.h"

#include "block.h"
#include "cpu.h"
#include "fault.h"
#include "line.h"
#include "model.h"
#include "report.h"
#include "sim/check/habit.h"
#include "sim/check/latency.h"
#include "sim/check/race.h"
#include "sim/host/firmware.h"
#include "sim/host/plain.h"

/* ---- lines ---- */

static void update_line(wad_sim *sim, unsigned line)
{
    wadi_line *l = &sim->lines[line];
    bool asks = l->forced || (l->edge ? l->noted : l->level);
    if (l->asks == asks)
        return;
    l->asks = asks;
    if (asks) {
        l->raised_ps = sim->now;
        l->ever_raised = true;
    }
    if (sim->irqc && sim->irqc->cls->line)
        sim->irqc->cls->line(sim->irqc, line, asks);
}

void wadi_line_force(wad_sim *sim, unsigned line, bool on)
{
    if (line >= sim->sheet->n_vectors)
        return;
    sim->lines[line].forced = on;
    if (!on)
        sim->lines[line].noted = false;
    update_line(sim, line);
}

/* Hardware forgets the request that it serves: one by software, one by an edge, a flag that the
 * sheet says is cleared at entry. */
static void forget_request(wad_sim *sim, unsigned line)
{
    wadi_line *l = &sim->lines[line];
    l->forced = l->noted = false;
    if (l->owner && l->owner->at_entry)
        wadi_block_entered(l->owner);
    update_line(sim, line);
}

/* ---- handlers ---- */

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
    if (!l->level || l->edge || l->falls != falls)
        return;
    wadi_trace trace = {{(uintptr_t)handler + 1}, 1, true};
    wad_model *owner = l->owner ? l->owner->model : NULL;
    if (owner && owner->cls->still_asks && owner->cls->still_asks(owner, (uintptr_t)handler))
        return;
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
    l->again = l->asks && l->falls != falls ? l->again + 1 : 0;
    if (l->again < AGAIN)
        return;
    wadi_trace trace = {{(uintptr_t)handler + 1}, 1, true};
    wadi_report_at(sim, WAD_FINDING_SLOW_HANDLER, NULL, &trace,
                   "the handler of interrupt %u (%s) took %.3f us, and the next request had come "
                   "meanwhile, %u times in a row",
                   line, l->owner ? l->owner->inst->name : "?",
                   (double)(record->left_ps - record->entered_ps) / 1e6, l->again);
}

/* ---- services ---- */

void wadi_irq_take(wad_sim *sim, wadi_service *s)
{
    unsigned line = sim->best_line;
    *s = (wadi_service){
        sim->priority, sim->active_line, {line, sim->lines[line].raised_ps, sim->now, 0}};
    sim->priority = sim->best_priority;
    sim->active_line = line;
    sim->lines[line].served = true;
    wadi_latency_entered(sim, &s->record);
    tell(sim, &s->record);
    sim->last_read.slot = NULL;
    wadi_handler_entered(sim);
}

void wadi_irq_forget(wad_sim *sim, const wadi_service *s)
{
    forget_request(sim, s->record.line);
}

void wadi_irq_leave(wad_sim *sim, wadi_service *s)
{
    s->record.left_ps = sim->now;
    tell(sim, &s->record);
    sim->priority = s->outer_priority;
    sim->active_line = s->outer_line;
    sim->last_read.slot = NULL;
}

/* One handler, from its first instruction to its last. */
static void serve(wad_sim *sim)
{
    unsigned line = sim->best_line;
    wadi_service service;
    wad_handler handler = wadi_firmware_handler(sim, line);
    wadi_irq_take(sim, &service);
    unsigned falls = sim->lines[line].falls;
    wadi_irq_forget(sim, &service);
    if (!handler)
        wadi_cpu_no_handler(sim, line);
    wadi_cpu_recheck(sim);
    if (sim->race)
        wadi_race_enter(sim, line);
    handler();
    wadi_plain_flush(sim); /* the handler's last write */
    if (sim->race)
        wadi_race_leave(sim);
    service.record.left_ps = sim->now;
    check_storm(sim, line, falls, handler);
    check_period(sim, line, falls, handler, &service.record);
    wadi_latency_left(sim, &service.record, handler);
    wadi_irq_leave(sim, &service);
}

bool wadi_irq_deliverable(const wad_sim *sim)
{
    return !sim->masked && sim->best_line != WADI_NO_LINE && sim->best_priority < sim->priority;
}

/*
 * The line is chosen when the entry is over: a more urgent one that comes meanwhile goes first.
 * From one handler to the next that waits the core neither leaves nor enters again.
 */
void wadi_irq_deliver(wad_sim *sim)
{
    while (wadi_irq_deliverable(sim)) {
        wadi_cpu_advance(sim, sim->sheet->cpu.interrupt_entry);
        while (wadi_irq_deliverable(sim)) {
            serve(sim);
            if (wadi_irq_deliverable(sim))
                wadi_cpu_advance(sim, sim->sheet->cpu.interrupt_chain);
        }
        wadi_cpu_advance(sim, sim->sheet->cpu.interrupt_exit);
    }
}

void wadi_cpu_recheck(wad_sim *sim)
{
    if (wadi_irq_deliverable(sim))
        sim->due = 0;
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
    if (level)
        l->noted = l->edge;
    else
        l->falls++;
    update_line(sim, line);
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
