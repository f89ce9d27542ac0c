/* SPDX-License-Identifier: MIT */
/* Blocks that start, gate or clock each other: who listens to whom. */
#include "trigger.h"

#include "block.h"
#include "model.h"
#include "pin.h"
#include "sim.h"

static void listen(wad_sim *sim, wad_model *target, int selector, const wad_trigger *t)
{
    wad_model *from = sim->blocks[t->from->index].model;
    if (!from)
        return;
    wadi_listener l = {(unsigned)wad_kind_role_index(from->cls->kind, t->role->name), t->index,
                       target, (unsigned)selector, t->code};
    if (!from->listeners)
        from->listeners = g_array_new(FALSE, FALSE, sizeof l);
    g_array_append_val(from->listeners, l);
}

void wadi_triggers_build(wad_sim *sim)
{
    for (unsigned i = 0; i < sim->sheet->n_blocks; i++)
        if (sim->blocks[i].model && sim->blocks[i].model->listeners)
            g_array_set_size(sim->blocks[i].model->listeners, 0);
    for (unsigned i = 0; i < sim->sheet->n_blocks; i++) {
        const wad_instance *inst = sim->blocks[i].inst;
        wad_model *m = sim->blocks[i].model;
        int selector = m ? wad_kind_role_index(m->cls->kind, "trigger") : -1;
        for (unsigned k = 0; selector >= 0 && m->cls->trigger && k < inst->n_triggers; k++)
            listen(sim, m, selector, &inst->triggers[k]);
    }
}

static bool is_awake(const wadi_listener *l)
{
    return l->target->listens && !l->target->block->blocked &&
           wad_model_get(l->target, l->selector, 0) == l->code;
}

void wadi_trigger_tell(wad_model *m, unsigned role, unsigned i, wad_trigger_edge edge)
{
    for (guint k = 0; m->listeners && k < m->listeners->len; k++) {
        const wadi_listener *l = &g_array_index(m->listeners, wadi_listener, k);
        if (l->role == role && l->index == i && is_awake(l))
            l->target->cls->trigger(l->target, edge);
    }
}

void wadi_trigger_recheck(wad_model *m)
{
    bool heard = wadi_requests_wanted(m);
    for (guint i = 0; m->listeners && i < m->listeners->len && !heard; i++) {
        const wadi_listener *l = &g_array_index(m->listeners, wadi_listener, i);
        heard = l->target->listens && wad_model_get(l->target, l->selector, 0) == l->code;
    }
    bool begins = heard && !m->heard;
    m->heard = heard;
    if (begins && m->cls->heard)
        m->cls->heard(m);
}

void wad_model_listens(wad_model *m, bool on)
{
    const wad_instance *inst = m->block->inst;
    m->listens = on;
    for (unsigned i = 0; i < inst->n_triggers; i++) {
        wad_model *from = m->sim->blocks[inst->triggers[i].from->index].model;
        if (from && from->listeners)
            wadi_trigger_recheck(from);
    }
}

void wad_model_event(wad_model *m, unsigned role, unsigned i)
{
    if (!m->heard)
        return;
    wadi_trigger_tell(m, role, i, WAD_TRIGGER_EVENT);
    if (m->asks)
        wadi_request_event(m, role, i);
}

bool wad_model_trigger_level(const wad_model *m)
{
    int selector = wad_kind_role_index(m->cls->kind, "trigger");
    const wad_instance *inst = m->block->inst;
    for (unsigned i = 0; selector >= 0 && i < inst->n_triggers; i++) {
        const wad_trigger *t = &inst->triggers[i];
        if (t->role->sort != WAD_ROLE_SIGNAL || t->code != wad_model_get(m, (unsigned)selector, 0))
            continue;
        const wad_model *from = m->sim->blocks[t->from->index].model;
        int role = from ? wad_kind_role_index(from->cls->kind, t->role->name) : -1;
        return role >= 0 && from->roles[role].signals[t->index]->level;
    }
    return false;
}
