/* SPDX-License-Identifier: MIT */
/*
 * Kind adc: power-up, calibration, sequences, triggers, flags. What a conversion reads is
 * adc_sample.c's.
 *
 * A conversion begins with the block's next clock edge; the converter's clock begins with it, so a
 * timer's trigger comes without jitter. Two events each: the end of sampling, and the end.
 */
#include "state.h"

#include "sim/core/model.h"
#include "sim/core/pin.h"
#include "sim/core/report.h"
#include "sim/host/source.h"

static bool by_dma(const wad_model *m)
{
    return wad_model_has(m, ROLE_dma_on) && wad_model_get(m, ROLE_dma_on, 0);
}

static void update_request(wad_model *m)
{
    const adc_state *s = wad_model_state(m);
    if (m->asks)
        wad_model_request(m, ROLE_done, 0, s->unread && !s->quiet && by_dma(m));
}

static uint64_t after(const wad_model *m, unsigned role)
{
    return m->sim->now + (uint64_t)(wadi_quantity(m, role, 0) * 1e12 + 0.5);
}

static bool is_on(const wad_model *m)
{
    return wad_model_get(m, ROLE_enable, 0) && !m->block->blocked;
}

/* ---- a conversion ---- */

static unsigned slots(const wad_model *m)
{
    unsigned most = wad_model_count(m, ROLE_channel);
    if (!wad_model_has(m, ROLE_length))
        return 1;
    uint64_t said;
    if (wad_model_whole(m, ROLE_length, 0, &said))
        return (unsigned)CLAMP(said, 1, most);
    unsigned n = wad_model_get(m, ROLE_length, 0) + wad_model_code(m, ROLE_length, "plus", 0);
    return n < 1 ? 1 : MIN(n, most);
}

static unsigned conversions(const wad_model *m)
{
    unsigned ratio = wad_model_has(m, ROLE_oversample) ? wad_model_get(m, ROLE_oversample, 0) : 0;
    return 1u << MIN(ratio, 8u);
}

static void set_busy(wad_model *m, bool busy)
{
    wad_model_put(m, ROLE_busy, 0, busy);
}

static void begin_conversion(wad_model *m, adc_state *s, uint64_t edge)
{
    unsigned halves = adc_sample_halves(m, adc_channel(m, s));
    s->begin = edge;
    wad_model_schedule(m, &s->sampled, wad_model_edge(m, edge + adc_edges(m, halves)));
}

/* Where neither function nor group gives a pin to the block, choosing its channel does. */
static void take_pin(wad_model *m, unsigned channel)
{
    const wadi_binding *b = &m->roles[ROLE_input];
    if (channel < b->count && b->signals[channel]->automatic)
        wad_model_uses(m, ROLE_input, channel, true);
}

static void begin_slot(wad_model *m, adc_state *s, uint64_t edge)
{
    take_pin(m, adc_channel(m, s));
    s->left = conversions(m);
    s->sum = 0;
    adc_check(m, s);
    begin_conversion(m, s, edge);
}

static void begin_sequence(wad_model *m, adc_state *s)
{
    if (wad_model_has(m, ROLE_ready) && !s->is_ready) {
        ADC_COMPLAIN(m, s, ADC_NOT_READY,
                     "%s was told to convert before it was ready: nothing begins",
                     m->block->inst->name);
        return;
    }
    if (wad_model_has(m, ROLE_calibrated) && !s->is_calibrated)
        ADC_COMPLAIN(m, s, ADC_UNCALIBRATED,
                     "%s converts without a calibration: up to %.3g counts of offset and %.3g %% "
                     "of gain are in its results",
                     m->block->inst->name,
                     wadi_quantity(m, ROLE_offset_error, 0) / adc_reference(m) *
                         (double)(1u << adc_bits(m)),
                     100 * wadi_quantity(m, ROLE_gain_error, 0));
    s->converting = true;
    s->slot = 0;
    set_busy(m, true);
    wad_model_enabled(m);
    begin_slot(m, s, wad_model_edges(m) + 1);
}

static void on_sampled(wad_event *e)
{
    wad_model *m = e->model;
    adc_state *s = wad_model_state(m);
    unsigned halves = adc_sample_halves(m, adc_channel(m, s)) +
                      (unsigned)wadi_quantity(m, ROLE_convert, 1) +
                      (unsigned)wadi_quantity(m, ROLE_convert_bit, 2) * adc_bits(m);
    adc_take(m, s);
    wad_model_schedule(m, &s->over, wad_model_edge(m, s->begin + adc_edges(m, halves)));
}

