/* SPDX-License-Identifier: MIT */
/* The core: what its time costs, when it looks up, sleep. */
#include "cpu.h"

#include "sheet/chip/c_name.h"

#include "advance.h"
#include "block.h"
#include "fault.h"
#include "interrupt.h"
#include "line.h"
#include "report.h"
#include "sleep.h"
#include "stop.h"

#include <string.h>

_Thread_local wad_sim *wadi_current;

/* ---- time spent ---- */

static void service(wad_sim *sim, bool needs_bus);

void wadi_cpu_spend(wad_sim *sim, uint64_t cycles)
{
    sim->call.count++;
    do { /* from event to event, so that an interrupt in the middle comes in the middle */
        const wad_event *e = sim->cpu.masked ? NULL : wadi_queue_first(&sim->queue);
        uint64_t part = cycles;
        if (e && e->ps > sim->now)
            part = MIN(part, (e->ps - sim->now) / sim->cost.cycle_ps + 1);
        wadi_cpu_advance(sim, part);
        service(sim, false); /* it computes */
        cycles -= part;
    } while (cycles);
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
    uint64_t until = sim->bus.until;
    sim->bus.waited += until - sim->now;
    sim->now = until;
    sim->bus.free_ps = until + sim->cost.access_ps;
    wadi_run_events(sim);
}

static void service(wad_sim *sim, bool needs_bus)
{
    wadi_run_events(sim);
    if (__builtin_expect(sim->look.asked, 0))
        wadi_look(sim);
    if (needs_bus && sim->bus.until > sim->now)
        wait_for_bus(sim);
    if (wadi_irq_deliverable(sim)) {
        /* what the firmware was doing is put back for the findings of the access that follows */
        uintptr_t pc = sim->call.pc;
        void *frame = sim->call.frame;
        wadi_irq_deliver(sim);
        sim->call.pc = pc;
        sim->call.frame = frame;
        if (sim->sleep.power && !sim->sleep.sleeping && sim->cpu.active_line == WADI_NO_LINE &&
            wadi_sleep_on_exit(sim))
            sleep_on(sim);
    }
    if (__builtin_expect(sim->cpu.saves != NULL, 0) && !sim->sleep.sleeping &&
        sim->cpu.active_line == WADI_NO_LINE && wadi_sleep_by_status(sim))
        sleep_on(sim);
    wadi_set_due(sim);
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
            sim->sleep.asleep_ps += e->ps - sim->now;
            if (sim->ears & WADI_EAR_ASLEEP)
                wadi_tell(sim, &(wadi_told){.ear = WADI_EAR_ASLEEP, .until_ps = e->ps});
        }
        sim->now = e->ps;
    }
    wadi_run_events(sim);
    if (__builtin_expect(sim->look.asked, 0))
        wadi_look(sim);
}

/* Pending and enabled ends it even where the mask keeps the handler from running. */
static void sleep_once(wad_sim *sim)
{
    if (sim->cpu.best_line != WADI_NO_LINE)
        return;
    wadi_sleep_enter(sim);
    while (sim->cpu.best_line == WADI_NO_LINE)
        skip_to_event(sim, true);
    wadi_sleep_leave(sim);
}

/* Where the core goes back to sleep after its handlers, main does not come back here. */
static void sleep_on(wad_sim *sim)
{
    bool outer = sim->sleep.sleeping;
    sim->sleep.sleeping = true;
    sim->sleep.put_back = 0;
    sim->sleep.put_back_ps = sim->now;
    sim->sleep.put_back_trace = wadi_trace_here(sim);
    for (;;) {
        sleep_once(sim);
        bool served = wadi_irq_deliverable(sim);
        wadi_cpu_service(sim);
        if (!served || sim->cpu.active_line != WADI_NO_LINE || !wadi_sleep_again(sim))
            break;
        sim->sleep.put_back++;
    }
    sim->sleep.put_back_most = MAX(sim->sleep.put_back_most, sim->sleep.put_back);
    sim->sleep.put_back = 0;
    sim->sleep.sleeping = outer;
}

void wadi_cpu_sleep(wad_sim *sim)
{
    if (sim->cpu.active_line != WADI_NO_LINE)
        wadi_tell(sim, &(wadi_told){.ear = WADI_EAR_DOZE, .line = sim->cpu.active_line});
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

void wadi_cpu_saved(wad_sim *sim, uint32_t clear, uint32_t set)
{
    uint32_t *saved = sim->cpu.saved;
    if (saved)
        *saved = (*saved & ~clear) | set;
    else
        wadi_run_stop(sim, WAD_RUN_CRASHED,
                      g_strdup("wad_cpu_saved changes what a handler's exit restores, on a core "
                               "that saves its status: no handler runs here, or the sheet has no "
                               "'cpu ... saves'"));
}

void wadi_cpu_reset(wad_sim *sim)
{
    sim->run.stands = false;
    sim->cpu.saved = NULL;
    sim->cpu.masked = true;
    sim->cpu.was_unmasked = false;
    sim->cpu.priority = UINT_MAX;
    sim->cpu.active_line = WADI_NO_LINE;
    sim->cpu.best_line = WADI_NO_LINE;
    sim->call.count = 0;
    sim->last_read.slot = NULL;
    sim->bus.until = sim->bus.free_ps = 0;
    for (unsigned i = 0; i < sim->sheet->n_vectors; i++) {
        const wadi_line *l = &sim->cpu.lines[i];
        sim->cpu.lines[i] =
            (wadi_line){.owner = l->owner,
                        .edge = l->edge,
                        .wanted_ps = l->wanted_ps,
                        .at_entry = l->at_entry,
                        .governed = l->governed,
                        .priority = l->priority,
                        .key = l->key,
                        .enabled_at_controller = sim->cpu.enabled[i / 64] >> i % 64 & 1,
                        .pending = l->pending,
                        .pending_mask = l->pending_mask};
    }
    memset(sim->cpu.asking, 0, sizeof sim->cpu.asking);
    wadi_cpu_set_core(sim);
}

void wad_sim_set_load(wad_sim *sim, unsigned percent)
{
    sim->run.load = MIN(percent, 95u);
}

uint64_t wad_sim_asleep(const wad_sim *sim, bool *now)
{
    *now = sim->sleep.asleep;
    return sim->sleep.asleep_ps;
}

void wad_sim_hold(wad_sim *sim, bool on)
{
    sim->host.looking_up += on ? 1 : -1;
}

void wadi_cpu_no_handler(wad_sim *sim, unsigned line)
{
    static const wadi_line unknown;
    if ((int)line == sim->sheet->cpu.bus_fault && sim->fault.story)
        wadi_bus_fault_unhandled(sim);
    const wadi_line *l = line < sim->sheet->n_vectors ? &sim->cpu.lines[line] : &unknown;
    char *handler = wadi_emit_handler(sim->sheet, line);
    wadi_report_at(sim, WAD_FINDING_NO_HANDLER, NULL, &l->asked_trace,
                   "interrupt %u of %s has no handler: the firmware defines neither %s nor "
                   "handle_vector_%u",
                   line, l->owner ? l->owner->inst->name : "nobody", handler, line);
    g_free(handler);
    wadi_cpu_idle(sim);
}
