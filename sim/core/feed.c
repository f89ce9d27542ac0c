/* SPDX-License-Identifier: MIT */
#include "feed.h"

#include "block.h"
#include "line.h"
#include "report.h"

/* ---- what asks ---- */

static bool is_open(const wadi_feed *f)
{
    if (f->odd && f->enable >= 0)
        return wad_model_get(f->model, (unsigned)f->enable, f->enable_element) != 0;
    return !f->never && (!f->by || (f->by->value ^ f->by_flip) & f->by_mask);
}

static bool is_set(const wadi_feed *f)
{
    if (f->odd)
        return wad_model_get(f->model, f->role, f->element) != 0;
    return f->flag && (f->flag->value ^ f->flag_flip) & f->flag_mask;
}

static inline bool asks(const wadi_feed *f)
{
    return is_set(f) && is_open(f);
}

static void follow(wad_sim *sim, wadi_feed *f)
{
    bool on = !f->pulses && asks(f);
    if (on == f->on)
        return;
    f->on = on;
    wadi_line_feed(sim, f->line, on);
}

void wadi_feeds_settle(wad_sim *sim)
{
    for (unsigned i = 0; i < sim->touched.n; i++) { /* a line's change may touch a controller's */
        wadi_slot *slot = sim->touched.slots[i];
        slot->touched = false;
        for (unsigned k = 0; k < slot->n_feeds; k++)
            follow(sim, slot->feeds[k]);
    }
    sim->touched.n = 0;
}

void wadi_touch(wadi_slot *slot)
{
    wad_sim *sim = slot->block->sim;
    if (slot->touched)
        return;
    slot->touched = true;
    sim->touched.slots[sim->touched.n++] = slot;
}

/* ---- what they are made of ---- */

static void watch(wadi_slot *slot, uint32_t mask, wadi_feed *f)
{
    slot->watched |= mask;
    for (unsigned i = 0; i < slot->n_feeds; i++)
        if (slot->feeds[i] == f)
            return;
    slot->feeds = g_renew(wadi_feed *, slot->feeds, slot->n_feeds + 1u);
    slot->feeds[slot->n_feeds++] = f;
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
    unsigned n = b->odd ? b->odd[i].n_parts : b->n_parts;
    for (unsigned k = 0; k < n; k++) {
        const wadi_part *p = &b->parts[i * b->n_parts + k];
        watch(p->slot, p->mask << p->lsb, f);
    }
}

static void set_flag(wadi_feed *f, const wadi_binding *b)
{
    const wadi_part *p = b->count > f->element ? &b->parts[f->element * b->n_parts] : NULL;
    if (!p || is_always(b, f->element))
        return; /* no bit: it asks at the moment alone */
    f->odd = !is_one_part(b, f->element);
    f->flag = p->slot;
    f->flag_mask = p->mask << p->lsb;
    f->flag_flip = p->flip << p->lsb;
    watch_all(b, f->element, f);
}

static void set_enable(wadi_feed *f, unsigned role, const wadi_binding *b)
{
    unsigned i = f->element < b->count ? f->element : 0; /* one for all of them */
    const wadi_part *p = &b->parts[i * b->n_parts];
    if (is_always(b, i)) {
        f->never = !b->odd[i].always;
        return;
    }
    f->enable = (int)role;
    f->enable_element = i;
    f->odd = f->odd || !is_one_part(b, i);
    f->by = p->slot;
    f->by_mask = p->mask << p->lsb;
    f->by_flip = p->flip << p->lsb;
    watch_all(b, i, f);
}

static wadi_feed *add(wad_model *m, unsigned role, unsigned element, unsigned line)
{
    wadi_feed *f = g_new0(wadi_feed, 1);
    f->model = m;
    f->role = role;
    f->element = element;
    f->line = line;
    f->enable = -1;
    f->follows = m->cls->follows & WAD_ROLE_BIT(role);
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
    watch(f->by, f->by_mask, f);
}