/* ---- its result ---- */

static uint32_t aligned(const wad_model *m, uint32_t value)
{
    unsigned width = wad_model_width(m, ROLE_data), bits = adc_bits(m);
    if (wad_model_has(m, ROLE_align_left) && wad_model_get(m, ROLE_align_left, 0) && bits < width)
        value <<= width - bits;
    return width >= 32 ? value : value & ((1u << width) - 1);
}

static void compare(wad_model *m, const adc_state *s, uint32_t value)
{
    if (!wad_model_has(m, ROLE_watch_on) || !wad_model_get(m, ROLE_watch_on, 0) ||
        (wad_model_has(m, ROLE_watch_channel) &&
         wad_model_get(m, ROLE_watch_channel, 0) != adc_channel(m, s)))
        return;
    if (value < wad_model_get(m, ROLE_watch_low, 0) ||
        value > wad_model_get(m, ROLE_watch_high, 0)) {
        wad_model_put(m, ROLE_watch, 0, 1);
        wad_model_event(m, ROLE_watch, 0);
    }
}

static void give(wad_model *m, adc_state *s)
{
    uint32_t value = (uint32_t)(s->sum);
    if (wad_model_has(m, ROLE_shift))
        value = (uint32_t)((int32_t)value >> wad_model_get(m, ROLE_shift, 0));
    bool own = wad_model_count(m, ROLE_data) > 1; /* each slot has a register of its own */
    if (s->unread && !own) {
        wad_model_put(m, ROLE_overrun, 0, 1);
        ADC_COMPLAIN(m, s, ADC_OVERRUN, "%s has a new result, and the last one was not taken",
                     m->block->inst->name);
    }
    s->result = aligned(m, value);
    if (m->roles[ROLE_data].n_parts == 1) /* else the low part's read holds the others */
        wad_model_put64(m, ROLE_data, own ? s->slot : 0, s->result);
    compare(m, s, value);
    s->unread = s->seen = true;
    wad_model_put(m, ROLE_done, 0, 1);
    wad_model_event(m, ROLE_done, 0);
}

static void on_over(wad_event *e)
{
    wad_model *m = e->model;
    adc_state *s = wad_model_state(m);
    uint64_t edge = wad_model_edges(m);
    s->sum += (uint64_t)(int64_t)(int32_t)s->code;
    if (--s->left) {
        begin_conversion(m, s, edge);
        return;
    }
    give(m, s);
    s->slot++;
    bool last = s->slot >= slots(m);
    if (last) {
        wad_model_put(m, ROLE_sequence, 0, 1);
        wad_model_event(m, ROLE_sequence, 0);
        s->slot = 0;
    }
    if (!last || (wad_model_has(m, ROLE_continuous) && wad_model_get(m, ROLE_continuous, 0))) {
        begin_slot(m, s, edge);
    } else {
        s->converting = false;
        set_busy(m, false);
    }
    update_request(m);
}

static void end(wad_model *m, adc_state *s)
{
    wad_model_cancel(m, &s->sampled);
    wad_model_cancel(m, &s->over);
    s->converting = false;
    s->slot = 0;
    set_busy(m, false);
}

/* ---- power, calibration, reference ---- */

static void put_ready(wad_model *m, bool on)
{
    ((adc_state *)wad_model_state(m))->is_ready = on;
    wad_model_put(m, ROLE_ready, 0, on);
}

static void put_calibrated(wad_model *m, bool on)
{
    ((adc_state *)wad_model_state(m))->is_calibrated = on;
    wad_model_put(m, ROLE_calibrated, 0, on);
}

static void put_settled(wad_model *m, bool on)
{
    ((adc_state *)wad_model_state(m))->has_settled = on;
    wad_model_put(m, ROLE_reference_ready, 0, on);
}

static void on_up(wad_event *e)
{
    put_ready(e->model, true);
    wad_model_event(e->model, ROLE_ready, 0);
}

static void on_calibrated(wad_event *e)
{
    wad_model_put(e->model, ROLE_calibrate, 0, 0);
    put_calibrated(e->model, true);
    wad_model_event(e->model, ROLE_calibrated, 0);
}

static void on_settled(wad_event *e)
{
    put_settled(e->model, true);
}

static void power(wad_model *m, adc_state *s, bool on)
{
    if (on) {
        wad_model_schedule(m, &s->up, after(m, ROLE_power_up));
        wad_model_enabled(m);
    } else {
        end(m, s);
        wad_model_cancel(m, &s->up);
        wad_model_cancel(m, &s->calibrated);
        put_ready(m, false);
        put_calibrated(m, false); /* it goes with the power */
    }
    wad_model_active(m, on);
}

