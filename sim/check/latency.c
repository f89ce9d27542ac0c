/* SPDX-License-Identifier: MIT */
/*
 * Interrupts that must be served within a time: when one is late, who held it up.
 *
 * What can hold a request up is a handler that is not less urgent, or the closed global mask. Both
 * are kept as spans of time; a late one is answered with the spans that lie in its wait.
 */
#include "list.h"
#include "sim/core/block.h"
#include "sim/core/line.h"
#include "sim/core/model.h"
#include "sim/core/report.h"
#include "sim/core/sim.h"
#include "sim/host/firmware.h"

#define SPANS 64 /* of the latest past */

enum { MASKED = -1 };

typedef struct span {
    uint64_t from, to;
    int line; /* or MASKED */
    wadi_trace trace;
} span;

typedef struct latency {
    span past[SPANS];
    unsigned n; /* in all */
    span mask;  /* closed now */
    bool closed;
} latency;

void wad_sim_require_latency(wad_sim *sim, unsigned line, uint64_t ps)
{
    if (line >= sim->sheet->n_vectors)
        return;
    sim->cpu.lines[line].wanted_ps = ps;
    wadi_hear(wadi_observer_of(sim, &wadi_check_latency),
              WADI_EAR_ENTER | WADI_EAR_RETURN | WADI_EAR_MASK | WADI_EAR_BEGIN, true);
}

static void keep(latency *l, const span *s)
{
    if (s->to > s->from)
        l->past[l->n++ % SPANS] = *s;
}

static void mask(wad_sim *sim, latency *l, bool closed)
{
    if (l->closed == closed)
        return;
    l->closed = closed;
    if (closed) {
        l->mask = (span){.from = sim->now, .line = MASKED, .trace = wadi_trace_here(sim)};
    } else {
        l->mask.to = sim->now;
        keep(l, &l->mask);
    }
}

static void left(latency *l, const wad_irq_record *r, wad_handler handler)
{
    span s = {r->entered_ps, r->left_ps, (int)r->line, {{(uintptr_t)handler + 1}, 1, true}};
    keep(l, &s);
}

/* The part of a span that lies in the wait. */
static uint64_t overlap(const span *s, const wad_irq_record *r)
{
    uint64_t from = MAX(s->from, r->raised_ps), to = MIN(s->to, r->entered_ps);
    return to > from ? to - from : 0;
}

static void add_blockers(const wad_sim *sim, const latency *l, const wad_irq_record *r,
                         GString *text, wadi_trace *trace)
{
    uint64_t worst = 0;
    for (unsigned i = l->n > SPANS ? l->n - SPANS : 0; i < l->n; i++) {
        const span *s = &l->past[i % SPANS];
        double us = (double)overlap(s, r) / 1e6;
        if (us <= 0)
            continue;
        if (overlap(s, r) > worst) {
            worst = overlap(s, r);
            *trace = s->trace;
        }
        if (s->line == MASKED) {
            g_string_append_printf(text, "; the global mask was closed for %.3f us", us);
            continue;
        }
        unsigned by = (unsigned)s->line;
        const wadi_line *its = &sim->cpu.lines[by], *mine = &sim->cpu.lines[r->line];
        const wadi_block *owner = its->owner;
        g_string_append_printf(text, "; the handler of %u (%s), priority %u %s %u, ran %.3f us", by,
                               owner ? owner->inst->name : "?", its->priority,
                               its->key < mine->key ? "before" : "no more urgent than",
                               mine->priority, us);
    }
}

static void entered(wad_sim *sim, const latency *l, const wad_irq_record *r)
{
    const wadi_line *line = &sim->cpu.lines[r->line];
    if (!line->wanted_ps || r->entered_ps - r->raised_ps <= line->wanted_ps)
        return;
    GString *why = g_string_new(NULL);
    wadi_trace trace = {{(uintptr_t)wadi_firmware_handler(sim, r->line) + 1}, 1, true};
    add_blockers(sim, l, r, why, &trace);
    if (!wadi_report_again(sim, WAD_FINDING_LATE_INTERRUPT, NULL, &trace))
        wadi_report_at(sim, WAD_FINDING_LATE_INTERRUPT, NULL, &trace,
                       "interrupt %u (%s) was served %.3f us after its request, wanted within "
                       "%.3f us%s",
                       r->line, line->owner ? line->owner->inst->name : "?",
                       (double)(r->entered_ps - r->raised_ps) / 1e6, (double)line->wanted_ps / 1e6,
                       why->str);
    g_string_free(why, TRUE);
}

static void hear(wadi_observer *o, const wadi_told *t)
{
    latency *l = o->state;
    if (t->ear == WADI_EAR_ENTER)
        entered(o->sim, l, t->record);
    else if (t->ear == WADI_EAR_RETURN)
        left(l, t->record, t->handler);
    else if (t->ear == WADI_EAR_MASK)
        mask(o->sim, l, t->on);
    else
        *l = (latency){.n = 0};
}

/* Its ears open when a line has a time to keep. */
const wadi_observer_class wadi_check_latency = {
    .name = "latency",
    .state_size = sizeof(latency),
    .hear = hear,
};
