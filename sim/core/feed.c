/* SPDX-License-Identifier: MIT */
#include "feed.h"

#include "controller.h"
#include "line.h"
#include "report.h"

/* ---- what asks ---- */

static inline bool is_open(const wadi_feed *f)
{
    if (f->odd && f->enable >= 0)
        return wad_model_get(f->model, (unsigned)f->enable, f->enable_element) != 0;
    return !f->never && (!f->by || (f->by->value ^ f->by_flip) & f->by_mask);
}

static inline bool is_set(const wadi_feed *f)
{
    if (f->odd)
        return wad_model_get(f->model, f->role, f->element) != 0;
    return f->flag && (f->flag->value ^ f->flag_flip) & f->flag_mask;
}

static inline bool asks(const wadi_feed *f)
{
    return is_set(f) && is_open(f);
}

static inline void follow(wad_sim *sim, wadi_feed *f)
{
    bool on = !f->pulses && asks(f);
    if (on == f->on)
        return;
    f->on = on;
    wadi_line_feed(sim, f->line, on);
}

void wadi_feeds_settle(wad_sim *sim)
{
    if (__builtin_expect(sim->touched.happened, 0))
        sim->touched.serve(sim);
    for (unsigned i = 0; i < sim->touched.n; i++) { /* a line's change may touch a controller's */
        wadi_slot *slot = sim->touched.slots[i];
        uint32_t changed = slot->changed;
        slot->touched = false;
        slot->changed = 0;
        for (unsigned k = 0; k < slot->n_feeds; k++)
            if (slot->feeds[k].mask & changed)
                follow(sim, slot->feeds[k].feed);
        if (__builtin_expect(slot->gates, 0))
            wadi_controller_settle(sim, slot);
    }
    sim->touched.n = 0;
}

void wadi_feeds_reset(wad_sim *sim)
{
    for (unsigned i = 0; i < sim->touched.n; i++) {
        sim->touched.slots[i]->touched = false;
        sim->touched.slots[i]->changed = 0;
    }
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
        wadi_feed *f = slot->feeds[i].feed;
        if (!(slot->feeds[i].mask & slot->changed))
            continue;
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

bool wadi_feeds_ask_beside(const wad_model *m, unsigned role)
{
    for (guint k = 0; m->feeds && k < m->feeds->len; k++) {
        const wadi_feed *f = m->feeds->pdata[k];
        if (f->role != role && asks(f))
            return true;
    }
    return false;
}
