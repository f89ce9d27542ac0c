/* SPDX-License-Identifier: MIT */
/* The driver of converters to volts for one form: R is its role table, WADI_L(name) the form's name
 * of a function. Included by the chip's header for each form that it has, where drivers/dac.c asks
 * for it. */

wad_status WADI_L(wadi_dac_open)(const wad_dac *d)
{
    wad_status st = wadi_dac_examine(d, &R);
    if (st != WAD_OK)
        return st;
    if (!wad_block_up(&d->unit->block, WADI_POLLS))
        return WAD_E_TIMEOUT;
    if (d->streams && d->streams->stream)
        (void)WADI_L(wadi_dac_end)(d);
    if (d->streams)
        *d->streams = (wad_dac_streams){0};
    return wadi_dac_open_body(d, &R, false);
}

void WADI_L(wadi_dac_close)(const wad_dac *d)
{
    (void)WADI_L(wadi_dac_end)(d);
    (void)wadi_dac_set(d, &R, wadi_dac_control(&R));
}

/* ---- streams ---- */

static wad_status WADI_L(wadi_dac_listen)(const wad_dac *d, uint32_t trigger)
{
    if (!wad_has(R.trigger_on) || !wad_has(R.trigger))
        return WAD_E_ABSENT;
    if (trigger > wadi_ones(R.trigger))
        return WAD_E_RANGE;
    wad_put(d->unit->block.base, R.trigger, trigger);
    wad_put(d->unit->block.base, R.trigger_on, 1);
    return WAD_OK;
}

void WADI_L(wadi_dac_count_underrun)(const wad_dac *d)
{
    if (wad_has(R.underrun) && wad_take(d->unit->block.base, R.underrun) && d->streams)
        d->streams->underruns++;
}

/* The next value; behind each half its owner fills it anew. */
static void WADI_L(wadi_dac_give)(const wad_dac *d)
{
    wad_dac_streams *at = d->streams;
    const wad_dac_stream *s = at->stream;
    wadi_dac_put(d, &R, s->codes[at->at++]);
    if (at->at >= s->n)
        at->at = 0;
    if (s->refill && at->at == 0)
        s->refill(s->codes + s->n / 2u, s->n / 2u, s->context);
    else if (s->refill && at->at == s->n / 2u)
        s->refill(s->codes, s->n / 2u, s->context);
}

wad_status WADI_L(wadi_dac_play)(const wad_dac_stream *s)
{
    const wad_dac *d = s->dac;
    const uintptr_t base = d->unit->block.base;
    if (!d->streams || d->streams->stream)
        return WAD_E_STATE;
    if (!s->codes || !s->n || (s->refill && s->n % 2u))
        return WAD_E_ARG;
    if (s->dma ? !wad_has(R.dma_on) : !wad_has(R.empty_irq) || d->unit->block.irq < 0)
        return WAD_E_ABSENT;
    wad_status st = WADI_L(wadi_dac_listen)(d, s->trigger);
    if (st != WAD_OK)
        return st;
    d->streams->stream = s;
    d->streams->at = 0;
    if (wad_has(R.underrun))
        wad_clear(base, R.underrun);
    if (s->dma) {
        st = ((const struct wadi_dac_style *)s->dma->style)->play(s);
        if (st != WAD_OK)
            (void)WADI_L(wadi_dac_end)(d);
        return st;
    }
    WADI_L(wadi_dac_give)(d);
    wad_put(base, R.empty_irq, 1);
    return wad_irq_enable(d->unit->block.irq, s->priority);
}

wad_status WADI_L(wadi_dac_end)(const wad_dac *d)
{
    const uintptr_t base = d->unit->block.base;
    const wad_dac_stream *s = d->streams ? d->streams->stream : NULL;
    wad_status st = WAD_OK;
    if (s && s->dma)
        st = ((const struct wadi_dac_style *)s->dma->style)->end(s);
    if (wad_has(R.empty_irq))
        wad_put(base, R.empty_irq, 0);
    if (wad_has(R.trigger_on))
        wad_put(base, R.trigger_on, 0);
    if (d->streams)
        d->streams->stream = NULL;
    return st;
}

void WADI_L(wadi_dac_handle)(const wad_dac *d)
{
    WADI_L(wadi_dac_count_underrun)(d);
    if (d->streams && d->streams->stream && !d->streams->stream->dma &&
        wad_get(d->unit->block.base, R.empty))
        WADI_L(wadi_dac_give)(d);
}

wad_status WADI_L(wadi_dac_wave)(const wad_dac *d, wad_dac_wave wave, unsigned size_bits,
                                 uint32_t trigger)
{
    const uint8_t codes[] = {R.wave_off, R.wave_triangle, R.wave_noise};
    if (!wad_has(R.wave))
        return WAD_E_ABSENT;
    if (size_bits < 1u || size_bits > 12u || (unsigned)wave > WAD_WAVE_NOISE)
        return WAD_E_ARG;
    if (codes[wave] == WAD_NO_CODE)
        return WAD_E_ABSENT;
    if (wad_has(R.wave_size) ? size_bits - 1u > wadi_ones(R.wave_size) : wave != WAD_WAVE_OFF)
        return wad_has(R.wave_size) ? WAD_E_RANGE : WAD_E_ABSENT;
    if (wad_has(R.wave_size))
        wad_put(d->unit->block.base, R.wave_size, size_bits - 1u);
    wad_put(d->unit->block.base, R.wave, codes[wave]);
    return WADI_L(wadi_dac_listen)(d, trigger);
}
