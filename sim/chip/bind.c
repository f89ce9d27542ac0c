/* SPDX-License-Identifier: MIT */
/* The roles of a unit, looked up once. */
#include "bind.h"

#include <string.h>

#include "sheet/chip/expression.h"
#include "sim/core/bus.h"
#include "sim/core/model.h"
#include "sim/core/pin.h"
#include "sim/core/way.h"

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

/* What the role depends on is in the register: writes of it are told. */
static wadi_hearer *hear_writes(wad_model *m, unsigned role, wadi_slot *slot, uint32_t bits)
{
    wadi_hearer *h = hearer_of(slot, m);
    h->model = m;
    h->bits |= bits;
    h->roles |= WAD_ROLE_BIT(role);
    if (m->cls->written)
        slot->flags |= WADI_SLOT_HEARD;
    if (m->block != slot->block)
        slot->flags |= WADI_SLOT_FAR;
    return h;
}

/* The role lies in the register. */
static void hear(wad_model *m, unsigned role, wadi_slot *slot, uint32_t bits, bool flag)
{
    wadi_hearer *h = hear_writes(m, role, slot, bits);
    if (flag)
        slot->raised |= bits;
    if (m->cls->on_read & WAD_ROLE_BIT(role)) {
        h->reads = true;
        slot->flags |= WADI_SLOT_POPS;
    }
    if (m->cls->live & WAD_ROLE_BIT(role) && m->cls->refresh) {
        h->live |= WAD_ROLE_BIT(role);
        slot->flags |= WADI_SLOT_LIVE;
    }
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
        slot->flags &= ~WADI_SLOT_LIVE;
        for (unsigned i = 0; (h = wadi_hearer_at(slot, i)); i++)
            slot->flags |= h->live ? WADI_SLOT_LIVE : 0;
    }
}

/* A code that is in no list is told when it is written. */
static void note_coded(const wadi_part *part, const wad_role *role)
{
    wadi_coded c = {part->mask << part->lsb, part->lsb, role};
    if (!part->slot->coded)
        part->slot->coded = g_array_new(FALSE, FALSE, sizeof c);
    g_array_append_val(part->slot->coded, c);
    part->slot->flags |= WADI_SLOT_CHECKS;
}

/* The places of one way, `stride` parts an element. */
static void lay_places(wad_model *m, unsigned role, const wad_role *r, unsigned stride,
                       wadi_part *parts, wadi_odd_place *odd)
{
    bool flag = wad_kind_flag(m->kind, role);
    for (unsigned i = 0; i < r->n_places; i++) {
        const wad_role_place *p = &r->places[i];
        bind_place(m, role, p, &parts[(size_t)i * stride], flag);
        if (r->n_meanings && p->form == WAD_PLACE_BITS && p->n_parts == 1)
            note_coded(&parts[(size_t)i * stride], r);
        if (odd)
            odd[i] = (wadi_odd_place){p->form, (uint8_t)p->n_parts, p->always};
    }
}

static void hear_cond(wad_model *m, unsigned role, const wad_cond *cond)
{
    const wadi_block *home = m->block->home ? m->block->home : m->block;
    for (const wad_cond *c = cond; c; c = c->or_else)
        for (unsigned i = 0; i < c->n; i++) {
            const wad_fieldref *ref = &c->terms[i].ref;
            wadi_slot *slot = wadi_find_slot(m->sim, ref->block ? ref->block : home->inst, ref->reg,
                                             ref->reg_index);
            hear_writes(m, role, slot, (uint32_t)wad_fieldref_mask(ref));
            slot->flags |= WADI_SLOT_ENDS;
        }
}

/* A flag that its model knows as a level, and that is an event on this chip. */
static bool is_event(const wad_kind *kind, const wad_role *r)
{
    return r->as == WAD_AS_EVENT && wad_kind_is_level(kind, r->name);
}

static bool has_code(const wad_role *r, const char *name)
{
    for (unsigned i = 0; i < r->n_codes; i++)
        if (!strcmp(r->codes[i].name, name))
            return true;
    return false;
}

/* Models look words and factors up once: where ways differ in them, what they read is put so that
 * it means the same. */
