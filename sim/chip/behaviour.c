/* SPDX-License-Identifier: MIT */
#include "behaviour.h"

#include <string.h>

#include "sheet/chip/query.h"
#include "sim/core/block.h"
#include "sim/core/bus.h"
#include "sim/core/happen.h"
#include "sim/core/hook.h"
#include "sim/core/model.h"
#include "sim/core/rare.h"

/* ---- what happens ---- */

static void add_to(GPtrArray **list, void *item)
{
    if (!*list)
        *list = g_ptr_array_new();
    if (!g_ptr_array_find(*list, item, NULL))
        g_ptr_array_add(*list, item);
}

static wadi_block *unit_named(wadi_block *block, const char *name)
{
    wad_sim *sim = block->sim;
    char *full = name ? g_strdup_printf("%s.%s", block->inst->name, name) : NULL;
    const wad_instance *inst = full ? wad_sheet_block(sim->sheet, full) : block->inst;
    if (!inst && name)
        inst = wad_sheet_block(sim->sheet, name);
    g_free(full);
    return inst ? &sim->blocks[inst->index] : NULL;
}

/* A flag that a model sets is known by its role: also when it is set already. */
static bool find_role(wad_sim *sim, const wadi_slot *slot, uint32_t mask, wadi_bus_event *e)
{
    for (unsigned k = 0; k < sim->sheet->n_blocks; k++) {
        wad_model *m = sim->blocks[k].model;
        for (unsigned r = 0; m && r < m->n_roles; r++) {
            const wadi_binding *b = &m->roles[r];
            for (unsigned i = 0; b->parts && wad_kind_flag(m->kind, r) && i < b->count; i++) {
                const wadi_part *p = &b->parts[(size_t)i * b->n_parts];
                if (p->slot != slot || p->mask << p->lsb != mask)
                    continue;
                *e = (wadi_bus_event){.sort = WAD_EVENT_ROLE, .model = m, .role = r, .element = i};
                return true;
            }
        }
    }
    return false;
}

static wadi_bus_event resolve(wadi_block *block, const wad_bus_event *e, unsigned element)
{
    wadi_bus_event event = {.sort = e->sort, .write = e->write};
    if (e->sort == WAD_EVENT_ENTRY || e->sort == WAD_EVENT_EXIT) {
        event.unit = block->inst->n_irqs ? block : NULL;
    } else if (e->sort == WAD_EVENT_ROLE) {
        const wadi_block *unit = unit_named(block, e->unit);
        int role = unit && unit->model ? wad_kind_role_index(unit->model->kind, e->role) : -1;
        event.model = role < 0 ? NULL : unit->model;
        event.role = role < 0 ? 0 : (unsigned)role;
        event.element = e->element;
    } else {
        const wad_instance *inst = e->block ? e->block : block->inst;
        event.slot =
            wadi_find_slot(block->sim, inst, e->reg, e->by_element ? element : e->reg_index);
        event.mask = (uint32_t)e->mask;
        event.value = (uint32_t)e->value;
        if (e->sort == WAD_EVENT_FLAG)
            find_role(block->sim, event.slot, event.mask, &event);
    }
    return event;
}

/* What brings it about knows of it. */
static void listen(wad_sim *sim, const wadi_bus_event *e, wadi_clearing *c)
{
    if (e->sort == WAD_EVENT_ACCESS) {
        add_to(&e->slot->accessed, c);
        e->slot->flags |= WADI_SLOT_CLEARS;
    } else if (e->sort == WAD_EVENT_FLAG) {
        add_to(&e->slot->rises, c);
    } else if (e->sort == WAD_EVENT_ROLE && e->model) {
        add_to(&e->model->fires, c);
    } else if (e->sort != WAD_EVENT_ROLE) {
        if (!g_ptr_array_find(sim->at_lines, c, NULL))
            g_ptr_array_add(sim->at_lines, c);
    }
}

