/* SPDX-License-Identifier: MIT */
/* A chip put together: blocks, their registers, their models. */
#include <string.h>

#include "kinds/registry.h"
#include "sim/core/block.h"
#include "sim/core/bus.h"
#include "sim/core/clock.h"
#include "sim/core/clock_out.h"
#include "sim/core/feed.h"
#include "sim/core/lock.h"
#include "sim/core/model.h"
#include "sim/core/pin.h"
#include "sim/core/register.h"
#include "sim/core/trigger.h"

static wadi_hearer *hearer_of(wadi_slot *slot, wad_model *m)
{
    if (!slot->first.model || slot->first.model == m)
        return &slot->first;
    for (unsigned i = 0; i < slot->n_more; i++)
        if (slot->more[i].model == m)
            return &slot->more[i];
    slot->more = g_renew(wadi_hearer, slot->more, slot->n_more + 1u);
    slot->more[slot->n_more] = (wadi_hearer){0};
    return &slot->more[slot->n_more++];
}

static void hear(wad_model *m, unsigned role, wadi_slot *slot, uint32_t bits, bool flag)
{
    wadi_hearer *h = hearer_of(slot, m);
    h->model = m;
    h->bits |= bits;
    if (flag)
        slot->raised |= bits;
    h->roles |= WAD_ROLE_BIT(role);
    if (m->cls->written)
        slot->flags |= WADI_SLOT_HEARD;
    if (m->cls->on_read & WAD_ROLE_BIT(role)) {
        h->reads = true;
        slot->flags |= WADI_SLOT_POPS;
    }
    if (m->cls->live & WAD_ROLE_BIT(role) && m->cls->refresh) {
        h->live |= WAD_ROLE_BIT(role);
        slot->flags |= WADI_SLOT_LIVE;
    }
    if (m->block != slot->block)
        slot->flags |= WADI_SLOT_FAR;
}

/* Parts stand low first here, high first in the sheet. */
static void bind_place(wad_model *m, unsigned role, const wad_role_place *place, wadi_part *parts,
                       bool flag)
{
    unsigned shift = 0;
    for (unsigned k = 0; k < place->n_parts; k++) {
        const wad_role_part *from = &place->parts[place->n_parts - 1 - k];
        wad_fieldref ref = wad_role_part_ref(m->block->inst, from);
        wadi_part *part = &parts[k];
        part->slot = wadi_find_slot(m->sim, ref.block, ref.reg, ref.reg_index);
        part->lsb = ref.lsb;
        part->shift = (uint8_t)shift;
        part->mask = (uint32_t)(wad_fieldref_mask(&ref) >> ref.lsb);
        part->flip = from->low ? part->mask : 0;
        shift += ref.width;
        hear(m, role, part->slot, part->mask << part->lsb, flag);
    }
}

/* A part of a running value is told when it is read; a latched one stays as the low part's read
 * left it. */
static void mark_split(wad_model *m, unsigned role, const wad_role *r, wadi_binding *b)
{
    for (unsigned n = 0; n < b->n_parts * b->count; n++) {
        wadi_slot *slot = b->parts[n].slot;
        if (!slot || b->n_parts < 2)
            continue;
        bool latched = r->value && r->value->latch_low;
        if (!latched && slot->flags & WADI_SLOT_LIVE)
            slot->flags |= WADI_SLOT_SPLIT;
        if (!latched || !(n % b->n_parts))
            continue;
        const wadi_hearer *h;
        hearer_of(slot, m)->live &= ~WAD_ROLE_BIT(role);
        slot->flags &= (uint16_t)~WADI_SLOT_LIVE;
        for (unsigned i = 0; (h = wadi_hearer_at(slot, i)); i++)
            slot->flags |= h->live ? WADI_SLOT_LIVE : 0;
    }
}

static void bind_places(wad_model *m, unsigned role, const wad_role *r, wadi_binding *b)
{
    bool odd = false, flag = wad_kind_flag(m->cls->kind, role);
    b->count = r->n_places;
    for (unsigned i = 0; i < b->count; i++) {
        const wad_role_place *p = &r->places[i];
        odd = odd || p->form != WAD_PLACE_BITS || p->n_parts != r->places[0].n_parts;
        b->n_parts = MAX(b->n_parts, p->n_parts);
    }
    b->parts = g_new0(wadi_part, (size_t)MAX(b->n_parts, 1) * b->count);
    b->odd = odd ? g_new0(wadi_odd_place, b->count) : NULL;
    for (unsigned i = 0; i < b->count; i++) {
        const wad_role_place *p = &r->places[i];
        bind_place(m, role, p, &b->parts[(size_t)i * b->n_parts], flag);
        if (odd)
            b->odd[i] = (wadi_odd_place){p->form, (uint8_t)p->n_parts, p->always};
    }
    mark_split(m, role, r, b);
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
    if (role->sort == WAD_ROLE_SIGNAL)
        bind_signals(block, (unsigned)place, role, b);
    else if (role->n_places)
        bind_places(block->model, (unsigned)place, role, b);
}

