/* SPDX-License-Identifier: MIT */
/* The converter driver for one form: R is its role table, WADI_L(name) the form's name of a
 * function. Included by the chip's header for each form that it has, where drivers/adc.c asks for
 * it. */

static const struct wadi_adc_style *WADI_L(wadi_adc_style_of)(const wad_adc *a)
{
    return a->dma ? a->dma->style : NULL;
}

/* ---- opening ---- */

static wad_status WADI_L(wadi_adc_look)(const wad_adc *a, wadi_adc_setting *s)
{
    wad_status st = wadi_adc_examine(a, &R, s);
    return st == WAD_OK && a->dma && !wad_has(R.dma_on) ? WAD_E_ABSENT : st;
}

wad_status WADI_L(wadi_adc_open)(const wad_adc *a)
{
    const wad_block *block = &a->unit->block;
    wadi_adc_setting s;
    wad_status st = WAD_OK;
    if (a->clock_hz || !block->chooses_clock)
        st = WADI_L(wadi_adc_look)(a, &s);
    if (st != WAD_OK)
        return st;
    if (!wad_block_up(block, WADI_POLLS))
        return WAD_E_TIMEOUT;
    if (!a->clock_hz && block->chooses_clock)
        st = WADI_L(wadi_adc_look)(a, &s);
    if (st == WAD_OK && a->reference_route)
        st = wadi_route_analog(a->reference_route);
    if (st == WAD_OK && a->scans) {
        if (a->scans->scan)
            (void)WADI_L(wadi_adc_end)(a);
        *a->scans = (wad_adc_scans){0};
    }
    if (st == WAD_OK)
        st = wadi_adc_set(a, &R, &s);
    return st == WAD_OK && a->dma ? WADI_L(wadi_adc_style_of)(a)->open(a) : st;
}

void WADI_L(wadi_adc_close)(const wad_adc *a)
{
    const uintptr_t base = a->unit->block.base;
    wadi_word none = {0xFFFFFFFFu, 0, 0};
    if (a->scans)
        (void)WADI_L(wadi_adc_end)(a);
    if (a->dma)
        WADI_L(wadi_adc_style_of)(a)->close(a);
    if (wad_has(R.stop))
        wad_put(base, R.stop, 1);
    wadi_adc_quiet(a, &R, &none);
    if (wad_has(R.enable))
        wad_put(base, R.enable, 0);
}

wad_status WADI_L(wadi_adc_add)(const wad_adc_input *in)
{
    return wadi_adc_add_body(in, &R, false);
}

wad_status WADI_L(wadi_adc_calibrate)(wadi_adc_at at)
{
    return wadi_adc_calibrate_body(at, &R);
}

/* ---- one result ---- */

static wad_status WADI_L(wadi_adc_convert)(wadi_adc_at at, const wad_deadline *until,
                                           uint32_t *code)
{
    uint32_t looks = WADI_ADC_LOOKS;
    wadi_adc_forget_done(at.base, &R);
    wad_put(at.base, R.start, 1);
    while (!wad_get(at.base, R.done))
        if (until ? wad_deadline_passed(at.time, until) : !--looks) {
            wadi_adc_break_off(at.base, &R);
            return WAD_E_TIMEOUT;
        }
    *code = wad_get(at.base, R.data);
    return WAD_OK;
}

wad_status WADI_L(wadi_adc_read)(wadi_adc_at at, unsigned channel, uint16_t *code,
                                 uint32_t timeout_us)
{
    wad_deadline until;
    uint32_t sum = 0, one;
    if ((at.scans && at.scans->scan) || (timeout_us && !at.time))
        return WAD_E_STATE;
    if (channel > wadi_ones(R.channel))
        return WAD_E_ABSENT;
    if (timeout_us)
        until = wad_deadline_us(at.time, timeout_us);
    wad_put(at.base, wad_at(R.channel, 0), channel);
    for (uint32_t n = WADI_BIT(at.software); n; n--) {
        wad_status st = WADI_L(wadi_adc_convert)(at, timeout_us ? &until : NULL, &one);
        if (st != WAD_OK)
            return st;
        sum += one;
    }
    *code = (uint16_t)(sum >> at.drop);
    return WAD_OK;
}

