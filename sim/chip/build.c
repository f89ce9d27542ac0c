/* SPDX-License-Identifier: MIT */
/* A chip put together: blocks, their registers, their models. */
#include <string.h>

#include "behaviour.h"
#include "bind.h"
#include "kinds/registry.h"
#include "sim/core/block.h"
#include "sim/core/bus.h"
#include "sim/core/clock.h"
#include "sim/core/clock_out.h"
#include "sim/core/feed.h"
#include "sim/core/happen.h"
#include "sim/core/lock.h"
#include "sim/core/model.h"
#include "sim/core/pin.h"
#include "sim/core/rare.h"
#include "sim/core/register.h"
#include "sim/core/trigger.h"
#include "sim/core/way.h"
#include "user_model.h"

/* Registers whose reads are plain loads take the bus's shortest way. */
static void mark_quiet(wadi_block *block)
{
    for (unsigned i = 0; i < block->n_slots; i++) {
        wadi_slot *slot = &block->slots[i];
        slot->flags &= ~WADI_SLOT_QUIET;
        if (slot->flags & WADI_SLOT_WINDOW)
            continue;
        if (!slot->rc && !slot->rs && !slot->w1c && !slot->w0c &&
            !(slot->flags & (WADI_SLOT_LIVE | WADI_SLOT_CLEARS | WADI_SLOT_POPS | WADI_SLOT_RARE)))
            slot->flags |= WADI_SLOT_QUIET;
    }
}

static void free_model(wad_model *m)
{
    for (unsigned i = 0; m && i < m->n_roles; i++) {
        g_free(m->roles[i].parts);
        g_free(m->roles[i].stops);
        g_free(m->roles[i].events);
        wadi_ways_free(&m->roles[i]);
        g_free(m->roles[i].odd);
        g_free(m->roles[i].signals);
    }
    if (m) {
        g_ptr_array_remove(m->sim->choosers, m);
        if (m->fires)
            g_ptr_array_free(m->fires, TRUE);
        if (m->listeners)
            g_array_free(m->listeners, TRUE);
        wadi_requests_free(m);
        g_free(m->roles);
        g_free(m->state);
        wadi_numbered_free(m->own_kind);
    }
    g_free(m);
}

/* ---- another model in a block's place ---- */

static void now_of(wadi_bus_event *e, const wad_model *old, wad_model *m)
{
    if (e->model != old || e->sort != WAD_EVENT_ROLE)
        return;
    int role = wad_kind_role_index(m->kind, old->kind->roles[e->role].name);
    e->model = role < 0 ? NULL : m;
    e->role = role < 0 ? 0 : (unsigned)role;
}

/* What the flags of the model before bring about, and what it is told, is its successor's. */
static void take_over(wad_model *old, wad_model *m)
{
    wad_sim *sim = m->sim;
    m->fires = old ? g_steal_pointer(&old->fires) : NULL;
    for (unsigned i = 0; old && i < sim->sheet->n_blocks; i++) {
        GPtrArray *clearings = sim->blocks[i].clearings;
        for (guint k = 0; clearings && k < clearings->len; k++) {
            wadi_clearing *c = clearings->pdata[k];
            if (c->takes == WADI_TAKES_ACT && c->unit == m->block)
                c->role = (unsigned)wad_kind_role_index(m->kind, old->kind->roles[c->role].name);
            now_of(&c->first, old, m);
            now_of(&c->last, old, m);
        }
    }
}

