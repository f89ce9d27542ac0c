/* SPDX-License-Identifier: MIT */
/*
 * Kind adc: from volts to a code.
 *
 * While it samples, a switch connects the channel with a capacitor that still holds the last
 * channel's voltage: after the time t it is off the source's by the share exp(-t / (R * C)), with R
 * the source's resistance and the switch's. That one line is the error of a weak source, and the
 * crosstalk from the channel before.
 */
#include <math.h>

#include "sim/core/clock.h"
#include "sim/core/pin.h"
#include "state.h"

unsigned adc_bits(const wad_model *m)
{
    uint64_t said;
    if (wad_model_whole(m, ROLE_resolution, 0, &said))
        return (unsigned)CLAMP(said, 1, 24);
    if (!wad_model_has(m, ROLE_resolution)) {
        unsigned width = wad_model_width(m, ROLE_data);
        return width;
    }
    uint32_t step = wad_model_code(m, ROLE_resolution, "step", 1);
    return wad_model_get(m, ROLE_resolution, 0) * (step ? step : 1) +
           wad_model_code(m, ROLE_resolution, "plus", 0);
}

static uint64_t prescale(const wad_model *m)
{
    uint64_t said;
    if (wad_model_whole(m, ROLE_prescale, 0, &said))
        return MAX(said, 1);
    if (!wad_model_has(m, ROLE_prescale))
        return 1;
    uint32_t value = wad_model_get(m, ROLE_prescale, 0);
    uint32_t power = wad_model_code(m, ROLE_prescale, "power", 0);
    uint64_t by = value + wad_model_code(m, ROLE_prescale, "plus", 0);
    if (power)
        for (by = 1; value; value--)
            by *= power;
    return by ? by : 1;
}

uint64_t adc_edges(const wad_model *m, unsigned halves)
{
    return (halves * prescale(m) + 1) / 2;
}

unsigned adc_sample_halves(const wad_model *m, unsigned channel)
{
    uint32_t plus = wad_model_code(m, ROLE_sample, "plus", 0);
    uint32_t times = wad_model_code(m, ROLE_sample, "times", 1);
    uint32_t power = wad_model_code(m, ROLE_sample, "power", 0), scale = 1;
    if (!wad_model_has(m, ROLE_sample))
        return (unsigned)wadi_quantity(m, ROLE_sample_fixed, 3);
    unsigned i = wad_model_count(m, ROLE_sample) > 1 ? channel : 0;
    wad_rational said; /* in conversion clocks, of which halves are counted */
    if (wad_model_says(m, ROLE_sample, i, &said) && said.num > 0) {
        unsigned halves = MAX((unsigned)(said.num * 2 / said.den), 1);
        if (said.den > 2)
            wadi_model_rounds(m, ROLE_sample, i, said, halves / 2.0);
        return halves;
    }
    uint32_t value = wad_model_get(m, ROLE_sample, i);
    if (!power)
        return plus + times * value;
    for (; value; value--)
        scale *= power;
    return plus + times * scale;
}

static double block_hz(const wad_model *m)
{
    const wadi_clock *clock = m->block->clock ? m->block->clock : m->sim->cpu.core;
    return clock->hz.num ? (double)clock->hz.num / (double)clock->hz.den : 1;
}

static double sample_s(const wad_model *m, unsigned channel)
{
    return (double)adc_edges(m, adc_sample_halves(m, channel)) / block_hz(m);
}

double adc_reference(const wad_model *m)
{
    wad_converter_trim trim = wadi_trim_of(m);
    double volts, ohms;
    uint32_t which =
        wad_model_has(m, ROLE_reference) ? wad_model_get(m, ROLE_reference, 0) : UINT32_MAX;
    if (which == wad_model_code(m, ROLE_reference, "internal", UINT32_MAX - 1))
        return trim.internal > 0 ? trim.internal : wadi_quantity(m, ROLE_internal, 0);
    if (which != wad_model_code(m, ROLE_reference, "external", UINT32_MAX - 1))
        return wad_sim_supply(m->sim);
    const wadi_net *net = wadi_analog_net(m, ROLE_reference_pin, 0);
    if (trim.external > 0)
        return trim.external;
    return net && wadi_analog_at(m->sim, net, &volts, &ohms) ? volts : 0;
}

/* ---- what stands at a channel ---- */

static bool is_inner(const wad_model *m, unsigned channel, const char *name)
{
    return channel == wad_model_code(m, ROLE_channel, name, UINT32_MAX);
}

