/* SPDX-License-Identifier: MIT */
/* Built once for a chip: results by interrupt, and what they mean in volts. */
#include "adc_private.h"

#ifdef WAD_ADC_TABLE

/* ---- scans ---- */

/*
 * One channel at a time, also where the block has slots: results of its own sequence follow each
 * other faster than handlers do. The handler chooses the next channel, and begins it; the trigger
 * begins the first one of each scan.
 */

/* All results of one scan, in microseconds, rounded up. */
static uint32_t scan_us(const wad_adc *adc, const wad_adc_scan *s)
{
    uint32_t ns = 0;
    for (unsigned i = 0; i < s->n_channels; i++)
        ns += wad_adc_result_ns(adc, s->channels[i]);
    return ns / 1000u + 1u;
}

/* A chip may have no timers at all. */
#ifdef WADI_COUNTER_FORMS
static wad_status set_pace(const wad_adc_scan *s, int32_t *error_ppm)
{
    return wadi_timer_set_rate_any(s->timer, s->rate, error_ppm);
}

static void run_pace(const wad_adc_scan *s, bool on)
{
    wadi_timer_enable_any(s->timer, on);
}
#else
static wad_status set_pace(const wad_adc_scan *s, int32_t *error_ppm)
{
    (void)s;
    (void)error_ppm;
    return WAD_E_ABSENT;
}

static void run_pace(const wad_adc_scan *s, bool on)
{
    (void)s;
    (void)on;
}
#endif

static wad_status pace(const wad_adc *adc, const wad_adc_scan *s, int32_t *error_ppm)
{
    if (!wad_has(R.trigger) || s->trigger > wadi_ones(R.trigger))
        return WAD_E_ABSENT;
    if (!s->rate.hz)
        return WAD_OK;
    uint32_t us = wad_muldiv(1000000u, s->rate.per, s->rate.hz);
    return scan_us(adc, s) > us ? WAD_E_RANGE : set_pace(s, error_ppm);
}

static wad_status examine(const wad_adc *adc, const wad_adc_scan *s)
{
    if (adc->scan)
        return WAD_E_STATE;
    if (!s->channels || !s->n_channels || !s->codes || !s->n || s->n % ((size_t)2 * s->n_channels))
        return WAD_E_ARG;
    if (!adc->dma && (adc->block->irq < 0 || !wad_has(R.done_irq)))
        return WAD_E_ABSENT;
    for (unsigned i = 0; i < s->n_channels; i++)
        if (s->channels[i] > wadi_ones(R.channel))
            return WAD_E_ABSENT;
    return WAD_OK;
}

/* Results by interrupt, one channel at a time. */
static wad_status listen(const wad_adc *adc, const wad_adc_scan *s)
{
    uintptr_t base = adc->block->base;
    adc_choose(adc, s->channels[0]);
    if ((R.done.how & WAD_HOW_KIND) != WAD_HOW_DATA)
        wad_clear(base, R.done);
    wad_put(base, R.done_irq, 1);
    if (wad_has(R.overrun) && (R.overrun.how & WAD_HOW_KIND) != WAD_HOW_DATA)
        wad_clear(base, R.overrun);
    return wad_irq_enable(adc->block->irq, s->priority);
}

static void go(const wad_adc *adc, const wad_adc_scan *s)
{
    uintptr_t base = adc->block->base;
    if (wad_has(R.continuous))
        wad_put(base, R.continuous, adc->dma && !s->timer);
    if (s->timer) {
        wad_put(base, R.trigger, s->trigger);
        if (wad_has(R.trigger_edge))
            wad_put(base, R.trigger_edge, R.trigger_edge_rise);
        run_pace(s, true);
    } else {
        wad_put(base, R.start, 1);
    }
}

wad_status wad_adc_begin(wad_adc *adc, const wad_adc_scan *s, int32_t *error_ppm)
{
    wad_status st = examine(adc, s);
    if (error_ppm)
        *error_ppm = 0;
    if (st == WAD_OK && s->timer)
        st = pace(adc, s, error_ppm);
    if (st != WAD_OK)
        return st;
    adc->scan = s;
    adc->at = 0;
    adc->slot = 0;
    adc->sum = 0;
    adc->left = (uint16_t)WADI_BIT(adc->software);
    st = adc->dma ? adc_style(adc)->begin(adc, s) : listen(adc, s);
    if (st != WAD_OK) {
        adc->scan = NULL;
        return st;
    }
    go(adc, s);
    return WAD_OK;
}