static void attach_model(wadi_block *block, const wad_model_class *cls, wad_kind *own_kind)
{
    wad_model *m = g_new0(wad_model, 1);
    m->sim = block->sim;
    m->block = block;
    m->own_kind = own_kind;
    m->kind = own_kind ? own_kind : block->inst->layout->kind;
    wadi_forget_hearer(block->sim, block->model);
    take_over(block->model, m);
    free_model(block->model);
    block->model = m;
    if (wad_acts_as(block->inst->layout, "interrupts"))
        block->sim->cpu.controller = m; /* whoever asks for it is told the one there is */
    else if (wad_acts_as(block->inst->layout, "power"))
        block->sim->sleep.power = m;
    m->cls = cls;
    m->built_in = cls == wadi_kind_model(cls->kind);
    m->state = g_malloc0(cls->state_size + 1);
    m->n_roles = m->kind->n_roles;
    m->roles = g_new0(wadi_binding, m->n_roles);
    for (unsigned i = 0; i < block->inst->layout->n_roles; i++)
        wadi_bind_role(block, &block->inst->layout->roles[i]);
    wadi_bind_enable(m);
    wadi_ways_choose(m);
    if (cls->init)
        cls->init(m);
}

bool wad_sim_register(wad_sim *sim, const wad_model_class *cls, const char *name, char **why)
{
    const wad_instance *inst = wad_sheet_block(sim->sheet, name);
    wad_kind *own = NULL;
    *why = NULL;
    if (!inst) {
        *why = g_strdup_printf("%s has no block or unit '%s'", sim->sheet->name, name);
        return false;
    }
    if (!wadi_class_fits(inst, cls, &own, why))
        return false;
    wadi_feeds_free(sim);
    attach_model(&sim->blocks[inst->index], cls, own);
    for (unsigned i = 0; i < sim->sheet->n_blocks; i++)
        mark_quiet(&sim->blocks[i]);
    wadi_triggers_build(sim);
    wadi_requests_build(sim);
    wadi_feeds_build(sim);
    return true;
}

static bool is_reset_register(const wadi_block *clocks, const wad_register *reg)
{
    const wad_role *resets = wad_layout_role(clocks->inst->layout, "resets");
    const wad_role *done = wad_layout_role(clocks->inst->layout, "resets_done");
    return (resets && resets->reg == reg) || (done && done->reg == reg);
}

static void add_need(wad_sim *sim, wadi_need **list, unsigned *n, const wad_cond_term *term,
                     unsigned way)
{
    *list = g_renew(wadi_need, *list, *n + 1);
    wadi_need *need = &(*list)[(*n)++];
    *need = (wadi_need){0};
    wad_fieldref at = term->ref;
    need->slot = wadi_field_slot(sim, NULL, 0, &at);
    const wadi_block *owner = need->slot->block;
    need->term = term;
    need->way = way;
    need->mask = (uint32_t)wad_fieldref_mask(&at);
    need->lsb = at.lsb;
    need->finding =
        is_reset_register(owner, term->ref.reg) ? WAD_FINDING_IN_RESET : WAD_FINDING_GATED;
    need->slot->flags |= WADI_SLOT_CLOCKS;
}

static void add_needs(wad_sim *sim, wadi_need **list, unsigned *n, const wad_cond *cond)
{
    unsigned way = 0;
    for (const wad_cond *c = cond; c; c = c->or_else, way++)
        for (unsigned i = 0; i < c->n; i++)
            add_need(sim, list, n, &c->terms[i], way);
}

static void add_opening(wadi_block *block, unsigned i, const wad_ready *def)
{
    if (!def->ref.reg && !def->delayed)
        return;
    wadi_opening *o = block->opening[i] = g_new0(wadi_opening, 1);
    o->block = block;
    o->event.fn = wadi_opening_ready;
    o->def = def;
    if (def->ref.reg) {
        o->slot = wadi_find_slot(block->sim, def->ref.block, def->ref.reg, def->ref.reg_index);
        o->mask = (uint32_t)wad_fieldref_mask(&def->ref);
    }
}

static void build_needs(wad_sim *sim, wadi_block *block)
{
    add_needs(sim, &block->needs, &block->n_needs, &block->inst->needs);
    add_needs(sim, &block->resets, &block->n_resets, &block->inst->reset);
    add_opening(block, 0, &block->inst->needs_ready);
    add_opening(block, 1, &block->inst->reset_ready);
}

