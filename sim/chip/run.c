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
#include "sim/core/cpu.h"
#include "sim/core/event.h"
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
            sim->stack = p;
            sim->stack_start = p + page;
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
    if (sim->stack)
        munmap(sim->stack, WADI_STACK_SIZE + (size_t)sysconf(_SC_PAGESIZE));
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
    if (sheet->big_endian) {
        *why = g_strdup_printf("%s has a big-endian bus, which the simulator does not know yet",
                               sheet->name);
        return NULL;
    }
    wad_sim *sim = g_new0(wad_sim, 1);
    sim->sheet = sheet;
    sim->host_limit_s = 10;
    sim->carrier = &wadi_host_carrier;
    sim->align_mask = sheet->cpu.aligned ? sheet->bus_bits / 8u - 1 : 0;
    sim->word_shift = narrowest_register(sheet);
    sim->pages = g_new0(wadi_page *, WADI_PAGES(sim));
    sim->user_events = g_ptr_array_new_with_free_func(g_free);
    sim->silences = g_array_new(FALSE, FALSE, sizeof(wadi_silence));
    sim->lines = g_new0(wadi_line, sheet->n_vectors + 1);
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
        sim->lines[i].owner = owner ? &sim->blocks[owner->index] : NULL;
        for (unsigned k = 0; owner && k < owner->n_irqs; k++)
            sim->lines[i].edge |= owner->irqs[k] == (int)i && owner->irq_edge[k];
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
    g_ptr_array_free(sim->user_events, TRUE);
    if (sim->grids)
        g_array_free(sim->grids, TRUE);
    g_free(sim->clocks);
    g_free(sim->lines);
    g_free(sim->queue.heap);
    g_free(sim->story.text);
    g_free(sim->fault_story);
    wadi_analog_free(sim);
    wadi_detach_all(sim);
    wad_sim_clear_silences(sim);
    g_array_free(sim->silences, TRUE);
    if (sim->spi_ends)
        g_ptr_array_free(sim->spi_ends, TRUE);
    if (sim->serial_ends)
        g_array_free(sim->serial_ends, TRUE);
    if (sim->memories)
        g_array_free(sim->memories, TRUE);
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
    sim->host_limit_s = seconds;
}

/* ---- a run ---- */

/* The registers, the clocks, the core and the firmware's variables; not time, not the world. */
static void reset_chip(wad_sim *sim)
{
    wadi_tell(sim, &(wadi_told){.ear = WADI_EAR_RESET});
    sim->resetting = true;
    wadi_blocks_reset(sim);
    sim->resetting = false;
    sim->asleep = sim->sleeping = false;
    sim->put_back = sim->put_back_most = 0;
    wadi_tell(sim, &(wadi_told){.ear = WADI_EAR_STANDS, .line = WADI_NO_LINE});
    wadi_clocks_reset(sim);
    wadi_cpu_reset(sim);
    wadi_firmware_restore(sim);
}

static void reset(wad_sim *sim)
{
    sim->now = 0;
    sim->resets = 0;
    g_clear_pointer(&sim->fault_story, g_free);
    sim->asleep_ps = 0;
    sim->bus_taken = sim->bus_waited = 0;
    sim->pc = 0;
    sim->frame = NULL;
    sim->pending.bytes = 0;
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
    wad_sim *sim = (wad_sim *)((char *)e - offsetof(wad_sim, end_event));
    sim->now = e->ps;
    wadi_run_stop(sim, WAD_RUN_TIME, NULL);
}

void wad_sim_stop(wad_sim *sim)
{
    if (!sim->running)
        return;
    wadi_queue_remove(&sim->queue, &sim->end_event);
    wadi_schedule(sim, &sim->end_event, sim->now);
}

static void firmware_entry(void)
{
    wad_sim *sim = wadi_current;
    WADI_FIBER_ARRIVE(NULL, &wadi_host_stack, &wadi_host_stack_size);
    sim->fw.main_fn();
    wadi_flush(sim);
    sim->story.trace = (wadi_trace){{(uintptr_t)sim->fw.main_fn + 1}, 1, true};
    wadi_run_stop(sim, WAD_RUN_RETURNED,
                  g_strdup("main returned: a controller has nowhere to return to"));
}

