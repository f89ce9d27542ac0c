/* SPDX-License-Identifier: MIT */
#include "rare.h"

#include "block.h"
#include "bus.h"
#include "clock.h"
#include "feed.h"
#include "lang/rational.h"
#include "lock.h"
#include "model.h"
#include "report.h"
#include "schedule.h"
#include "sheet/laws/evaluate.h"
#include "stop.h"
#include "way.h"

wadi_rare *wadi_rare_of(wadi_slot *slot)
{
    if (!slot->rare) {
        slot->rare = g_new0(wadi_rare, 1);
        slot->flags |= WADI_SLOT_RARE | WADI_SLOT_KINDS;
    }
    return slot->rare;
}

static void free_number(gpointer data)
{
    wadi_number *n = data;
    g_free(n->flags);
    g_free(n);
}

static void drop(GPtrArray *list, GDestroyNotify each)
{
    if (!list)
        return;
    g_ptr_array_foreach(list, (GFunc)(void (*)(void))each, NULL);
    g_ptr_array_free(list, TRUE);
}

void wadi_rare_free(wadi_slot *slot)
{
    wadi_rare *r = slot->rare;
    if (!r)
        return;
    GArray *arrays[] = {r->shown, r->masks, r->keys, r->holds, r->through};
    for (unsigned i = 0; i < G_N_ELEMENTS(arrays); i++)
        if (arrays[i])
            g_array_free(arrays[i], TRUE);
    drop(r->aliases, g_free);
    drop(r->shown_aliases, g_free);
    drop(r->numbers, free_number);
    drop(r->delays, g_free);
    g_clear_pointer(&slot->rare, g_free);
}

void wadi_delay_busy(const wadi_delay *d, bool on)
{
    if (d->busy)
        wadi_slot_store(d->busy,
                        on ? d->busy->value | d->busy_mask : d->busy->value & ~d->busy_mask);
}

void wadi_rare_reset(wadi_slot *slot)
{
    wadi_rare *r = slot->rare;
    r->pending = r->waiting = 0;
    for (guint i = 0; r->delays && i < r->delays->len; i++) {
        wadi_delay *d = r->delays->pdata[i];
        wadi_unschedule(slot->block->sim, &d->event);
        d->waits = false;
    }
}

/* ---- reading ---- */

wadi_slot *wadi_rare_there(wadi_slot *slot, bool write)
{
    while (slot && slot->rare && slot->rare->when &&
           !wadi_cond_holds(slot->block, slot->rare->when))
        slot = slot->rare->next[write];
    return slot;
}

typedef struct reading {
    const wadi_slot *slot;
} reading;

static bool field_reads(void *ctx, const wad_fieldref *ref, uint64_t *code)
{
    const reading *r = ctx;
    const wadi_block *own = r->slot->block->home ? r->slot->block->home : r->slot->block;
    *code = wadi_field_value(own->sim, own->inst, r->slot->index, ref);
    return true;
}

static bool asks(const wadi_number *n, unsigned i)
{
    const wadi_numbered *f = &n->flags[i];
    const wad_model *m = f->unit ? f->unit->model : NULL;
    if (!(f->slot->value & f->mask))
        return false;
    unsigned count = m ? wad_model_count(m, f->enable) : 0;
    return !count || wad_model_get(m, f->enable, f->element < count ? f->element : 0);
}

static int first_asking(const wadi_number *n)
{
    for (unsigned i = 0; i < n->def->n; i++)
        if (asks(n, i))
            return (int)i;
    return -1;
}

static uint32_t shown_value(const wadi_slot *slot, const wadi_shown *s)
{
    reading r = {slot};
    wadi_eval env = {.field = field_reads, .ctx = &r};
    wad_rational value = {0, 1};
    if (s->number) {
        int first = first_asking(s->number);
        return (uint32_t)(first < 0 ? s->number->def->otherwise
                                    : s->number->def->items[first].code);
    }
    if (s->alias) {
        wadi_slot_refresh(s->alias->to);
        return wadi_rare_stands(s->alias->to) >> s->alias->to_lsb;
    }
    wadi_expr_eval(s->expr, &env, &value);
    return (uint32_t)wadi_rat_floor(value);
}

uint32_t wadi_rare_stands(const wadi_slot *slot)
{
    const wadi_rare *r = slot->rare;
    uint32_t waits = r ? r->pending & ~r->shows_active : 0;
    return (slot->value & ~waits) | (waits ? r->waiting & waits : 0);
}