bool wadi_blocks_build(wad_sim *sim, char **why)
{
    const wad_sheet *s = sim->sheet;
    sim->blocks = g_new0(wadi_block, s->n_blocks + 1);
    sim->choosers = g_ptr_array_new();
    for (unsigned i = 0; i < s->n_blocks; i++) {
        sim->blocks[i].sim = sim;
        sim->blocks[i].inst = s->blocks[i];
        if (s->blocks[i]->home)
            sim->blocks[i].home = &sim->blocks[s->blocks[i]->home->index];
        if (s->blocks[i]->base % (s->bus_bits / 8)) {
            *why = g_strdup_printf("block '%s' does not begin at a bus word", s->blocks[i]->name);
            return false;
        }
        wadi_build_slots(&sim->blocks[i]);
        wadi_locks_build(&sim->blocks[i]);
    }
    wadi_pins_build(sim);
    wadi_clocks_build(sim);
    wadi_clockouts_build(sim);
    for (unsigned i = 0; i < s->n_blocks; i++) {
        const wad_fieldref *route = &s->blocks[i]->route;
        build_needs(sim, &sim->blocks[i]);
        if (route->reg) {
            sim->blocks[i].route = wadi_find_slot(sim, route->block, route->reg, route->reg_index);
            sim->blocks[i].route->flags |= WADI_SLOT_ROUTES;
        }
    }
    for (unsigned i = 0; i < s->n_blocks; i++) {
        const wad_kind *kind = s->blocks[i]->layout->kind;
        const wad_model_class *cls = !kind       ? NULL
                                     : kind->own ? &wadi_model_of_nothing
                                                 : wadi_kind_model(kind->name);
        if (cls)
            attach_model(&sim->blocks[i], cls, NULL);
    }
    wadi_behaviour_build(sim);
    for (unsigned i = 0; i < s->n_blocks; i++)
        mark_quiet(&sim->blocks[i]);
    wadi_triggers_build(sim);
    wadi_requests_build(sim);
    wadi_feeds_build(sim);
    return true;
}

static void free_slot(wadi_slot *slot)
{
    g_free(slot->more);
    if (slot->accessed)
        g_ptr_array_free(slot->accessed, TRUE);
    if (slot->noted)
        g_ptr_array_free(slot->noted, TRUE);
    if (slot->rises)
        g_ptr_array_free(slot->rises, TRUE);
    if (slot->coded)
        g_array_free(slot->coded, TRUE);
    wadi_rare_free(slot);
}

void wadi_blocks_free(wad_sim *sim)
{
    wadi_feeds_free(sim);
    wadi_behaviour_free(sim);
    for (unsigned i = 0; i < sim->sheet->n_blocks; i++) {
        free_model(sim->blocks[i].model);
        for (unsigned k = 0; k < sim->blocks[i].n_slots; k++)
            free_slot(&sim->blocks[i].slots[k]);
        g_free(sim->blocks[i].slots);
        g_free(sim->blocks[i].needs);
        g_free(sim->blocks[i].resets);
        g_free(sim->blocks[i].opening[0]);
        g_free(sim->blocks[i].opening[1]);
        g_free(sim->blocks[i].locks);
        if (sim->blocks[i].clearings)
            g_ptr_array_free(sim->blocks[i].clearings, TRUE);
        if (sim->blocks[i].laters)
            g_ptr_array_free(sim->blocks[i].laters, TRUE);
        if (sim->blocks[i].temporaries)
            g_ptr_array_free(sim->blocks[i].temporaries, TRUE);
    }
    g_ptr_array_free(sim->choosers, TRUE);
    g_free(sim->blocks);
    for (unsigned i = 0; i < WADI_PAGES(sim); i++)
        g_free(sim->pages[i]);
    g_free(sim->pages);
}
