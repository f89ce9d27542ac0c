/* SPDX-License-Identifier: MIT */
/*
 * Running values of several registers that nothing holds together while they are read. High and
 * low, each read once, are two moments: a carry in between gives a value that never was. Reading
 * the first one again right after the second is how one knows; who does not is told, whether it
 * went wrong this time or not.
 */
#include "split.h"

#include "sim/core/register.h"
#include "sim/core/report.h"
#include "sim/core/sim.h"

#define SOON 64 /* accesses: a second look comes at once, or it is another reading */

static void report(wad_sim *sim)
{
    char *first = wadi_slot_name(sim->split.first), *second = wadi_slot_name(sim->split.second);
    wadi_report_at(sim, WAD_FINDING_SPLIT_READ, sim->split.second, &sim->split.trace,
                   "%s and %s run on between the two reads, and %s was not read again", first,
                   second, first);
    g_free(first);
    g_free(second);
    sim->split.first = sim->split.second = NULL;
}

void wadi_split_read(wad_sim *sim, const wadi_slot *slot)
{
    bool soon = sim->now - sim->split.ps <= SOON * (sim->access_ps + 1);
    if (sim->split.second && !(soon && slot == sim->split.first))
        report(sim);
    sim->split.ps = sim->now;
    if (sim->split.second) { /* looked again */
        sim->split.second = NULL;
        return;
    }
    if (soon && sim->split.first && sim->split.first != slot &&
        sim->split.first->block == slot->block) {
        sim->split.second = slot;
        sim->split.trace = wadi_trace_here(sim);
        return;
    }
    sim->split.first = slot;
}

/* Cut off right behind the two reads, the firmware may have been about to look again. */
void wadi_split_end(wad_sim *sim)
{
    if (sim->split.second && sim->now - sim->split.ps > SOON * (sim->access_ps + 1))
        report(sim);
    sim->split.first = NULL;
}
