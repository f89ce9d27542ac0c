/* SPDX-License-Identifier: MIT */
/* What only the end of a run shows. */

#include "chain.h"
#include "sim/core/block.h"
#include "sim/core/line.h"
#include "sim/core/model.h"
#include "sim/core/pin.h"
#include "sim/core/register.h"
#include "sim/core/report.h"
#include "sim/core/sim.h"

static void at_end(wad_sim *sim)
{
    for (unsigned i = 0; i < sim->sheet->n_vectors; i++)
        wadi_check_line(sim, i);
    for (unsigned i = 0; i < sim->sheet->n_blocks; i++) {
        const wadi_block *block = &sim->blocks[i];
        if (block->configured && !block->was_enabled)
            wadi_report_at(sim, WAD_FINDING_NEVER_ENABLED, NULL, &block->config_trace,
                           "%s was configured (last here) but never enabled", block->inst->name);
        if (block->model && block->model->cls->ended)
            block->model->cls->ended(block->model);
    }
    for (unsigned i = 0; i < sim->n_signals; i++) {
        const wadi_signal *signal = &sim->signals[i];
        if (!signal->used || signal->routed)
            continue;
        GString *pins = g_string_new(NULL);
        for (unsigned k = 0; k < signal->def->n_options; k++)
            g_string_append_printf(pins, "%s%s fn %u", k ? ", " : "",
                                   signal->def->options[k].pin->name, signal->def->options[k].fn);
        wadi_report_at(sim, WAD_FINDING_NOT_ROUTED, NULL, &signal->used_trace,
                       "%s.%s is used but comes out on no pin (it could on %s)",
                       signal->def->block->name, signal->def->name, pins->str);
        g_string_free(pins, TRUE);
    }
}

static void hear(wadi_observer *o, const wadi_told *t)
{
    (void)t;
    if (o->sim->run.story.end == WAD_RUN_TIME)
        at_end(o->sim);
}

const wadi_observer_class wadi_check_unused = {
    .name = "unused",
    .standing = WADI_EAR_END,
    .hear = hear,
};
