/* SPDX-License-Identifier: MIT */
/* A run: the firmware on a stack of its own, from reset to the given time. */
#include <sys/mman.h>
#include <unistd.h>

#include "kinds/registry.h"
#include "sim/check/list.h"
#include "sim/check/resolve.h"
#include "sim/check/silence.h"
#include "sim/core/advance.h"
#include "sim/core/block.h"
#include "sim/core/bus.h"
#include "sim/core/clock.h"
#include "sim/core/controller.h"
#include "sim/core/cpu.h"
#include "sim/core/event.h"
#include "sim/core/feed.h"
#include "sim/core/fiber.h"
#include "sim/core/line.h"
#include "sim/core/pin.h"
#include "sim/core/report.h"
#include "sim/core/stop.h"
#include "sim/electric/charge.h"
#include "sim/electric/volt.h"
#include "sim/host/firmware.h"
#include "sim/host/guard.h"
#include "sim/host/source.h"

#ifndef MAP_FIXED_NOREPLACE
#define MAP_FIXED_NOREPLACE 0x100000
#endif

/* ---- the stack: below 4 GiB, an unmapped page under it ---- */

/* Where a stack may lie: below the firmware, away from the chip's own addresses. */
#define STACKS_FROM 0x10000000u
#define STACKS_TO   0x1F000000u

static bool is_chips(const wad_sheet *s, uint64_t from, uint64_t to)
{
    for (unsigned i = 0; i < s->n_blocks; i++)
        if (s->blocks[i]->base < to + 4096 &&
            from < s->blocks[i]->base + s->blocks[i]->layout->size + 4096)
            return true;
    return false;
}

static bool make_stack(wad_sim *sim, char **why)
{
    size_t page = (size_t)sysconf(_SC_PAGESIZE), size = WADI_STACK_SIZE + page;
    for (uintptr_t at = STACKS_FROM; at < STACKS_TO; at += 2 * WADI_STACK_SIZE) {
        if (is_chips(sim->sheet, at, at + size))
            continue;
        char *p = mmap((void *)at, size, PROT_READ | PROT_WRITE,
                       MAP_PRIVATE | MAP_ANONYMOUS | MAP_FIXED_NOREPLACE | MAP_NORESERVE, -1, 0);
        if (p == (char *)at) {
            mprotect(p, page, PROT_NONE);
            sim->host.stack = p;
            sim->host.stack_start = p + page;
            return true;
        }
        if (p != MAP_FAILED) /* a kernel that does not know the flag */
            munmap(p, size);
    }
    *why = g_strdup("no room below 4 GiB for the firmware's stack");
    return false;
}

static void free_stack(wad_sim *sim)
{
    if (sim->host.stack)
        munmap(sim->host.stack, WADI_STACK_SIZE + (size_t)sysconf(_SC_PAGESIZE));
}

/* ---- life ---- */

/* As a shift: several registers narrower than the bus may share one of its words. */
static unsigned narrowest_register(const wad_sheet *sheet)
{
    unsigned shift = 2;
    for (unsigned i = 0; i < sheet->n_blocks; i++)
        for (unsigned k = 0; k < sheet->blocks[i]->layout->n_regs; k++)
            shift = MIN(shift, wad_register_bytes(sheet->blocks[i]->layout->regs[k]) / 2);
    return shift;
}

wad_sim *wad_sim_new(const wad_sheet *sheet, char **why)
{
    *why = NULL;
    wad_sim *sim = g_new0(wad_sim, 1);
    sim->sheet = sheet;
    sim->host.host_limit_s = 10;
    sim->host.carrier = &wadi_host_carrier;
    sim->plain.align_mask = sheet->cpu.aligned ? sheet->bus_bits / 8u - 1 : 0;
    sim->word_shift = narrowest_register(sheet);
    sim->pages = g_new0(wadi_page *, WADI_PAGES(sim));
    sim->run.user_events = g_ptr_array_new_with_free_func(g_free);
    sim->told.silences = g_array_new(FALSE, FALSE, sizeof(wadi_silence));
    sim->cpu.lines = g_new0(wadi_line, sheet->n_vectors + 1);
    sim->cpu.threshold = UINT32_MAX;
    wadi_findings_reset(sim);
    if (!wadi_blocks_build(sim, why) || !make_stack(sim, why)) {
        wad_sim_free(sim);
        return NULL;
    }
    wadi_checkers_attach(sim);
    wadi_kinds_attach(sim);
    wadi_charge_attach(sim);
    for (unsigned i = 0; i < sheet->n_vectors; i++) {
        const wad_instance *owner = wad_sheet_irq_owner(sheet, i);
        sim->cpu.lines[i].owner = owner ? &sim->blocks[owner->index] : NULL;
        for (unsigned k = 0; owner && k < owner->n_irqs; k++)
            sim->cpu.lines[i].edge |= owner->irqs[k] == (int)i && owner->irq_edge[k];
    }
    return sim;
}

