/* SPDX-License-Identifier: MIT */
/* Built once for a chip: values, streams and waves of a digital to analog converter. */
#include <wadium/clock.h>
#include <wadium/dac.h>
#include <wadium/irq.h>

#include WAD_CHIP

#ifdef WAD_DAC_TABLE

#define R WAD_DAC_TABLE

#define RESET_POLLS 1000u

wad_status wad_dac_open(wad_dac *dac, const wad_block *block, wad_route route, bool buffered)
{
    *dac = (wad_dac){.block = block, .bits = (uint8_t)(R.bits ? R.bits : R.data.width)};
    if (buffered && !wad_has(R.buffer))
        return WAD_E_ABSENT;
    if (!wad_block_up(block, RESET_POLLS))
        return WAD_E_TIMEOUT;
    wad_put(block->base, R.enable, 0);
    if (wad_has(R.align_left))
        wad_put(block->base, R.align_left, 0);
    if (wad_has(R.trigger_on))
        wad_put(block->base, R.trigger_on, 0);
    if (wad_has(R.buffer))
        wad_put(block->base, R.buffer, buffered);
    wad_put(block->base, R.data, 0);
    wad_status st = wadi_route_analog(route);
    if (st == WAD_OK)
        wad_put(block->base, R.enable, 1);
    return st;
}

void wad_dac_write(wad_dac *dac, uint32_t code)
{
    uint32_t most = WADI_BIT(dac->bits) - 1u;
    wad_put(dac->block->base, R.data, code > most ? most : code);
}

uint32_t wad_dac_counts(const wad_dac *dac, uint32_t microvolts, uint32_t supply_uv)
{
    uint32_t most = WADI_BIT(dac->bits) - 1u;
    uint32_t code = supply_uv ? wad_muldiv(microvolts, WADI_BIT(dac->bits), supply_uv) : 0;
    return code > most ? most : code;
}

/* ---- streams ---- */

static wad_status take_trigger(wad_dac *dac, uint32_t trigger)
{
    if (!wad_has(R.trigger_on) || !wad_has(R.trigger))
        return WAD_E_ABSENT;
    if (trigger > wadi_ones(R.trigger))
        return WAD_E_RANGE;
    wad_put(dac->block->base, R.trigger, trigger);
    wad_put(dac->block->base, R.trigger_on, 1);
    return WAD_OK;
}

/* The next value; behind each half its owner fills it anew. */
static void give(wad_dac *dac)
{
    const wad_dac_stream *s = dac->stream;
    wad_dac_write(dac, s->codes[dac->at++]);
    if (dac->at >= s->n)
        dac->at = 0;
    if (s->refill && dac->at == 0)
        s->refill(s->context, s->codes + s->n / 2u, s->n / 2u);
    else if (s->refill && dac->at == s->n / 2u)
        s->refill(s->context, s->codes, s->n / 2u);
}

wad_status wad_dac_play(wad_dac *dac, const wad_dac_stream *stream, uint32_t trigger)
{
    uintptr_t base = dac->block->base;
    if (!stream->codes || !stream->n || (stream->refill && stream->n % 2u))
        return WAD_E_ARG;
    if (stream->dma ? !wad_has(R.dma_on) : !wad_has(R.empty_irq) || dac->block->irq < 0)
        return WAD_E_ABSENT;
    wad_status st = take_trigger(dac, trigger);
    if (st != WAD_OK)
        return st;
    dac->stream = stream;
    dac->at = 0;
    if (wad_has(R.underrun))
        wad_clear(base, R.underrun);
    if (stream->dma) {
        st = ((const struct wadi_dac_style *)stream->dma->style)->play(dac);
        if (st != WAD_OK)
            wad_dac_end(dac);
        return st;
    }
    give(dac);
    wad_put(base, R.empty_irq, 1);
    return wad_irq_enable(dac->block->irq, stream->priority);
}

wad_status wad_dac_end(wad_dac *dac)
{
    const wad_dac_stream *stream = dac->stream;
    wad_status st = WAD_OK;
    if (stream && stream->dma)
        st = ((const struct wadi_dac_style *)stream->dma->style)->end(dac);
    if (wad_has(R.empty_irq))
        wad_put(dac->block->base, R.empty_irq, 0);
    if (wad_has(R.trigger_on))
        wad_put(dac->block->base, R.trigger_on, 0);
    dac->stream = NULL;
    return st;
}

void wad_dac_handle(wad_dac *dac)
{
    if (wad_has(R.underrun) && wad_take(dac->block->base, R.underrun))
        dac->underruns++;
    if (dac->stream && wad_get(dac->block->base, R.empty))
        give(dac);
}

wad_status wad_dac_wave_at(wad_dac *dac, wad_dac_wave wave, unsigned size_bits, uint32_t trigger)
{
    const uint8_t codes[] = {R.wave_off, R.wave_triangle, R.wave_noise};
    if (!wad_has(R.wave))
        return WAD_E_ABSENT;
    if (size_bits < 1u || size_bits > 12u || (unsigned)wave > WAD_WAVE_NOISE)
        return WAD_E_ARG;
    if (codes[wave] == WAD_NO_CODE)
        return WAD_E_ABSENT;
    if (wad_has(R.wave_size))
        wad_put(dac->block->base, R.wave_size, size_bits - 1u);
    wad_put(dac->block->base, R.wave, codes[wave]);
    return take_trigger(dac, trigger);
}

#endif
