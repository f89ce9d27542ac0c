/* SPDX-License-Identifier: MIT */
/* Blocks at run time: registers, role bindings, needs. */
#include "block.h"

#include <string.h>

#include "bus.h"
#include "clock.h"
#include "clock_out.h"
#include "cpu.h"
#include "kinds/list.h"
#include "lock.h"
#include "model.h"
#include "pin.h"
#include "register.h"
#include "sim/check/race.h"
#include "trigger.h"

/* ---- registers ---- */

static wadi_slot *add_slot(wadi_block *block, const wad_register *reg, unsigned index)
{
    wadi_slot *slot = &block->slots[block->n_slots++];
    *slot = (wadi_slot){.block = block,
                        .reg = reg,
                        .index = (uint16_t)index,
                        .bytes = (uint8_t)wad_register_bytes(reg),
                        .alias = reg->alias,
                        .address = block->inst->base + reg->offset + (uint64_t)index * reg->step};
    slot->plain =
        (uint32_t)(wad_register_mask(reg, WAD_ACCESS_RW) | wad_register_mask(reg, WAD_ACCESS_WO));
    slot->w1c = (uint32_t)wad_register_mask(reg, WAD_ACCESS_W1C);
    slot->w0c = (uint32_t)wad_register_mask(reg, WAD_ACCESS_W0C);
    slot->w1s = (uint32_t)wad_register_mask(reg, WAD_ACCESS_W1S);
    slot->rc = (uint32_t)wad_register_mask(reg, WAD_ACCESS_RC);
    slot->read_only = (uint32_t)wad_register_mask(reg, WAD_ACCESS_RO) | slot->rc;
    if (slot->w0c) /* there 1 leaves alone, whatever the bit is */
        slot->read_only = 0;
    slot->reserved = (uint32_t)wad_register_mask(reg, WAD_ACCESS_RESERVED);
    slot->readable = ~(uint32_t)(wad_register_mask(reg, WAD_ACCESS_WO) |
                                 wad_register_mask(reg, WAD_ACCESS_RESERVED));
    for (unsigned i = 0; i < reg->n_fields; i++) {
        const wad_bitfield *f = reg->fields[i];
        wad_fieldref ref = {.reg = reg, .field = f, .lsb = f->lsb, .width = f->width};
        slot->must |= (uint32_t)(f->must << f->lsb);
        slot->stable |= f->stable ? (uint32_t)wad_fieldref_mask(&ref) : 0;
        if (f->not_zero && slot->not_zero)
            slot->flags |= WADI_SLOT_SEVERAL;
        slot->not_zero |= f->not_zero ? (uint32_t)wad_fieldref_mask(&ref) : 0;
    }
    slot->readable |= slot->must;
    for (unsigned i = 0; i < block->inst->n_owned; i++) {
        const wad_fieldref *ref = &block->inst->owned[i].ref;
        if (ref->reg == reg && ref->reg_index == index)
            slot->foreign |= (uint32_t)wad_fieldref_mask(ref);
    }
    if (slot->stable || slot->not_zero)
        slot->flags |= WADI_SLOT_CHECKS;
    return slot;
}

static bool is_readable(const wad_register *reg)
{
    return reg->access != WAD_ACCESS_WO;
}

static bool is_writable(const wad_register *reg)
{
    return reg->access != WAD_ACCESS_RO && reg->access != WAD_ACCESS_RC;
}

static void map_slot(wad_sim *sim, wadi_slot *slot)
{
    for (unsigned i = 0; i < slot->bytes; i += 1u << sim->word_shift) {
        uint64_t word = (slot->address + i) >> sim->word_shift;
        wadi_page **page = &sim->pages[word >> WADI_PAGE_BITS];
        if (!*page)
            *page = g_new0(wadi_page, 1);
        wadi_cell *cell = &(*page)->cell[word & ((1u << WADI_PAGE_BITS) - 1)];
        if (is_readable(slot->reg))
            cell->rd = slot;
        if (is_writable(slot->reg))
            cell->wr = slot;
    }
}

static void build_slots(wadi_block *block)
{
    const wad_layout *layout = block->inst->layout;
    unsigned n = 0;
    for (unsigned i = 0; i < layout->n_regs; i++)
        n += layout->regs[i]->count ? layout->regs[i]->count : 1;
    block->slots = g_new0(wadi_slot, n + 1);
    for (unsigned i = 0; i < layout->n_regs; i++) {
        const wad_register *reg = layout->regs[i];
        for (unsigned k = 0; k < (reg->count ? reg->count : 1); k++)
            map_slot(block->sim, add_slot(block, reg, k));
    }
    for (unsigned i = 0; i < block->n_slots; i++)
        if (block->slots[i].alias)
            block->slots[i].alias_of = wadi_find_slot(
                block->sim, block->inst, block->slots[i].reg->alias_of, block->slots[i].index);
}

