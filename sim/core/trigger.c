/* SPDX-License-Identifier: MIT */
/* Blocks that start, gate or clock each other: who listens to whom. */
#include "trigger.h"

#include "block.h"
#include "feed.h"
#include "happen.h"
#include "model.h"
#include "pin.h"
#include "report.h"
#include "sim.h"

static void listen(wad_sim *sim, wad_model *target, int selector, const wad_trigger *t)
{
    wad_model *from = sim->blocks[t->from->index].model;
    if (!from)
        return;
    wadi_listener l = {(unsigned)wad_kind_role_index(from->kind, t->role->name), t->index, target,
                       (unsigned)selector, t->code};
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
        int selector = m ? wad_kind_role_index(m->kind, "trigger") : -1;
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
    if (__builtin_expect(m->pulses, 0)) {
        wadi_feeds_pulse(m, role, i);
        if (m->fires)
            wadi_role_happened(m, role, i);
    }
    if (!m->heard)
        return;
    wadi_trigger_tell(m, role, i, WAD_TRIGGER_EVENT);
    if (m->asks)
        wadi_request_event(m, role, i);
}

bool wad_model_trigger_level(const wad_model *m)
{
    int selector = wad_kind_role_index(m->kind, "trigger");
    const wad_instance *inst = m->block->inst;
    for (unsigned i = 0; selector >= 0 && i < inst->n_triggers; i++) {
        const wad_trigger *t = &inst->triggers[i];
        if (t->role->sort != WAD_ROLE_SIGNAL || t->code != wad_model_get(m, (unsigned)selector, 0))
            continue;
        const wad_model *from = m->sim->blocks[t->from->index].model;
        int role = from ? wad_kind_role_index(from->kind, t->role->name) : -1;
        if (role >= 0 && from->roles[role].signals[t->index]->level)
            return true;
    }
    return false;
}

/* ---- who asks a DMA block for what ---- */

static void add(wad_model *target, wad_model *from, const wad_trigger *def)
{
    wadi_request *r = g_new0(wadi_request, 1);
    r->from = from;
    r->target = target;
    r->def = def;
    r->role = (unsigned)wad_kind_role_index(from->kind, def->role->name);
    r->index = def->index;
    if (!from->asks)
        from->asks = g_ptr_array_new();
    if (!target->asked)
        target->asked = g_ptr_array_new_with_free_func(g_free);
    g_ptr_array_add(from->asks, r);
    g_ptr_array_add(target->asked, r);
}

void wadi_requests_build(wad_sim *sim)
{
    for (unsigned i = 0; i < sim->sheet->n_blocks; i++)
        if (sim->blocks[i].model)
            wadi_requests_free(sim->blocks[i].model);
    for (unsigned i = 0; i < sim->sheet->n_blocks; i++) {
        const wad_instance *inst = sim->blocks[i].inst;
        wad_model *m = sim->blocks[i].model;
        for (unsigned k = 0; m && m->cls->request && k < inst->n_requests; k++) {
            wad_model *from = sim->blocks[inst->requests[k].from->index].model;
            if (from)
                add(m, from, &inst->requests[k]);
        }
    }
}

void wadi_requests_free(wad_model *m)
{
    if (m->asks)
        g_ptr_array_free(g_steal_pointer(&m->asks), TRUE);
    if (m->asked)
        g_ptr_array_free(g_steal_pointer(&m->asked), TRUE);
}

/* ---- who asks ---- */

static bool by_level(const wadi_request *r)
{
    return (r->from->cls->asks & WAD_ROLE_BIT(r->role)) != 0;
}

void wad_model_request(wad_model *m, unsigned role, unsigned i, bool on)
{
    for (guint k = 0; m->asks && k < m->asks->len; k++) {
        wadi_request *r = m->asks->pdata[k];
        if (r->role != role || r->index != i || r->level == on)
            continue;
        r->level = on;
        r->since = on && !r->wanted ? m->sim->now + 1 : 0;
        if (r->since)
            r->trace = wadi_trace_here(m->sim);
        r->target->cls->request(r->target, r->def->code,
                                on || wad_model_requested(r->target, r->def->code));
    }
}

void wadi_request_event(wad_model *m, unsigned role, unsigned i)
{
    for (guint k = 0; k < m->asks->len; k++) {
        const wadi_request *r = m->asks->pdata[k];
        if (r->role == role && r->index == i && r->wanted && !by_level(r))
            r->target->cls->request(r->target, r->def->code, true);
    }
}

bool wadi_requests_wanted(const wad_model *m)
{
    for (guint k = 0; m->asks && k < m->asks->len; k++) {
        const wadi_request *r = m->asks->pdata[k];
        if (r->wanted && !by_level(r))
            return true;
    }
    return false;
}

/* ---- who is asked ---- */

/* Of several on one number, one that asks now. */
const wadi_request *wadi_request_of(const wad_model *m, uint32_t code)
{
    const wadi_request *first = NULL;
    for (guint k = 0; m->asked && k < m->asked->len; k++) {
        const wadi_request *r = m->asked->pdata[k];
        if (r->def->code != code)
            continue;
        if (r->level)
            return r;
        first = first ? first : r;
    }
    return first;
}

bool wad_model_requested(const wad_model *m, uint32_t code)
{
    const wadi_request *r = wadi_request_of(m, code);
    return r && r->level;
}

const wad_trigger *wad_model_request_source(const wad_model *m, uint32_t code)
{
    const wadi_request *r = wadi_request_of(m, code);
    return r ? r->def : NULL;
}

void wad_model_wants(wad_model *m, uint32_t code, bool on)
{
    for (guint k = 0; m->asked && k < m->asked->len; k++) {
        wadi_request *r = m->asked->pdata[k];
        if (r->def->code != code || (!on && !r->wanted))
            continue;
        r->wanted += on ? 1 : UINT_MAX;
        wadi_trigger_recheck(r->from);
    }
}

void wad_model_moved(wad_model *m, uint32_t code, bool last)
{
    const wadi_request *r = wadi_request_of(m, code);
    if (r && r->from->cls->moved)
        r->from->cls->moved(r->from, r->role, r->index, last);
}
