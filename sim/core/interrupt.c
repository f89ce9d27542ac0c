/* SPDX-License-Identifier: MIT */
/* Interrupts: lines that ask, which one the core takes, what its handler leaves behind. */
#include "interrupt.h"

#include "advance.h"
#include "cpu.h"
#include "line.h"
#include "sim/check/habit.h"
#include "sim/check/handler.h"
#include "sim/check/latency.h"
#include "sim/check/race.h"
#include "sim/host/firmware.h"
#include "sim/host/plain.h"

/* ---- handlers ---- */

static void tell(wad_sim *sim, const wad_irq_record *record)
{
    for (guint i = 0; i < sim->irq_watches->len; i++) {
        const wadi_irq_watch *w = &g_array_index(sim->irq_watches, wadi_irq_watch, i);
        w->fn(w->ctx, record);
    }
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
    wadi_forget_request(sim, s->record.line);
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
    wadi_check_storm(sim, line, falls, handler);
    wadi_check_period(sim, line, falls, handler, &service.record);
    wadi_latency_left(sim, &service.record, handler);
    wadi_irq_leave(sim, &service);
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

void wad_sim_watch_irq(wad_sim *sim, wad_irq_fn fn, void *ctx)
{
    wadi_irq_watch w = {fn, ctx};
    g_array_append_val(sim->irq_watches, w);
}
