/* SPDX-License-Identifier: MIT */
/*
 * Kind dac: a value, held until its trigger where there is one, and a voltage that settles.
 *
 * The output moves towards its new value exponentially; the sheet's settling time is that from a
 * step of full scale to half a step of the last bit.
 */
#include <math.h>

#include "sim/core/block.h"
#include "sim/core/model.h"
#include "sim/core/report.h"
#include "sim/electric/volt.h"
#include "wadium/kinds.h"

enum {
#define ROLE(name, sort, need, text) ROLE_##name,
    WAD_ROLES_DAC(ROLE)
#undef ROLE
};

#define BIT(role) WAD_ROLE_BIT(ROLE_##role)

typedef struct dac_state {
    double from, to; /* volts: where the last step began, and leads */
    uint64_t step_ps;
    bool fresh;  /* written, and not out yet */
    bool empty;  /* the next can be written */
    bool stream; /* something came out after the other: a trigger without data is one too many */
    uint32_t wave;
    bool down;
    uint32_t shift; /* of the noise */
    wadi_trace set;
} dac_state;

/* The flag, and the request for the next. */
static void put_empty(wad_model *m, bool empty)
{
    dac_state *s = wad_model_state(m);
    s->empty = empty;
    wad_model_put(m, ROLE_empty, 0, empty);
}

static void update_request(wad_model *m)
{
    const dac_state *s = wad_model_state(m);
    if (m->asks)
        wad_model_request(m, ROLE_empty, 0,
                          wad_model_has(m, ROLE_dma_on) && wad_model_get(m, ROLE_dma_on, 0) &&
                              wad_model_get(m, ROLE_enable, 0) && s->empty);
}

static unsigned bits_of(const wad_model *m)
{
    unsigned bits = (unsigned)wadi_quantity(m, ROLE_bits, 0);
    return bits ? bits : wad_model_width(m, ROLE_data);
}

static bool is_on(const wad_model *m)
{
    return wad_model_get(m, ROLE_enable, 0) && !m->block->blocked;
}

static bool waits(const wad_model *m)
{
    return wad_model_has(m, ROLE_trigger_on) && wad_model_get(m, ROLE_trigger_on, 0);
}

/* ---- the output ---- */

static double volts_now(const wad_model *m, const dac_state *s)
{
    double settle = wadi_quantity(m, ROLE_settle, 0);
    double t = (double)(m->sim->now - s->step_ps) / 1e12;
    if (settle <= 0)
        return s->to;
    double tau = settle / log(ldexp(1, (int)bits_of(m) + 1));
    return s->to + (s->from - s->to) * exp(-t / tau);
}

static bool has_buffer(const wad_model *m)
{
    return wad_model_has(m, ROLE_buffer) && wad_model_get(m, ROLE_buffer, 0);
}

static double target(const wad_model *m, uint32_t code)
{
    double supply = wad_sim_supply(m->sim), volts = supply * ldexp(code, -(int)bits_of(m));
    double room = has_buffer(m) ? wadi_quantity(m, ROLE_headroom, 0) : 0;
    return fmin(fmax(volts, room), supply - room);
}

static bool analog(wad_model *m, unsigned role, unsigned i, double *volts, double *ohms)
{
    (void)role;
    (void)i;
    if (!is_on(m))
        return false;
    *volts = volts_now(m, wad_model_state(m));
    *ohms = has_buffer(m) ? 10 : wadi_quantity(m, ROLE_resistance, 0);
    return true;
}

static uint32_t code_of(const wad_model *m)
{
    unsigned bits = bits_of(m), width = wad_model_width(m, ROLE_data);
    uint32_t code = (uint32_t)wad_model_get64(m, ROLE_data, 0);
    if (wad_model_has(m, ROLE_align_left) && wad_model_get(m, ROLE_align_left, 0))
        code >>= width - bits;
    return code & ((1u << bits) - 1);
}

