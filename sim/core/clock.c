/* SPDX-License-Identifier: MIT */
/* Clocks at run time: which run, how fast, and on which edges. */
#include "clock.h"

#include "advance.h"
#include "block.h"
#include "clock_out.h"
#include "lang/rational.h"
#include "model.h"
#include "register.h"
#include "report.h"
#include "sheet/chip/expression.h"
#include "sheet/laws/evaluate.h"
#include "sim.h"

/* ---- frequencies under the registers as they stand ---- */

typedef struct law_ctx {
    wad_sim *sim;
    const wad_clock *root;
} law_ctx;

static bool field_value(void *data, const wad_fieldref *ref, uint64_t *code)
{
    law_ctx *ctx = data;
    *code = wadi_field_value(ctx->sim, NULL, 0, ref);
    return true;
}

/* A clock that is off or not ready yet gives none: what depends on it does not run either. */
static bool clock_value(void *data, const wad_clock *def, wad_rational *hz)
{
    law_ctx *ctx = data;
    if (!def || !ctx->sim->clocks[def->index].ready || ctx->sim->clocks[def->index].failed ||
        ctx->sim->clocks[def->index].halted)
        return false;
    if (!def->law) {
        ctx->root = def;
        *hz = ctx->sim->clocks[def->index].true_hz;
        return true;
    }
    wadi_eval env = {.field = field_value, .clock = clock_value, .ctx = ctx};
    return wadi_expr_eval(def->law, &env, hz) && hz->num > 0;
}

static uint64_t cond_field(void *ctx, const wad_fieldref *ref)
{
    return wadi_field_value(ctx, NULL, 0, ref);
}

bool wadi_clock_cond_holds(const wad_sim *sim, const wad_cond *cond)
{
    return !wad_cond_broken(cond, cond_field, (wad_sim *)sim);
}

/* ---- on, ready ---- */

static void set_ready(wadi_clock *clock, bool ready)
{
    const wad_fieldref *ref = &clock->def->ready;
    clock->ready = ready;
    if (!ref->reg)
        return;
    wadi_slot *slot = wadi_find_slot(clock->sim, ref->block, ref->reg, ref->reg_index);
    uint32_t mask = (uint32_t)wad_fieldref_mask(ref);
    wadi_slot_store(slot, ready ? slot->value | mask : slot->value & ~mask);
}

static void forget_grids(wad_sim *sim, const wad_clock *root)
{
    for (guint i = sim->grids->len; i-- > 0;)
        if (g_array_index(sim->grids, wadi_grid, i).root == root)
            g_array_remove_index_fast(sim->grids, i);
}

static void on_ready(wad_event *e)
{
    wadi_clock *clock = (wadi_clock *)((char *)e - offsetof(wadi_clock, ready_event));
    forget_grids(clock->sim, clock->def);
    clock->ready = true;
    if (!clock->failed)
        set_ready(clock, true);
    wadi_clocks_update(clock->sim);
}

static void update_switch(wad_sim *sim, wadi_clock *clock)
{
    bool on = wadi_clock_cond_holds(sim, &clock->def->on);
    if (on == clock->on)
        return;
    clock->on = on;
    wadi_unschedule(sim, &clock->ready_event);
    wad_rational after = clock->def->after_s;
    if (!on)
        set_ready(clock, false);
    else if (after.num == 0)
        set_ready(clock, true);
    else
        wadi_schedule(sim, &clock->ready_event,
                      sim->now + (uint64_t)(wadi_rat_double(after) * 1e12 + 0.5));
}

/* ---- edges ---- */

/* Clocks of one oscillator and one numerator share a grid, so that a divider's change moves to
 * another subset of the same edges and no remainder is lost. */
static uint64_t grid_start(wad_sim *sim, const wad_clock *root, uint64_t n, uint64_t d)
{
    for (guint i = 0; i < sim->grids->len; i++) {
        const wadi_grid *g = &g_array_index(sim->grids, wadi_grid, i);
        if (g->root == root && g->n == n && g->d == d)
            return g->t0;
    }
    wadi_grid g = {root, n, d, sim->now};
    g_array_append_val(sim->grids, g);
    return g.t0;
}

