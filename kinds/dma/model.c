/* SPDX-License-Identifier: MIT */
/*
 * Kind dma: channels that move elements from one address to another, one (or all) at each request.
 *
 * Addresses go on and stay where they ended; the count comes back to what was written when a
 * channel begins. Where the settings lie in memory, loading a descriptor fills the registers.
 */
#include "state.h"

#include "kinds/registry.h"
#include "sim/core/block.h"
#include "sim/core/master.h"
#include "sim/core/report.h"
#include "sim/core/trigger.h"
#include "sim/electric/volt.h"

/* ---- flags ---- */

static bool asks(const wad_model *m, unsigned flag, unsigned enable)
{
    if (!m->roles[flag].count || !m->roles[enable].count)
        return false;
    for (unsigned i = 0; i < m->roles[flag].count; i++)
        if (wad_model_get(m, flag, i) &&
            wad_model_get(m, enable, i < m->roles[enable].count ? i : 0))
            return true;
    return false;
}

void wadi_dma_update(wad_model *m)
{
    wad_model_line(m, 0,
                   asks(m, ROLE_half, ROLE_half_irq) || asks(m, ROLE_end, ROLE_end_irq) ||
                       asks(m, ROLE_error, ROLE_error_irq));
}

static void set_flag(wad_model *m, unsigned role, unsigned i)
{
    if (!m->roles[role].count)
        return;
    wad_model_put(m, role, i, 1);
    wad_model_event(m, role, i);
    wadi_dma_update(m);
}

/* Old flags are no event of now. */
static void enables_changed(wad_model *m, unsigned i, const wad_write *w)
{
    static const struct {
        unsigned flag, enable;
    } pairs[] = {
        {ROLE_half, ROLE_half_irq}, {ROLE_end, ROLE_end_irq}, {ROLE_error, ROLE_error_irq}};
    bool on = false, stale = false;
    if (!(w->after & ~w->before))
        return;
    for (unsigned k = 0; k < G_N_ELEMENTS(pairs); k++) {
        bool asked = dma_get(m, pairs[k].enable, i) != 0;
        on = on || asked;
        stale = stale || (asked && dma_get(m, pairs[k].flag, i));
    }
    if (on)
        wad_model_asks(m, 0, true, stale);
}

/* ---- memory ---- */

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

/* ---- begin and end ---- */

static void set_wants(wad_model *m, dma_channel *c, bool on)
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
    set_wants(m, c, true);
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
    set_wants(m, c, false);
    c->armed = c->going = c->dying = false;
    wadi_dma_tell(m, i, WAD_DMA_ENDED);
}

void wadi_dma_half_over(wad_model *m, unsigned i)
{
    wadi_dma_check_late(m, i, "half");
    set_flag(m, ROLE_half, i);
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

static void load_and_begin(wad_model *m, unsigned i, uint32_t at)
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
        set_flag(m, ROLE_end, i);
        return;
    }
    wadi_dma_disarm(m, i);
    if (c->link || !dma_get(m, ROLE_chain, i) || dma_get(m, ROLE_end_irq, i))
        set_flag(m, ROLE_end, i);
    c->by_hand = false;
    if (dies)
        return;
    if (c->link)
        load_and_begin(m, i, c->link);
    else
        chain(m, i);
}

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
    if (!m->sim->master)
        c->trace = wadi_trace_here(m->sim);
    c->by_hand = !m->sim->master;
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
        set_wants(m, c, false);
        c->code = dma_get(m, ROLE_request, i);
        set_wants(m, c, true);
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
            if (!m->sim->master)
                s->ch[i].trace = wadi_trace_here(m->sim);
            s->ch[i].by_hand = !m->sim->master;
            if (!s->ch[i].armed)
                load_and_begin(m, i, wad_model_get(m, ROLE_descriptor, i));
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
    if (w->roles & (BIT(count) | BIT(source) | BIT(destination) | BIT(enable)) && !m->sim->master &&
        !s->ch[i].armed)
        s->ch[i].trace = wadi_trace_here(m->sim);
    written_views(m, i, w);
    if (w->roles & BIT(request))
        written_request(m);
    if (w->roles & BIT(enable))
        written_control(m, i);
    if (w->roles & (BIT(end_irq) | BIT(half_irq) | BIT(error_irq)))
        for (unsigned k = 0; k < s->n; k++)
            enables_changed(m, k, w);
    if (w->roles & (BIT(abort) | BIT(load)))
        written_commands(m, w);
    wadi_dma_kick(m); /* let go on, or switched on */
    wadi_dma_update(m);
}

static void request(wad_model *m, uint32_t code, bool on)
{
    dma_state *s = m->state;
    const wadi_request *r = wadi_request_of(m, code);
    bool level = r && (r->from->cls->asks & WAD_ROLE_BIT(r->role));
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
    m->sim->bus_until = 0;
    wadi_dma_update(m);
}

static void clock_changes(wad_model *m, bool before)
{
    dma_state *s = m->state;
    if (before || m->sim->resetting)
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
        if (!m || m->cls != &wadi_model_dma)
            continue;
        ((dma_state *)m->state)->fn = fn;
        ((dma_state *)m->state)->ctx = ctx;
    }
}

uint64_t wad_sim_bus_taken(const wad_sim *sim, uint64_t *waited_ps)
{
    *waited_ps = sim->bus_waited;
    return sim->bus_taken;
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
