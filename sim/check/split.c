/* SPDX-License-Identifier: MIT */
/*
 * Running values of several registers that nothing holds together while they are read. High and
 * low, each read once, are two moments: a carry in between gives a value that never was. Reading
 * the first one again right after the second is how one knows; who does not is told, whether it
 * went wrong this time or not.
 */
#include "sim/core/register.h"
#include "sim/core/report.h"
#include "sim/core/sim.h"

#define SOON 64 /* accesses: a second look comes at once, or it is another reading */

typedef struct split {
    const wadi_slot *first, *second; /* NULL: not read yet */
    uint64_t ps;                     /* of the last read */
    wadi_trace trace;
} split;

static void report(wad_sim *sim, split *s)
{
    char *first = wadi_slot_name(s->first), *second = wadi_slot_name(s->second);
    wadi_report_at(sim, WAD_FINDING_SPLIT_READ, s->second, &s->trace,
                   "%s and %s run on between the two reads, and %s was not read again", first,
                   second, first);
    g_free(first);
    g_free(second);
    s->first = s->second = NULL;
}

static void part_read(wad_sim *sim, split *s, const wadi_slot *slot)
{
    bool soon = sim->now - s->ps <= SOON * (sim->cost.access_ps + 1);
    if (s->second && !(soon && slot == s->first))
        report(sim, s);
    s->ps = sim->now;
    if (s->second) { /* looked again */
        s->second = NULL;
        return;
    }
    if (soon && s->first && s->first != slot && s->first->block == slot->block) {
        s->second = slot;
        s->trace = wadi_trace_here(sim);
        return;
    }
    s->first = slot;
}

/* Cut off right behind the two reads, the firmware may have been about to look again. */
static void at_end(wad_sim *sim, split *s)
{
    if (s->second && sim->now - s->ps > SOON * (sim->cost.access_ps + 1))
        report(sim, s);
    s->first = NULL;
}

static void hear(wadi_observer *o, const wadi_told *t)
{
    split *s = o->state;
    if (t->ear == WADI_EAR_PART_READ)
        part_read(o->sim, s, t->slot);
    else if (t->ear == WADI_EAR_END)
        at_end(o->sim, s);
    else /* what main was about to do it never does */
        s->first = s->second = NULL;
}

const wadi_observer_class wadi_check_split = {
    .name = "split",
    .standing = WADI_EAR_PART_READ | WADI_EAR_BEGIN | WADI_EAR_RESTART | WADI_EAR_END,
    .state_size = sizeof(split),
    .hear = hear,
};
