/* SPDX-License-Identifier: MIT */
/* Built once for a chip: a converter set up, its inputs, and one result. */
#include "adc_private.h"

#ifdef WAD_ADC_TABLE

#define RESET_POLLS 1000u
#define FLAG_POLLS  100000u

/* ---- settings ---- */

/* The fastest converter clock within its limits; the field's value. */
static wad_status find_prescale(uint32_t clock_hz, uint32_t most_hz, uint32_t *value, uint32_t *hz)
{
    uint32_t by = R.prescale_power ? 1u : R.prescale_plus;
    if (R.clock_max && (!most_hz || most_hz > R.clock_max))
        most_hz = R.clock_max;
    by = by ? by : 1u;
    *value = 0;
    *hz = clock_hz;
    if (!wad_has(R.prescale))
        return WAD_OK;
    if (R.prescale_power) {
        while (most_hz && clock_hz / by > most_hz && *value < wadi_ones(R.prescale)) {
            by *= R.prescale_power;
            ++*value;
        }
    } else if (most_hz && clock_hz > most_hz) {
        by = (clock_hz - 1u) / most_hz + 1u;
        *value = by - R.prescale_plus;
    }
    *hz = clock_hz / by;
    bool slow = R.clock_min && *hz < R.clock_min, fast = most_hz && *hz > most_hz;
    return slow || fast || *value > wadi_ones(R.prescale) ? WAD_E_RANGE : WAD_OK;
}

static uint8_t widest(void)
{
    if (!wad_has(R.resolution))
        return R.data.width;
    uint32_t bits = R.resolution_plus + (uint32_t)R.resolution_most * R.resolution_step;
    return (uint8_t)(bits > 12u ? 12u : bits);
}

static wad_status find_resolution(unsigned bits, uint32_t *value)
{
    *value = 0;
    if (!wad_has(R.resolution))
        return bits == R.data.width ? WAD_OK : WAD_E_RANGE;
    const uint32_t step = R.resolution_step ? R.resolution_step : 1u;
    if (bits < R.resolution_plus || (bits - R.resolution_plus) % step)
        return WAD_E_RANGE;
    *value = (bits - R.resolution_plus) / step;
    return *value <= R.resolution_most ? WAD_OK : WAD_E_RANGE;
}

static bool wait_for(uintptr_t base, wad_field flag)
{
    for (uint32_t i = 0; wad_has(flag) && !wad_get(base, flag); i++)
        if (i == FLAG_POLLS)
            return false;
    return true;
}

static wad_status set_reference(wad_adc *adc, const wad_adc_config *c)
{
    const uint8_t codes[] = {R.reference_supply, R.reference_internal, R.reference_external};
    uintptr_t base = adc->block->base;
    adc->reference_uv = c->reference_uv ? c->reference_uv : 3300000u;
    if (c->reference == WAD_REFERENCE_INTERNAL && !c->reference_uv)
        adc->reference_uv = R.internal;
    if (!wad_has(R.reference))
        return c->reference == WAD_REFERENCE_SUPPLY ? WAD_OK : WAD_E_ABSENT;
    if ((unsigned)c->reference > WAD_REFERENCE_EXTERNAL)
        return WAD_E_ARG;
    if (codes[c->reference] == WAD_NO_CODE ||
        (c->reference == WAD_REFERENCE_INTERNAL && !R.internal))
        return WAD_E_ABSENT;
    if (c->reference_route) {
        wad_status st = wadi_route_analog(c->reference_route);
        if (st != WAD_OK)
            return st;
    }
    wad_put(base, R.reference, codes[c->reference]);
    if (c->reference == WAD_REFERENCE_INTERNAL && !wait_for(base, R.reference_ready))
        return WAD_E_TIMEOUT;
    return WAD_OK;
}

/* Averages by the block where it can; else they are added up here. */
static void set_averages(wad_adc *adc, const wad_adc_config *c)
{
    uint32_t ratio = c->extra_bits ? 2u * c->extra_bits : c->average;
    uint32_t shift = c->extra_bits ? c->extra_bits : c->average;
    adc->software = (uint8_t)ratio;
    if (!wad_has(R.oversample))
        return;
    wad_put(adc->block->base, R.oversample, ratio);
    wad_put(adc->block->base, R.shift, shift);
    adc->software = 0;
}

wad_status wad_adc_open(wad_adc *adc, const wad_block *block, const wad_adc_config *c,
                        uint32_t *clock_hz)
{
    uint32_t prescale, resolution, hz;
    uint8_t bits = c->bits ? c->bits : widest();
    if (c->average > 8u || c->extra_bits > 4u || (c->average && c->extra_bits))
        return WAD_E_ARG;
    wad_status st = find_prescale(block->clock_hz(), c->clock_hz, &prescale, &hz);
    if (st == WAD_OK)
        st = find_resolution(bits, &resolution);
    if (st != WAD_OK)
        return st;
    if (!wad_block_up(block, RESET_POLLS))
        return WAD_E_TIMEOUT;
    *adc = (wad_adc){.block = block,
                     .clock_hz = hz,
                     .bits = (uint8_t)(bits + c->extra_bits),
                     .own_bits = bits,
                     .time = c->time,
                     .dma = c->dma};
    uintptr_t base = block->base;
    wad_put(base, R.enable, 0);
    if (wad_has(R.prescale))
        wad_put(base, R.prescale, prescale);
    if (wad_has(R.resolution))
        wad_put(base, R.resolution, resolution);
    if (wad_has(R.align_left))
        wad_put(base, R.align_left, 0);
    st = set_reference(adc, c);
    if (st != WAD_OK)
        return st;
    set_averages(adc, c);
    wad_put(base, R.enable, 1);
    if (clock_hz)
        *clock_hz = hz;
    if (!wait_for(base, R.ready))
        return WAD_E_TIMEOUT;
    return c->dma ? adc_style(adc)->open(adc) : WAD_OK;
}

