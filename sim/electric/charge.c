/* SPDX-License-Identifier: MIT */
/*
 * What the chip draws: the sheet's currents per core, clock, block and sleep level, integrated from
 * change to change. Only what changes is touched, so that a sleep costs two consumers and no more.
 */
#include "charge.h"

#include <string.h>

#include "lang/rational.h"
#include "sim/core/block.h"
#include "sim/core/clock.h"
#include "sim/core/sim.h"
#include "wadium/host/analog.h"

typedef struct consumer {
    wad_consumer shown; /* coulombs up to `since` */
    uint64_t since;
} consumer;

/* While nothing but the level changes, the same currents come back. */
typedef struct standing {
    bool known;
    double own, sum; /* amperes: of the core or the sleep level; of all together */
} standing;

typedef struct charge {
    consumer *all;       /* the core, sleep levels, clocks, blocks */
    standing *standings; /* the core awake, sleep levels: as the first of `all` */
    unsigned n;
    double amperes, coulombs; /* all together; coulombs up to `since` */
    uint64_t since;
    int level; /* of the sleep that goes on; -1: awake */
    unsigned line;
    uint64_t woke_ps;
    double woke_coulombs;
    bool counting; /* an activity goes on */
    wad_activity *by_line;
    wad_current_fn fn;
    void *ctx;
    wad_charge result;
    GArray *consumers, *activities; /* of the result */
} charge;

static double amps(wad_rational r)
{
    return r.den ? wadi_rat_double(r) : 0;
}

static double mhz(const wadi_clock *clock)
{
    return clock->hz.num > 0 ? wadi_rat_double(clock->hz) / 1e6 : 0;
}

static bool states_currents(const wad_sheet *s)
{
    bool known = s->cpu.draws.base.num || s->cpu.draws.per_mhz.num;
    for (unsigned i = 0; i < s->n_sleeps; i++)
        known = known || s->sleeps[i].draws.num;
    for (unsigned i = 0; i < s->n_blocks; i++)
        known = known || s->blocks[i]->draws.base.num || s->blocks[i]->draws.per_mhz.num ||
                s->blocks[i]->draws.active.num;
    return known;
}

static void build(const wad_sheet *s, charge *c)
{
    c->n = 1 + s->n_sleeps + s->n_clocks + s->n_blocks;
    c->all = g_new0(consumer, c->n);
    c->standings = g_new0(standing, 1 + s->n_sleeps);
    c->by_line = g_new0(wad_activity, s->n_vectors + 1);
    c->consumers = g_array_new(FALSE, FALSE, sizeof(wad_consumer));
    c->activities = g_array_new(FALSE, FALSE, sizeof(wad_activity));
    unsigned n = 0;
    c->all[n++].shown.name = g_strdup("cpu");
    for (unsigned i = 0; i < s->n_sleeps; i++)
        c->all[n++].shown.name = g_strdup_printf("sleep %s", s->sleeps[i].name);
    for (unsigned i = 0; i < s->n_clocks; i++)
        c->all[n++].shown.name = g_strdup_printf("clock %s", s->clocks[i]->name);
    for (unsigned i = 0; i < s->n_blocks; i++)
        c->all[n++].shown.name = g_strdup(s->blocks[i]->name);
}

static void detach(wadi_observer *o)
{
    charge *c = o->state;
    for (unsigned i = 0; i < c->n; i++)
        g_free((char *)c->all[i].shown.name);
    g_array_free(c->consumers, TRUE);
    g_array_free(c->activities, TRUE);
    g_free(c->by_line);
    g_free(c->standings);
    g_free(c->all);
}

/* ---- from change to change ---- */

static double since(const wad_sim *sim, uint64_t ps)
{
    return (double)(sim->now - ps) / 1e12;
}

static void take_total(wad_sim *sim, charge *c)
{
    c->coulombs += c->amperes * since(sim, c->since);
    c->since = sim->now;
}

static void set(const wad_sim *sim, charge *c, unsigned i, double amperes)
{
    consumer *one = &c->all[i];
    if (one->shown.amperes == amperes)
        return;
    one->shown.coulombs += one->shown.amperes * since(sim, one->since);
    one->since = sim->now;
    one->shown.amperes = amperes;
}

/* Added up anew, so that no rounding stays behind. */
static double sum_of(const charge *c)
{
    double sum = 0;
    for (unsigned i = 0; i < c->n; i++)
        sum += c->all[i].shown.amperes;
    return sum;
}

static void take_sum(wad_sim *sim, charge *c, double sum)
{
    if (sum == c->amperes)
        return;
    c->amperes = sum;
    if (c->fn)
        c->fn(c->ctx, sim->now, sum);
}

static double of_level(const wad_sim *sim, int level)
{
    const wad_draws *d = &sim->sheet->cpu.draws;
    return level < 0 ? amps(d->base) + amps(d->per_mhz) * mhz(sim->cpu.core)
                     : amps(sim->sheet->sleeps[level].draws);
}

/* The core, or the sleep level, draws; the one before it does not. */
static void stand(wad_sim *sim, charge *c, int level)
{
    standing *at = &c->standings[1 + level];
    if (!at->known)
        at->own = of_level(sim, level);
    set(sim, c, (unsigned)(1 + c->level), 0);
    c->level = level;
    set(sim, c, (unsigned)(1 + level), at->own);
    if (!at->known)
        at->sum = sum_of(c);
    at->known = true;
    take_sum(sim, c, at->sum);
}