static void add_clearing(wadi_block *block, const wad_bitfield *f, unsigned element)
{
    wad_fieldref ref = {
        .reg = f->reg, .field = f, .lsb = (uint8_t)(f->lsb + element * f->step), .width = f->width};
    const wad_register *by = f->cleared_by;
    wadi_slot *read = wadi_find_slot(block->sim, block->inst, by, by->count ? element : 0);
    wadi_clearing c = {read, wadi_find_slot(block->sim, block->inst, f->reg, 0),
                       (uint32_t)wad_fieldref_mask(&ref)};
    if (!block->clearings)
        block->clearings = g_array_new(FALSE, FALSE, sizeof c);
    g_array_append_val(block->clearings, c);
    read->flags |= WADI_SLOT_CLEARS;
}

/* Flags that go by themselves: with a read of another register, or with the handler's entry. */
static void build_clearings(wadi_block *block)
{
    for (unsigned i = 0; i < block->n_slots; i++) {
        wadi_slot *slot = &block->slots[i];
        const wad_register *reg = slot->reg;
        for (unsigned k = 0; reg && k < reg->n_fields; k++) {
            const wad_bitfield *f = reg->fields[k];
            for (unsigned e = 0; f->cleared_by && !slot->index && e < (f->count ? f->count : 1u);
                 e++)
                add_clearing(block, f, e);
            if (!f->cleared_at_entry)
                continue;
            for (unsigned e = 0; e < (f->count ? f->per_reg : 1u); e++)
                slot->at_entry |= ((UINT32_C(1) << f->width) - 1) << (f->lsb + e * f->step);
            block->at_entry = true;
        }
    }
}

wadi_slot *wadi_find_slot(wad_sim *sim, const wad_instance *inst, const wad_register *reg,
                          unsigned index)
{
    wadi_block *block = &sim->blocks[inst->index];
    for (unsigned i = 0; i < block->n_slots; i++)
        if (block->slots[i].reg == reg && block->slots[i].index == index)
            return &block->slots[i];
    return NULL;
}

/* ---- roles ---- */

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

void wadi_block_quicken(wadi_block *block)
{
    for (unsigned i = 0; i < block->n_slots; i++) {
        wadi_slot *slot = &block->slots[i];
        slot->quick = slot->flags & WADI_SLOT_QUIET && !block->blocked ? slot->bytes : 0;
    }
}

