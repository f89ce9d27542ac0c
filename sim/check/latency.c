/* SPDX-License-Identifier: MIT */
/*
 * Interrupts that must be served within a time: when one is late, who held it up.
 *
 * What can hold a request up is a handler that is not less urgent, or the closed global mask. Both
 * are kept as spans of time; a late one is answered with the spans that lie in its wait.
 */
#include "latency.h"

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

struct wadi_latency {
    span past[SPANS];
    unsigned n; /* in all */
    span mask;  /* closed now */
    bool closed;
};

void wad_sim_require_latency(wad_sim *sim, unsigned line, uint64_t ps)
{
    if (line >= sim->sheet->n_vectors)
        return;
    sim->lines[line].wanted_ps = ps;
    if (!sim->latency)
        sim->latency = g_new0(struct wadi_latency, 1);
}

void wadi_latency_reset(wad_sim *sim)
{
    if (sim->latency)
        *sim->latency = (struct wadi_latency){.n = 0};
}

void wadi_latency_free(wad_sim *sim)
{
    g_clear_pointer(&sim->latency, g_free);
}

static void keep(struct wadi_latency *l, const span *s)
{
    if (s->to > s->from)
        l->past[l->n++ % SPANS] = *s;
}

void wadi_latency_mask(wad_sim *sim, bool closed)
{
    struct wadi_latency *l = sim->latency;
    if (!l || l->closed == closed)
        return;
    l->closed = closed;
    if (closed) {
        l->mask = (span){.from = sim->now, .line = MASKED, .trace = wadi_trace_here(sim)};
    } else {
        l->mask.to = sim->now;
        keep(l, &l->mask);
    }
}

void wadi_latency_left(wad_sim *sim, const wad_irq_record *r, wad_handler handler)
{
    if (!sim->latency)
        return;
    span s = {r->entered_ps, r->left_ps, (int)r->line, {{(uintptr_t)handler + 1}, 1, true}};
    keep(sim->latency, &s);
}

static unsigned priority_of(const wad_sim *sim, unsigned line)
{
    const wad_role *role = wad_layout_role(sim->irqc->block->inst->layout, "priority");
    int place = role ? wad_kind_role_index("irqc", "priority") : -1;
    return place < 0 ? 0 : wad_model_get(sim->irqc, (unsigned)place, line);
}

/* The part of a span that lies in the wait. */
static uint64_t overlap(const span *s, const wad_irq_record *r)
{
    uint64_t from = MAX(s->from, r->raised_ps), to = MIN(s->to, r->entered_ps);
    return to > from ? to - from : 0;
}

static void add_blockers(const wad_sim *sim, const wad_irq_record *r, GString *text,
                         wadi_trace *trace)
{
    const struct wadi_latency *l = sim->latency;
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
        unsigned by = (unsigned)s->line, its = priority_of(sim, by),
                 mine = priority_of(sim, r->line);
        const wadi_block *owner = sim->lines[by].owner;
        g_string_append_printf(text, "; the handler of %u (%s), priority %u %s %u, ran %.3f us", by,
                               owner ? owner->inst->name : "?", its,
                               its < mine ? "before" : "no more urgent than", mine, us);
    }
}

void wadi_latency_entered(wad_sim *sim, const wad_irq_record *r)
{
    const wadi_line *line = &sim->lines[r->line];
    if (!line->wanted_ps || r->entered_ps - r->raised_ps <= line->wanted_ps || !sim->irqc)
        return;
    GString *why = g_string_new(NULL);
    wadi_trace trace = {{(uintptr_t)wadi_firmware_handler(sim, r->line) + 1}, 1, true};
    add_blockers(sim, r, why, &trace);
    if (!wadi_report_again(sim, WAD_FINDING_LATE_INTERRUPT, NULL, &trace))
        wadi_report_at(sim, WAD_FINDING_LATE_INTERRUPT, NULL, &trace,
                       "interrupt %u (%s) was served %.3f us after its request, wanted within "
                       "%.3f us%s",
                       r->line, line->owner ? line->owner->inst->name : "?",
                       (double)(r->entered_ps - r->raised_ps) / 1e6, (double)line->wanted_ps / 1e6,
                       why->str);
    g_string_free(why, TRUE);
}