/* Registers whose reads are plain loads take the bus's shortest way. */
static void mark_quiet(wadi_block *block)
{
    for (unsigned i = 0; i < block->n_slots; i++) {
        wadi_slot *slot = &block->slots[i];
        slot->flags &= (uint16_t)~WADI_SLOT_QUIET;
        if (!slot->rc && !slot->rs && !slot->w1c && !slot->w0c &&
            !(slot->flags & (WADI_SLOT_LIVE | WADI_SLOT_CLEARS | WADI_SLOT_POPS)))
            slot->flags |= WADI_SLOT_QUIET;
    }
}

/* Another model takes the block: what the registers know of the one before goes. */
static void forget_hearer(wad_sim *sim, const wad_model *m)
{
    const wadi_hearer *h;
    for (unsigned i = 0; m && i < sim->sheet->n_blocks; i++)
        for (unsigned k = 0; k < sim->blocks[i].n_slots; k++) {
            wadi_slot *slot = &sim->blocks[i].slots[k];
            if (!wadi_slot_roles(slot, m))
                continue;
            if (slot->first.model == m) {
                slot->first = slot->n_more ? slot->more[slot->n_more - 1] : (wadi_hearer){0};
                slot->n_more = (uint8_t)(slot->n_more ? slot->n_more - 1 : 0);
            }
            for (unsigned j = 0; j < slot->n_more; j++)
                if (slot->more[j].model == m)
                    slot->more[j] = slot->more[--slot->n_more];
            slot->flags &= (uint16_t) ~(WADI_SLOT_LIVE | WADI_SLOT_HEARD | WADI_SLOT_POPS |
                                        WADI_SLOT_FAR | WADI_SLOT_SPLIT);
            for (unsigned j = 0; (h = wadi_hearer_at(slot, j)); j++) {
                slot->flags |= h->live ? WADI_SLOT_LIVE : 0;
                slot->flags |= h->reads ? WADI_SLOT_POPS : 0;
                slot->flags |= h->model->cls->written ? WADI_SLOT_HEARD : 0;
                slot->flags |= h->model->block != slot->block ? WADI_SLOT_FAR : 0;
            }
        }
}

static void free_model(wad_model *m)
{
    for (unsigned i = 0; m && i < m->n_roles; i++) {
        g_free(m->roles[i].parts);
        g_free(m->roles[i].odd);
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
    forget_hearer(block->sim, block->model);
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
    for (unsigned i = 0; i < block->inst->layout->n_roles; i++)
        bind_role(block, &block->inst->layout->roles[i]);
    if (cls->init)
        cls->init(m);
}

bool wad_sim_register(wad_sim *sim, const wad_model_class *cls, const char *name)
{
    const wad_instance *inst = wad_sheet_block(sim->sheet, name);
    if (!inst || !inst->layout->kind || strcmp(inst->layout->kind, cls->kind))
        return false;
    wadi_feeds_free(sim);
    attach_model(&sim->blocks[inst->index], cls);
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
        if (s->blocks[i]->home)
            sim->blocks[i].home = &sim->blocks[s->blocks[i]->home->index];
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
    }
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
}

void wadi_blocks_free(wad_sim *sim)
{
    wadi_feeds_free(sim);
    for (unsigned i = 0; i < sim->sheet->n_blocks; i++) {
        free_model(sim->blocks[i].model);
        for (unsigned k = 0; k < sim->blocks[i].n_slots; k++)
            free_slot(&sim->blocks[i].slots[k]);
        g_free(sim->blocks[i].slots);
        g_free(sim->blocks[i].needs);
        g_free(sim->blocks[i].locks);
        if (sim->blocks[i].clearings)
            g_ptr_array_free(sim->blocks[i].clearings, TRUE);
    }
    g_free(sim->blocks);
    for (unsigned i = 0; i < WADI_PAGES(sim); i++)
        g_free(sim->pages[i]);
    g_free(sim->pages);
}
