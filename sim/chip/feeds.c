/* SPDX-License-Identifier: MIT */
/* What asks by interrupt lines, and what holds them back, looked up once. */
#include "sim/core/block.h"
#include "sim/core/controller.h"
#include "sim/core/feed.h"
#include "sim/core/happen.h"
#include "sim/core/line.h"
#include "sim/core/way.h"

static void watch(wadi_slot *slot, uint32_t mask, wadi_feed *f)
{
    slot->watched |= mask;
    for (unsigned i = 0; i < slot->n_feeds; i++)
        if (slot->feeds[i].feed == f) {
            slot->feeds[i].mask |= mask;
            return;
        }
    slot->feeds = g_renew(wadi_watched, slot->feeds, slot->n_feeds + 1u);
    slot->feeds[slot->n_feeds++] = (wadi_watched){f, mask};
}

static bool is_one_part(const wadi_binding *b, unsigned i)
{
    return b->odd ? b->odd[i].form == WAD_PLACE_BITS && b->odd[i].n_parts == 1 : b->n_parts == 1;
}

static bool is_always(const wadi_binding *b, unsigned i)
{
    return b->odd && b->odd[i].form == WAD_PLACE_ALWAYS;
}

/* All parts of an element: a change of any may change what it reads. */
static void watch_all(const wadi_binding *b, unsigned i, wadi_feed *f)
{
    for (unsigned w = 0; w < b->n_ways; w++)
        for (unsigned k = 0; i < b->ways[w].count && k < b->ways[w].odd[i].n_parts; k++) {
            const wadi_part *p = &b->ways[w].parts[(size_t)i * b->n_parts + k];
            watch(p->slot, p->mask << p->lsb, f);
        }
    unsigned n = b->odd ? b->odd[i].n_parts : b->n_parts;
    for (unsigned k = 0; k < n; k++) {
        const wadi_part *p = &b->parts[(size_t)i * b->n_parts + k];
        watch(p->slot, p->mask << p->lsb, f);
    }
}

static void set_flag(wadi_feed *f, const wadi_binding *b)
{
    const wadi_part *p = b->count > f->element ? &b->parts[(size_t)f->element * b->n_parts] : NULL;
    if (!p || is_always(b, f->element))
        return; /* no bit: it asks at the moment alone */
    f->odd = !is_one_part(b, f->element) || b->n_ways;
    f->flag = p->slot;
    f->flag_mask = p->mask << p->lsb;
    f->flag_flip = p->flip << p->lsb;
    watch_all(b, f->element, f);
}

static void set_enable(wadi_feed *f, unsigned role, const wadi_binding *b)
{
    unsigned i = f->element < b->count ? f->element : 0; /* one for all of them */
    const wadi_part *p = &b->parts[(size_t)i * b->n_parts];
    if (is_always(b, i)) {
        f->never = !b->odd[i].always;
        return;
    }
    f->enable = (int)role;
    f->enable_element = i;
    f->odd = f->odd || !is_one_part(b, i) || b->n_ways;
    f->by = p->slot;
    f->by_mask = p->mask << p->lsb;
    f->by_flip = p->flip << p->lsb;
    watch_all(b, i, f);
    for (unsigned k = 0; k < (b->odd ? b->odd[i].n_parts : b->n_parts); k++)
        p[k].slot->enables |= p[k].mask << p[k].lsb;
}

static wadi_feed *add(wad_model *m, unsigned role, unsigned element, unsigned line)
{
    wadi_feed *f = g_new0(wadi_feed, 1);
    f->model = m;
    f->role = role;
    f->element = element;
    f->line = line;
    f->enable = -1;
    f->follows = m->cls->follows & WAD_ROLE_BIT(role) && !m->roles[role].events;
    g_ptr_array_add(m->sim->feeds, f);
    if (!m->feeds)
        m->feeds = g_ptr_array_new();
    g_ptr_array_add(m->feeds, f);
    return f;
}

