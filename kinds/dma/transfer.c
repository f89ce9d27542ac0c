/* SPDX-License-Identifier: MIT */
/* Kind dma, the mover: one element at a time, for one channel after the other. */
#include <glib.h>

#include "sim/core/block.h"
#include "sim/core/master.h"
#include "sim/electric/volt.h"
#include "state.h"

/* ---- whose turn ---- */

bool wadi_dma_is_ready(const wad_model *m, unsigned i)
{
    const dma_channel *c = &((const dma_state *)m->state)->ch[i];
    if (!c->armed || dma_get(m, ROLE_pause, i))
        return false;
    return !dma_waits_for(m, c) || c->going || c->came || wad_model_requested(m, c->code);
}

/* Urgent ones first; among alike ones in turn. */
static unsigned choose(const wad_model *m, const dma_state *s)
{
    unsigned found = NOBODY;
    for (unsigned k = 1; k <= s->n; k++) {
        unsigned i = (s->last + k) % s->n;
        if (!wadi_dma_is_ready(m, i))
            continue;
        if (dma_get(m, ROLE_urgent, i))
            return i;
        found = found == NOBODY ? i : found;
    }
    return found;
}

static bool works(const wad_model *m)
{
    return wad_model_clocked(m) && !m->block->blocked &&
           (!m->roles[ROLE_on].count || wad_model_get(m, ROLE_on, 0));
}

static void after(wad_model *m, dma_state *s, uint64_t cycles)
{
    wad_model_schedule(m, &s->next, wad_model_edge(m, wad_model_edges(m) + cycles));
    s->scheduled = true;
}

void wadi_dma_kick(wad_model *m)
{
    dma_state *s = m->state;
    if (s->scheduled || !works(m))
        return;
    if (s->flying != NOBODY)
        after(m, s, 1); /* its clock had stopped */
    else if (choose(m, s) != NOBODY)
        after(m, s, (uint64_t)wadi_quantity(m, ROLE_latency, 0) + 1 + s->loading);
    s->loading = 0;
}

void wadi_dma_tell(wad_model *m, unsigned i, wad_dma_what what)
{
    const dma_state *s = m->state;
    if (!s->fn)
        return;
    wad_dma_record r = {.ps = m->sim->now,
                        .block = m->block->inst,
                        .channel = i,
                        .what = what,
                        .bytes = dma_bytes(m, i),
                        .source = wad_model_get(m, ROLE_source, i),
                        .destination = wad_model_get(m, ROLE_destination, i),
                        .left = s->ch[i].left,
                        .request = s->ch[i].code,
                        .waits = dma_waits_for(m, &s->ch[i])};
    s->fn(s->ctx, &r);
}

void wadi_dma_tell_request(wad_model *m, uint32_t code, wad_dma_what what)
{
    const dma_state *s = m->state;
    wad_dma_record r = {
        .ps = m->sim->now, .block = m->block->inst, .what = what, .request = code, .waits = true};
    if (s->fn)
        s->fn(s->ctx, &r);
}

/* ---- an element ---- */

static uint32_t swapped(uint32_t value, unsigned bytes)
{
    return bytes == 2   ? (value >> 8 & 0xFF) | (value & 0xFF) << 8
           : bytes == 4 ? GUINT32_SWAP_LE_BE(value)
                        : value;
}

static uint32_t only(uint32_t value, unsigned bytes)
{
    return bytes >= 4 ? value : value & ((1u << bytes * 8) - 1);
}

static void take_off(wad_model *m, dma_state *s, unsigned i)
{
    wad_sim *sim = m->sim;
    dma_channel *c = &s->ch[i];
    unsigned bytes = dma_bytes(m, i);
    uint32_t from = wad_model_get(m, ROLE_source, i), value;
    s->flying = s->last = i;
    if (c->came)
        wadi_dma_tell_request(m, c->code, WAD_DMA_SERVED);
    c->came = false;
    c->going = dma_get(m, ROLE_whole, i) != 0;
    wadi_dma_tell(m, i, WAD_DMA_BEGINS);
    s->ok = wadi_master_read(sim, &c->trace, from, bytes, &value);
    if (!s->ok)
        wadi_dma_failed(m, i, from, false);
    else
        wadi_dma_check_narrow(m, i, value);
    s->value = only(value, bytes);
    after(m, s, (uint64_t)wadi_quantity(m, ROLE_cost, 2));
    sim->bus.taken += s->next.ps - sim->now;
    sim->bus.until = s->next.ps;
    sim->due = 0; /* the core's next access finds the bus taken */
}

static uint32_t next_address(uint32_t address, unsigned bytes, unsigned window)
{
    uint32_t mask = window ? (UINT32_C(1) << window) - 1 : UINT32_MAX;
    return (address & ~mask) | ((address + bytes) & mask);
}

