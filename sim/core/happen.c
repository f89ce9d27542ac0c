/* SPDX-License-Identifier: MIT */
#include "happen.h"

#include "block.h"
#include "hook.h"
#include "model.h"
#include "rare.h"
#include "sim.h"

static bool is_access(const wadi_bus_event *e, const wadi_slot *slot, bool write, uint32_t value,
                      uint32_t touched)
{
    return e->sort == WAD_EVENT_ACCESS && e->slot == slot && e->write == write &&
           (!e->mask || (touched & e->mask && (value & e->mask) == e->value));
}

/* The role reads 1 while its model is told. */
static void act(const wadi_clearing *c, uint32_t written)
{
    wad_model *m = c->unit->model;
    const wadi_slot *slot = c->last.slot ? c->last.slot : c->unit->slots;
    wadi_odd_place *place = &m->roles[c->role].odd[0];
    if (!m->cls->written)
        return;
    wad_write w = {WAD_ROLE_BIT(c->role), slot->reg,   slot->index,
                   slot->value,           slot->value, written};
    place->always = 1;
    m->cls->written(m, &w);
    place->always = 0;
}

/* What a `then` has noted is all that goes. */
static void take(wadi_clearing *c, uint32_t written)
{
    uint32_t goes = c->then ? c->noted : c->mask;
    c->noted = 0;
    if (!goes)
        return;
    if (c->takes == WADI_TAKES_FLAG)
        wadi_take_flags(c->flag, goes);
    else if (c->takes == WADI_TAKES_HELD)
        wadi_rare_release(c->flag, goes);
    else if (c->takes == WADI_TAKES_HOOK)
        wadi_hook_runs(c->hook, written);
    else
        act(c, written);
}

/* What is brought about acts on notes from before; then this access notes. */
void wadi_slot_accessed(wadi_slot *slot, bool write, uint32_t value, uint32_t touched)
{
    static const wadi_takes order[] = {WADI_TAKES_HELD, WADI_TAKES_FLAG};
    const GPtrArray *list = slot->accessed;
    for (unsigned k = 0; k < G_N_ELEMENTS(order); k++)
        for (guint i = 0; i < list->len; i++) {
            wadi_clearing *c = list->pdata[i];
            if (c->takes == order[k] && is_access(&c->last, slot, write, value, touched))
                take(c, value);
        }
    for (guint i = 0; i < list->len; i++) {
        wadi_clearing *c = list->pdata[i];
        if (c->takes >= WADI_TAKES_HOOK && is_access(&c->last, slot, write, value, touched))
            take(c, value);
        if (is_access(&c->first, slot, write, value, touched))
            wadi_event_noted(c);
    }
}

void wadi_happened_settle(wad_sim *sim)
{
    static const wadi_takes order[] = {WADI_TAKES_HELD, WADI_TAKES_FLAG, WADI_TAKES_HOOK,
                                       WADI_TAKES_ACT};
    GPtrArray *list = sim->happened;
    sim->touched.happened = false;
    for (guint from = 0, to; (to = list->len) != from; from = to) /* more may come meanwhile */
        for (unsigned k = 0; k < G_N_ELEMENTS(order); k++)
            for (guint i = from; i < to; i++) {
                wadi_clearing *c = list->pdata[i];
                if (c->takes == order[k])
                    take(c, c->written);
            }
    for (guint i = 0; i < list->len; i++)
        ((wadi_clearing *)list->pdata[i])->queued = false;
    g_ptr_array_set_size(list, 0);
    sim->touched.happened = false;
}