static void note_codes(const wad_kind *kind, const wad_role *first, wadi_binding *b)
{
    bool powers = !strcmp(kind->name, "watchdog"); /* its number is an exponent */
    for (const wad_role *r = first; r; r = r->otherwise) {
        b->scaled =
            b->scaled || has_code(r, "plus") || has_code(r, "times") || has_code(r, "power");
        b->spoken = b->spoken || (r != first && (r->n_meanings || (r->field && r->field->n_enums)));
    }
    b->scaled = b->scaled && !powers && wad_kind_takes_number(kind, first->name);
}

/* Alternatives: each is laid out, and conditions choose among them. */
static void bind_ways(wad_model *m, unsigned role, const wad_role *first, wadi_binding *b)
{
    for (const wad_role *r = first; r; r = r->otherwise) {
        b->count = MAX(b->count, r->n_places);
        b->n_ways++;
        for (unsigned i = 0; i < r->n_places; i++)
            b->n_parts = MAX(b->n_parts, r->places[i].n_parts);
    }
    b->n_parts = MAX(b->n_parts, 1);
    b->count = MAX(b->count, 1);
    b->parts = g_new0(wadi_part, (size_t)b->n_parts * b->count);
    b->odd = g_new0(wadi_odd_place, b->count);
    b->chosen = g_new0(const wad_role *, b->count);
    b->ways = g_new0(wadi_way, b->n_ways);
    unsigned k = 0;
    for (const wad_role *r = first; r; r = r->otherwise, k++) {
        b->ways[k] = (wadi_way){r, g_new0(wadi_part, (size_t)b->n_parts * b->count),
                                g_new0(wadi_odd_place, b->count), r->n_places};
        lay_places(m, role, r, b->n_parts, b->ways[k].parts, b->ways[k].odd);
        for (unsigned i = 0; r->when && i < MAX(r->n_places, 1); i++)
            hear_cond(m, role, &r->when[i]);
        if (!b->events && is_event(m->kind, r))
            b->events = g_new0(bool, b->count);
    }
    note_codes(m->kind, first, b);
    if (!g_ptr_array_find(m->sim->choosers, m, NULL))
        g_ptr_array_add(m->sim->choosers, m);
}

static void bind_places(wad_model *m, unsigned role, const wad_role *r, wadi_binding *b)
{
    bool odd = r->n_meanings != 0; /* several codes may say one thing */
    b->count = r->n_places;
    for (unsigned i = 0; i < b->count; i++) {
        const wad_role_place *p = &r->places[i];
        odd = odd || p->form != WAD_PLACE_BITS || p->n_parts != r->places[0].n_parts;
        b->n_parts = MAX(b->n_parts, p->n_parts);
    }
    b->parts = g_new0(wadi_part, (size_t)MAX(b->n_parts, 1) * b->count);
    b->events = is_event(m->kind, r) ? g_new0(bool, b->count) : NULL;
    b->odd = odd || b->events ? g_new0(wadi_odd_place, b->count) : NULL;
    lay_places(m, role, r, b->n_parts, b->parts, b->odd);
    mark_split(m, role, r, b);
}