static void step(wad_model *m, unsigned i, unsigned bytes)
{
    if (dma_get(m, ROLE_source_step, i))
        wad_model_put(
            m, ROLE_source, i,
            next_address(wad_model_get(m, ROLE_source, i), bytes, dma_window(m, i, false)));
    if (dma_get(m, ROLE_destination_step, i))
        wad_model_put(
            m, ROLE_destination, i,
            next_address(wad_model_get(m, ROLE_destination, i), bytes, dma_window(m, i, true)));
}

static void count_down(wad_model *m, unsigned i)
{
    dma_state *s = m->state;
    dma_channel *c = &s->ch[i];
    c->left--;
    c->moved++;
    wad_model_put(m, ROLE_count, i, c->left - wad_model_code(m, ROLE_count, "plus", 0));
    wadi_dma_check_moved(m, i);
    if (dma_waits_for(m, c)) /* one that repeats has an end as well */
        wad_model_moved(m, c->code, !c->left);
    wadi_dma_tell(m, i, WAD_DMA_MOVED);
    if (c->dying && c->left) { /* else it has come to its end */
        wadi_dma_disarm(m, i);
        return;
    }
    if (!c->halved && c->left <= c->count / 2 && c->left) {
        c->halved = true;
        wadi_dma_half_over(m, i);
    }
    if (!c->left)
        wadi_dma_round_over(m, i);
}

static void land(wad_model *m, dma_state *s)
{
    unsigned i = s->flying, bytes = dma_bytes(m, i);
    uint32_t to = wad_model_get(m, ROLE_destination, i);
    dma_channel *c = &s->ch[i];
    s->flying = NOBODY;
    if (!s->ok || !c->armed) {
        wadi_dma_disarm(m, i);
        return;
    }
    uint32_t value = dma_get(m, ROLE_swap, i) ? swapped(s->value, bytes) : s->value;
    step(m, i, bytes); /* first: the element may go to this channel's own registers */
    if (!wadi_master_write(m->sim, &c->trace, to, bytes, value)) {
        wadi_dma_failed(m, i, to, true);
        wadi_dma_disarm(m, i);
        return;
    }
    if (dma_get(m, ROLE_sum_on, i))
        wad_model_put(m, ROLE_sum, 0, wad_model_get(m, ROLE_sum, 0) + value);
    if (c->armed)
        count_down(m, i);
}

/* The element under way arrives, and the next one sets out. */
void wadi_dma_on_next(wad_event *e)
{
    wad_model *m = e->model;
    dma_state *s = m->state;
    wad_sim *sim = m->sim;
    s->scheduled = false;
    if (!works(m))
        return;
    if (s->flying != NOBODY)
        land(m, s);
    unsigned i = s->scheduled ? NOBODY : choose(m, s);
    if (i == NOBODY) {
        return;
    }
    if (sim->now < sim->bus.free_ps && !sim->sleep.asleep) { /* the core has the bus */
        wad_model_schedule(m, &s->next, sim->bus.free_ps);
        s->scheduled = true;
    } else {
        take_off(m, s, i);
    }
}

/* What is worked on: a ring with a half flag is its owner's by halves. */
void wadi_dma_own(wad_model *m, unsigned i, bool on)
{
    dma_channel *c = &((dma_state *)m->state)->ch[i];
    unsigned bytes = dma_bytes(m, i);
    uint32_t to = wad_model_get(m, ROLE_destination, i), from = wad_model_get(m, ROLE_source, i);
    if (c->owns) {
        wad_model_disown(m, c->destination);
        wad_model_disown(m, c->source);
        c->owns = false;
    }
    if (!on)
        return;
    uint32_t n = c->left;
    if (dma_get(m, ROLE_half_irq, i) && n > c->count / 2)
        n -= c->count / 2;
    c->owns = true;
    c->source = from;
    c->destination = to;
    if (dma_get(m, ROLE_destination_step, i) && wadi_master_memory(m->sim, to, bytes, true))
        wad_model_own(m, to, (uint64_t)n * bytes, true);
    if (dma_get(m, ROLE_source_step, i) && wadi_master_memory(m->sim, from, bytes, false))
        wad_model_own(m, from, (uint64_t)n * bytes, false);
}

void wadi_dma_set_wants(wad_model *m, dma_channel *c, bool on)
{
    bool wants = on && dma_waits_for(m, c);
    if (c->wants != wants)
        wad_model_wants(m, c->code, wants);
    c->wants = wants;
}

/* What is armed, and by what: the state, not the way to it. */
static void show(wad_model *m, unsigned i, bool armed)
{
    wad_model_put(m, ROLE_enable, i, armed);
    if (m->roles[ROLE_busy].count)
        wad_model_put(m, ROLE_busy, i, armed);
}

