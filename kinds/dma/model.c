/* SPDX-License-Identifier: MIT */
/*
 * Kind dma: channels that move elements from one address to another, one (or all) at each request.
 *
 * Addresses go on and stay where they ended; the count comes back to what was written when a
 * channel begins. Where the settings lie in memory, loading a descriptor fills the registers.
 */
#include "state.h"

#include "sim/core/block.h"
#include "sim/core/report.h"
#include "sim/core/trigger.h"

/* ---- flags ---- */

/* ---- what the firmware says ---- */

static void stop(wad_model *m, unsigned i)
{
    dma_state *s = m->state;
    if (!s->ch[i].armed)
        return;
    wadi_dma_check_stopped(m, i);
    if (s->flying == i)
        s->ch[i].dying = true; /* what flies lands */
    else
        wadi_dma_disarm(m, i);
}

static void start(wad_model *m, unsigned i)
{
    dma_channel *c = &((dma_state *)m->state)->ch[i];
    if (!m->sim->bus.master)
        c->trace = wadi_trace_here(m->sim);
    c->by_hand = !m->sim->bus.master;
    if (!c->armed)
        wadi_dma_begin(m, i);
}

static void set_address(wad_model *m, unsigned i, unsigned from, unsigned to)
{
    wad_model_put(m, to, i, wad_model_get(m, from, i));
}

/* The views that begin. */
static void written_views(wad_model *m, unsigned i, const wad_write *w)
{
    dma_channel *c = &((dma_state *)m->state)->ch[i];
    if (w->roles & BIT(source_go)) {
        set_address(m, i, ROLE_source_go, ROLE_source);
        c->written_source = true;
    }
    if (w->roles & BIT(destination_go)) {
        set_address(m, i, ROLE_destination_go, ROLE_destination);
        c->written_destination = true;
    }
    if (w->roles & BIT(count_go))
        c->count = wad_model_get(m, ROLE_count_go, i) + wad_model_code(m, ROLE_count, "plus", 0);
    if (w->roles & (BIT(source_go) | BIT(destination_go) | BIT(count_go)))
        start(m, i);
}

static void written_control(wad_model *m, unsigned i)
{
    dma_channel *c = &((dma_state *)m->state)->ch[i];
    bool on = wad_model_get(m, ROLE_enable, i);
    if (on && !c->armed)
        start(m, i);
    else if (!on && c->armed)
        stop(m, i);
}

/* Another request from now on. */
static void written_request(wad_model *m)
{
    dma_state *s = m->state;
    for (unsigned i = 0; i < s->n; i++) {
        dma_channel *c = &s->ch[i];
        if (!c->armed || c->code == dma_get(m, ROLE_request, i))
            continue;
        wadi_dma_set_wants(m, c, false);
        c->code = dma_get(m, ROLE_request, i);
        wadi_dma_set_wants(m, c, true);
    }
}

static void written_commands(wad_model *m, const wad_write *w)
{
    dma_state *s = m->state;
    for (unsigned i = 0; i < s->n; i++) {
        if (w->roles & BIT(abort) && dma_get(m, ROLE_abort, i)) {
            wad_model_put(m, ROLE_abort, i, 0);
            stop(m, i);
        }
        if (w->roles & BIT(load) && dma_get(m, ROLE_load, i)) {
            wad_model_put(m, ROLE_load, i, 0);
            if (!m->sim->bus.master)
                s->ch[i].trace = wadi_trace_here(m->sim);
            s->ch[i].by_hand = !m->sim->bus.master;
            if (!s->ch[i].armed)
                wadi_dma_load_and_begin(m, i, wad_model_get(m, ROLE_descriptor, i));
        }
    }
}