static void add_flag(wad_model *m, unsigned role, unsigned enable, unsigned element)
{
    const wad_instance *inst = m->block->inst;
    bool event = wad_role_is_event(&wad_kind_roles(m->cls->kind, &(unsigned){0})[role]);
    for (unsigned i = 0; i < inst->n_irqs; i++) {
        wad_fieldref by;
        if (!wad_irq_fed(inst, i, m->roles[role].role, element, &by))
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
        int enable = wad_kind_enable_of(m->cls->kind, role);
        if (enable < 0 || !m->roles[role].count || !m->roles[enable].count)
            continue;
        for (unsigned i = 0; i < m->roles[role].count; i++)
            add_flag(m, role, (unsigned)enable, i);
    }
}

void wadi_feeds_free(wad_sim *sim)
{
    for (unsigned i = 0; sim->blocks && i < sim->sheet->n_blocks; i++) {
        wadi_block *block = &sim->blocks[i];
        if (block->model && block->model->feeds)
            g_ptr_array_free(g_steal_pointer(&block->model->feeds), TRUE);
        for (unsigned k = 0; k < block->n_slots; k++) {
            g_clear_pointer(&block->slots[k].feeds, g_free);
            block->slots[k].n_feeds = 0;
            block->slots[k].watched = 0;
            block->slots[k].touched = false;
        }
    }
    g_clear_pointer(&sim->touched.slots, g_free);
    sim->touched.n = 0;
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
    for (unsigned i = 0; i < sim->sheet->n_blocks; i++)
        for (unsigned k = 0; k < sim->blocks[i].n_slots; k++)
            n += sim->blocks[i].slots[k].watched != 0;
    sim->touched.slots = g_new0(wadi_slot *, n + 1);
}

void wadi_feeds_reset(wad_sim *sim)
{
    for (unsigned i = 0; i < sim->touched.n; i++)
        sim->touched.slots[i]->touched = false;
    sim->touched.n = 0;
    for (guint i = 0; i < sim->feeds->len; i++) {
        wadi_feed *f = sim->feeds->pdata[i];
        f->on = false;
        f->open = is_open(f);
        follow(sim, f);
    }
}

/* ---- what happens to them ---- */

void wadi_feeds_enabled(const wadi_slot *slot)
{
    wad_sim *sim = slot->block->sim;
    for (unsigned i = 0; i < slot->n_feeds; i++) {
        wadi_feed *f = slot->feeds[i];
        bool open = is_open(f), begins = open && !f->open;
        f->open = open;
        if (begins)
            wadi_line_asked(sim, f->line, f->model->block->inst->name,
                            !f->follows && !f->pulses && is_set(f));
    }
}

void wadi_feeds_entered(wad_sim *sim, unsigned line)
{
    for (guint i = 0; i < sim->feeds->len; i++) {
        const wadi_feed *f = sim->feeds->pdata[i];
        if (f->line == line && f->flag && f->flag->at_entry & f->flag_mask && asks(f))
            wadi_take_flags(f->flag, f->flag_mask);
    }
    wadi_settle(sim);
}

void wadi_feeds_pulse(const wad_model *m, unsigned role, unsigned i)
{
    for (guint k = 0; m->feeds && k < m->feeds->len; k++) {
        const wadi_feed *f = m->feeds->pdata[k];
        if (f->pulses && f->role == role && f->element == i && is_open(f))
            wadi_line_note(m->sim, f->line);
    }
}

bool wadi_feeds_ask(const wad_model *m, unsigned role)
{
    for (guint k = 0; m->feeds && k < m->feeds->len; k++) {
        const wadi_feed *f = m->feeds->pdata[k];
        if (f->role == role && asks(f))
            return true;
    }
    return false;
}

bool wadi_feeds_ask_beside(const wad_model *m, unsigned role)
{
    for (guint k = 0; m->feeds && k < m->feeds->len; k++) {
        const wadi_feed *f = m->feeds->pdata[k];
        if (f->role != role && asks(f))
            return true;
    }
    return false;
}