void wadi_dma_begin(wad_model *m, unsigned i)
{
    dma_channel *c = &((dma_state *)m->state)->ch[i];
    c->code = dma_get(m, ROLE_request, i);
    c->waits = dma_get(m, ROLE_waits, i) != 0;
    c->left = c->count;
    wad_model_enabled(m);
    wadi_dma_check_begin(m, i);
    if (!c->count) {
        show(m, i, false);
        return;
    }
    c->armed = true;
    c->came = c->going = c->halved = c->dying = c->was_ended = false;
    c->moved = c->rounds = 0;
    c->armed_ps = m->sim->now;
    wad_model_put(m, ROLE_count, i, c->left - wad_model_code(m, ROLE_count, "plus", 0));
    show(m, i, true);
    wadi_dma_set_wants(m, c, true);
    wadi_dma_own(m, i, true);
    c->written_source = c->written_destination = false;
    wadi_dma_tell(m, i, WAD_DMA_ARMED);
    wadi_dma_kick(m);
}

void wadi_dma_disarm(wad_model *m, unsigned i)
{
    dma_channel *c = &((dma_state *)m->state)->ch[i];
    show(m, i, false);
    if (!c->armed)
        return;
    wadi_dma_own(m, i, false);
    wadi_dma_set_wants(m, c, false);
    c->armed = c->going = c->dying = false;
    wadi_dma_tell(m, i, WAD_DMA_ENDED);
}

void wadi_dma_half_over(wad_model *m, unsigned i)
{
    wadi_dma_check_late(m, i, "half");
    wadi_dma_set_flag(m, ROLE_half, i);
    if (dma_get(m, ROLE_half_irq, i))
        wadi_dma_own(m, i, true);
}

/* The settings of a channel, from memory. */
static bool load(wad_model *m, unsigned i, uint32_t at)
{
    static const struct {
        unsigned place, role;
    } words[] = {{ROLE_at_source, ROLE_source},
                 {ROLE_at_destination, ROLE_destination},
                 {ROLE_at_count, ROLE_count}};
    dma_channel *c = &((dma_state *)m->state)->ch[i];
    unsigned bytes = m->sim->sheet->bus_bits / 8;
    const wadi_part *control = &m->roles[ROLE_size].parts[i];
    uint32_t value;
    for (unsigned k = 0; k < G_N_ELEMENTS(words); k++) {
        if (!wadi_master_read(m->sim, &c->trace, at + (uint32_t)wadi_quantity(m, words[k].place, 0),
                              bytes, &value)) {
            wadi_dma_failed(m, i, at, false);
            return false;
        }
        wad_model_put(m, words[k].role, i, value);
    }
    c->count = wad_model_get(m, ROLE_count, i) + wad_model_code(m, ROLE_count, "plus", 0);
    c->written_source = c->written_destination = true;
    wadi_master_read(m->sim, &c->trace, at + (uint32_t)wadi_quantity(m, ROLE_at_control, 0), bytes,
                     &value);
    control->slot->value = value;
    wadi_master_read(m->sim, &c->trace, at + (uint32_t)wadi_quantity(m, ROLE_at_link, 0), bytes,
                     &c->link);
    return true;
}

void wadi_dma_load_and_begin(wad_model *m, unsigned i, uint32_t at)
{
    ((dma_state *)m->state)->loading += (uint64_t)wadi_quantity(m, ROLE_load_cost, 0);
    if (load(m, i, at))
        wadi_dma_begin(m, i);
    else
        wadi_dma_disarm(m, i);
}

/* Another channel begins at this one's end. */
static void chain(wad_model *m, unsigned i)
{
    dma_state *s = m->state;
    unsigned next = dma_get(m, ROLE_next, i);
    if (!dma_get(m, ROLE_chain, i) || next >= s->n || next == i || s->ch[next].armed)
        return;
    s->ch[next].by_hand = false;
    wadi_dma_begin(m, next);
}

void wadi_dma_round_over(wad_model *m, unsigned i)
{
    dma_channel *c = &((dma_state *)m->state)->ch[i];
    bool dies = c->dying;
    c->rounds++;
    c->ended_ps = m->sim->now;
    c->was_ended = true;
    wadi_dma_check_late(m, i, "end");
    if (dma_get(m, ROLE_repeat, i) && !dies) {
        wadi_dma_check_keeps(m, i);
        c->left = c->count;
        c->halved = c->going = false;
        wad_model_put(m, ROLE_count, i, c->left - wad_model_code(m, ROLE_count, "plus", 0));
        wadi_dma_own(m, i, true);
        wadi_dma_set_flag(m, ROLE_end, i);
        return;
    }
    wadi_dma_disarm(m, i);
    if (c->link || !dma_get(m, ROLE_chain, i) || dma_get(m, ROLE_end_irq, i))
        wadi_dma_set_flag(m, ROLE_end, i);
    c->by_hand = false;
    if (dies)
        return;
    if (c->link)
        wadi_dma_load_and_begin(m, i, c->link);
    else
        chain(m, i);
}
