/* SPDX-License-Identifier: MIT */
#include "line.h"

#include "block.h"
#include "cpu.h"
#include "model.h"
#include "report.h"

void wadi_line_enabled(wad_sim *sim, unsigned line)
{
    if (sim->ears & WADI_EAR_ENABLE)
        wadi_tell(sim, &(wadi_told){.ear = WADI_EAR_ENABLE, .line = line});
}

bool wadi_irq_deliverable(const wad_sim *sim)
{
    return !sim->cpu.masked && sim->cpu.best_line != WADI_NO_LINE &&
           sim->cpu.best_priority < sim->cpu.priority;
}

void wadi_cpu_recheck(wad_sim *sim)
{
    if (wadi_irq_deliverable(sim))
        sim->due = 0;
}

void wadi_line_enable(wad_sim *sim, unsigned line, bool on)
{
    uint64_t *word = &sim->cpu.enabled[line / 64], bit = UINT64_C(1) << line % 64;
    bool was = (*word & bit) != 0;
    *word = on ? *word | bit : *word & ~bit;
    sim->cpu.lines_on = sim->cpu.enabled[0];
    if (!on || line >= sim->sheet->n_vectors)
        return;
    sim->cpu.lines[line].enabled_at_controller = true;
    if (!was)
        wadi_line_enabled(sim, line);
}

void wadi_line_rank(wad_sim *sim, unsigned line, uint32_t priority, uint32_t key)
{
    if (line >= sim->sheet->n_vectors)
        return;
    sim->cpu.lines[line].priority = priority;
    sim->cpu.lines[line].key = key;
}

/* Of equal ones the lowest line goes first. */
void wadi_lines_choose(wad_sim *sim)
{
    sim->cpu.best_line = WADI_NO_LINE;
    for (unsigned w = 0; w * 64 < sim->sheet->n_vectors; w++)
        for (uint64_t set = sim->cpu.asking[w] & sim->cpu.enabled[w]; set; set &= set - 1) {
            unsigned line = w * 64 + (unsigned)__builtin_ctzll(set);
            uint32_t key = sim->cpu.lines[line].key;
            if (key >= sim->cpu.threshold ||
                (sim->cpu.best_line != WADI_NO_LINE && key >= sim->cpu.best_priority))
                continue;
            sim->cpu.best_line = line;
            sim->cpu.best_priority = key;
        }
    wadi_cpu_recheck(sim);
}

/* One line more, or one less: the others stand as they stood. */
static void choose_by(wad_sim *sim, unsigned line, bool asks)
{
    const wadi_line *l = &sim->cpu.lines[line];
    if (!asks) {
        if (sim->cpu.best_line == line)
            wadi_lines_choose(sim);
        return;
    }
    bool none = sim->cpu.best_line == WADI_NO_LINE;
    if (!(sim->cpu.enabled[line / 64] >> line % 64 & 1) || l->key >= sim->cpu.threshold ||
        (!none && (l->key > sim->cpu.best_priority ||
                   (l->key == sim->cpu.best_priority && line > sim->cpu.best_line))))
        return;
    sim->cpu.best_line = line;
    sim->cpu.best_priority = l->key;
    wadi_cpu_recheck(sim);
}

static inline void update_line(wad_sim *sim, unsigned line)
{
    wadi_line *l = &sim->cpu.lines[line];
    bool asks = l->forced || (l->edge ? l->noted : l->level);
    if (l->asks == asks)
        return;
    l->asks = asks;
    if (asks) {
        l->raised_ps = sim->now;
        l->ever_raised = true;
    }
    uint64_t bit = UINT64_C(1) << line % 64;
    uint64_t *word = &sim->cpu.asking[line / 64];
    *word = asks ? *word | bit : *word & ~bit;
    if (l->pending)
        wadi_slot_store(l->pending, asks ? l->pending->value | l->pending_mask
                                         : l->pending->value & ~l->pending_mask);
    choose_by(sim, line, asks);
}

void wadi_line_force(wad_sim *sim, unsigned line, bool on)
{
    if (line >= sim->sheet->n_vectors)
        return;
    sim->cpu.lines[line].forced = on;
    if (!on)
        sim->cpu.lines[line].noted = false;
    update_line(sim, line);
}

/* Hardware forgets the request that it serves: one by software, one by an edge, a flag that the
 * sheet says is cleared at entry. */
void wadi_forget_request(wad_sim *sim, unsigned line)
{
    wadi_line *l = &sim->cpu.lines[line];
    l->forced = l->noted = false;
    update_line(sim, line);
}

void wadi_line_feed(wad_sim *sim, unsigned line, bool on)
{
    wadi_line *l = &sim->cpu.lines[line];
    l->feeds += on ? 1 : UINT_MAX;
    bool level = l->feeds != 0;
    if (l->level == level)
        return;
    l->level = level;
    if (level)
        l->noted = l->edge;
    else
        l->falls++;
    update_line(sim, line);
}

void wadi_line_note(wad_sim *sim, unsigned line)
{
    wadi_line *l = &sim->cpu.lines[line];
    l->noted = true;
    l->falls++;
    update_line(sim, line);
}

void wadi_line_asked(wad_sim *sim, unsigned line, const char *owner, bool stale)
{
    sim->cpu.lines[line].asked = true;
    wadi_line_enabled(sim, line);
    sim->cpu.lines[line].asked_trace = wadi_trace_here(sim);
    if (stale)
        wadi_report(sim, WAD_FINDING_STALE_FLAG, NULL,
                    "interrupt %u (%s) enabled while its flag is already set", line, owner);
}