void wad_sim_free(wad_sim *sim)
{
    if (!sim)
        return;
    wadi_firmware_unload(sim);
    free_stack(sim);
    wadi_blocks_free(sim);
    wadi_pins_free(sim);
    wadi_findings_free(sim);
    g_ptr_array_free(sim->run.user_events, TRUE);
    if (sim->grids)
        g_array_free(sim->grids, TRUE);
    g_free(sim->clocks);
    g_free(sim->cpu.lines);
    g_free(sim->queue.heap);
    g_free(sim->run.story.text);
    g_free(sim->fault.story);
    wadi_analog_free(sim);
    wadi_detach_all(sim);
    wad_sim_clear_silences(sim);
    g_array_free(sim->told.silences, TRUE);
    if (sim->ends.spi)
        g_ptr_array_free(sim->ends.spi, TRUE);
    if (sim->ends.serial)
        g_array_free(sim->ends.serial, TRUE);
    if (sim->host.memories)
        g_array_free(sim->host.memories, TRUE);
    g_free(sim);
}

const wad_sheet *wad_sim_sheet(const wad_sim *sim)
{
    return sim->sheet;
}

uint64_t wad_sim_now(const wad_sim *sim)
{
    return sim->now;
}

void wad_sim_set_host_limit(wad_sim *sim, unsigned seconds)
{
    sim->host.host_limit_s = seconds;
}

/* ---- a run ---- */

/* The registers, the clocks, the core and the firmware's variables; not time, not the world. */
static void reset_chip(wad_sim *sim)
{
    wadi_tell(sim, &(wadi_told){.ear = WADI_EAR_RESET});
    sim->reset.resetting = true;
    wadi_blocks_reset(sim);
    sim->reset.resetting = false;
    sim->sleep.asleep = sim->sleep.sleeping = false;
    sim->sleep.put_back = sim->sleep.put_back_most = 0;
    wadi_tell(sim, &(wadi_told){.ear = WADI_EAR_STANDS, .line = WADI_NO_LINE});
    wadi_clocks_reset(sim);
    wadi_cpu_reset(sim);
    wadi_controller_reset(sim);
    wadi_feeds_reset(sim);
    wadi_blocks_begin(sim);
    wadi_firmware_restore(sim);
}

static void reset(wad_sim *sim)
{
    sim->now = 0;
    sim->reset.count = 0;
    g_clear_pointer(&sim->fault.story, g_free);
    sim->sleep.asleep_ps = 0;
    sim->bus.taken = sim->bus.waited = 0;
    sim->call.pc = 0;
    sim->call.frame = NULL;
    sim->plain.pending.bytes = 0;
    while (wadi_queue_first(&sim->queue))
        wadi_queue_remove(&sim->queue, wadi_queue_first(&sim->queue));
    sim->queue.order = 0;
    sim->due = UINT64_MAX;
    wadi_findings_reset(sim);
    wadi_pins_reset(sim);
    wadi_tell(sim, &(wadi_told){.ear = WADI_EAR_BEGIN});
    for (unsigned i = 0; i < sim->sheet->n_clocks; i++)
        sim->clocks[i].failed = false;
    reset_chip(sim);
}

static void on_end(wad_event *e)
{
    wad_sim *sim = (wad_sim *)((char *)e - offsetof(wad_sim, run.end_event));
    sim->now = e->ps;
    wadi_run_stop(sim, WAD_RUN_TIME, NULL);
}

void wad_sim_stop(wad_sim *sim)
{
    if (!sim->run.running)
        return;
    wadi_queue_remove(&sim->queue, &sim->run.end_event);
    wadi_schedule(sim, &sim->run.end_event, sim->now);
}

static void firmware_entry(void)
{
    wad_sim *sim = wadi_current;
    WADI_FIBER_ARRIVE(NULL, &wadi_host_stack, &wadi_host_stack_size);
    sim->host.fw.main_fn();
    wadi_flush(sim);
    sim->run.story.trace = (wadi_trace){{(uintptr_t)sim->host.fw.main_fn + 1}, 1, true};
    wadi_run_stop(sim, WAD_RUN_RETURNED,
                  g_strdup("main returned: a controller has nowhere to return to"));
}