void wad_adc_close(wad_adc *adc)
{
    wad_adc_end(adc);
    wad_put(adc->block->base, R.enable, 0);
}

/* Shortest sampling in which exp(-t / RC) * 2 ** bits comes down to half a count: ln 2 = 0.6931. */
static wad_status set_sampling(const wad_adc *adc, unsigned channel, uint32_t source_ohms)
{
    uint32_t ohms = source_ohms + R.switch_ohm;
    uint32_t ns =
        wad_muldiv(wad_muldiv(ohms, R.capacitor, 1000000u), 6932u * (adc->own_bits + 1u), 10000u);
    uint32_t wanted = wad_muldiv(ns + 1u, adc->clock_hz / 1000u * 2u, 1000000u) + 1u, value = 0;
    if (!wad_has(R.sample))
        return adc_halves(0) >= wanted || !R.capacitor ? WAD_OK : WAD_E_RANGE;
    while (adc_halves(value) < wanted && value < wadi_ones(R.sample))
        value++;
    wad_put(adc->block->base, adc_sample_of(channel), value);
    return adc_halves(value) >= wanted ? WAD_OK : WAD_E_RANGE;
}

wad_status wad_adc_input(wad_adc *adc, unsigned channel, wad_route route, uint32_t source_ohms)
{
    wad_status st = WAD_OK;
    if (channel > wadi_ones(R.channel))
        return WAD_E_ABSENT;
    if (route)
        st = wadi_route_analog(route);
    else if (wad_has(R.internal_on))
        wad_put(adc->block->base, R.internal_on, 1);
    return st == WAD_OK ? set_sampling(adc, channel, source_ohms) : st;
}

wad_status wad_adc_differential(wad_adc *adc, unsigned channel, bool on)
{
    if (!wad_has(R.differential) || channel > wadi_ones(R.channel))
        return WAD_E_ABSENT;
    if (wad_has(R.is_signed))
        wad_put(adc->block->base, R.is_signed, 1);
    wad_put(adc->block->base, wad_at(R.differential, channel), on);
    return WAD_OK;
}

wad_status wad_adc_calibrate(wad_adc *adc)
{
    if (!wad_has(R.calibrate))
        return WAD_E_ABSENT;
    if (adc->scan)
        return WAD_E_STATE;
    wad_put(adc->block->base, R.calibrate, 1);
    return wait_for(adc->block->base, R.calibrated) ? WAD_OK : WAD_E_TIMEOUT;
}

/* ---- one result ---- */

static wad_status convert(wad_adc *adc, const wad_deadline *until, uint32_t *code)
{
    uintptr_t base = adc->block->base;
    if ((R.done.how & WAD_HOW_KIND) != WAD_HOW_DATA)
        wad_clear(base, R.done);
    wad_put(base, R.start, 1);
    while (!wad_get(base, R.done))
        if (wad_deadline_passed(adc->time, until)) {
            if (wad_has(R.stop))
                wad_put(base, R.stop, 1);
            return WAD_E_TIMEOUT;
        }
    *code = wad_get(base, R.data);
    return WAD_OK;
}

wad_status wad_adc_read(wad_adc *adc, unsigned channel, uint16_t *code, uint32_t timeout_us)
{
    uint32_t sum = 0, one;
    if (adc->scan || !adc->time)
        return WAD_E_STATE;
    if (channel > wadi_ones(R.channel))
        return WAD_E_ABSENT;
    wad_deadline until = wad_deadline_us(adc->time, timeout_us);
    adc_choose(adc, channel);
    for (uint32_t n = WADI_BIT(adc->software); n; n--) {
        wad_status st = convert(adc, &until, &one);
        if (st != WAD_OK)
            return st;
        sum += one;
    }
    /* extra bits keep what an average drops */
    *code = (uint16_t)(sum >> (adc->software - (adc->software ? adc->bits - adc->own_bits : 0)));
    return WAD_OK;
}

uint32_t wad_adc_result_ns(const wad_adc *adc, unsigned channel)
{
    uint32_t value = wad_has(R.sample) ? wad_get(adc->block->base, adc_sample_of(channel)) : 0;
    uint32_t convert_bit = R.convert_bit ? R.convert_bit : 2u;
    uint32_t halves = adc_halves(value) + R.convert + convert_bit * adc->own_bits;
    uint32_t n = adc->software           ? WADI_BIT(adc->software)
                 : wad_has(R.oversample) ? WADI_BIT(wad_get(adc->block->base, R.oversample))
                                         : 1u;
    return wad_muldiv(halves * n, 500000u, adc->clock_hz / 1000u);
}

#endif