static void expect(wadi_block *block, const wad_clearing *def, unsigned element,
                   const wadi_clearing *proto)
{
    wadi_clearing *c = g_new0(wadi_clearing, 1);
    *c = *proto;
    c->then = def->then;
    c->last = resolve(block, &def->last, element);
    if (!block->clearings)
        block->clearings = g_ptr_array_new_with_free_func(g_free);
    g_ptr_array_add(block->clearings, c);
    listen(block->sim, &c->last, c);
    if (!def->then)
        return;
    c->first = resolve(block, &def->first, element);
    listen(block->sim, &c->first, c);
    if (c->takes == WADI_TAKES_FLAG)
        add_to(&c->flag->noted, c);
}

/* ---- fields ---- */

static wadi_slot *slot_of(wadi_block *block, const wad_fieldref *ref, unsigned element)
{
    wad_fieldref at = *ref;
    return wadi_field_slot(block->sim, block->inst, element, &at);
}

static void add_array(GArray **list, const void *item, unsigned size)
{
    if (!*list)
        *list = g_array_new(FALSE, TRUE, size);
    g_array_append_vals(*list, item, 1);
}

static void add_pointer(GPtrArray **list, void *item)
{
    if (!*list)
        *list = g_ptr_array_new();
    g_ptr_array_add(*list, item);
}

static void show(wadi_slot *slot, uint32_t mask, uint8_t lsb, const wad_expr *expr,
                 const wadi_alias *alias, const wadi_number *number)
{
    wadi_shown s = {mask, lsb, expr, alias, number};
    add_array(&wadi_rare_of(slot)->shown, &s, sizeof s);
}

static void add_alias(wadi_slot *slot, const wad_behaviour *more, uint32_t mask, uint8_t lsb)
{
    wadi_alias *a = g_new0(wadi_alias, 1);
    *a = (wadi_alias){.verb = more->alias,
                      .to = slot_of(slot->block, &more->alias_of, slot->index),
                      .mask = mask,
                      .lsb = lsb,
                      .to_lsb = more->alias_of.lsb};
    add_pointer(&wadi_rare_of(slot)->aliases, a);
    if (!more->reads)
        show(slot, mask, lsb, NULL, a, NULL);
}

static void add_number(wadi_slot *slot, const wad_number *def, uint32_t mask, uint8_t lsb)
{
    wadi_number *n = g_new0(wadi_number, 1);
    *n = (wadi_number){.def = def, .mask = mask, .lsb = lsb};
    n->flags = g_new0(wadi_numbered, def->n + 1);
    for (unsigned i = 0; i < def->n; i++) {
        wadi_numbered *f = &n->flags[i];
        wadi_bus_event by;
        f->slot = slot_of(slot->block, &def->items[i].flag, slot->index);
        f->mask = (uint32_t)wad_fieldref_mask(&def->items[i].flag);
        int enable = find_role(slot->block->sim, f->slot, f->mask, &by)
                         ? wad_kind_enable_of(by.model->kind, by.role)
                         : -1;
        if (enable >= 0)
            *f = (wadi_numbered){f->slot, f->mask, by.model->block, (unsigned)enable, by.element};
    }
    add_pointer(&wadi_rare_of(slot)->numbers, n);
    show(slot, mask, lsb, NULL, NULL, n);
}

/* A condition rests on these registers. */
static void watch_cond(wadi_block *block, const wad_cond *cond)
{
    for (const wad_cond *c = cond; c; c = c->or_else)
        for (unsigned i = 0; i < c->n; i++)
            slot_of(block, &c->terms[i].ref, 0)->flags |= WADI_SLOT_ENDS;
}

static void add_held(wadi_slot *slot, const wad_held *def, uint32_t mask)
{
    wadi_rare *r = wadi_rare_of(slot);
    wadi_hold h = {mask, def->when, def->n_until != 0};
    add_array(&r->holds, &h, sizeof h);
    r->held |= mask;
    r->shows_active |= def->shows_active ? mask : 0;
    wadi_clearing proto = {.takes = WADI_TAKES_HELD, .flag = slot, .mask = mask};
    for (unsigned i = 0; i < def->n_until; i++)
        expect(slot->block, &def->until[i], slot->index, &proto);
    if (!def->when)
        return;
    watch_cond(slot->block, def->when);
    if (!g_ptr_array_find(slot->block->sim->holders, slot, NULL))
        g_ptr_array_add(slot->block->sim->holders, slot);
}