uint32_t WADI_L(wadi_adc_result_ns)(const wad_adc *a, unsigned channel)
{
    const uintptr_t base = a->unit->block.base;
    const uint32_t hz = wadi_adc_divide(&R, wadi_adc_clock_hz(a), a->fastest_hz).hz;
    uint32_t value = wad_has(R.sample) ? wad_get(base, wadi_adc_sample_of(&R, channel)) : 0;
    uint32_t each = R.convert_bit ? R.convert_bit : 2u;
    uint32_t halves = wadi_adc_halves(&R, value) + R.convert + each * wadi_adc_bits(a, &R);
    return hz < 1000u ? 0xFFFFFFFFu : wad_muldiv(halves << wadi_adc_ratio(a), 500000u, hz / 1000u);
}

/* ---- scans ---- */

/*
 * One channel at a time, also where the block has slots: results of its own sequence follow each
 * other faster than handlers do. The handler chooses the next channel, and begins it; the trigger
 * begins the first one of each scan.
 */

/* All results of one scan, in microseconds, rounded up. */
static uint32_t WADI_L(wadi_adc_scan_us)(const wad_adc_scan *s)
{
    uint32_t us = 1;
    for (unsigned i = 0; i < s->n_channels; i++)
        us += WADI_L(wadi_adc_result_ns)(s->adc, s->channels[i]) / 1000u + (i != 0);
    return us;
}

static wad_status WADI_L(wadi_adc_pace)(const wad_adc_scan *s, int32_t *error_ppm)
{
    if (!wad_has(R.trigger) || s->trigger > wadi_ones(R.trigger))
        return WAD_E_ABSENT;
    if (!s->rate.hz)
        return WAD_OK;
    uint32_t us = wad_muldiv(1000000u, s->rate.per, s->rate.hz);
    return WADI_L(wadi_adc_scan_us)(s) > us ? WAD_E_RANGE : wadi_adc_set_pace(s, error_ppm);
}

static wad_status WADI_L(wadi_adc_may_begin)(const wad_adc_scan *s)
{
    const wad_adc *a = s->adc;
    if (!a->scans || a->scans->scan)
        return WAD_E_STATE;
    if (!s->channels || !s->n_channels || !s->codes || !s->n || s->n % ((size_t)2 * s->n_channels))
        return WAD_E_ARG;
    if (!a->dma && (a->unit->block.irq < 0 || !wad_has(R.done_irq)))
        return WAD_E_ABSENT;
    for (unsigned i = 0; i < s->n_channels; i++)
        if (s->channels[i] > wadi_ones(R.channel))
            return WAD_E_ABSENT;
    return WAD_OK;
}

/* Results by interrupt, one channel at a time. */
static wad_status WADI_L(wadi_adc_listen)(const wad_adc_scan *s)
{
    const uintptr_t base = s->adc->unit->block.base;
    wad_put(base, wad_at(R.channel, 0), s->channels[0]);
    wadi_adc_forget_done(base, &R);
    wad_put(base, R.done_irq, 1);
    if (wad_has(R.overrun) && (R.overrun.how & WAD_HOW_KIND) != WAD_HOW_DATA)
        wad_clear(base, R.overrun);
    return wad_irq_enable(s->adc->unit->block.irq, s->priority);
}

static void WADI_L(wadi_adc_go)(const wad_adc_scan *s)
{
    const uintptr_t base = s->adc->unit->block.base;
    if (wad_has(R.continuous))
        wad_put(base, R.continuous, s->adc->dma && !s->timer);
    if (s->timer) {
        wad_put(base, R.trigger, s->trigger);
        if (wad_has(R.trigger_edge))
            wad_put(base, R.trigger_edge, R.trigger_edge_rise);
        wadi_adc_run_pace(s, true);
    } else {
        wad_put(base, R.start, 1);
    }
}