static bool inner(const wad_model *m, unsigned channel, double *volts)
{
    double supply = wad_sim_supply(m->sim);
    if (is_inner(m, channel, "bandgap"))
        *volts = wadi_quantity(m, ROLE_bandgap, 1.2);
    else if (is_inner(m, channel, "temperature"))
        *volts = wadi_quantity(m, ROLE_warm, 0.76) -
                 wadi_quantity(m, ROLE_slope, 0.002) * (wadi_celsius(m->sim) - 25);
    else if (is_inner(m, channel, "half"))
        *volts = supply / 2;
    else if (is_inner(m, channel, "ground"))
        *volts = 0;
    else
        return false;
    if (wad_model_has(m, ROLE_internal_on) && !wad_model_get(m, ROLE_internal_on, 0))
        *volts = 0;
    return true;
}

typedef struct wired {
    double volts, ohms;
    bool any, outside;
    const wadi_net *net;
} wired;

static wired look(const wad_model *m, unsigned channel)
{
    wired w = {0};
    w.any = inner(m, channel, &w.volts);
    if (w.any)
        return w;
    w.outside = true;
    w.net = wadi_analog_net(m, ROLE_input, channel);
    w.any = w.net && wadi_analog_at(m->sim, w.net, &w.volts, &w.ohms);
    return w;
}

/* ---- findings ---- */

static void check_pin(wad_model *m, adc_state *s, unsigned channel)
{
    wired w = look(m, channel);
    if (!w.outside)
        return;
    if (channel >= wad_model_count(m, ROLE_input)) {
        ADC_COMPLAIN(m, s, ADC_NO_PIN, "%s converts channel %u, which it does not have",
                     m->block->inst->name, channel);
    } else if (!w.net) {
        const wad_signal *def = m->roles[ROLE_input].signals[channel]->def;
        ADC_COMPLAIN(m, s, ADC_NO_PIN, "%s converts %s, and pin %s is not given to it",
                     m->block->inst->name, def->name,
                     def->n_options ? def->options[0].pin->name : "?");
    } else if (wadi_digital_on(w.net)) {
        ADC_COMPLAIN(m, s, ADC_DIGITAL,
                     "%s converts pin %s, whose digital input is on: it draws current between the "
                     "levels, and its noise is in the result",
                     m->block->inst->name, w.net->def->name);
    }
}

static void check_clock(wad_model *m, adc_state *s)
{
    double hz = block_hz(m) / (double)prescale(m), min = wadi_quantity(m, ROLE_clock_min, 0),
           max = wadi_quantity(m, ROLE_clock_max, 1e12);
    if (hz < min * (1 - 1e-9) || hz > max * (1 + 1e-9))
        ADC_COMPLAIN(m, s, ADC_CLOCK, "%s runs at %.6g MHz, its limits are %.6g to %.6g MHz",
                     m->block->inst->name, hz / 1e6, min / 1e6, max / 1e6);
}

static void check_reference(wad_model *m, adc_state *s)
{
    bool internal = wad_model_has(m, ROLE_reference) &&
                    wad_model_get(m, ROLE_reference, 0) ==
                        wad_model_code(m, ROLE_reference, "internal", UINT32_MAX);
    if (internal && wad_model_has(m, ROLE_reference_ready) && !s->has_settled)
        ADC_COMPLAIN(m, s, ADC_REFERENCE, "%s converts before its internal reference has settled",
                     m->block->inst->name);
    else if (adc_reference(m) <= 0)
        ADC_COMPLAIN(m, s, ADC_REFERENCE,
                     "the reference of %s stands at 0 V: every result is full scale",
                     m->block->inst->name);
}

static void check_resolution(wad_model *m, adc_state *s)
{
    uint32_t most = wad_model_code(m, ROLE_resolution, "most", UINT32_MAX);
    if (wad_model_has(m, ROLE_resolution) && wad_model_get(m, ROLE_resolution, 0) > most)
        ADC_COMPLAIN(m, s, ADC_RESERVED,
                     "%s converts with the reserved resolution %u: bits were set in the field "
                     "without clearing it first",
                     m->block->inst->name, wad_model_get(m, ROLE_resolution, 0));
}

void adc_check(wad_model *m, adc_state *s)
{
    check_clock(m, s);
    check_reference(m, s);
    check_resolution(m, s);
    check_pin(m, s, adc_channel(m, s));
}