static void add_delay(wadi_slot *slot, const wad_delay *def, uint32_t mask)
{
    wadi_delay *d = g_new0(wadi_delay, 1);
    *d = (wadi_delay){.event = {.fn = wadi_bus_arrives}, .def = def, .slot = slot, .mask = mask};
    if (def->busy.reg) {
        d->busy = slot_of(slot->block, &def->busy, slot->index);
        d->busy_mask = (uint32_t)wad_fieldref_mask(&def->busy);
    }
    add_pointer(&wadi_rare_of(slot)->delays, d);
}

static void add_behaviour(wadi_slot *slot, const wad_behaviour *more, uint32_t mask, uint8_t lsb,
                          const wad_bitfield *field)
{
    if (more->reads) {
        slot->readable |= mask;
        show(slot, mask, lsb, more->reads, NULL, NULL);
    }
    if (more->alias)
        add_alias(slot, more, mask, lsb);
    if (more->number)
        add_number(slot, more->number, mask, lsb);
    if (more->masks.reg) {
        const wad_fieldref *to = &more->masks;
        wadi_mask m = {mask, (uint32_t)wad_fieldref_mask(to), lsb, to->lsb};
        add_array(&wadi_rare_of(slot)->masks, &m, sizeof m);
    }
    if (more->has_key) {
        wadi_key k = {mask, (uint32_t)(more->key << lsb), more->key_resets, field};
        add_array(&wadi_rare_of(slot)->keys, &k, sizeof k);
    }
    if (more->held)
        add_held(slot, more->held, mask);
    if (more->delay)
        add_delay(slot, more->delay, mask);
}

static void build_field(wadi_slot *slot, const wad_bitfield *f)
{
    for (unsigned e = 0; e < (f->count ? f->per_reg : 1u); e++) {
        uint8_t lsb = (uint8_t)(f->lsb + e * f->step);
        uint32_t mask = (uint32_t)(((UINT64_C(1) << f->width) - 1) << lsb);
        if (f->more)
            add_behaviour(slot, f->more, mask, lsb, f);
        if (f->cleared_at_entry)
            slot->at_entry |= mask;
    }
}

/* By fields or by registers. */
static void build_clearings(wadi_slot *slot, const wad_bitfield *f)
{
    for (unsigned n = 0; n < f->n_clearings; n++)
        for (unsigned e = 0; e < (f->count ? f->count : 1u); e++) {
            unsigned element = f->count ? e : slot->index;
            wad_fieldref ref = {.reg = f->reg,
                                .field = f,
                                .index = f->count ? e : 0,
                                .reg_index = f->count ? 0 : slot->index};
            if (f->count && slot->index)
                continue;
            wadi_place_element(&ref);
            wadi_clearing proto = {.takes = WADI_TAKES_FLAG,
                                   .flag = slot_of(slot->block, &ref, 0),
                                   .mask = (uint32_t)wad_fieldref_mask(&ref)};
            expect(slot->block, &f->clearings[n], element, &proto);
        }
}

static void build_slot(wadi_slot *slot)
{
    const wad_register *reg = slot->reg;
    if (slot->alias_of) { /* it reads as what it acts on */
        wadi_alias *a = g_new0(wadi_alias, 1);
        *a = (wadi_alias){.verb = WAD_ALIAS_IS, .to = slot->alias_of, .mask = UINT32_MAX};
        add_pointer(&wadi_rare_of(slot)->shown_aliases, a);
        show(slot, UINT32_MAX, 0, NULL, a, NULL);
        return;
    }
    if (reg->more)
        add_behaviour(slot, reg->more, UINT32_MAX, 0, NULL);
    for (unsigned k = 0; k < reg->n_fields; k++) {
        if (!reg->fields[k]->name)
            continue;
        build_field(slot, reg->fields[k]);
        build_clearings(slot, reg->fields[k]);
    }
}

/* ---- values through a shared byte ---- */

typedef struct wadi_temporary {
    const char *name;
    uint32_t value;
} wadi_temporary;

