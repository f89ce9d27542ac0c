/* SPDX-License-Identifier: MIT */
#include "hook.h"

#include "block.h"
#include "clock.h"
#include "feed.h"
#include "lang/rational.h"
#include "model.h"
#include "rare.h"
#include "schedule.h"
#include "sheet/laws/evaluate.h"
#include "stop.h"

/* What an `after` waits for; one of each runs at a time. */
typedef struct later {
    wad_event event;
    wadi_hook *hook;
    const wad_act *act;
    uint32_t written;
} later;

struct wadi_hook {
    wadi_block *block; /* NULL: of the chip */
    wad_sim *sim;
    const wad_hook *def;
    unsigned element;
    GPtrArray *laters; /* later */
    uint32_t written;
};

static wadi_slot *slot_of(const wadi_hook *h, wad_fieldref *ref)
{
    return wadi_field_slot(h->sim, h->block ? h->block->inst : NULL, h->element, ref);
}

static bool field_says(void *ctx, const wad_fieldref *ref, uint64_t *code)
{
    const wadi_hook *h = ctx;
    *code = wadi_field_value(h->sim, h->block ? h->block->inst : NULL, h->element, ref);
    return true;
}

static uint64_t cond_says(void *ctx, const wad_fieldref *ref)
{
    uint64_t code;
    field_says(ctx, ref, &code);
    return code;
}

/* Hardware assigns: whatever the field's access kind, and models are told. */
static void assign(wadi_hook *h, const wad_act *act)
{
    wadi_eval env = {.field = field_says, .ctx = h, .written = h->written};
    wad_fieldref ref = act->ref;
    wadi_slot *slot = slot_of(h, &ref);
    uint32_t mask = (uint32_t)wad_fieldref_mask(&ref);
    wad_rational value;
    if (!wadi_expr_eval(act->value, &env, &value))
        return;
    wad_write w = {0, slot->reg, slot->index, slot->value, 0, 0};
    w.after = (slot->value & ~mask) | ((uint32_t)wadi_rat_floor(value) << ref.lsb & mask);
    w.wrote = w.after;
    if (slot->rare)
        slot->rare->pending &= ~mask;
    wadi_slot_store(slot, w.after);
    if (slot->changed & slot->enables)
        wadi_feeds_enabled(slot);
    if (w.before == w.after)
        return;
    if (slot->flags & WADI_SLOT_CLOCKS)
        wadi_clocks_update(h->sim);
    wadi_tell_models(slot, &w);
}

static void run_acts(wadi_hook *h, const wad_act *acts, unsigned n);

static void on_later(wad_event *e)
{
    later *l = (later *)e;
    l->hook->written = l->written;
    run_acts(l->hook, l->act->acts, l->act->n_acts);
}

static void defer(wadi_hook *h, const wad_act *act)
{
    later *l = NULL;
    for (guint i = 0; i < h->laters->len && !l; i++)
        if (((later *)h->laters->pdata[i])->act == act)
            l = h->laters->pdata[i];
    if (!l) {
        l = g_new0(later, 1);
        *l = (later){.event = {.fn = on_later}, .hook = h, .act = act};
        g_ptr_array_add(h->laters, l);
        if (h->block && !h->block->laters)
            h->block->laters = g_ptr_array_new();
        g_ptr_array_add(h->block ? h->block->laters : h->sim->laters, &l->event);
    }
    wadi_unschedule(h->sim, &l->event);
    l->written = h->written;
    wadi_schedule(h->sim, &l->event, wadi_delay_due(h->sim, &act->delay));
}

static void run_acts(wadi_hook *h, const wad_act *acts, unsigned n)
{
    for (unsigned i = 0; i < n; i++)
        if (acts[i].n_acts)
            defer(h, &acts[i]);
        else if (acts[i].value)
            assign(h, &acts[i]);
        else if (h->block)
            wadi_block_to_reset_values(h->block);
        else
            wadi_run_again(h->sim);
}

void wadi_hook_runs(wadi_hook *h, uint32_t written)
{
    if (h->def->when && wad_cond_broken(h->def->when, cond_says, h))
        return;
    h->written = written;
    run_acts(h, h->def->acts, h->def->n_acts);
}

wadi_hook *wadi_hook_new(wad_sim *sim, wadi_block *block, const wad_hook *def, unsigned element)
{
    wadi_hook *h = g_new0(wadi_hook, 1);
    *h = (wadi_hook){.block = block, .sim = sim, .def = def, .element = element};
    h->laters = g_ptr_array_new_with_free_func(g_free);
    return h;
}

void wadi_hook_free(wadi_hook *h)
{
    g_ptr_array_free(h->laters, TRUE);
    g_free(h);
}