uint32_t wadi_rare_reads(wadi_slot *slot)
{
    const wadi_rare *r = slot->rare;
    uint32_t value = wadi_rare_stands(slot);
    for (guint i = 0; r->shown && i < r->shown->len; i++) {
        const wadi_shown *s = &g_array_index(r->shown, wadi_shown, i);
        value = (value & ~s->mask) | (shown_value(slot, s) << s->lsb & s->mask);
    }
    for (guint i = 0; r->through && i < r->through->len; i++) {
        const wadi_through *t = &g_array_index(r->through, wadi_through, i);
        if (t->on_read && t->high == slot)
            value = *t->temporary;
    }
    return value & slot->readable;
}

void wadi_rare_take_numbers(wadi_slot *slot)
{
    const wadi_rare *r = slot->rare;
    for (guint i = 0; r->numbers && i < r->numbers->len; i++) {
        const wadi_number *n = r->numbers->pdata[i];
        int first = n->def->clears ? first_asking(n) : -1;
        if (first >= 0)
            wadi_take_flags(n->flags[first].slot, n->flags[first].mask);
    }
}

/* ---- writing ---- */

uint32_t wadi_rare_masked(const wadi_slot *slot, uint32_t value, uint32_t touched)
{
    const wadi_rare *r = slot->rare;
    for (guint i = 0; r->masks && i < r->masks->len; i++) {
        const wadi_mask *m = &g_array_index(r->masks, wadi_mask, i);
        uint32_t by = (value & touched & m->by) >> m->by_lsb;
        touched &= ~m->to | (by << m->to_lsb & m->to);
    }
    return touched;
}

bool wadi_rare_unlocked(wad_sim *sim, wadi_slot *slot, uint32_t value, uint32_t touched)
{
    const wadi_rare *r = slot->rare;
    for (guint i = 0; r->keys && i < r->keys->len; i++) {
        const wadi_key *k = &g_array_index(r->keys, wadi_key, i);
        if ((touched & k->mask) == k->mask && (value & k->mask) == k->value)
            continue;
        char *name = wadi_slot_name(slot);
        wadi_report(sim, WAD_FINDING_LOCKED, slot,
                    "write of 0x%x to %s %s: %s must be 0x%x in the same write", value & touched,
                    name, k->resets ? "resets the chip" : "is ignored", k->field->name,
                    (unsigned)k->field->more->key);
        g_free(name);
        if (k->resets)
            wadi_run_again(sim);
        return false;
    }
    return true;
}

uint32_t wadi_rare_delayed(wad_sim *sim, wadi_slot *slot, uint32_t value, uint32_t touched)
{
    const wadi_rare *r = slot->rare;
    for (guint i = 0; r->delays && i < r->delays->len; i++) {
        wadi_delay *d = r->delays->pdata[i];
        uint32_t bits = touched & d->mask;
        if (!bits)
            continue;
        touched &= ~d->mask;
        if (d->waits) {
            char *name = wadi_slot_name(slot);
            wadi_report(sim, WAD_FINDING_WRITE_LOST, slot,
                        "write of 0x%x to %s is lost: the one before it is still under way", value,
                        name);
            g_free(name);
            continue;
        }
        d->value = value;
        d->touched = bits;
        d->waits = true;
        wadi_delay_busy(d, true);
        wadi_schedule(sim, &d->event, wadi_delay_due(sim, d->def));
    }
    return touched;
}

uint32_t wadi_rare_before(const wadi_slot *slot)
{
    const wadi_rare *r = slot->rare;
    return (slot->value & ~r->pending) | (r->waiting & r->pending);
}

uint32_t wadi_rare_elsewhere(const wadi_slot *slot)
{
    const wadi_rare *r = slot->rare;
    uint32_t bits = 0;
    for (guint i = 0; r->aliases && i < r->aliases->len; i++)
        bits |= ((const wadi_alias *)r->aliases->pdata[i])->mask;
    for (guint i = 0; r->numbers && i < r->numbers->len; i++)
        bits |= ((const wadi_number *)r->numbers->pdata[i])->mask;
    return bits;
}

/* Bits that are held at this time. */
static uint32_t held_now(const wadi_slot *slot)
{
    uint32_t held = 0;
    for (guint i = 0; slot->rare->holds && i < slot->rare->holds->len; i++) {
        const wadi_hold *h = &g_array_index(slot->rare->holds, wadi_hold, i);
        if (!h->when || wadi_cond_holds(slot->block, h->when))
            held |= h->mask;
    }
    return held;
}