static void set_domain(wad_sim *sim, wadi_clock *clock)
{
    wadi_domain *dom = &clock->domain;
    wad_rational ratio;
    if (clock->hz.num <= 0) {
        dom->runs = false;
        return;
    }
    wad_rational root = sim->clocks[clock->next_root->index].true_hz;
    dom->runs = wadi_rat_div(clock->hz, root, &ratio);
    if (!dom->runs)
        return;
    dom->n = (uint64_t)root.num * (uint64_t)ratio.num;
    dom->d = (uint64_t)root.den;
    dom->step = (uint64_t)ratio.den;
    dom->t0 = grid_start(sim, clock->next_root, dom->n, dom->d);
    wadi_domain_prepare(dom);
    wadi_domain grid = *dom;
    grid.step = 1;
    grid.first = 0;
    dom->first = wadi_domain_count(&grid, sim->now);
}

static void check_limits(wad_sim *sim, wadi_clock *clock)
{
    const wad_clock *def = clock->def;
    law_ctx ctx = {sim, NULL};
    wadi_eval env = {.field = field_value, .clock = clock_value, .ctx = &ctx};
    wad_rational least, most;
    bool out = clock->hz.num && wadi_clock_limits(def, &env, &least, &most) &&
               (wadi_rat_cmp(clock->hz, least) < 0 || wadi_rat_cmp(clock->hz, most) > 0);
    if (out && !clock->complained) {
        char is[32], min[32], max[32];
        wad_format_hz(is, sizeof is, clock->hz);
        wad_format_hz(min, sizeof min, least);
        wad_format_hz(max, sizeof max, most);
        wadi_report(sim, WAD_FINDING_CLOCK_LIMIT, NULL, "clock '%s' runs at %s, limits %s to %s",
                    def->name, is, min, max);
    }
    clock->complained = out;
}

/* What was selected does not run yet: the old source goes on, if it still does. */
static bool stays_by_old(const wadi_clock *clock)
{
    return clock->def->switched.reg && clock->hz.num > 0 && clock->next_root &&
           clock->sim->clocks[clock->next_root->index].ready &&
           !clock->sim->clocks[clock->next_root->index].failed;
}

static void show_switched(wad_sim *sim, const wadi_clock *clock)
{
    const wad_expr *pick = wadi_first_pick(clock->def->law);
    wad_fieldref to = clock->def->switched;
    wadi_slot *slot = wadi_field_slot(sim, NULL, 0, &to);
    uint32_t mask = (uint32_t)wad_fieldref_mask(&to);
    uint32_t code = (uint32_t)wadi_field_value(sim, NULL, 0, &pick->field);
    wadi_slot_store(slot, (slot->value & ~mask) | (code << to.lsb & mask));
}

void wadi_clocks_update(wad_sim *sim)
{
    unsigned n = sim->sheet->n_clocks;
    for (unsigned i = 0; i < n; i++)
        update_switch(sim, &sim->clocks[i]);
    for (unsigned i = 0; i < n; i++) {
        wadi_clock *clock = &sim->clocks[i];
        law_ctx ctx = {sim, NULL};
        if (!clock_value(&ctx, clock->def, &clock->next_hz) || !ctx.root)
            clock->next_hz = stays_by_old(clock) ? clock->hz : wadi_int(0);
        else if (clock->def->switched.reg)
            show_switched(sim, clock);
        clock->changes = wadi_rat_cmp(clock->next_hz, clock->hz) != 0 ||
                         (ctx.root && ctx.root != clock->next_root);
        clock->next_root = ctx.root ? ctx.root : clock->next_root;
    }
    wadi_blocks_before(sim);
    for (unsigned i = 0; i < n; i++)
        if (sim->clocks[i].changes) {
            sim->clocks[i].hz = sim->clocks[i].next_hz;
            set_domain(sim, &sim->clocks[i]);
        }
    for (unsigned i = 0; i < n; i++)
        if (sim->clocks[i].changes || sim->clocks[i].def->least || sim->clocks[i].def->most)
            check_limits(sim, &sim->clocks[i]);
    wadi_blocks_after(sim);
    if (sim->cpu.core->changes)
        wadi_cpu_set_core(sim);
    wadi_clockouts_update(sim);
    for (unsigned i = 0; i < n; i++)
        sim->clocks[i].changes = false;
    if (sim->ears & WADI_EAR_CLOCKS)
        wadi_tell(sim, &(wadi_told){.ear = WADI_EAR_CLOCKS});
}