/* `irq { 12 end[0 .. 11] by ENA1.CH[0 .. 11] }`: this line's own enable. */
static void set_by(wadi_feed *f, const wad_fieldref *ref)
{
    f->by = wadi_find_slot(f->model->sim, ref->block, ref->reg, ref->reg_index);
    f->by_mask = (uint32_t)wad_fieldref_mask(ref);
    f->by->enables |= f->by_mask;
    watch(f->by, f->by_mask, f);
}

static void add_flag(wad_model *m, unsigned role, unsigned enable, unsigned element)
{
    const wad_instance *inst = m->block->inst;
    bool event = wad_role_is_event(&m->kind->roles[role]);
    for (unsigned i = 0; i < inst->n_irqs; i++) {
        wad_fieldref by;
        if (!wad_irq_fed(inst, i, m->roles[role].role, element, &by) ||
            (!by.reg && !m->roles[enable].count))
            continue;
        wadi_feed *f = add(m, role, element, (unsigned)inst->irqs[i]);
        f->pulses = inst->irq_edge[i] && (event || !m->roles[role].n_parts);
        m->pulses = m->pulses || f->pulses;
        set_flag(f, &m->roles[role]);
        if (by.reg)
            set_by(f, &by);
        else
            set_enable(f, enable, &m->roles[enable]);
        m->sim->cpu.lines[f->line].at_entry |= f->flag && f->flag->at_entry & f->flag_mask;
    }
}

static void add_model(wad_model *m)
{
    for (unsigned role = 0; role < m->n_roles; role++) {
        if (!m->roles[role].count || !m->roles[role].parts)
            continue;
        int enable = wad_kind_enable_of(m->kind, role);
        if (enable < 0)
            continue;
        for (unsigned i = 0; i < m->roles[role].count; i++)
            add_flag(m, role, (unsigned)enable, i);
    }
}

/* ---- what masks and ranks lines ---- */

static void add_gate(wad_sim *sim, unsigned what, const wad_line_def *line,
                     const wad_role_place *place)
{
    if (!place->width)
        return;
    wadi_gate *g = g_new0(wadi_gate, 1);
    g->what = what;
    g->line = line;
    g->place = *place;
    for (unsigned k = 0; k < MIN(place->n_parts, G_N_ELEMENTS(g->slots)); k++) {
        const wad_fieldref *ref = &place->parts[k].ref;
        g->slots[k] = wadi_find_slot(sim, ref->block, ref->reg, ref->reg_index);
        g->slots[k]->watched |= (uint32_t)wad_fieldref_mask(ref);
        g->slots[k]->gates = true;
    }
    g_ptr_array_add(sim->cpu.gates, g);
}

static void build_gates(wad_sim *sim)
{
    const wad_sheet *s = sim->sheet;
    sim->cpu.gates = g_ptr_array_new_with_free_func(g_free);
    for (unsigned i = 0; i < s->n_lines; i++) {
        const wad_line_def *line = &s->lines[i];
        wadi_line *l = &sim->cpu.lines[line->line];
        add_gate(sim, WADI_GATE_ENABLED, line, &line->enabled);
        add_gate(sim, WADI_GATE_PRIORITY, line, &line->priority);
        if (line->pending.n_parts == 1) {
            const wad_fieldref *ref = &line->pending.parts[0].ref;
            l->pending = wadi_find_slot(sim, ref->block, ref->reg, ref->reg_index);
            l->pending_mask = (uint32_t)wad_fieldref_mask(ref);
        }
    }
    sim->cpu.saves = s->cpu.saves.reg ? wadi_find_slot(sim, s->cpu.saves.block, s->cpu.saves.reg,
                                                       s->cpu.saves.reg_index)
                                      : NULL;
    if (sim->cpu.saves)
        sim->cpu.saves->flags |= WADI_SLOT_ENDS;
    if (s->cpu.global.reg) {
        sim->cpu.global =
            wadi_find_slot(sim, s->cpu.global.block, s->cpu.global.reg, s->cpu.global.reg_index);
        sim->cpu.global_part = (wad_role_part){.ref = s->cpu.global};
        wad_role_place place = {WAD_PLACE_BITS, &sim->cpu.global_part, 1, 0, 1, NULL, 0};
        add_gate(sim, WADI_GATE_GLOBAL, NULL, &place);
    }
}