void wadi_rare_store(wadi_slot *slot, uint32_t after, uint32_t touched)
{
    wadi_rare *r = slot->rare;
    uint32_t waits = r->held ? touched & held_now(slot) : 0;
    r->waiting = (r->waiting & ~waits) | (after & waits);
    uint32_t still = (r->pending & ~touched) | waits; /* others of it wait on */
    wadi_slot_store(slot, (slot->value & still) | (after & ~still));
    r->pending = still;
}

void wadi_rare_release(wadi_slot *slot, uint32_t mask)
{
    wadi_rare *r = slot->rare;
    uint32_t now = r->pending & mask;
    wad_write w = {0, slot->reg, slot->index, slot->value, 0, r->waiting};
    if (!now)
        return;
    r->pending &= ~now;
    w.after = (slot->value & ~now) | (r->waiting & now);
    wadi_slot_store(slot, w.after);
    wadi_feeds_enabled(slot);
    wadi_tell_models(slot, &w);
}

void wadi_rare_conditions(wad_sim *sim)
{
    for (guint i = 0; i < sim->choosers->len; i++)
        wadi_ways_choose(sim->choosers->pdata[i]);
    for (unsigned i = 0; i < sim->sheet->n_blocks; i++)
        if (sim->blocks[i].inst->layout->n_locks)
            wadi_locks_show(&sim->blocks[i]);
    for (guint i = 0; i < sim->holders->len; i++) {
        wadi_slot *slot = sim->holders->pdata[i];
        if (slot->rare->pending)
            wadi_rare_release(slot, ~held_now(slot));
    }
}

/* ---- aliases ---- */

static uint32_t acted_on(const wadi_alias *a, uint32_t bits, uint32_t touched)
{
    wadi_slot *to = a->to;
    uint32_t before = to->rare ? wadi_rare_before(to) : to->value;
    uint32_t takes = to->plain | to->w1s | to->settable, flags = to->w1c | to->w0c | to->rc;
    switch (a->verb) {
    case WAD_ALIAS_SETS: /* flags are forced so */
        return before | (bits & (takes | flags));
    case WAD_ALIAS_CLEARS:
        return before & ~(bits & (takes | flags | to->raised));
    case WAD_ALIAS_TOGGLES:
        return before ^ (bits & takes);
    default:
        return (uint32_t)wad_register_after(to->reg, before, bits, touched);
    }
}

void wadi_rare_forward(wadi_slot *slot, uint32_t value, uint32_t touched,
                       void (*told)(wad_sim *sim, wadi_slot *to, uint32_t before, uint32_t wrote))
{
    const wadi_rare *r = slot->rare;
    for (guint i = 0; r->aliases && i < r->aliases->len; i++) {
        const wadi_alias *a = r->aliases->pdata[i];
        uint32_t bits = (value & touched & a->mask) >> a->lsb << a->to_lsb;
        uint32_t where = (touched & a->mask) >> a->lsb << a->to_lsb, before = a->to->value;
        if (!where)
            continue;
        uint32_t after = acted_on(a, bits, where);
        if (a->to->rare)
            wadi_rare_store(a->to, after, where);
        else
            wadi_slot_store(a->to, after);
        told(slot->block->sim, a->to, before, bits);
    }
}

/* ---- a byte that several values share ---- */

bool wadi_rare_through_write(wadi_slot *slot, uint32_t value,
                             void (*told)(wad_sim *sim, wadi_slot *to, uint32_t before,
                                          uint32_t wrote))
{
    const wadi_rare *r = slot->rare;
    for (guint i = 0; r->through && i < r->through->len; i++) {
        const wadi_through *t = &g_array_index(r->through, wadi_through, i);
        if (!t->on_write)
            continue;
        if (t->high == slot) {
            *t->temporary = value;
            return true;
        }
        uint32_t before = t->high->value;
        wadi_slot_store(t->high, (before & ~t->high->plain) | (*t->temporary & t->high->plain));
        if (before != t->high->value)
            told(slot->block->sim, t->high, before, *t->temporary);
    }
    return false;
}

void wadi_rare_through_read(const wadi_slot *slot)
{
    const wadi_rare *r = slot->rare;
    for (guint i = 0; r->through && i < r->through->len; i++) {
        const wadi_through *t = &g_array_index(r->through, wadi_through, i);
        if (!t->on_read || t->low != slot)
            continue;
        wadi_slot_refresh(t->high);
        *t->temporary = t->high->value;
    }
}
