/* SPDX-License-Identifier: MIT */
/* What the public interface lets hear: observers of one function each. */
#include "sim/core/block.h"
#include "sim/core/observer.h"
#include "sim/core/sim.h"

typedef struct watch {
    union {
        wad_access_fn access;
        wad_irq_fn irq;
        wad_sleep_fn sleep;
    };
    void *ctx;
} watch;

static void hear_access(wadi_observer *o, const wadi_told *t)
{
    const watch *w = o->state;
    w->access(w->ctx, &(wad_access_record){
                          .ps = o->sim->now,
                          .write = t->write,
                          .block = t->slot->block->inst,
                          .reg = t->slot->reg,
                          .reg_index = t->slot->index,
                          .bytes = t->slot->bytes,
                          .value = t->value,
                          .before = t->before,
                          .after = t->after,
                      });
}

static void hear_irq(wadi_observer *o, const wadi_told *t)
{
    const watch *w = o->state;
    w->irq(w->ctx, t->record);
}

static void hear_sleep(wadi_observer *o, const wadi_told *t)
{
    const watch *w = o->state;
    w->sleep(w->ctx, o->sim->now, t->until_ps);
}

static const wadi_observer_class watch_access = {"access", WADI_EAR_ACCESS, sizeof(watch),
                                                 .hear = hear_access},
                                 watch_irq = {"interrupts", WADI_EAR_ENTER | WADI_EAR_LEAVE,
                                              sizeof(watch), .hear = hear_irq},
                                 watch_sleep = {"sleep", WADI_EAR_ASLEEP, sizeof(watch),
                                                .hear = hear_sleep};

/* There is one of a class; NULL: none from now on. */
static watch *only(wad_sim *sim, const wadi_observer_class *cls, bool wanted)
{
    wadi_observer *o = wadi_observer_of(sim, cls);
    if (o && !wanted)
        wadi_detach(o);
    if (!wanted)
        return NULL;
    return o ? o->state : wadi_attach(sim, cls)->state;
}

void wad_sim_watch_access(wad_sim *sim, wad_access_fn fn, void *ctx)
{
    watch *w = only(sim, &watch_access, fn != NULL);
    if (w)
        *w = (watch){.access = fn, .ctx = ctx};
}

void wad_sim_watch_irq(wad_sim *sim, wad_irq_fn fn, void *ctx)
{
    watch *w = wadi_attach(sim, &watch_irq)->state;
    *w = (watch){.irq = fn, .ctx = ctx};
}

void wad_sim_watch_sleep(wad_sim *sim, wad_sleep_fn fn, void *ctx)
{
    watch *w = only(sim, &watch_sleep, fn != NULL);
    if (w)
        *w = (watch){.sleep = fn, .ctx = ctx};
}
