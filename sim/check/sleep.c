/* SPDX-License-Identifier: MIT */
/* What is wrong with a sleep: nothing can end it, it breaks something off, it is slept through. */
#include <string.h>

#include "list.h"
#include "sim/core/block.h"
#include "sim/core/clock.h"
#include "sim/core/line.h"
#include "sim/core/model.h"
#include "sim/core/report.h"
#include "sim/core/sim.h"
#include "sim/host/source.h"

typedef struct nap {
    uintptr_t seen; /* where the last one was looked at */
    bool *busy;     /* by block: it was, before the clocks stopped */
} nap;

static bool can_wake(const wad_sim *sim, unsigned line)
{
    const wadi_line *l = &sim->cpu.lines[line];
    const wadi_block *owner = l->owner;
    if (!owner || !l->asked || !(sim->cpu.lines_on >> (line & 63) & 1))
        return false;
    bool pins = owner->inst->n_carries != 0; /* their edges need no clock */
    return pins || !(owner->blocked & (WADI_BLOCKED_CLOCK | WADI_BLOCKED_GATE));
}

static const char *stopped_clock(const wadi_block *block)
{
    return block->clock ? block->clock->def->name : "core";
}

/* Is there anything left that could end this sleep? */
static void check_wakers(wad_sim *sim, const wad_sleep_def *level)
{
    const wadi_line *frozen = NULL;
    for (unsigned i = 0; i < sim->sheet->n_vectors; i++) {
        const wadi_line *l = &sim->cpu.lines[i];
        if (can_wake(sim, i))
            return;
        if (l->asked && l->owner && sim->cpu.lines_on >> (i & 63) & 1 &&
            l->owner->blocked & WADI_BLOCKED_CLOCK)
            frozen = l;
    }
    if (frozen)
        wadi_report(
            sim, WAD_FINDING_SLEEP_STOPS, NULL,
            "sleep '%s' waits for an interrupt of %s, whose clock '%s' stops in it: nothing "
            "can end it",
            level->name, frozen->owner->inst->name, stopped_clock(frozen->owner));
}

/* Before the clocks stop: does something go on that they would break off? */
static void check_busy(wad_sim *sim, bool *busy)
{
    for (unsigned i = 0; i < sim->sheet->n_blocks; i++) {
        const wadi_block *b = &sim->blocks[i];
        busy[i] = !b->blocked && b->model && b->model->cls->busy && b->model->cls->busy(b->model);
    }
}

static void report_cut(wad_sim *sim, const wad_sleep_def *level, const bool *busy)
{
    for (unsigned i = 0; i < sim->sheet->n_blocks; i++)
        if (busy[i] && sim->blocks[i].blocked & WADI_BLOCKED_CLOCK)
            wadi_report(sim, WAD_FINDING_SLEEP_STOPS, NULL,
                        "%s is busy, and its clock '%s' stops in sleep '%s': what it does breaks "
                        "off",
                        sim->blocks[i].inst->name, stopped_clock(&sim->blocks[i]), level->name);
}

/* `while (!flag) sleep();` with interrupts open: the request may come between the look and the
 * sleep, and nothing comes after it. Whether the sleep hangs on a flag, the source says. */
static bool is_guarded(const char *line)
{
    const char *at = strstr(line, "while (!");
    if (!at)
        at = strstr(line, "if (!");
    if (!at)
        return false;
    at = strchr(at, '!') + 1;
    return !strchr(at, '('); /* what a function says may be more than a flag */
}

static void check_lost(wad_sim *sim, nap *s)
{
    wadi_trace here = wadi_trace_here(sim);
    if (sim->cpu.masked || sim->cpu.active_line != WADI_NO_LINE ||
        (s->seen && s->seen == sim->call.pc))
        return;
    s->seen = sim->call.pc; /* looked up once in a row: files are read for it */
    char *lines[3];
    unsigned n = wadi_source_before(sim, &here, lines, 3);
    bool guarded = false;
    for (unsigned i = 0; i < n; i++) { /* the line itself first; a block's end ends the search */
        if (i && strchr(lines[i], '}'))
            break;
        if (i && strchr(lines[i], ';') && !strstr(lines[i], "for ("))
            break;
        guarded = guarded || is_guarded(lines[i]);
    }
    for (unsigned i = 0; i < n; i++)
        g_free(lines[i]);
    if (guarded)
        wadi_report(sim, WAD_FINDING_WAKE_LOST, NULL,
                    "the sleep hangs on a condition, and interrupts are open: one that comes "
                    "between the look and the sleep wakes nobody");
}

/* `for (;;) sleep();` is a main that leaves all to its handlers; anything else waits to go on. */
static bool loops_for_ever(wad_sim *sim, const wadi_trace *trace)
{
    char *lines[3];
    unsigned n = wadi_source_before(sim, trace, lines, 3);
    bool found = false;
    for (unsigned i = 0; i < n; i++) {
        found = found || strstr(lines[i], "for (;;)") || strstr(lines[i], "while (1)") ||
                strstr(lines[i], "while (true)");
        g_free(lines[i]);
    }
    char *next = wadi_source_after(sim, trace);
    bool alone = !next || strchr(next, '}');
    g_free(next);
    return found && alone;
}

#define OFTEN 2 /* handlers that ran, and main did not go on */

static void at_end(wad_sim *sim)
{
    /* what main has waited for before and then got is no finding */
    uint64_t usual = 4 * sim->sleep.put_back_most;
    if (sim->run.story.end != WAD_RUN_TIME || sim->sleep.put_back < MAX(OFTEN, usual) ||
        !sim->sleep.put_back_trace.n || loops_for_ever(sim, &sim->sleep.put_back_trace))
        return;
    wadi_report_at(sim, WAD_FINDING_NEVER_RESUMES, NULL, &sim->sleep.put_back_trace,
                   "main has slept here since %.6g ms: %llu handlers ran, and after each the core "
                   "went back to sleep",
                   (double)sim->sleep.put_back_ps / 1e9, (unsigned long long)sim->sleep.put_back);
}

static void hear_sleep(wad_sim *sim, nap *s, const wadi_told *t)
{
    if (t->phase == WADI_SLEEP_BEGINS) {
        check_lost(sim, s);
        return;
    }
    const wad_sleep_def *level = &sim->sheet->sleeps[t->value];
    if (t->phase == WADI_SLEEP_STOPS) {
        if (!s->busy)
            s->busy = g_new0(bool, sim->sheet->n_blocks + 1);
        check_busy(sim, s->busy);
    } else {
        report_cut(sim, level, s->busy);
        check_wakers(sim, level);
    }
}

static void hear(wadi_observer *o, const wadi_told *t)
{
    nap *s = o->state;
    if (t->ear == WADI_EAR_SLEEP)
        hear_sleep(o->sim, s, t);
    else if (t->ear == WADI_EAR_RESET)
        s->seen = 0;
    else
        at_end(o->sim);
}

static void detach(wadi_observer *o)
{
    g_free(((nap *)o->state)->busy);
}

const wadi_observer_class wadi_check_sleep = {
    .name = "sleep",
    .standing = WADI_EAR_SLEEP | WADI_EAR_RESET | WADI_EAR_END,
    .state_size = sizeof(nap),
    .detach = detach,
    .hear = hear,
};