static void enter_firmware(wad_sim *sim)
{
    size_t page = (size_t)sysconf(_SC_PAGESIZE);
    wad_sim *outer = wadi_current;
    getcontext(&sim->host.firmware_context);
    sim->host.firmware_context.uc_stack.ss_sp = sim->host.stack + page;
    sim->host.firmware_context.uc_stack.ss_size = WADI_STACK_SIZE;
    sim->host.firmware_context.uc_link = NULL;
    makecontext(&sim->host.firmware_context, firmware_entry, 0);
    wadi_current = sim;
    sim->run.running = true;
    void *fake = NULL;
    (void)fake;
    WADI_FIBER_LEAVE(&fake, sim->host.stack + page, WADI_STACK_SIZE);
    swapcontext(&sim->host.host_context, &sim->host.firmware_context);
    WADI_FIBER_ARRIVE(fake, NULL, NULL);
    wadi_current = outer;
}

static wad_run_result make_result(wad_sim *sim)
{
    wad_run_result r = {.end = sim->run.story.end,
                        .end_ps = sim->now,
                        .story = sim->run.story.text ? sim->run.story.text : "the time was up",
                        .awake_ps = sim->now - MIN(sim->sleep.asleep_ps, sim->now)};
    if (r.end != WAD_RUN_TIME && sim->run.story.trace.n)
        wadi_source_places(sim, &sim->run.story.trace, &r.place, 1);
    return r;
}

wad_run_result wad_sim_died(wad_sim *sim, const char *firmware, const wad_last_words *words,
                            const char *how)
{
    static const char *const when[] = {"after the run, by what it has written over",
                                       "while it was loaded", "in the run", "when it was let go"};
    const char *doing = when[words->busy > 0 && words->busy < 4 ? words->busy : 0];
    wadi_story *story = &sim->run.story;
    g_free(sim->host.fw.path);
    sim->host.fw.path = firmware ? g_canonicalize_filename(firmware, NULL) : NULL;
    g_free(story->text);
    story->text = g_strdup_printf("the firmware took its process down %s: %s%s%s", doing, how,
                                  *words->story ? "; " : "", words->story);
    story->end = WAD_RUN_CRASHED;
    sim->now = words->ps;
    for (story->trace.n = 0; story->trace.n < words->n && story->trace.n < WADI_TRACE;)
        story->trace.pc[story->trace.n] = words->pc[story->trace.n], story->trace.n++;
    return make_result(sim);
}

/* After a reset from inside the chip: main begins anew, time, world and findings go on. */
static void restart_chip(wad_sim *sim)
{
    sim->reset.count++;
    sim->plain.pending.bytes = 0;
    wadi_tell(sim, &(wadi_told){.ear = WADI_EAR_RESTART});
    sim->reset.by_chip = !sim->reset.power_cycle;
    sim->reset.power_cycle = false;
    reset_chip(sim);
    sim->reset.by_chip = false;
    if (!sim->cpu.core->domain.runs)
        return;
    wadi_cpu_recheck(sim);
}

wad_run_result wad_sim_run(wad_sim *sim, uint64_t end_ps)
{
    char *why = NULL;
    sim->run.story.trace.n = 0;
    if (!sim->host.fw.main_fn)
        why = g_strdup("no firmware is loaded");
    if (why || !wadi_guard_enter(sim, &why)) {
        g_free(sim->run.story.text);
        sim->run.story.text = why;
        return (wad_run_result){.end = WAD_RUN_DEAD, .story = why};
    }
    sim->run.end_ps = end_ps;
    sim->run.end_event.fn = on_end;
    reset(sim);
    if (!sim->cpu.core->domain.runs) {
        wadi_guard_leave(sim);
        return (wad_run_result){.end = WAD_RUN_DEAD, .story = "the core has no clock after reset"};
    }
    wadi_pins_announce(sim);
    wadi_analog_announce(sim);
    wadi_tell(sim, &(wadi_told){.ear = WADI_EAR_CLOCKS});
    wadi_tell(sim, &(wadi_told){.ear = WADI_EAR_START});
    wadi_user_events_begin(sim);
    wadi_schedule(sim, &sim->run.end_event, end_ps);
    wadi_guard_busy(WAD_BUSY_RUNNING);
    do {
        sim->reset.restart = false;
        enter_firmware(sim);
        if (sim->reset.restart)
            restart_chip(sim);
    } while (sim->reset.restart);
    wadi_guard_busy(0);
    wadi_guard_leave(sim);
    sim->call.pc = 0;
    wadi_tell(sim, &(wadi_told){.ear = WADI_EAR_END});
    wadi_findings_resolve(sim);
    return make_result(sim);
}
