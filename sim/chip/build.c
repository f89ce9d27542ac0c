/* SPDX-License-Identifier: MIT */
/* A chip put together: blocks, their registers, their models. */
#include <string.h>

#include "kinds/registry.h"
#include "sim/core/block.h"
#include "sim/core/bus.h"
#include "sim/core/clock.h"
#include "sim/core/clock_out.h"
#include "sim/core/lock.h"
#include "sim/core/model.h"
#include "sim/core/pin.h"
#include "sim/core/register.h"
#include "sim/core/trigger.h"

static void bind_part(wadi_block *block, unsigned role, const wad_fieldref *ref, unsigned shift,
                      wadi_part *part)
{
    part->slot = wadi_find_slot(block->sim, block->inst, ref->reg, ref->reg_index);
    part->lsb = ref->lsb;
    part->shift = (uint8_t)shift;
    part->mask = (uint32_t)(wad_fieldref_mask(ref) >> ref->lsb);
    part->slot->roles |= WAD_ROLE_BIT(role);
    if (block->model->cls->written)
        part->slot->flags |= WADI_SLOT_HEARD;
    if (block->model->cls->on_read & WAD_ROLE_BIT(role))
        part->slot->flags |= WADI_SLOT_POPS;
    if (block->model->cls->live & WAD_ROLE_BIT(role) && block->model->cls->refresh)
        part->slot->flags |= WADI_SLOT_LIVE;
}

static void bind_value(wadi_block *block, unsigned role, const wad_value *value, wadi_binding *b)
{
    unsigned shift = 0;
    b->n_parts = value->n_parts;
    b->count = value->count ? value->count : 1;
    b->parts = g_new0(wadi_part, (size_t)b->n_parts * b->count);
    for (unsigned n = 0; n < b->n_parts * b->count; n++) { /* the model's parts stand low first */
        unsigned i = n % b->n_parts;
        const wad_bitfield *f = value->parts[b->n_parts - 1 - i];
        wad_fieldref ref = {.block = block->inst,
                            .reg = f->reg,
                            .field = f,
                            .reg_index = n / b->n_parts,
                            .lsb = f->lsb,
                            .width = f->width};
        shift = i ? shift : 0;
        bind_part(block, role, &ref, shift, &b->parts[n]);
        if (value->n_parts > 1 && !value->latch_low && b->parts[n].slot->flags & WADI_SLOT_LIVE)
            b->parts[n].slot->flags |= WADI_SLOT_SPLIT;
        if (i && value->latch_low) /* stays as the low part's read left it */
            b->parts[n].slot->flags &= (uint16_t)~WADI_SLOT_LIVE;
        shift += f->width;
    }
}

static void bind_signals(wadi_block *block, unsigned place, const wad_role *role, wadi_binding *b)
{
    GPtrArray *list = g_ptr_array_new();
    for (unsigned i = 0; i < 256; i++) {
        char *name =
            role->indexed ? g_strdup_printf("%s%u", role->signal, i) : g_strdup(role->signal);
        wadi_signal *signal = wadi_signal_find(block->sim, block->inst, name);
        g_free(name);
        if (!signal)
            break;
        signal->model = block->model;
        signal->role = place;
        signal->index = i;
        g_ptr_array_add(list, signal);
        if (!role->indexed)
            break;
    }
    b->count = list->len;
    b->signals = (wadi_signal **)g_ptr_array_free(list, FALSE);
}

static void bind_role(wadi_block *block, const wad_role *role)
{
    int place = wad_kind_role_index(block->inst->layout->kind, role->name);
    wadi_binding *b = &block->model->roles[place];
    b->role = role;
    if (role->sort == WAD_ROLE_SIGNAL) {
        bind_signals(block, (unsigned)place, role, b);
    } else if (role->sort == WAD_ROLE_VALUE) {
        bind_value(block, (unsigned)place, role->value, b);
    } else if (role->reg) {
        b->n_parts = 1;
        b->count = wad_role_count(role);
        b->parts = g_new0(wadi_part, b->count);
        for (unsigned i = 0; i < b->count; i++) {
            wad_fieldref ref = wad_role_ref(block->inst, role, i);
            bind_part(block, (unsigned)place, &ref, 0, &b->parts[i]);
        }
    }
}

/* Registers whose reads are plain loads take the bus's shortest way. */
static void mark_quiet(wadi_block *block)
{
    for (unsigned i = 0; i < block->n_slots; i++) {
        wadi_slot *slot = &block->slots[i];
        slot->flags &= (uint16_t)~WADI_SLOT_QUIET;
        if (!slot->rc && !slot->w1c && !slot->w0c &&
            !(slot->flags & (WADI_SLOT_LIVE | WADI_SLOT_CLEARS | WADI_SLOT_POPS)))
            slot->flags |= WADI_SLOT_QUIET;
    }
}