void wadi_clocks_halt(wad_sim *sim, const wad_sleep_def *level, bool halt)
{
    for (unsigned i = 0; i < level->n_stops; i++) {
        const wad_clock *def = level->stops[i];
        sim->clocks[def->index].halted = halt;
        if (!halt)
            forget_grids(sim, def);
    }
    wadi_clocks_update(sim);
}

/* ---- all of them ---- */

static void mark_slots(wad_sim *sim, const wad_expr *e)
{
    if (!e)
        return;
    if (e->op == WADI_OP_FIELD || e->op == WADI_OP_PICK)
        wadi_field_slot(sim, NULL, 0,
                        &(wad_fieldref){.block = e->field.block,
                                        .reg = e->field.reg,
                                        .field = e->field.field,
                                        .reg_index = e->field.reg_index})
            ->flags |= WADI_SLOT_CLOCKS;
    for (unsigned i = 0; i < e->n_picks; i++)
        mark_slots(sim, e->picks[i].value);
    mark_slots(sim, e->a);
    mark_slots(sim, e->b);
}

void wadi_clocks_build(wad_sim *sim)
{
    sim->clocks = g_new0(wadi_clock, sim->sheet->n_clocks + 1);
    sim->grids = g_array_new(FALSE, FALSE, sizeof(wadi_grid));
    for (unsigned i = 0; i < sim->sheet->n_clocks; i++) {
        const wad_clock *def = sim->sheet->clocks[i];
        sim->clocks[i].def = def;
        sim->clocks[i].true_hz = def->hz;
        sim->clocks[i].sim = sim;
        sim->clocks[i].ready_event.fn = on_ready;
        mark_slots(sim, def->law);
        mark_slots(sim, def->least);
        mark_slots(sim, def->most);
        for (const wad_cond *c = &def->on; c; c = c->or_else)
            for (unsigned k = 0; k < c->n; k++) {
                const wad_fieldref *ref = &c->terms[k].ref;
                wadi_find_slot(sim, ref->block, ref->reg, ref->reg_index)->flags |=
                    WADI_SLOT_CLOCKS;
            }
    }
    sim->cpu.core = &sim->clocks[sim->sheet->core->index];
    for (unsigned i = 0; i < sim->sheet->n_blocks; i++)
        if (sim->sheet->blocks[i]->clock)
            sim->blocks[i].clock = &sim->clocks[sim->sheet->blocks[i]->clock->index];
}

void wadi_clocks_reset(wad_sim *sim)
{
    g_array_set_size(sim->grids, 0);
    for (unsigned i = 0; i < sim->sheet->n_clocks; i++) {
        wadi_clock *clock = &sim->clocks[i];
        wadi_unschedule(sim, &clock->ready_event);
        wadi_unschedule(sim, &clock->toggle);
        clock->halves.runs = false;
        clock->halted = false;
        clock->on = clock->ready = clock->def->on.n == 0;
        clock->hz = wadi_int(0);
        clock->domain.runs = false;
        clock->complained = false;
        clock->next_root = NULL;
    }
    wadi_clocks_update(sim);
}

/* ---- clocks that fail, and clocks that change under a timer ---- */

static bool core_hangs_on(const wad_sim *sim, const wadi_clock *clock)
{
    return sim->cpu.core->domain.runs && sim->cpu.core->next_root == clock->def;
}

/* What hardware sets in the firmware's stead. */
static void assign(wad_sim *sim, const wad_cond_term *to)
{
    wadi_slot *slot = wadi_find_slot(sim, to->ref.block, to->ref.reg, to->ref.reg_index);
    uint32_t mask = (uint32_t)wad_fieldref_mask(&to->ref);
    wadi_slot_store(slot, (slot->value & ~mask) | ((uint32_t)(to->value << to->ref.lsb) & mask));
}

/* Flag and block of a clock that is lost; the block's model looks at its line. */
static void note_lost(wad_sim *sim, const wadi_clock *clock)
{
    const wad_fieldref *ref = &clock->def->lost;
    if (!ref->reg)
        return;
    wadi_slot *slot = wadi_find_slot(sim, ref->block, ref->reg, ref->reg_index);
    wad_write w = {0, slot->reg, slot->index, slot->value, 0, 0};
    wadi_slot_store(slot, slot->value | (uint32_t)wad_fieldref_mask(ref));
    w.after = slot->value;
    wadi_tell_models(slot, &w);
}