static const wad_model_class *built_in(const char *kind)
{
    static const wad_model_class *const classes[] = {
        &wadi_model_clocks,   &wadi_model_pins,     &wadi_model_irqc,   &wadi_model_counter,
        &wadi_model_watchdog, &wadi_model_timebase, &wadi_model_tick,   &wadi_model_encoder,
        &wadi_model_uart,     &wadi_model_spi,      &wadi_model_frames, &wadi_model_adc,
        &wadi_model_dac,      &wadi_model_power,    &wadi_model_dma};
    for (unsigned i = 0; kind && i < G_N_ELEMENTS(classes); i++)
        if (!strcmp(classes[i]->kind, kind))
            return classes[i];
    return NULL;
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
    if (!strcmp(cls->kind, wadi_model_irqc.kind)) /* whoever asks for it is told the one there is */
        block->sim->irqc = m;
    else if (!strcmp(cls->kind, wadi_model_power.kind))
        block->sim->power = m;
    m->sim = block->sim;
    m->block = block;
    m->cls = cls;
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

/* ---- needs ---- */

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

static unsigned what_blocks(const wadi_block *block)
{
    unsigned blocked = 0;
    for (unsigned i = 0; i < block->n_needs; i++) {
        const wadi_need *need = &block->needs[i];
        if (((need->slot->value & need->mask) == need->value) != need->equal)
            blocked |= need->finding == WAD_FINDING_GATED ? WADI_BLOCKED_GATE : WADI_BLOCKED_RESET;
    }
    if (block->clock && !block->clock->domain.runs)
        blocked |= WADI_BLOCKED_CLOCK;
    return blocked;
}

void wadi_blocks_before(wad_sim *sim)
{
    for (unsigned i = 0; i < sim->sheet->n_blocks; i++) {
        wadi_block *block = &sim->blocks[i];
        const wadi_clock *clock = block->clock ? block->clock : sim->core;
        bool gate = (what_blocks(block) ^ block->blocked) & WADI_BLOCKED_GATE;
        block->in_change = gate || clock->changes;
        if (block->in_change && block->model && block->model->cls->clock)
            block->model->cls->clock(block->model, true);
    }
}

void wadi_blocks_after(wad_sim *sim)
{
    for (unsigned i = 0; i < sim->sheet->n_blocks; i++) {
        wadi_block *block = &sim->blocks[i];
        unsigned was = block->blocked;
        block->blocked = what_blocks(block);
        if (block->blocked != was)
            wadi_block_quicken(block);
        if (block->in_change && block->model && block->model->cls->clock)
            block->model->cls->clock(block->model, false);
        block->in_change = false;
        if (block->blocked & ~was & WADI_BLOCKED_RESET) {
            wadi_block_to_reset_values(block);
            wadi_pins_regroup(sim);
        }
    }
}

void wadi_block_to_reset_values(wadi_block *block)
{
    for (unsigned i = 0; i < block->n_slots; i++)
        block->slots[i].value = (uint32_t)block->slots[i].reg->reset | block->slots[i].must;
    wadi_locks_reset(block);
    if (block->model && block->model->cls->reset)
        block->model->cls->reset(block->model);
}

/* ---- all of them ---- */

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
        build_slots(&sim->blocks[i]);
        build_clearings(&sim->blocks[i]);
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
        const wad_model_class *cls = built_in(s->blocks[i]->layout->kind);
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

void wadi_blocks_reset(wad_sim *sim)
{
    for (unsigned i = 0; i < sim->sheet->n_blocks; i++) {
        wadi_block *block = &sim->blocks[i];
        block->blocked = 0;
        block->configured = block->was_enabled = false;
        wadi_block_quicken(block);
        wadi_block_to_reset_values(block);
    }
    wadi_pins_regroup(sim);
}

/* ---- what models call ---- */

void *wad_model_state(wad_model *m)
{
    return m->state;
}

wad_sim *wad_model_sim(wad_model *m)
{
    return m->sim;
}

const wad_instance *wad_model_block(wad_model *m)
{
    return m->block->inst;
}

bool wad_model_has(const wad_model *m, unsigned role)
{
    return m->roles[role].count != 0;
}

unsigned wad_model_count(const wad_model *m, unsigned role)
{
    return m->roles[role].count;
}

unsigned wad_model_width(const wad_model *m, unsigned role)
{
    const wad_role *r = m->roles[role].role;
    return !r ? 0 : r->value ? r->value->width : r->field ? r->field->width : r->reg->width;
}

uint64_t wad_model_get64(const wad_model *m, unsigned role, unsigned i)
{
    const wadi_binding *b = &m->roles[role];
    uint64_t value = 0;
    for (unsigned k = 0; i < b->count && b->parts && k < b->n_parts; k++) {
        const wadi_part *p = &b->parts[i * b->n_parts + k];
        value |= (uint64_t)(p->slot->value >> p->lsb & p->mask) << p->shift;
    }
    return value;
}

uint32_t wad_model_get(const wad_model *m, unsigned role, unsigned i)
{
    const wadi_binding *b = &m->roles[role];
    if (i >= b->count || !b->parts)
        return 0;
    if (b->n_parts == 1)
        return b->parts[i].slot->value >> b->parts[i].lsb & b->parts[i].mask;
    return (uint32_t)wad_model_get64(m, role, i);
}

void wad_model_put64(wad_model *m, unsigned role, unsigned i, uint64_t value)
{
    const wadi_binding *b = &m->roles[role];
    for (unsigned k = 0; i < b->count && k < b->n_parts; k++) {
        const wadi_part *p = &b->parts[i * b->n_parts + k];
        uint32_t bits = (uint32_t)(value >> p->shift & p->mask) << p->lsb;
        p->slot->value = (p->slot->value & ~(p->mask << p->lsb)) | bits;
    }
}

void wad_model_put(wad_model *m, unsigned role, unsigned i, uint32_t value)
{
    const wadi_binding *b = &m->roles[role];
    if (i >= b->count || b->n_parts != 1) {
        wad_model_put64(m, role, i, value);
        return;
    }
    const wadi_part *p = &b->parts[i];
    uint32_t mask = p->mask << p->lsb;
    p->slot->value = (p->slot->value & ~mask) | (value << p->lsb & mask);
}

uint32_t wad_model_code(const wad_model *m, unsigned role, const char *code, uint32_t otherwise)
{
    uint64_t value;
    const wad_role *r = m->roles[role].role;
    return r && wad_role_code_value(r, code, &value) ? (uint32_t)value : otherwise;
}

void wad_model_schedule(wad_model *m, wad_event *event, uint64_t ps)
{
    event->model = m;
    wadi_schedule(m->sim, event, ps);
}

void wad_model_cancel(wad_model *m, wad_event *event)
{
    wadi_unschedule(m->sim, event);
}

static wadi_domain *domain_of(const wad_model *m)
{
    wadi_clock *clock = m->block->clock ? m->block->clock : m->sim->core;
    return &clock->domain;
}

bool wad_model_clocked(const wad_model *m)
{
    return !(m->block->blocked & (WADI_BLOCKED_GATE | WADI_BLOCKED_CLOCK)) && domain_of(m)->runs;
}

uint64_t wad_model_edges(const wad_model *m)
{
    return wadi_domain_count(domain_of(m), m->sim->now);
}

uint64_t wad_model_edge(const wad_model *m, uint64_t k)
{
    return wadi_domain_edge(domain_of(m), k);
}

void wad_model_enabled(wad_model *m)
{
    m->block->was_enabled = true;
    for (unsigned i = 0; i < m->block->inst->n_irqs; i++)
        wadi_race_enabled(m->sim, (unsigned)m->block->inst->irqs[i]);
}
