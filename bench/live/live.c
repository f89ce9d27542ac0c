/* SPDX-License-Identifier: MIT */
/* Time held and let go while somebody looks. */
#include "live.h"

#include <string.h>

#include "bench/language/bench.h"
#include "bench/language/said.h"
#include "bench/world/volt_source.h"

#define WINDOW  (2 * WAD_PS_PER_S)
#define SAMPLES 200 /* of volts in a window */
#define PAST    4096

/* ---- pace ---- */

uint64_t wad_live_ahead_us(const wad_live *l)
{
    if (l->options->pace <= 0)
        return 0;
    double want = (double)wad_sim_now(l->sim) / 1e6 / l->options->pace;
    double is = (double)(g_get_monotonic_time() - l->began_us);
    return want > is ? (uint64_t)(want - is) : 0;
}

/* In step from here on. */
static void begin_pace(wad_live *l)
{
    double at = l->options->pace > 0 ? (double)wad_sim_now(l->sim) / 1e6 / l->options->pace : 0;
    l->began_us = g_get_monotonic_time() - (gint64)at;
}

/* More than a quarter of a second: somebody paused, or the host is too slow; no rush afterwards. */
static bool is_behind(const wad_live *l)
{
    double want = (double)wad_sim_now(l->sim) / 1e6 / l->options->pace;
    return l->options->pace > 0 && (double)(g_get_monotonic_time() - l->began_us) > want + 250000;
}

/* ---- looks ---- */

static void look(wad_live *l, wad_live_reason reason)
{
    if (l->looking) /* what a look does is not looked at */
        return;
    l->looking = true;
    wad_sim_hold(l->sim, true);
    wadi_live_take_in(l);
    if (reason == WAD_LIVE_STEP || reason == WAD_LIVE_BEGIN) {
        l->goal.is = WADI_GOAL_NONE;
        l->goes = false;
    }
    l->options->look(l->options->ctx, l, reason);
    if (reason != WAD_LIVE_TICK || is_behind(l))
        begin_pace(l);
    uint64_t left = reason == WAD_LIVE_END ? 0 : wad_live_ahead_us(l);
    if (left)
        g_usleep(left);
    g_clear_pointer(&l->goal.what, g_free);
    l->goal.place = (wad_place){0};
    wad_sim_hold(l->sim, false);
    l->looking = false;
}

static void on_tick(wad_event *e)
{
    wad_live *l = (wad_live *)((char *)e - offsetof(wad_live, tick));
    look(l, WAD_LIVE_TICK);
    wad_sim_schedule(l->sim, e, e->ps + l->options->every_ps);
}

static void on_stop(wad_event *e)
{
    wad_live *l = (wad_live *)((char *)e - offsetof(wad_live, stop));
    look(l, WAD_LIVE_STEP);
}

/* ---- what is waited for ---- */

static void on_access(void *ctx, const wad_access_record *r)
{
    wad_live *l = ctx;
    g_hash_table_add(l->touched, (gpointer)r->block);
    if (l->goal.is != WADI_GOAL_ACCESS || (l->goal.block && l->goal.block != r->block) ||
        (l->goal.reg && l->goal.reg != r->reg && l->goal.reg != r->reg->alias_of))
        return;
    l->goal.what = wadi_live_access_text(r);
    wad_sim_here(l->sim, &l->goal.place);
    look(l, WAD_LIVE_STEP);
}

static void on_irq(void *ctx, const wad_irq_record *r)
{
    wad_live *l = ctx;
    if (r->left_ps)
        return;
    l->irq_counts[r->line]++;
    if (l->goal.is != WADI_GOAL_IRQ || (l->goal.line != UINT_MAX && l->goal.line != r->line))
        return;
    const wad_instance *owner = wad_sheet_irq_owner(l->bench->sheet, r->line);
    l->goal.what = g_strdup_printf("enters the handler of %s, %.4g us after the request",
                                   owner ? owner->name : "an interrupt",
                                   (double)(r->entered_ps - r->raised_ps) / 1e6);
    look(l, WAD_LIVE_STEP);
}

/* ---- pins ---- */

/* What lies before the window is forgotten, but for the level that it begins with. */
static void forget(const wad_live *l, wadi_live_pin *p)
{
    uint64_t now = wad_sim_now(l->sim), from = now > l->window_ps ? now - l->window_ps : 0;
    guint old = 0;
    while (old + 1 < p->past->len && g_array_index(p->past, wad_sample, old + 1).ps <= from)
        old++;
    g_array_remove_range(p->past, 0, old);
    p->limit = MAX(PAST, 2 * p->past->len);
}

