/* SPDX-License-Identifier: MIT */
/*
 * Sleep: how deep, what stops, the way back, and both habits of silicon: a core that stays awake
 * after a handler, and one that goes back to sleep unless it is told otherwise.
 */
#include "sleep.h"

#include <string.h>

#include "advance.h"
#include "block.h"
#include "clock.h"
#include "lang/rational.h"
#include "line.h"
#include "model.h"
#include "report.h"
#include "sim.h"
#include "sim/electric/charge.h"
#include "sim/host/source.h"
#include "wadium/kinds.h"

enum {
#define ROLE(name, sort, need, text) ROLE_##name,
    WAD_ROLES_POWER(ROLE)
#undef ROLE
};

/* The last level whose condition holds; the one without any is for all other cases. */
static int level_now(const wad_sim *sim)
{
    int level = -1;
    for (unsigned i = 0; i < sim->sheet->n_sleeps; i++) {
        const wad_sleep_def *l = &sim->sheet->sleeps[i];
        if (l->when.n ? wadi_clock_cond_holds(sim, &l->when) : level < 0)
            level = (int)i;
    }
    return level;
}

/* ---- what is wrong with a sleep that begins ---- */

static bool can_wake(const wad_sim *sim, unsigned line)
{
    const wadi_line *l = &sim->lines[line];
    const wadi_block *owner = l->owner;
    if (!owner || !l->asked || !(sim->lines_on >> (line & 63) & 1))
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
        const wadi_line *l = &sim->lines[i];
        if (can_wake(sim, i))
            return;
        if (l->asked && l->owner && sim->lines_on >> (i & 63) & 1 &&
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

static void check_lost(wad_sim *sim)
{
    wadi_trace here = wadi_trace_here(sim);
    if (sim->masked || sim->active_line != WADI_NO_LINE ||
        (sim->sleep_seen && sim->sleep_seen == sim->pc))
        return;
    sim->sleep_seen = sim->pc; /* looked up once in a row: files are read for it */
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

/* ---- the sleep itself ---- */

void wadi_sleep_enter(wad_sim *sim)
{
    int n = level_now(sim);
    check_lost(sim);
    sim->asleep = true;
    sim->sleep_level = n;
    if (sim->power && wad_model_has(sim->power, ROLE_stay))
        wad_model_put(sim->power, ROLE_stay, 0, 0);
    wadi_charge_sleeps(sim);
    if (n < 0 || !sim->sheet->sleeps[n].n_stops)
        return;
    const wad_sleep_def *level = &sim->sheet->sleeps[n];
    bool *busy = g_new0(bool, sim->sheet->n_blocks + 1);
    check_busy(sim, busy);
    wadi_clocks_halt(sim, level, true);
    report_cut(sim, level, busy);
    g_free(busy);
    check_wakers(sim, level);
}

void wadi_sleep_leave(wad_sim *sim)
{
    int n = sim->sleep_level;
    wadi_charge_wakes(sim, sim->best_line);
    if (n >= 0) {
        const wad_sleep_def *level = &sim->sheet->sleeps[n];
        wadi_cpu_let_pass(sim, (uint64_t)(wadi_rat_double(level->wake_s) * 1e12 + 0.5));
        if (level->n_stops)
            wadi_clocks_halt(sim, level, false);
    }
    sim->asleep = false;
}

bool wadi_sleep_again(wad_sim *sim)
{
    const wad_model *m = sim->power;
    if (m && wad_model_has(m, ROLE_again))
        return wad_model_get(m, ROLE_again, 0) != 0;
    if (sim->sleep_level < 0 || !sim->sheet->sleeps[sim->sleep_level].again)
        return false;
    return !m || !wad_model_has(m, ROLE_stay) || !wad_model_get(m, ROLE_stay, 0);
}

bool wadi_sleep_on_exit(const wad_sim *sim)
{
    return wad_model_has(sim->power, ROLE_again) && wad_model_get(sim->power, ROLE_again, 0);
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

void wadi_sleep_at_end(wad_sim *sim)
{
    /* what main has waited for before and then got is no finding */
    uint64_t usual = 4 * sim->put_back_most;
    if (sim->put_back < MAX(OFTEN, usual) || !sim->put_back_trace.n ||
        loops_for_ever(sim, &sim->put_back_trace))
        return;
    wadi_report_at(sim, WAD_FINDING_NEVER_RESUMES, NULL, &sim->put_back_trace,
                   "main has slept here since %.6g ms: %llu handlers ran, and after each the core "
                   "went back to sleep",
                   (double)sim->put_back_ps / 1e9, (unsigned long long)sim->put_back);
}