static void bind_signals(wadi_block *block, unsigned place, const wad_role *role, wadi_binding *b)
{
    GPtrArray *list = g_ptr_array_new();
    for (unsigned i = 0; i < 256; i++) {
        char *name = wad_role_signal(role, i);
        wadi_signal *signal = name ? wadi_signal_find(block->sim, block->inst, name) : NULL;
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

/* What a number is made of: the model hears of it as of the role itself. */
static void hear_law(wad_model *m, unsigned role, const wad_expr *e)
{
    if (!e)
        return;
    if ((e->op == WADI_OP_FIELD || e->op == WADI_OP_PICK) && e->field.reg) {
        const wad_instance *of =
            e->field.block ? e->field.block : wad_instance_home(m->block->inst);
        wadi_slot *slot = wadi_find_slot(m->sim, of, e->field.reg, e->field.reg_index);
        if (slot)
            hear_writes(m, role, slot, (uint32_t)wad_fieldref_mask(&e->field));
    }
    for (unsigned i = 0; i < e->n_picks; i++)
        hear_law(m, role, e->picks[i].value);
    hear_law(m, role, e->a);
    hear_law(m, role, e->b);
}

/* Its codes say on or off, and no such word is a code of its own in the kind. */
static bool is_switch(const wad_kind *kind, const wad_role *role)
{
    char *word = g_strconcat(role->name, "_off", NULL);
    bool is = false;
    for (unsigned i = 0; i < role->n_meanings; i++)
        is = is || (role->meanings[i].word && !strcmp(role->meanings[i].word, "on"));
    is = is && wad_kind_role_index(kind, word) < 0;
    g_free(word);
    return is;
}

void wadi_bind_role(wadi_block *block, const wad_role *role)
{
    int place = wad_kind_role_index(block->model->kind, role->name);
    wadi_binding *b = &block->model->roles[place];
    b->role = role;
    b->is_switch = is_switch(block->model->kind, role);
    if (role->sort == WAD_ROLE_SIGNAL)
        bind_signals(block, (unsigned)place, role, b);
    else if (role->when)
        bind_ways(block->model, (unsigned)place, role, b);
    else if (role->n_places)
        bind_places(block->model, (unsigned)place, role, b);
    hear_law(block->model, (unsigned)place, role->law);
    for (const wad_role *r = role->otherwise; r; r = r->otherwise)
        hear_law(block->model, (unsigned)place, r->law);
    for (const wad_role *r = role; r; r = r->otherwise)
        for (unsigned i = 0; i < r->n_meanings; i++)
            hear_law(block->model, (unsigned)place, r->meanings[i].is);
}

/* ---- what keeps a unit from running ---- */

static void add_stop(wad_model *m, unsigned enable, unsigned role, uint64_t code)
{
    wadi_binding *b = &m->roles[enable];
    const wadi_binding *by = &m->roles[role];
    b->stops = g_renew(wadi_stop, b->stops, b->n_stops + 1);
    b->stops[b->n_stops++] = (wadi_stop){role, code};
    for (unsigned n = 0; n < by->count * by->n_parts; n++)
        if (by->parts[n].slot)
            hear_writes(m, enable, by->parts[n].slot, by->parts[n].mask << by->parts[n].lsb);
}

/* Without an enable it runs always; while a role reads `stopped` it does not. */
void wadi_bind_enable(wad_model *m)
{
    int enable = wad_kind_role_index(m->kind, "enable");
    if (enable < 0 || wad_acts_as(m->block->inst->layout, "interrupts"))
        return;
    wadi_binding *b = &m->roles[enable];
    for (unsigned r = 0; r < m->n_roles; r++) {
        uint64_t code;
        if (m->roles[r].role && m->roles[r].count &&
            wad_role_code_value(m->roles[r].role, "stopped", &code))
            add_stop(m, (unsigned)enable, r, code);
    }
    if (b->odd || (b->count && !b->n_stops))
        return;
    bool absent = !b->count;
    b->count = absent ? 1 : b->count;
    b->odd = g_new0(wadi_odd_place, b->count);
    for (unsigned i = 0; i < b->count; i++)
        b->odd[i] = (wadi_odd_place){absent ? WAD_PLACE_ALWAYS : WAD_PLACE_BITS,
                                     (uint8_t)b->n_parts, absent};
}

/* Another model takes the block: what the registers know of the one before goes. */
void wadi_forget_hearer(wad_sim *sim, const wad_model *m)
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
            slot->flags &= ~(WADI_SLOT_LIVE | WADI_SLOT_HEARD | WADI_SLOT_POPS | WADI_SLOT_FAR |
                             WADI_SLOT_SPLIT);
            for (unsigned j = 0; (h = wadi_hearer_at(slot, j)); j++) {
                slot->flags |= h->live ? WADI_SLOT_LIVE : 0;
                slot->flags |= h->reads ? WADI_SLOT_POPS : 0;
                slot->flags |= h->model->cls->written ? WADI_SLOT_HEARD : 0;
                slot->flags |= h->model->block != slot->block ? WADI_SLOT_FAR : 0;
            }
        }
}