static void calibrate(wad_model *m, adc_state *s)
{
    if (wad_model_has(m, ROLE_ready) && !s->is_ready) {
        ADC_COMPLAIN(m, s, ADC_NOT_READY,
                     "%s was told to calibrate before it was ready: nothing begins",
                     m->block->inst->name);
        return;
    }
    put_calibrated(m, false);
    wad_model_schedule(m, &s->calibrated, after(m, ROLE_calibration));
}

static void select_reference(wad_model *m, adc_state *s)
{
    bool internal = wad_model_get(m, ROLE_reference, 0) ==
                    wad_model_code(m, ROLE_reference, "internal", UINT32_MAX);
    wad_model_cancel(m, &s->settled);
    put_settled(m, false);
    if (internal)
        wad_model_schedule(m, &s->settled, after(m, ROLE_internal_settle));
}

/* ---- what the block hears ---- */

static void listen(wad_model *m)
{
    uint32_t off = wad_model_code(m, ROLE_trigger_edge, "off", 0);
    bool on =
        wad_model_has(m, ROLE_trigger) && is_on(m) &&
        (!wad_model_has(m, ROLE_trigger_edge) || wad_model_get(m, ROLE_trigger_edge, 0) != off);
    wad_model_listens(m, on);
}

static bool wants(const wad_model *m, wad_trigger_edge edge)
{
    if (!wad_model_has(m, ROLE_trigger_edge))
        return edge != WAD_TRIGGER_FALL;
    uint32_t chosen = wad_model_get(m, ROLE_trigger_edge, 0);
    uint32_t both = wad_model_code(m, ROLE_trigger_edge, "both", UINT32_MAX);
    const char *name = edge == WAD_TRIGGER_FALL ? "fall" : "rise";
    return chosen == both || chosen == wad_model_code(m, ROLE_trigger_edge, name, UINT32_MAX);
}

static void trigger(wad_model *m, wad_trigger_edge edge)
{
    adc_state *s = wad_model_state(m);
    if (!wants(m, edge) || !is_on(m))
        return;
    if (s->converting)
        ADC_COMPLAIN(m, s, ADC_TRIGGER,
                     "a trigger of %s came while it still converted: it was lost",
                     m->block->inst->name);
    else
        begin_sequence(m, s);
}

static void commands(wad_model *m, adc_state *s, const wad_write *w)
{
    if (w->roles & BIT(stop) && wad_model_get(m, ROLE_stop, 0))
        end(m, s);
    if (w->roles & BIT(calibrate) && wad_model_get(m, ROLE_calibrate, 0))
        calibrate(m, s);
    if (w->roles & BIT(start) && wad_model_get(m, ROLE_start, 0)) {
        s->set = wadi_trace_here(m->sim);
        if (!s->converting && wad_model_get(m, ROLE_enable, 0))
            begin_sequence(m, s);
        else if (!wad_model_get(m, ROLE_enable, 0))
            ADC_COMPLAIN(m, s, ADC_NOT_READY, "%s was told to convert while it was off",
                         m->block->inst->name);
    }
    wad_model_put(m, ROLE_start, 0, 0);
    wad_model_put(m, ROLE_stop, 0, 0);
    wad_model_put(m, ROLE_calibrate, 0, 0);
}

static void written(wad_model *m, const wad_write *w)
{
    adc_state *s = wad_model_state(m);
    if (w->roles & (BIT(enable) | BIT(trigger) | BIT(trigger_edge) | BIT(calibrate)))
        s->set = wadi_trace_here(m->sim);
    if (w->roles & BIT(enable)) {
        bool on = wad_model_get(m, ROLE_enable, 0);
        if (on != m->block->active)
            power(m, s, on);
    }
    s->quiet = s->quiet && by_dma(m);
    if (w->roles & BIT(reference) && (w->before ^ w->after))
        select_reference(m, s);
    commands(m, s, w);
    if (w->roles & (BIT(enable) | BIT(trigger) | BIT(trigger_edge)))
        listen(m);
    update_request(m);
}

/* ---- results that are taken ---- */

#define LEFT_READS 16 /* left-aligned results taken as they stand, before it is said */

/* A result at the left of its register is a multiple of 2 to the power of the bits to its right;
 * whoever takes it whole must shift it in that line. */