wad_status WADI_L(wadi_adc_begin)(const wad_adc_scan *s, int32_t *error_ppm)
{
    wad_adc_scans *at = s->adc->scans;
    wad_status st = WADI_L(wadi_adc_may_begin)(s);
    if (error_ppm)
        *error_ppm = 0;
    if (st == WAD_OK && s->timer)
        st = WADI_L(wadi_adc_pace)(s, error_ppm);
    if (st != WAD_OK)
        return st;
    at->scan = s;
    at->at = 0;
    at->slot = 0;
    at->sum = 0;
    at->left = (uint16_t)WADI_BIT(wadi_adc_at_of(s->adc).software);
    st = s->adc->dma ? WADI_L(wadi_adc_style_of)(s->adc)->begin(s) : WADI_L(wadi_adc_listen)(s);
    if (st != WAD_OK) {
        at->scan = NULL;
        return st;
    }
    WADI_L(wadi_adc_go)(s);
    return WAD_OK;
}

wad_status WADI_L(wadi_adc_end)(const wad_adc *a)
{
    const uintptr_t base = a->unit->block.base;
    const wad_adc_scan *s = a->scans ? a->scans->scan : NULL;
    if (!s)
        return WAD_OK;
    if (s->timer)
        wadi_adc_run_pace(s, false);
    if (wadi_has_code(R.trigger_edge, R.trigger_edge_off))
        wad_put(base, R.trigger_edge, R.trigger_edge_off);
    if (wad_has(R.done_irq))
        wad_put(base, R.done_irq, 0);
    if (wad_has(R.continuous))
        wad_put(base, R.continuous, 0);
    if (wad_has(R.stop))
        wad_put(base, R.stop, 1);
    if (wad_has(R.length)) /* a reading has one slot */
        wad_put(base, R.length, 1u - R.length_plus);
    a->scans->scan = NULL;
    return a->dma ? WADI_L(wadi_adc_style_of)(a)->end(a) : WAD_OK;
}

void WADI_L(wadi_adc_count_overrun)(const wad_adc *a)
{
    if (wad_has(R.overrun) && wad_take(a->unit->block.base, R.overrun) && a->scans)
        a->scans->overruns++;
}

/* Behind one slot's last conversion: the callbacks, and what begins next. */
static void WADI_L(wadi_adc_keep)(const wad_adc_scan *s, uint16_t code)
{
    const uintptr_t base = s->adc->unit->block.base;
    wad_adc_scans *at = s->adc->scans;
    s->codes[at->at++] = code;
    at->slot = (uint8_t)(at->slot + 1u < s->n_channels ? at->slot + 1u : 0u);
    bool wrapped = at->at >= s->n, half = at->at == s->n / 2u;
    if (wrapped)
        at->at = 0;
    if (wrapped && s->once)
        (void)WADI_L(wadi_adc_end)(s->adc);
    if (half && s->half)
        s->half(s->codes, s->n / 2u, s->context);
    if (wrapped && s->full)
        s->full(s->codes + s->n / 2u, s->n / 2u, s->context);
    if (at->scan != s)
        return;
    if (s->n_channels > 1u)
        wad_put(base, wad_at(R.channel, 0), s->channels[at->slot]);
    if (!s->timer || at->slot)
        wad_put(base, R.start, 1);
}

void WADI_L(wadi_adc_handle)(const wad_adc *a)
{
    const uintptr_t base = a->unit->block.base;
    wad_adc_scans *at = a->scans;
    const wad_adc_scan *s = at ? at->scan : NULL;
    WADI_L(wadi_adc_count_overrun)(a);
    if (a->dma || !wadi_adc_take_done(base, &R)) /* before the result: the next one's flag stays */
        return;
    uint32_t code = wad_get(base, R.data);
    if (!s)
        return;
    const wadi_adc_at how = wadi_adc_at_of(a);
    at->sum += code;
    if (--at->left) {
        wad_put(base, R.start, 1);
        return;
    }
    uint32_t sum = at->sum;
    at->left = (uint16_t)WADI_BIT(how.software);
    at->sum = 0;
    WADI_L(wadi_adc_keep)(s, (uint16_t)(sum >> how.drop));
}