static void free_model(wad_model *m)
{
    for (unsigned i = 0; m && i < m->n_roles; i++) {
        g_free(m->roles[i].parts);
        g_free(m->roles[i].signals);
    }
    if (m) {
        if (m->listeners)
            g_array_free(m->listeners, TRUE);
        wadi_requests_free(m);
        g_free(m->roles);
        g_free(m->state);
    }
    g_free(m);
}

static void attach_model(wadi_block *block, const wad_model_class *cls)
{
    wad_model *m = g_new0(wad_model, 1);
    free_model(block->model);
    block->model = m;
    if (!strcmp(cls->kind,
                wadi_model_interrupts.kind)) /* whoever asks for it is told the one there is */
        block->sim->cpu.controller = m;
    else if (!strcmp(cls->kind, wadi_model_power.kind))
        block->sim->sleep.power = m;
    m->sim = block->sim;
    m->block = block;
    m->cls = cls;
    m->built_in = cls == wadi_kind_model(cls->kind);
    m->state = g_malloc0(cls->state_size + 1);
    wad_kind_roles(cls->kind, &m->n_roles);
    m->roles = g_new0(wadi_binding, m->n_roles);
    for (unsigned i = 0; i < block->n_slots; i++) {
        block->slots[i].roles = 0;
        block->slots[i].flags &= (uint16_t) ~(WADI_SLOT_LIVE | WADI_SLOT_HEARD | WADI_SLOT_POPS);
    }
    for (unsigned i = 0; i < block->inst->layout->n_roles; i++)
        bind_role(block, &block->inst->layout->roles[i]);
    mark_quiet(block);
    if (cls->init)
        cls->init(m);
}

bool wad_sim_register(wad_sim *sim, const wad_model_class *cls, const char *name)
{
    const wad_instance *inst = wad_sheet_block(sim->sheet, name);
    if (!inst || !inst->layout->kind || strcmp(inst->layout->kind, cls->kind))
        return false;
    attach_model(&sim->blocks[inst->index], cls);
    wadi_triggers_build(sim);
    wadi_requests_build(sim);
    return true;
}

static bool is_reset_register(const wadi_block *clocks, const wad_register *reg)
{
    const wad_role *resets = wad_layout_role(clocks->inst->layout, "resets");
    const wad_role *done = wad_layout_role(clocks->inst->layout, "resets_done");
    return (resets && resets->reg == reg) || (done && done->reg == reg);
}

static void build_needs(wad_sim *sim, wadi_block *block)
{
    const wad_cond *cond = &block->inst->needs;
    block->n_needs = cond->n;
    block->needs = g_new0(wadi_need, cond->n + 1);
    for (unsigned i = 0; i < cond->n; i++) {
        const wad_cond_term *term = &cond->terms[i];
        wadi_need *need = &block->needs[i];
        wadi_block *owner = &sim->blocks[term->ref.block->index];
        need->term = term;
        need->slot = wadi_find_slot(sim, term->ref.block, term->ref.reg, term->ref.reg_index);
        need->mask = (uint32_t)wad_fieldref_mask(&term->ref);
        need->value = (uint32_t)(term->value << term->ref.lsb);
        need->equal = term->equal;
        need->finding =
            is_reset_register(owner, term->ref.reg) ? WAD_FINDING_IN_RESET : WAD_FINDING_GATED;
        need->slot->flags |= WADI_SLOT_CLOCKS;
    }
}

bool wadi_blocks_build(wad_sim *sim, char **why)
{
    const wad_sheet *s = sim->sheet;
    sim->blocks = g_new0(wadi_block, s->n_blocks + 1);
    for (unsigned i = 0; i < s->n_blocks; i++) {
        sim->blocks[i].sim = sim;
        sim->blocks[i].inst = s->blocks[i];
        if (s->blocks[i]->base % (s->bus_bits / 8)) {
            *why = g_strdup_printf("block '%s' does not begin at a bus word", s->blocks[i]->name);
            return false;
        }
        wadi_build_slots(&sim->blocks[i]);
        wadi_build_clearings(&sim->blocks[i]);
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
        const wad_model_class *cls = wadi_kind_model(s->blocks[i]->layout->kind);
        if (cls)
            attach_model(&sim->blocks[i], cls);
        else
            mark_quiet(&sim->blocks[i]);
    }
    wadi_triggers_build(sim);
    wadi_requests_build(sim);
    return true;
}

void wadi_blocks_free(wad_sim *sim)
{
    for (unsigned i = 0; i < sim->sheet->n_blocks; i++) {
        free_model(sim->blocks[i].model);
        g_free(sim->blocks[i].slots);
        g_free(sim->blocks[i].needs);
        g_free(sim->blocks[i].locks);
        if (sim->blocks[i].clearings)
            g_array_free(sim->blocks[i].clearings, TRUE);
    }
    g_free(sim->blocks);
    for (unsigned i = 0; i < WADI_PAGES(sim); i++)
        g_free(sim->pages[i]);
    g_free(sim->pages);
}
