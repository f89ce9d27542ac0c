/* SPDX-License-Identifier: MIT */
/* Handlers that are entered again and again, or too often. */
#include "sim/core/block.h"
#include "sim/core/line.h"
#include "sim/core/model.h"
#include "sim/core/report.h"

#define AGAIN 8 /* times in a row, so that a burst is none */

/* A handler of which no flag fell between entry and exit did not clear the one it came for. */
static void check_storm(wad_sim *sim, unsigned line, unsigned falls, wad_handler handler)
{
    const wadi_line *l = &sim->cpu.lines[line];
    if (!l->level || l->edge || l->falls != falls)
        return;
    wadi_trace trace = {{(uintptr_t)handler + 1}, 1, true};
    wad_model *owner = l->owner ? l->owner->model : NULL;
    if (owner && owner->cls->still_asks && owner->cls->still_asks(owner, (uintptr_t)handler))
        return;
    wadi_report_at(sim, WAD_FINDING_STORM, NULL, &trace,
                   "the handler of interrupt %u (%s) returned and its flag is still set", line,
                   l->owner ? l->owner->inst->name : "?");
}

/* The flag was cleared, and stands again when the handler returns: it asks faster than it is
 * served.
 */
static void check_period(wad_sim *sim, unsigned line, unsigned falls, wad_handler handler,
                         const wad_irq_record *record)
{
    wadi_line *l = &sim->cpu.lines[line];
    l->again = l->asks && l->falls != falls ? l->again + 1 : 0;
    if (l->again < AGAIN)
        return;
    wadi_trace trace = {{(uintptr_t)handler + 1}, 1, true};
    wadi_report_at(sim, WAD_FINDING_SLOW_HANDLER, NULL, &trace,
                   "the handler of interrupt %u (%s) took %.3f us, and the next request had come "
                   "meanwhile, %u times in a row",
                   line, l->owner ? l->owner->inst->name : "?",
                   (double)(record->left_ps - record->entered_ps) / 1e6, l->again);
}

static void hear(wadi_observer *o, const wadi_told *t)
{
    check_storm(o->sim, t->line, t->falls, t->handler);
    check_period(o->sim, t->line, t->falls, t->handler, t->record);
}

const wadi_observer_class wadi_check_handler = {
    .name = "handler",
    .standing = WADI_EAR_RETURN,
    .hear = hear,
};
