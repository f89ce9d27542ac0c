/* SPDX-License-Identifier: MIT */
/* The chain from a flag to its handler. */

#include "sim/core/block.h"
#include "sim/core/line.h"
#include "sim/core/model.h"
#include "sim/core/report.h"
#include "sim/core/sim.h"

void wadi_check_line(wad_sim *sim, unsigned n)
{
    const wadi_line *l = &sim->cpu.lines[n];
    const char *name = l->owner ? l->owner->inst->name : "?";
    if (!l->asked || l->served)
        return;
    if (!l->enabled_at_controller)
        wadi_report_at(
            sim, WAD_FINDING_CHAIN_LINE, NULL, &l->asked_trace,
            "%s asks for interrupt %u, which %s never enables: its handler never ran", name, n,
            sim->cpu.controller ? sim->cpu.controller->block->inst->name : "no controller");
    else if (!sim->cpu.was_unmasked)
        wadi_report_at(sim, WAD_FINDING_CHAIN_MASK, NULL, &l->asked_trace,
                       "%s asks for interrupt %u, but the global mask was never opened", name, n);
    else if (l->owner && l->owner->blocked)
        wadi_report_at(sim, WAD_FINDING_CHAIN_FLAG, NULL, &l->asked_trace,
                       "interrupt %u of %s is enabled, but the block ended without clock or in "
                       "reset and never raised it",
                       n, name);
    else if (l->ever_raised)
        wadi_report_at(sim, WAD_FINDING_CHAIN_PRIORITY, NULL, &l->asked_trace,
                       "interrupt %u of %s was raised but never served: what ran was as urgent", n,
                       name);
}