static void add_past(wadi_live_pin *p, uint64_t ps, double value)
{
    wad_sample s = {ps, value};
    g_array_append_val(p->past, s);
    if (p->past->len >= p->limit)
        forget(p->live, p);
}

static void on_pin(void *ctx, uint64_t ps, wad_level level)
{
    add_past(ctx, ps, level);
}

static void on_sample(wad_event *e)
{
    wad_live *l = (wad_live *)((char *)e - offsetof(wad_live, sample));
    for (guint i = 0; i < l->pins->len; i++) {
        wadi_live_pin *p = l->pins->pdata[i];
        if (p->analog)
            add_past(p, e->ps, wad_sim_volts(l->sim, p->pin, NULL));
    }
    wad_sim_schedule(l->sim, e, e->ps + l->window_ps / SAMPLES);
}

static void show_pin(wad_live *l, const char *name, const wad_pin_def *pin, bool analog)
{
    for (guint i = 0; i < l->pins->len; i++) {
        const wadi_live_pin *p = l->pins->pdata[i];
        if (p->pin == pin && p->analog == analog)
            return;
    }
    wadi_live_pin *p = g_new0(wadi_live_pin, 1);
    *p = (wadi_live_pin){l, name, pin, analog, g_array_new(FALSE, FALSE, sizeof(wad_sample)), PAST};
    g_ptr_array_add(l->pins, p);
    if (!analog)
        wad_sim_watch_pin(l->sim, pin, on_pin, p);
}

static void free_pin(gpointer data)
{
    wadi_live_pin *p = data;
    g_array_free(p->past, TRUE);
    g_free(p);
}

/* What the bench captures, then the board's lamps and buttons. */
static void choose_pins(wad_live *l)
{
    const wad_bench *b = l->bench;
    for (guint i = 0; i < b->probes->len; i++) {
        const wadi_probe *p = &g_array_index(b->probes, wadi_probe, i);
        if (p->pin)
            show_pin(l, p->name, p->pin, false);
    }
    for (guint i = 0; i < b->analog.probes->len; i++) {
        const wadi_analog_probe *p = &g_array_index(b->analog.probes, wadi_analog_probe, i);
        if (p->pin)
            show_pin(l, p->name, p->pin, true);
    }
    for (unsigned i = 0; b->board && i < b->board->n_parts; i++) {
        const wad_part_def *p = &b->board->parts[i];
        if ((!strcmp(p->kind, "lamp") || !strcmp(p->kind, "button")) && p->n_wires &&
            p->wires[0].pin)
            show_pin(l, p->name, p->wires[0].pin, false);
    }
}

/* ---- inputs ---- */

static const char *name_of_pin(const wad_bench *b, const wad_pin_def *pin)
{
    for (unsigned i = 0; b->board && i < b->board->n_parts; i++)
        for (unsigned w = 0; w < b->board->parts[i].n_wires; w++)
            if (b->board->parts[i].wires[w].pin == pin)
                return b->board->parts[i].name;
    return pin->name;
}

static void choose_inputs(wad_live *l)
{
    const wad_bench *b = l->bench;
    for (unsigned i = 0; b->board && i < b->board->n_parts; i++) {
        const wad_part_def *p = &b->board->parts[i];
        wadi_live_input in = {p->name, p->n_wires ? p->wires[0].pin : NULL, p, false};
        if (!strcmp(p->kind, "button") && in.pin)
            g_array_append_val(l->inputs, in);
    }
    for (guint i = 0; i < b->analog.sources->len; i++) {
        const wadi_analog_def *d = &g_array_index(b->analog.sources, wadi_analog_def, i);
        wadi_live_input in = {name_of_pin(b, d->pin), d->pin, NULL, false};
        bool known = false;
        for (guint k = 0; k < l->inputs->len; k++)
            known = known || g_array_index(l->inputs, wadi_live_input, k).pin == d->pin;
        if (!known)
            g_array_append_val(l->inputs, in);
    }
}

static void next_move(wad_live *l)
{
    if (l->moves->len)
        wad_sim_schedule(l->sim, &l->move, g_array_index(l->moves, wadi_live_move, 0).ps);
}