/* Half a step of the result at full scale is what datasheets ask of a settled input. */
static void check_settling(wad_model *m, adc_state *s, double t, double tau, double ohms,
                           double error)
{
    unsigned bits = adc_bits(m), channel = adc_channel(m, s);
    double worst = exp(-t / tau) * (double)(1u << bits);
    if (worst <= 0.5)
        return;
    double needed = tau * log(2 * (double)(1u << bits));
    double cycle = (double)prescale(m) / block_hz(m);
    ADC_COMPLAIN(m, s, ADC_SAMPLING,
                 "channel %u is sampled for %.4g cycles, %.4g us: through %.4g kohm that leaves up "
                 "to %.3g counts of an %u-bit result (%.3g now); %.4g us, %.4g cycles, are enough",
                 channel, t / cycle, t * 1e6, ohms / 1e3, worst, bits, fabs(error) * (1u << bits),
                 needed * 1e6, needed / cycle);
}

static void check_range(wad_model *m, adc_state *s, const wired *w, double reference)
{
    double supply = wad_sim_supply(m->sim);
    const char *pin = w->net ? w->net->def->name : "an internal input";
    if (w->volts > supply * 1.0001 || w->volts < -0.0005)
        ADC_COMPLAIN(m, s, ADC_RANGE,
                     "pin %s stands at %.4g V, the supply at %.4g V: the result is clipped, and "
                     "current flows into the pin",
                     pin, w->volts, supply);
    else if (reference > 0 && w->volts > reference * 1.0001)
        ADC_COMPLAIN(m, s, ADC_RANGE,
                     "%s stands at %.4g V, above the reference of %.4g V: the result is clipped",
                     pin, w->volts, reference);
}

/* ---- sampling ---- */

/* The capacitor moves towards the channel's voltage for the sampling time. */
static double settle(wad_model *m, adc_state *s, const wired *w, double *cap, double reference)
{
    unsigned channel = adc_channel(m, s);
    double farads = wadi_quantity(m, ROLE_capacitor, 0);
    double ohms = w->ohms + wadi_quantity(m, ROLE_switch_ohm, 0), tau = ohms * farads;
    if (!w->any) /* nothing moves it: the last channel's voltage is converted again */
        return *cap;
    double supply = wad_sim_supply(m->sim), t = sample_s(m, channel);
    double to = fmin(fmax(w->volts, 0), supply), before = *cap;
    *cap = tau > 0 ? to + (before - to) * exp(-t / tau) : to;
    if (tau > 0)
        check_settling(m, s, t, tau, w->ohms, (*cap - to) / (reference > 0 ? reference : 1));
    return *cap;
}

static int32_t quantize(const wad_model *m, adc_state *s, double volts, double reference,
                        unsigned bits, bool bipolar)
{
    bool raw = wad_model_has(m, ROLE_calibrated) && !s->is_calibrated;
    double noise = wadi_trim_of(m).no_noise ? 0 : wadi_quantity(m, ROLE_noise, 0);
    if (raw)
        volts = volts * (1 + wadi_quantity(m, ROLE_gain_error, 0)) +
                wadi_quantity(m, ROLE_offset_error, 0);
    if (noise > 0)
        volts += noise * wadi_gauss(&s->noise);
    double full = bipolar ? ldexp(1, (int)bits - 1) : ldexp(1, (int)bits);
    double lowest = bipolar ? -full : 0;
    /* what is a step's very edge stays there, whatever the last binary digit of the volts */
    double code = reference > 0 ? floor(volts / reference * full * (1 + 4e-16)) : full;
    return (int32_t)fmin(fmax(code, lowest), full - 1);
}

void adc_take(wad_model *m, adc_state *s)
{
    unsigned channel = adc_channel(m, s), bits = adc_bits(m);
    bool pair = wad_model_has(m, ROLE_differential) &&
                wad_model_get(m, ROLE_differential,
                              wad_model_count(m, ROLE_differential) > 1 ? channel : 0);
    double reference = adc_reference(m);
    wired w = look(m, channel);
    if (w.any)
        check_range(m, s, &w, reference);
    double volts = settle(m, s, &w, &s->cap, reference);
    if (pair) {
        wired other = look(m, channel + 1);
        volts -= settle(m, s, &other, &s->cap_neg, reference);
    }
    int32_t code = quantize(m, s, volts, reference, bits, pair);
    if (pair && wad_model_has(m, ROLE_is_signed) && !wad_model_get(m, ROLE_is_signed, 0))
        code += (int32_t)(1u << (bits - 1)); /* offset binary */
    s->code = (uint32_t)code;
}
