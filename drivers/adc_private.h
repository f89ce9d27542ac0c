/* SPDX-License-Identifier: MIT */
/* What the converter driver's files share. Included once a file, behind WAD_CHIP's choice of chip.
 */
#ifndef WADI_ADC_PRIVATE_H
#define WADI_ADC_PRIVATE_H

#include <wadium/adc.h>
#include <wadium/clock.h>
#include <wadium/irq.h>

#include WAD_CHIP

#ifdef WAD_ADC_TABLE

#define R WAD_ADC_TABLE

/* Half cycles that a value of the sampling field stands for. */
static inline uint32_t adc_halves(uint32_t value)
{
    uint32_t times = R.sample_times ? R.sample_times : 1u;
    if (!wad_has(R.sample))
        return R.sample_fixed;
    if (!R.sample_power)
        return R.sample_plus + times * value;
    while (value--)
        times *= R.sample_power;
    return R.sample_plus + times;
}

static inline wad_field adc_sample_of(unsigned channel)
{
    return R.sample.n > 1u ? wad_at(R.sample, channel) : R.sample;
}

static inline const struct wadi_adc_style *adc_style(const wad_adc *adc)
{
    return adc->dma ? adc->dma->style : NULL;
}

static inline void adc_drop_overrun(wad_adc *adc)
{
    if (!wad_has(R.overrun) || !wad_get(adc->block->base, R.overrun))
        return;
    adc->overruns++;
    wad_clear(adc->block->base, R.overrun);
}

/* The slot's channel, and with it the number of slots. */
static inline void adc_choose(const wad_adc *adc, unsigned channel)
{
    wad_put(adc->block->base, wad_at(R.channel, 0), channel);
    if (wad_has(R.length))
        wad_put(adc->block->base, R.length, 1u - R.length_plus);
}

#endif
#endif