static void on_move(wad_event *e)
{
    wad_live *l = (wad_live *)((char *)e - offsetof(wad_live, move));
    while (l->moves->len && g_array_index(l->moves, wadi_live_move, 0).ps <= e->ps) {
        wadi_live_move m = g_array_index(l->moves, wadi_live_move, 0);
        g_array_remove_index(l->moves, 0);
        if (m.def)
            wadi_analog_world_wire(l->analog, m.def);
        else
            wad_sim_drive(l->sim, m.pin, m.level);
    }
    next_move(l);
}

void wadi_live_move_at(wad_live *l, wadi_live_move move)
{
    guint i = l->moves->len;
    while (i > 0 && g_array_index(l->moves, wadi_live_move, i - 1).ps > move.ps)
        i--;
    g_array_insert_val(l->moves, i, move);
    l->by_hand = true;
    wad_sim_cancel(l->sim, &l->move);
    next_move(l);
}

void wadi_live_forget(wad_live *l, const wad_pin_def *pin, uint64_t from_ps)
{
    for (guint i = l->moves->len; i > 0; i--) {
        const wadi_live_move *m = &g_array_index(l->moves, wadi_live_move, i - 1);
        if (m->pin == pin && m->ps >= from_ps)
            g_array_remove_index(l->moves, i - 1);
    }
}

/* ---- life ---- */

static void begin(wad_sim *sim, void *ctx)
{
    wad_live *l = ctx;
    if (l->started) /* the power came back: the look goes on */
        return;
    l->started = true;
    begin_pace(l);
    wad_sim_schedule(sim, &l->sample, 0);
    if (l->options->every_ps)
        wad_sim_schedule(sim, &l->tick, l->options->every_ps + l->options->offset_ps);
    look(l, WAD_LIVE_BEGIN);
}

wad_live *wadi_live_new(wad_bench *bench, wad_sim *sim, wadi_analog_world *analog,
                        const wadi_parts *parts, const wad_live_options *options,
                        const char *setting, uint64_t end_ps, char **why)
{
    wad_live *l = g_new0(wad_live, 1);
    l->bench = bench;
    l->sim = sim;
    l->analog = analog;
    l->parts = parts;
    l->options = options;
    l->setting = g_strdup(setting);
    l->end_ps = end_ps;
    l->window_ps = options->window_ps ? options->window_ps : WINDOW;
    l->tick.fn = on_tick;
    l->stop.fn = on_stop;
    l->sample.fn = on_sample;
    l->move.fn = on_move;
    l->rand = g_rand_new_with_seed(bench->seed);
    l->pins = g_ptr_array_new_with_free_func(free_pin);
    l->inputs = g_array_new(FALSE, FALSE, sizeof(wadi_live_input));
    l->moves = g_array_new(FALSE, FALSE, sizeof(wadi_live_move));
    l->defs = g_ptr_array_new_with_free_func(g_free);
    l->touched = g_hash_table_new(NULL, NULL);
    l->irq_counts = g_new0(uint64_t, bench->sheet->n_vectors + 1);
    choose_pins(l);
    choose_inputs(l);
    if (!wadi_live_panels_init(l, why)) {
        wadi_live_free(l);
        return NULL;
    }
    wad_sim_watch_access(sim, on_access, l);
    wad_sim_watch_irq(sim, on_irq, l);
    wad_sim_at(sim, 0, begin, l);
    return l;
}

void wadi_live_end(wad_live *l)
{
    look(l, WAD_LIVE_END);
    wad_sim_watch_access(l->sim, NULL, NULL);
}

void wadi_live_free(wad_live *l)
{
    if (!l)
        return;
    wadi_live_panels_free(l);
    g_ptr_array_free(l->pins, TRUE);
    g_ptr_array_free(l->defs, TRUE);
    g_array_free(l->inputs, TRUE);
    g_array_free(l->moves, TRUE);
    g_hash_table_destroy(l->touched);
    g_rand_free(l->rand);
    g_free(l->irq_counts);
    g_free(l->setting);
    g_free(l->goal.what);
    g_free(l);
}

void wad_live_stop(wad_live *l)
{
    l->by_hand = l->goes = true;
    wad_sim_stop(l->sim);
}

bool wad_live_goes(const wad_live *l)
{
    return l->goes;
}

bool wad_live_by_hand(const wad_live *l)
{
    return l->by_hand;
}
