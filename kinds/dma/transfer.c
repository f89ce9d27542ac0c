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
    sim->bus_taken += s->next.ps - sim->now;
    sim->bus_until = s->next.ps;
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
        wadi_dma_update(m);
        return;
    }
    if (sim->now < sim->bus_free && !sim->asleep) { /* the core has the bus */
        wad_model_schedule(m, &s->next, sim->bus_free);
        s->scheduled = true;
    } else {
        take_off(m, s, i);
    }
    wadi_dma_update(m);
}