wad_status wad_adc_end(wad_adc *adc)
{
    uintptr_t base = adc->block->base;
    const wad_adc_scan *s = adc->scan;
    if (!s)
        return WAD_OK;
    if (s->timer)
        run_pace(s, false);
    if (wad_has(R.trigger_edge))
        wad_put(base, R.trigger_edge, R.trigger_edge_off);
    if (wad_has(R.done_irq))
        wad_put(base, R.done_irq, 0);
    if (wad_has(R.stop))
        wad_put(base, R.stop, 1);
    adc->scan = NULL;
    return adc->dma ? adc_style(adc)->end(adc) : WAD_OK;
}

/* Behind one slot's last conversion: the callbacks, and what begins next. */
static void keep(wad_adc *adc, const wad_adc_scan *s, uint16_t code)
{
    uintptr_t base = adc->block->base;
    s->codes[adc->at++] = code;
    adc->slot = (uint8_t)(adc->slot + 1u < s->n_channels ? adc->slot + 1u : 0u);
    bool wrapped = adc->at >= s->n, half = adc->at == s->n / 2u;
    if (wrapped)
        adc->at = 0;
    if (wrapped && s->once)
        wad_adc_end(adc);
    if (half && s->half)
        s->half(s->context, s->codes, s->n / 2u);
    if (wrapped && s->full)
        s->full(s->context, s->codes + s->n / 2u, s->n / 2u);
    if (adc->scan != s)
        return;
    if (s->n_channels > 1u)
        wad_put(base, wad_at(R.channel, 0), s->channels[adc->slot]);
    if (!s->timer || adc->slot)
        wad_put(base, R.start, 1);
}

void wad_adc_handle(wad_adc *adc)
{
    uintptr_t base = adc->block->base;
    const wad_adc_scan *s = adc->scan;
    adc_drop_overrun(adc);
    if (adc->dma || !wad_get(base, R.done))
        return;
    if ((R.done.how & WAD_HOW_KIND) != WAD_HOW_DATA)
        wad_clear(base, R.done); /* before the result is taken: the next one's flag stays */
    uint32_t code = wad_get(base, R.data);
    if (!s)
        return;
    adc->sum += code;
    if (--adc->left) {
        wad_put(base, R.start, 1);
        return;
    }
    uint32_t sum = adc->sum;
    adc->left = (uint16_t)WADI_BIT(adc->software);
    adc->sum = 0;
    keep(adc, s,
         (uint16_t)(sum >> (adc->software - (adc->software ? adc->bits - adc->own_bits : 0))));
}

uintptr_t wad_adc_address(const wad_adc *adc)
{
    return adc->block->base + R.data.off;
}

unsigned wad_adc_access_bytes(const wad_adc *adc)
{
    (void)adc;
    return R.data.size;
}

/* ---- counts and microvolts ---- */

uint32_t wad_adc_microvolts(const wad_adc *adc, uint32_t code)
{
    return wad_muldiv(adc->reference_uv, code, WADI_BIT(adc->bits));
}

uint32_t wad_adc_counts(const wad_adc *adc, uint32_t microvolts)
{
    uint32_t most = WADI_BIT(adc->bits) - 1u;
    uint32_t code =
        adc->reference_uv ? wad_muldiv(microvolts, WADI_BIT(adc->bits), adc->reference_uv) : most;
    return code > most ? most : code;
}

int32_t wad_adc_signed(const wad_adc *adc, uint16_t code)
{
    uint32_t sign = WADI_BIT(adc->bits - 1u), mask = sign * 2u - 1u;
    return (int32_t)((code & mask) ^ sign) - (int32_t)sign;
}

uint32_t wad_adc_supply_from(wad_adc *adc, uint16_t code)
{
    if (!R.bandgap || !code)
        return 0;
    adc->reference_uv = wad_muldiv(R.bandgap, WADI_BIT(adc->bits), code);
    return adc->reference_uv;
}

int32_t wad_adc_celsius_tenths(const wad_adc *adc, uint16_t code)
{
    int32_t below = (int32_t)R.warm - (int32_t)wad_adc_microvolts(adc, code);
    int32_t slope = (int32_t)(R.slope ? R.slope : 1u);
    return 250 + (below * 10 + (below < 0 ? -slope / 2 : slope / 2)) / slope;
}

#endif