/* What the block adds by itself, one step further. */
static uint32_t add_wave(wad_model *m, dac_state *s, uint32_t code)
{
    uint32_t wave = wad_model_get(m, ROLE_wave, 0), ones = (1u << bits_of(m)) - 1;
    uint32_t size = (2u << wad_model_get(m, ROLE_wave_size, 0)) - 1;
    if (wave == wad_model_code(m, ROLE_wave, "off", 0))
        return code;
    if (wave == wad_model_code(m, ROLE_wave, "triangle", UINT32_MAX)) {
        s->down = s->wave >= size || (s->down && s->wave);
        s->wave += s->down ? UINT32_MAX : 1;
    } else {
        s->shift = s->shift >> 1 ^ (s->shift & 1 ? 0xB400u : 0);
        s->wave = s->shift & size;
    }
    return (code + s->wave) & ones;
}

static void come_out(wad_model *m, dac_state *s)
{
    uint32_t code = code_of(m);
    if (wad_model_has(m, ROLE_wave))
        code = add_wave(m, s, code);
    s->from = volts_now(m, s);
    s->to = target(m, code);
    s->step_ps = m->sim->now;
    wadi_analog_step(m, ROLE_output, s->to);
}

/* ---- triggers ---- */

static bool makes_waves(const wad_model *m)
{
    return wad_model_has(m, ROLE_wave) &&
           wad_model_get(m, ROLE_wave, 0) != wad_model_code(m, ROLE_wave, "off", 0);
}

static void next(wad_model *m, dac_state *s)
{
    bool fed = wad_model_get(m, ROLE_empty_irq, 0) ||
               (wad_model_has(m, ROLE_dma_on) && wad_model_get(m, ROLE_dma_on, 0));
    if (!s->fresh && s->stream && !makes_waves(m) && fed) {
        wadi_slot stand_in = {.address = m->block->inst->base};
        wad_model_put(m, ROLE_underrun, 0, 1);
        if (!wadi_report_again(m->sim, WAD_FINDING_DAC_UNDERRUN, &stand_in, &s->set))
            wadi_report_at(m->sim, WAD_FINDING_DAC_UNDERRUN, &stand_in, &s->set,
                           "a trigger of %s came, and nothing new was written: the last value "
                           "stands twice",
                           m->block->inst->name);
    }
    s->stream = s->stream || s->fresh;
    s->fresh = false;
    come_out(m, s);
    put_empty(m, true);
    wad_model_event(m, ROLE_empty, 0);
    update_request(m);
}

static void trigger(wad_model *m, wad_trigger_edge edge)
{
    if (edge != WAD_TRIGGER_FALL && is_on(m) && waits(m))
        next(m, wad_model_state(m));
}

static void written(wad_model *m, const wad_write *w)
{
    dac_state *s = wad_model_state(m);
    bool on = is_on(m);
    if (w->roles & BIT(enable) && on != m->block->active) {
        if (on) {
            wad_model_enabled(m);
            wad_model_uses(m, ROLE_output, 0, true);
            s->from = s->to = target(m, code_of(m));
            s->step_ps = m->sim->now;
            wadi_analog_step(m, ROLE_output, s->to);
        }
        wad_model_active(m, on);
        s->stream = s->stream && on;
    }
    if (w->roles & (BIT(enable) | BIT(trigger) | BIT(trigger_on)))
        wad_model_listens(m, on && waits(m));
    if (w->roles & BIT(data)) {
        s->set = wadi_trace_here(m->sim);
        s->fresh = true;
        put_empty(m, false);
        if (!waits(m) && on)
            next(m, s);
    }
    if (w->roles & BIT(start) && wad_model_get(m, ROLE_start, 0)) {
        wad_model_put(m, ROLE_start, 0, 0);
        if (on && waits(m))
            next(m, s);
    }
    update_request(m);
}

static void reset(wad_model *m)
{
    dac_state *s = wad_model_state(m);
    *s = (dac_state){.shift = 0xACE1u, .step_ps = m->sim->now};
    s->empty = wad_model_get(m, ROLE_empty, 0);
    wad_model_active(m, false);
    wad_model_listens(m, false);
    update_request(m);
}

static void clock_changes(wad_model *m, bool before)
{
    if (!before && !m->sim->reset.resetting)
        wad_model_listens(m, is_on(m) && waits(m));
}

const wad_model_class wadi_model_dac = {.follows = WAD_ROLE_BIT(ROLE_empty),
                                        .kind = "dac",
                                        .state_size = sizeof(dac_state),
                                        .asks = BIT(empty),
                                        .reset = reset,
                                        .written = written,
                                        .trigger = trigger,
                                        .analog = analog,
                                        .clock = clock_changes};