static uint32_t *temporary_of(wadi_block *block, const char *name)
{
    if (!block->temporaries)
        block->temporaries = g_ptr_array_new_with_free_func(g_free);
    for (guint i = 0; i < block->temporaries->len; i++) {
        wadi_temporary *t = block->temporaries->pdata[i];
        if (!strcmp(t->name, name))
            return &t->value;
    }
    wadi_temporary *t = g_new0(wadi_temporary, 1);
    t->name = name;
    g_ptr_array_add(block->temporaries, t);
    return &t->value;
}

static void build_through(wadi_block *block, const wad_value *v)
{
    for (unsigned i = 0; v->through && i < (v->count ? v->count : 1); i++) {
        wadi_through t = {.high = wadi_find_slot(block->sim, block->inst, v->parts[0]->reg, i),
                          .low = wadi_find_slot(block->sim, block->inst, v->parts[1]->reg, i),
                          .temporary = temporary_of(block, v->through),
                          .on_read = v->through_read,
                          .on_write = v->through_write};
        add_array(&wadi_rare_of(t.high)->through, &t, sizeof t);
        add_array(&wadi_rare_of(t.low)->through, &t, sizeof t);
    }
}

/* ---- hooks ---- */

/* An event in an array of registers is one of each element. */
static unsigned elements_of(const wad_hook *def)
{
    unsigned n = 1;
    for (unsigned i = 0; i < def->n_on; i++)
        if (def->on[i].last.by_element)
            n = MAX(n, def->on[i].last.reg->count);
    return n;
}

static void build_hook(wad_sim *sim, wadi_block *block, const wad_hook *def)
{
    wadi_block *any = block ? block : &sim->blocks[0];
    for (unsigned e = 0; any && e < elements_of(def); e++) {
        wadi_clearing proto = {
            .takes = WADI_TAKES_HOOK, .mask = 1, .hook = wadi_hook_new(sim, block, def, e)};
        g_ptr_array_add(sim->hooks, proto.hook);
        for (unsigned i = 0; i < def->n_on; i++)
            expect(any, &def->on[i], e, &proto);
    }
}

/* ---- roles that are events ---- */

static void build_acts(wadi_block *block)
{
    const wad_layout *l = block->inst->layout;
    wadi_block *home = block->home ? block->home : block;
    for (unsigned i = 0; block->model && i < l->n_roles; i++) {
        const wad_role *role = &l->roles[i];
        if (!role->n_places || role->places[0].form != WAD_PLACE_EVENT)
            continue;
        wadi_clearing proto = {.takes = WADI_TAKES_ACT,
                               .mask = 1,
                               .unit = block,
                               .role = (unsigned)wad_kind_role_index(l->kind, role->name)};
        for (unsigned k = 0; k < role->places[0].n_on; k++)
            expect(home, &role->places[0].on[k], 0, &proto);
    }
}

/* ---- all of it ---- */

void wadi_behaviour_build(wad_sim *sim)
{
    sim->happened = g_ptr_array_new();
    sim->laters = g_ptr_array_new();
    sim->touched.serve = wadi_happened_settle;
    sim->at_lines = g_ptr_array_new();
    sim->holders = g_ptr_array_new();
    sim->hooks = g_ptr_array_new_with_free_func((GDestroyNotify)wadi_hook_free);
    for (unsigned i = 0; i < sim->sheet->n_blocks; i++) {
        wadi_block *block = &sim->blocks[i];
        const wad_layout *l = block->inst->layout;
        build_acts(block);
        if (block->home)
            continue;
        for (unsigned k = 0; k < block->n_slots; k++)
            build_slot(&block->slots[k]);
        for (unsigned k = 0; k < l->n_values; k++)
            build_through(block, l->values[k]);
        for (unsigned k = 0; k < l->n_hooks; k++)
            build_hook(sim, block, &l->hooks[k]);
    }
    for (unsigned k = 0; k < sim->sheet->n_hooks; k++)
        build_hook(sim, NULL, &sim->sheet->hooks[k]);
}

void wadi_behaviour_free(wad_sim *sim)
{
    GPtrArray **lists[] = {&sim->happened, &sim->at_lines, &sim->holders, &sim->hooks,
                           &sim->laters};
    for (unsigned i = 0; i < G_N_ELEMENTS(lists); i++)
        if (*lists[i])
            g_ptr_array_free(g_steal_pointer(lists[i]), TRUE);
}