static void forget_standings(const wad_sim *sim, charge *c)
{
    memset(c->standings, 0, sizeof *c->standings * (1 + sim->sheet->n_sleeps));
}

static double of_block(const wad_sim *sim, const wadi_block *block)
{
    const wad_draws *d = &block->inst->draws;
    if (block->blocked & (WADI_BLOCKED_GATE | WADI_BLOCKED_CLOCK))
        return block->active ? amps(d->active) : 0; /* analog parts go on without a clock */
    return amps(d->base) + amps(d->per_mhz) * mhz(block->clock ? block->clock : sim->cpu.core) +
           (block->active ? amps(d->active) : 0);
}

static void update(wad_sim *sim, charge *c)
{
    const wad_sheet *s = sim->sheet;
    unsigned n = 1 + s->n_sleeps;
    if (sim->reset.resetting)
        return;
    take_total(sim, c);
    forget_standings(sim, c);
    set(sim, c, (unsigned)(1 + c->level), of_level(sim, c->level));
    for (unsigned i = 0; i < s->n_clocks; i++)
        set(sim, c, n + i, sim->clocks[i].hz.num > 0 ? amps(s->clocks[i]->draws) : 0);
    for (unsigned i = 0; i < s->n_blocks; i++)
        set(sim, c, n + s->n_clocks + i, of_block(sim, &sim->blocks[i]));
    take_sum(sim, c, sum_of(c));
}

static void begin(const wad_sim *sim, charge *c)
{
    for (unsigned i = 0; i < c->n; i++) {
        c->all[i].shown.coulombs = c->all[i].shown.amperes = 0;
        c->all[i].since = 0;
    }
    memset(c->by_line, 0, sizeof *c->by_line * (sim->sheet->n_vectors + 1));
    c->amperes = c->coulombs = 0;
    c->since = 0;
    c->level = -1;
    c->counting = false;
    forget_standings(sim, c);
}

static void sleeps(wad_sim *sim, charge *c)
{
    take_total(sim, c);
    if (c->counting) {
        wad_activity *a = &c->by_line[c->line];
        a->count++;
        a->awake_ps += sim->now - c->woke_ps;
        a->coulombs += c->coulombs - c->woke_coulombs;
    }
    c->counting = false;
    stand(sim, c, sim->sleep.sleep_level);
}

static void wakes(wad_sim *sim, charge *c, unsigned line)
{
    take_total(sim, c);
    c->counting = line < sim->sheet->n_vectors;
    c->line = line;
    c->woke_ps = sim->now;
    c->woke_coulombs = c->coulombs;
    stand(sim, c, -1);
}

static void hear(wadi_observer *o, const wadi_told *t)
{
    if (t->ear == WADI_EAR_CLOCKS)
        update(o->sim, o->state);
    else if (t->ear == WADI_EAR_BEGIN)
        begin(o->sim, o->state);
    else if (t->on)
        sleeps(o->sim, o->state);
    else
        wakes(o->sim, o->state, t->line);
}

static const wadi_observer_class wadi_charge = {
    .name = "charge",
    .standing = WADI_EAR_CLOCKS | WADI_EAR_STANDS | WADI_EAR_BEGIN,
    .state_size = sizeof(charge),
    .detach = detach,
    .hear = hear,
};

void wadi_charge_attach(wad_sim *sim)
{
    if (states_currents(sim->sheet))
        build(sim->sheet, wadi_attach(sim, &wadi_charge)->state);
}

/* ---- for the world outside ---- */

const wad_charge *wad_sim_charge(wad_sim *sim)
{
    static const wad_charge nothing = {0};
    wadi_observer *o = wadi_observer_of(sim, &wadi_charge);
    charge *c = o ? o->state : NULL;
    if (!c)
        return &nothing;
    take_total(sim, c);
    g_array_set_size(c->consumers, 0);
    g_array_set_size(c->activities, 0);
    for (unsigned i = 0; i < c->n; i++) {
        wad_consumer one = c->all[i].shown;
        one.coulombs += one.amperes * since(sim, c->all[i].since);
        if (one.coulombs > 0)
            g_array_append_val(c->consumers, one);
    }
    for (unsigned i = 0; i < sim->sheet->n_vectors; i++) {
        c->by_line[i].line = i;
        if (c->by_line[i].count)
            g_array_append_val(c->activities, c->by_line[i]);
    }
    c->result = (wad_charge){.known = true,
                             .coulombs = c->coulombs,
                             .average = sim->now ? c->coulombs / ((double)sim->now / 1e12) : 0,
                             .volts = wad_sim_supply(sim),
                             .consumers = (const wad_consumer *)(void *)c->consumers->data,
                             .n_consumers = c->consumers->len,
                             .activities = (const wad_activity *)(void *)c->activities->data,
                             .n_activities = c->activities->len};
    return &c->result;
}

void wad_sim_watch_current(wad_sim *sim, wad_current_fn fn, void *ctx)
{
    wadi_observer *o = wadi_observer_of(sim, &wadi_charge);
    charge *c = o ? o->state : NULL;
    if (!c)
        return;
    c->fn = fn;
    c->ctx = ctx;
}