static void written(wad_model *m, const wad_write *w)
{
    dma_state *s = m->state;
    unsigned i = w->reg_index;
    if (i >= s->n)
        return;
    if (w->roles & BIT(count)) {
        s->ch[i].count = wad_model_get(m, ROLE_count, i) + wad_model_code(m, ROLE_count, "plus", 0);
        if (s->ch[i].armed)
            wad_model_put(m, ROLE_count, i, s->ch[i].left);
    }
    s->ch[i].written_source |= (w->roles & BIT(source)) != 0;
    s->ch[i].written_destination |= (w->roles & BIT(destination)) != 0;
    if (w->roles & (BIT(count) | BIT(source) | BIT(destination) | BIT(enable)) &&
        !m->sim->bus.master && !s->ch[i].armed)
        s->ch[i].trace = wadi_trace_here(m->sim);
    written_views(m, i, w);
    if (w->roles & BIT(request))
        written_request(m);
    if (w->roles & BIT(enable))
        written_control(m, i);
    if (w->roles & (BIT(abort) | BIT(load)))
        written_commands(m, w);
    wadi_dma_kick(m); /* let go on, or switched on */
}

static void request(wad_model *m, uint32_t code, bool on)
{
    dma_state *s = m->state;
    const wadi_request *r = wadi_request_of(m, code);
    bool level = r && (r->from->cls->asks & WAD_ROLE_BIT(r->role)) && (r->level || !on);
    if (level || on)
        wadi_dma_tell_request(m, code, on ? WAD_DMA_ASKED : WAD_DMA_SERVED);
    for (unsigned i = 0; i < s->n && on && !level; i++) {
        dma_channel *c = &s->ch[i];
        if (!c->armed || c->code != code)
            continue;
        if (c->came && !dma_get(m, ROLE_pause, i))
            wadi_dma_check_lost(m, i);
        c->came = true;
    }
    if (on)
        wadi_dma_kick(m);
}

/* ---- life ---- */

static void init(wad_model *m)
{
    dma_state *s = m->state;
    s->n = MIN(wad_model_count(m, ROLE_enable), (unsigned)CHANNELS);
    s->next.fn = wadi_dma_on_next;
    s->flying = NOBODY;
}

static void reset(wad_model *m)
{
    dma_state *s = m->state;
    wad_model_cancel(m, &s->next);
    s->scheduled = false;
    s->flying = NOBODY;
    for (unsigned i = 0; i < s->n; i++) {
        wadi_dma_disarm(m, i);
        s->ch[i] = (dma_channel){0};
    }
    m->sim->bus.until = 0;
}

static void clock_changes(wad_model *m, bool before)
{
    dma_state *s = m->state;
    if (before || m->sim->reset.resetting)
        return;
    if (s->scheduled && !wad_model_clocked(m)) {
        wad_model_cancel(m, &s->next);
        s->scheduled = false;
    }
    wadi_dma_kick(m);
}

static bool busy(wad_model *m)
{
    const dma_state *s = m->state;
    for (unsigned i = 0; i < s->n; i++)
        if (wadi_dma_is_ready(m, i))
            return true;
    return s->flying != NOBODY;
}

void wad_sim_watch_dma(wad_sim *sim, wad_dma_fn fn, void *ctx)
{
    for (unsigned i = 0; i < sim->sheet->n_blocks; i++) {
        wad_model *m = sim->blocks[i].model;
        if (!wadi_model_is(m, "dma"))
            continue;
        ((dma_state *)m->state)->fn = fn;
        ((dma_state *)m->state)->ctx = ctx;
    }
}

uint64_t wad_sim_bus_taken(const wad_sim *sim, uint64_t *waited_ps)
{
    *waited_ps = sim->bus.waited;
    return sim->bus.taken;
}

const wad_model_class wadi_model_dma = {.kind = "dma",
                                        .state_size = sizeof(dma_state),
                                        .init = init,
                                        .reset = reset,
                                        .written = written,
                                        .request = request,
                                        .busy = busy,
                                        .ended = wadi_dma_ended,
                                        .clock = clock_changes};