void wadi_clock_fail(wad_sim *sim, const wad_clock *def, bool fails)
{
    wadi_clock *clock = &sim->clocks[def->index];
    const wad_fieldref *ready = &def->ready;
    bool ran = clock->ready && !clock->failed, core = core_hangs_on(sim, clock);
    clock->failed = fails;
    if (fails && ran) {
        bool watched = def->watched.n && wadi_clock_cond_holds(sim, &def->watched);
        bool goes_on = core && watched && def->instead.ref.reg;
        wadi_report(sim, WAD_FINDING_CLOCK_FAILED, NULL, "'%s' has stopped%s%s", def->name,
                    watched ? ", and was watched" : ", and nothing watched it",
                    goes_on ? ": the core goes on with another clock"
                    : core  ? ": the core ran on it"
                            : "");
        if (ready->reg)
            assign(sim, &(wad_cond_term){.ref = *ready, .value = 0});
        if (goes_on)
            assign(sim, &def->instead);
        if (watched)
            note_lost(sim, clock);
    } else if (!fails && clock->ready && ready->reg) {
        forget_grids(sim, def);
        assign(sim, &(wad_cond_term){.ref = *ready, .value = 1});
    }
    wadi_clocks_update(sim);
}

bool wad_sim_fail_clock(wad_sim *sim, const wad_clock *def, bool fails)
{
    if (def->law)
        return false;
    wadi_clock_fail(sim, def, fails);
    return true;
}

/* The write that moves the clock may stop the block as well. */
static bool is_enabled(const wad_model *m)
{
    const wad_role *role = wad_layout_role(m->block->inst->layout, "enable");
    int place = role ? wad_kind_role_index(m->kind, "enable") : -1;
    return place < 0 || wad_model_get(m, (unsigned)place, 0);
}

void wadi_rate_changes(wad_model *m, uint64_t counts)
{
    const wadi_clock *clock = m->block->clock ? m->block->clock : m->sim->cpu.core;
    if (m->sim->reset.resetting || !clock->changes || clock->hz.num <= 0 ||
        clock->next_hz.num <= 0 || wadi_rat_cmp(clock->hz, clock->next_hz) == 0 || !is_enabled(m))
        return;
    char was[32], now[32], period[96] = "";
    wad_format_hz(was, sizeof was, clock->hz);
    wad_format_hz(now, sizeof now, clock->next_hz);
    if (counts)
        snprintf(period, sizeof period, ": its period goes from %.6g us to %.6g us",
                 (double)counts * 1e6 / wadi_rat_double(clock->hz),
                 (double)counts * 1e6 / wadi_rat_double(clock->next_hz));
    wadi_slot stand_in = {.address = m->block->inst->base};
    wadi_report(m->sim, WAD_FINDING_CLOCK_CHANGED, &stand_in,
                "%s runs, and its clock '%s' goes from "
                "%s to %s%s",
                m->block->inst->name, clock->def->name, was, now, period);
}

/* A hundredth off is another oscillator's tolerance, which a program may have measured. */
void wadi_clock_promised(wad_sim *sim, uintptr_t base, uint32_t hz)
{
    for (unsigned i = 0; i < sim->sheet->n_blocks; i++) {
        const wadi_block *b = &sim->blocks[i];
        const wadi_clock *clock = b->clock ? b->clock : sim->cpu.core;
        double is = wadi_rat_double(clock->hz);
        if (b->inst->base != base || (hz > is * 0.99 && hz < is * 1.01))
            continue;
        char now[32], said[32];
        wad_format_hz(now, sizeof now, clock->hz);
        wad_format_hz(said, sizeof said, wadi_int(hz));
        wadi_slot stand_in = {.address = b->inst->base};
        wadi_report(sim, WAD_FINDING_CLOCK_PROMISED, &stand_in,
                    "%s is opened with a clock of %s, and '%s' runs at %s", b->inst->name, said,
                    clock->def->name, now);
    }
}

bool wad_sim_clock_hz(wad_sim *sim, const wad_clock *def, wad_rational *hz)
{
    *hz = sim->clocks[def->index].hz;
    return hz->num > 0;
}

bool wad_sim_set_clock_error(wad_sim *sim, const wad_clock *def, wad_rational share)
{
    wad_rational factor, hz;
    if (def->law || !wadi_rat_add(wadi_int(1), share, &factor) ||
        !wadi_rat_mul(def->hz, factor, &hz) || hz.num <= 0 || hz.num > UINT32_MAX / 8)
        return false;
    sim->clocks[def->index].true_hz = hz;
    return true;
}