static void look_at_left(wad_model *m, adc_state *s)
{
    unsigned width = wad_model_width(m, ROLE_data), bits = adc_bits(m);
    if (!wad_model_has(m, ROLE_align_left) || !wad_model_get(m, ROLE_align_left, 0) ||
        bits >= width || s->warned_left || ++s->reads_left < LEFT_READS)
        return;
    s->warned_left = true;
    wadi_trace here = wadi_trace_here(m->sim);
    if (wadi_source_line_shifts(m->sim, &here))
        return;
    wadi_report(m->sim, WAD_FINDING_ADC_LEFT, m->roles[ROLE_data].parts[0].slot,
                "%u results were read as they stand, each a multiple of %u: they are left aligned, "
                "%u bits in %u",
                s->reads_left, 1u << (width - bits), bits, width);
}

static void taken(wad_model *m, const wad_register *reg)
{
    adc_state *s = wad_model_state(m);
    const wadi_binding *b = &m->roles[ROLE_data];
    if (b->n_parts > 1 && b->parts[0].slot->reg != reg) {
        if (s->unread) /* the low part's read takes it */
            wadi_report(m->sim, WAD_FINDING_ADC_ORDER, b->parts[1].slot,
                        "the high part of %s's result was read before the low one: it is the last "
                        "result's",
                        m->block->inst->name);
        return;
    }
    if (!s->unread && s->converting)
        wadi_report(m->sim, WAD_FINDING_ADC_EARLY, b->parts[0].slot,
                    "the result of %s was read while the conversion goes on: it is %s",
                    m->block->inst->name, s->seen ? "the last one again" : "no result at all");
    s->unread = false;
    if (by_dma(m))
        wad_model_put(m, ROLE_done, 0, 0);
    if (wad_model_count(m, ROLE_data) == 1 && !m->sim->bus.master)
        look_at_left(m, s);
    update_request(m);
}

/* Behind a transfer's last element it asks no more, unless it is told to. */
static void moved(wad_model *m, unsigned role, unsigned i, bool last)
{
    adc_state *s = wad_model_state(m);
    (void)role;
    (void)i;
    if (last && wad_model_has(m, ROLE_dma_keep) && !wad_model_get(m, ROLE_dma_keep, 0))
        s->quiet = true;
    update_request(m);
}

/* ---- life ---- */

static void refresh(wad_model *m, wad_role_set roles)
{
    if (roles & BIT(data) && m->roles[ROLE_data].n_parts > 1)
        wad_model_put64(m, ROLE_data, 0, ((const adc_state *)wad_model_state(m))->result);
}

static void init(wad_model *m)
{
    adc_state *s = wad_model_state(m);
    s->up.fn = on_up;
    s->calibrated.fn = on_calibrated;
    s->settled.fn = on_settled;
    s->sampled.fn = on_sampled;
    s->over.fn = on_over;
}

static void reset(wad_model *m)
{
    adc_state *s = wad_model_state(m);
    end(m, s);
    wad_model_cancel(m, &s->up);
    wad_model_cancel(m, &s->calibrated);
    wad_model_cancel(m, &s->settled);
    s->unread = s->seen = s->warned_left = s->quiet = false;
    s->reads_left = s->result = 0;
    s->is_ready = wad_model_get(m, ROLE_ready, 0); /* by the reset values */
    s->is_calibrated = wad_model_get(m, ROLE_calibrated, 0);
    s->has_settled = wad_model_get(m, ROLE_reference_ready, 0);
    s->cap = s->cap_neg = 0;
    s->noise = wadi_seed(m->sim, m->block);
    wad_model_active(m, false);
    wad_model_listens(m, false);
    update_request(m);
}

/* A clock that stops ends what is under way. */
static void clock_changes(wad_model *m, bool before)
{
    adc_state *s = wad_model_state(m);
    if (before && s->converting)
        end(m, s);
    if (!before && !m->sim->reset.resetting)
        listen(m);
}

static bool busy(wad_model *m)
{
    return ((const adc_state *)wad_model_state(m))->converting;
}

const wad_model_class wadi_model_adc = {.kind = "adc",
                                        .state_size = sizeof(adc_state),
                                        .on_read = BIT(data),
                                        .asks = BIT(done),
                                        .moved = moved,
                                        .live = BIT(data),
                                        .refresh = refresh,
                                        .init = init,
                                        .reset = reset,
                                        .written = written,
                                        .read = taken,
                                        .trigger = trigger,
                                        .busy = busy,
                                        .clock = clock_changes};