static GArray *build_sets(wad_sim *sim, const wad_assign *list, unsigned n)
{
    GArray *sets = g_array_new(FALSE, FALSE, sizeof(wadi_set));
    for (unsigned i = 0; i < n; i++) {
        const wad_fieldref *ref = &list[i].ref;
        wadi_set set = {wadi_find_slot(sim, ref->block, ref->reg, ref->reg_index),
                        (uint32_t)wad_fieldref_mask(ref), (uint32_t)(list[i].value << ref->lsb)};
        g_array_append_val(sets, set);
    }
    return sets;
}

/* Flags that a first access may have noted: the note goes with the flag. */
static void watch_notes(wad_sim *sim)
{
    for (unsigned i = 0; i < sim->sheet->n_blocks; i++)
        for (unsigned k = 0; k < sim->blocks[i].n_slots; k++) {
            wadi_slot *slot = &sim->blocks[i].slots[k];
            for (guint n = 0; slot->noted && n < slot->noted->len; n++)
                slot->watched |= ((const wadi_clearing *)slot->noted->pdata[n])->mask;
            for (guint n = 0; slot->rises && n < slot->rises->len; n++) {
                const wadi_clearing *c = slot->rises->pdata[n];
                slot->watched |= c->last.slot == slot ? c->last.mask : 0;
                slot->watched |= c->first.slot == slot ? c->first.mask : 0;
            }
        }
}

/* ---- all of it ---- */

void wadi_feeds_free(wad_sim *sim)
{
    for (unsigned i = 0; sim->blocks && i < sim->sheet->n_blocks; i++) {
        wadi_block *block = &sim->blocks[i];
        if (block->model && block->model->feeds)
            g_ptr_array_free(g_steal_pointer(&block->model->feeds), TRUE);
        for (unsigned k = 0; k < block->n_slots; k++) {
            g_clear_pointer(&block->slots[k].feeds, g_free);
            block->slots[k].n_feeds = 0;
            block->slots[k].watched = block->slots[k].enables = 0;
            block->slots[k].changed = 0;
            block->slots[k].touched = block->slots[k].gates = false;
        }
    }
    g_clear_pointer(&sim->touched.slots, g_free);
    sim->touched.n = 0;
    if (sim->cpu.gates) {
        g_ptr_array_free(g_steal_pointer(&sim->cpu.gates), TRUE);
        g_array_free(g_steal_pointer(&sim->cpu.entry), TRUE);
        g_array_free(g_steal_pointer(&sim->cpu.exit), TRUE);
    }
    if (sim->feeds)
        g_ptr_array_free(g_steal_pointer(&sim->feeds), TRUE);
}

void wadi_feeds_build(wad_sim *sim)
{
    unsigned n = 0;
    wadi_feeds_free(sim);
    sim->feeds = g_ptr_array_new_with_free_func(g_free);
    for (unsigned i = 0; i < sim->sheet->n_blocks; i++)
        if (sim->blocks[i].model)
            add_model(sim->blocks[i].model);
    build_gates(sim);
    watch_notes(sim);
    sim->cpu.entry = build_sets(sim, sim->sheet->entry, sim->sheet->n_entry);
    sim->cpu.exit = build_sets(sim, sim->sheet->exit, sim->sheet->n_exit);
    sim->cpu.steps =
        sim->cpu.saves || sim->cpu.entry->len || sim->cpu.exit->len || sim->at_lines->len;
    for (unsigned i = 0; i < sim->sheet->n_blocks; i++)
        if (sim->blocks[i].model && sim->blocks[i].model->fires)
            sim->blocks[i].model->pulses = true;
    for (unsigned i = 0; i < sim->sheet->n_blocks; i++)
        for (unsigned k = 0; k < sim->blocks[i].n_slots; k++)
            n += sim->blocks[i].slots[k].watched != 0;
    sim->touched.slots = g_new0(wadi_slot *, n + 1);
}
