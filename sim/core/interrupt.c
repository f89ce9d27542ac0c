/* SPDX-License-Identifier: MIT */
/* Interrupts: lines that ask, which one the core takes, what its handler leaves behind. */
#include "interrupt.h"

#include "advance.h"
#include "controller.h"
#include "cpu.h"
#include "feed.h"
#include "happen.h"
#include "line.h"
#include "model.h"

static void tell(wad_sim *sim, wadi_ear ear, const wad_irq_record *record)
{
    wadi_tell(sim, &(wadi_told){.ear = ear, .line = record->line, .record = record});
}

/* ---- services ---- */

void wadi_irq_take(wad_sim *sim, wadi_service *s)
{
    unsigned line = sim->cpu.best_line;
    *s = (wadi_service){sim->cpu.priority,
                        sim->cpu.active_line,
                        {line, sim->cpu.lines[line].raised_ps, sim->now, 0},
                        0,
                        NULL};
    sim->cpu.priority = sim->sheet->cpu.nests == WAD_NESTS_NEVER    ? 0
                        : sim->sheet->cpu.nests == WAD_NESTS_ALWAYS ? UINT_MAX
                                                                    : sim->cpu.best_priority;
    sim->cpu.active_line = line;
    sim->cpu.lines[line].served = true;
    tell(sim, WADI_EAR_ENTER, &s->record);
    sim->last_read.slot = NULL;
}

static void save_status(wad_sim *sim, wadi_service *s)
{
    s->saved = sim->cpu.saves->value;
    s->outer_saved = sim->cpu.saved;
    sim->cpu.saved = &s->saved;
}

/* With what the handler has made of it. */
static void restore_status(wad_sim *sim, const wadi_service *s)
{
    wadi_slot *slot = sim->cpu.saves;
    wad_write w = {0, slot->reg, slot->index, slot->value, s->saved, s->saved};
    sim->cpu.saved = s->outer_saved;
    wadi_slot_store(slot, w.after);
    wadi_tell_models(slot, &w);
}

/* What the core and the sheet's hooks do at an entry, and at an exit. */
static void enter(wad_sim *sim, wadi_service *s)
{
    if (sim->cpu.saves)
        save_status(sim, s);
    wadi_cpu_write(sim, sim->cpu.entry);
    wadi_line_happened(sim, s->record.line, WAD_EVENT_ENTRY);
}

static void leave(wad_sim *sim, const wadi_service *s)
{
    if (sim->cpu.saves)
        restore_status(sim, s);
    wadi_cpu_write(sim, sim->cpu.exit);
    wadi_line_happened(sim, s->record.line, WAD_EVENT_EXIT);
}

void wadi_irq_forget(wad_sim *sim, wadi_service *s)
{
    if (sim->cpu.lines[s->record.line].at_entry)
        wadi_feeds_entered(sim, s->record.line);
    wadi_forget_request(sim, s->record.line);
    if (__builtin_expect(sim->cpu.steps, 0))
        enter(sim, s);
    wadi_settle(sim);
}

void wadi_irq_leave(wad_sim *sim, wadi_service *s)
{
    s->record.left_ps = sim->now;
    if (__builtin_expect(sim->cpu.steps, 0))
        leave(sim, s);
    if (sim->ears & WADI_EAR_LEAVE)
        tell(sim, WADI_EAR_LEAVE, &s->record);
    sim->cpu.priority = s->outer_priority;
    sim->cpu.active_line = s->outer_line;
    sim->last_read.slot = NULL;
    wadi_settle(sim);
}

/* One handler, from its first instruction to its last. */
static void serve(wad_sim *sim)
{
    unsigned line = sim->cpu.best_line;
    wadi_service service;
    wad_handler handler = sim->host.carrier->handler(sim, line);
    wadi_irq_take(sim, &service);
    unsigned falls = sim->cpu.lines[line].falls;
    wadi_irq_forget(sim, &service);
    if (!handler) {
        sim->host.carrier->unhandled(sim, line); /* parks there */
        return;
    }
    wadi_cpu_recheck(sim);
    if (sim->ears & WADI_EAR_CALL)
        tell(sim, WADI_EAR_CALL, &service.record);
    handler();
    wadi_flush(sim); /* the handler's last write */
    service.record.left_ps = sim->now;
    wadi_tell(sim, &(wadi_told){.ear = WADI_EAR_RETURN,
                                .line = line,
                                .falls = falls,
                                .handler = handler,
                                .record = &service.record});
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