static void enter_firmware(wad_sim *sim)
{
    size_t page = (size_t)sysconf(_SC_PAGESIZE);
    wad_sim *outer = wadi_current;
    getcontext(&sim->firmware_context);
    sim->firmware_context.uc_stack.ss_sp = sim->stack + page;
    sim->firmware_context.uc_stack.ss_size = WADI_STACK_SIZE;
    sim->firmware_context.uc_link = NULL;
    makecontext(&sim->firmware_context, firmware_entry, 0);
    wadi_current = sim;
    sim->running = true;
    void *fake = NULL;
    (void)fake;
    WADI_FIBER_LEAVE(&fake, sim->stack + page, WADI_STACK_SIZE);
    swapcontext(&sim->host_context, &sim->firmware_context);
    WADI_FIBER_ARRIVE(fake, NULL, NULL);
    wadi_current = outer;
}

static wad_run_result make_result(wad_sim *sim)
{
    wad_run_result r = {.end = sim->story.end,
                        .end_ps = sim->now,
                        .story = sim->story.text ? sim->story.text : "the time was up",
                        .awake_ps = sim->now - MIN(sim->asleep_ps, sim->now)};
    if (r.end != WAD_RUN_TIME && sim->story.trace.n)
        wadi_source_places(sim, &sim->story.trace, &r.place, 1);
    return r;
}

wad_run_result wad_sim_died(wad_sim *sim, const char *firmware, const wad_last_words *words,
                            const char *how)
{
    static const char *const when[] = {"after the run, by what it has written over",
                                       "while it was loaded", "in the run", "when it was let go"};
    const char *doing = when[words->busy > 0 && words->busy < 4 ? words->busy : 0];
    wadi_story *story = &sim->story;
    g_free(sim->fw.path);
    sim->fw.path = firmware ? g_canonicalize_filename(firmware, NULL) : NULL;
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
    sim->resets++;
    sim->pending.bytes = 0;
    wadi_tell(sim, &(wadi_told){.ear = WADI_EAR_RESTART});
    sim->chip_reset = !sim->power_cycle;
    sim->power_cycle = false;
    reset_chip(sim);
    sim->chip_reset = false;
    if (!sim->core->domain.runs)
        return;
    wadi_cpu_recheck(sim);
}

wad_run_result wad_sim_run(wad_sim *sim, uint64_t end_ps)
{
    char *why = NULL;
    sim->story.trace.n = 0;
    if (!sim->fw.main_fn)
        why = g_strdup("no firmware is loaded");
    if (why || !wadi_guard_enter(sim, &why)) {
        g_free(sim->story.text);
        sim->story.text = why;
        return (wad_run_result){.end = WAD_RUN_DEAD, .story = why};
    }
    sim->end_ps = end_ps;
    sim->end_event.fn = on_end;
    reset(sim);
    if (!sim->core->domain.runs) {
        wadi_guard_leave(sim);
        return (wad_run_result){.end = WAD_RUN_DEAD, .story = "the core has no clock after reset"};
    }
    wadi_pins_announce(sim);
    wadi_analog_announce(sim);
    wadi_tell(sim, &(wadi_told){.ear = WADI_EAR_CLOCKS});
    wadi_tell(sim, &(wadi_told){.ear = WADI_EAR_START});
    wadi_user_events_begin(sim);
    wadi_schedule(sim, &sim->end_event, end_ps);
    wadi_guard_busy(WAD_BUSY_RUNNING);
    do {
        sim->restart = false;
        enter_firmware(sim);
        if (sim->restart)
            restart_chip(sim);
    } while (sim->restart);
    wadi_guard_busy(0);
    wadi_guard_leave(sim);
    sim->pc = 0;
    wadi_tell(sim, &(wadi_told){.ear = WADI_EAR_END});
    wadi_findings_resolve(sim);
    return make_result(sim);
}
