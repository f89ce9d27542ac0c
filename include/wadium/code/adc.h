/* SPDX-License-Identifier: MIT */
/* The converter's bodies, written once over a role table: inline where unit and table are known,
 * compiled for each form in <wadium/code/adc_form.h>. Included by <wadium/adc.h> alone. */
#ifndef WADI_ADC_CODE_H
#define WADI_ADC_CODE_H

/* What a reading needs of a converter: a pointer to it would keep all of it in flash. */
typedef struct wadi_adc_at {
    uintptr_t base;
    const wad_timebase *time;
    wad_adc_scans *scans;
    uint8_t form, software, drop; /* log2 of what is added up here, and bits that it loses */
} wadi_adc_at;

WADI_DECLARE(WADI_ADC_FORMS, wad_status, wadi_adc_open, const wad_adc *);
WADI_DECLARE(WADI_ADC_FORMS, void, wadi_adc_close, const wad_adc *);
WADI_DECLARE(WADI_ADC_FORMS, wad_status, wadi_adc_add, const wad_adc_input *);
WADI_DECLARE(WADI_ADC_FORMS, wad_status, wadi_adc_calibrate, wadi_adc_at);
WADI_DECLARE(WADI_ADC_FORMS, wad_status, wadi_adc_read, wadi_adc_at, unsigned, uint16_t *,
             uint32_t);
WADI_DECLARE(WADI_ADC_FORMS, uint32_t, wadi_adc_result_ns, const wad_adc *, unsigned);
WADI_DECLARE(WADI_ADC_FORMS, wad_status, wadi_adc_begin, const wad_adc_scan *, int32_t *);
WADI_DECLARE(WADI_ADC_FORMS, wad_status, wadi_adc_end, const wad_adc *);
WADI_DECLARE(WADI_ADC_FORMS, void, wadi_adc_handle, const wad_adc *);
WADI_DECLARE(WADI_ADC_FORMS, void, wadi_adc_count_overrun, const wad_adc *);

/* Of no form. */
uint32_t wadi_adc_counts(unsigned bits, uint32_t reference_uv, uint32_t microvolts);
int32_t wadi_adc_tenths(uint32_t warm_uv, uint32_t slope_uv, uint32_t microvolts);
wad_status wadi_adc_set_pace(const wad_adc_scan *s, int32_t *error_ppm);
void wadi_adc_run_pace(const wad_adc_scan *s, bool on);

WADI_REFUSE(wadi_adc_clock_cannot_be,
            "wad_adc_open: no prescaler brings the converter's clock within its limits (and "
            ".fastest_hz)");
WADI_REFUSE(wadi_adc_averages_cannot_be,
            "wad_adc_open: an average is of 2 ** 0 to 8, extra bits are 0 to 4, and not both");
WADI_REFUSE(wadi_adc_bits_cannot_be, "wad_adc_open: the block has no results of so many bits, or "
                                     "they have more than 16 with the extra ones");
WADI_REFUSE(wadi_adc_lacks_reference, "wad_adc_open: the block has no such reference");
WADI_REFUSE(wadi_adc_dma_needs_scans, "wad_adc_open: .dma moves scans, for which there is .scans");
WADI_REFUSE(wadi_adc_lacks_input,
            "wad_adc_add: the block has no such channel, or it has no difference of two");
WADI_REFUSE(wadi_adc_source_is_weak,
            "wad_adc_add: no sampling time of the block is long enough for .source_ohms: put a "
            "buffer or a capacitor there, or take a slower converter clock (.fastest_hz)");
WADI_REFUSE(wadi_adc_has_no_time, "wad_adc_read: a time limit needs the converter's .time");

/* The chip's header has them. */
WADI_INLINE const wad_adc_roles *wadi_adc_roles(unsigned form);
WADI_INLINE uint32_t wadi_adc_writable(unsigned form, uint32_t off);

/* ---- settings ---- */

#define WADI_ADC_LOOKS ((uint32_t)65536) /* at a flag that does not come, before it is given up */

typedef struct wadi_adc_clock {
    uint32_t value, hz; /* hz 0: there is none within the limits */
} wadi_adc_clock;

/* A step up to 32 times: unrolled where the compiler knows all. */
#ifdef WADI_ADC_BODIES
#define WADI_ADC_32_TIMES(step)                                                                    \
    for (unsigned i_ = 0; i_ < 32u; i_++) {                                                        \
        step                                                                                       \
    }
#else
#define WADI_ADC_8_TIMES(step) step step step step step step step step
#define WADI_ADC_32_TIMES(step)                                                                    \
    WADI_ADC_8_TIMES(step)                                                                         \
    WADI_ADC_8_TIMES(step) WADI_ADC_8_TIMES(step) WADI_ADC_8_TIMES(step)
#endif

/* The fastest converter clock within its limits. */
WADI_INLINE wadi_adc_clock wadi_adc_divide(const wad_adc_roles *r, uint32_t clock_hz,
                                           uint32_t most_hz)
{
    const wadi_adc_clock none = {0, 0};
    const uint32_t most = wadi_ones(r->prescale);
    uint32_t by = 1, value = 0;
    if (r->clock_max && (!most_hz || most_hz > r->clock_max))
        most_hz = r->clock_max;
    if (!clock_hz)
        return none;
    const uint32_t wanted = most_hz ? (clock_hz - 1u) / most_hz + 1u : 1u; /* divided at least */
    if (wad_has(r->prescale) && r->prescale_power) {
        WADI_ADC_32_TIMES(if (by < wanted && value < most) {
            by *= r->prescale_power;
            value++;
        })
    } else if (wad_has(r->prescale)) {
        by = wanted > r->prescale_plus ? wanted : r->prescale_plus;
        value = by - r->prescale_plus;
    }
    const uint32_t hz = clock_hz / by;
    if (by < wanted || value > most || (r->clock_min && hz < r->clock_min))
        return none;
    return (wadi_adc_clock){value, hz};
}

WADI_INLINE uint32_t wadi_adc_clock_hz(const wad_adc *a)
{
    return a->clock_hz ? a->clock_hz : a->unit->block.clock_hz();
}

WADI_INLINE uint32_t wadi_adc_hz(const wad_adc *a)
{
    return wadi_adc_divide(wadi_adc_roles(a->unit->form), wadi_adc_clock_hz(a), a->fastest_hz).hz;
}

/* Of one conversion. */
WADI_INLINE unsigned wadi_adc_bits(const wad_adc *a, const wad_adc_roles *r)
{
    const unsigned best = r->resolution_plus + (unsigned)r->resolution_most * r->resolution_step;
    return a->bits ? a->bits : !wad_has(r->resolution) ? r->data.width : best > 12u ? 12u : best;
}

/* The resolution field's value, WAD_NO_CODE: the block has no such results. */
WADI_INLINE uint32_t wadi_adc_resolution(const wad_adc_roles *r, unsigned bits)
{
    const unsigned step = r->resolution_step ? r->resolution_step : 1u;
    if (!wad_has(r->resolution))
        return bits == r->data.width ? 0u : WAD_NO_CODE;
    if (bits < r->resolution_plus || (bits - r->resolution_plus) % step ||
        (bits - r->resolution_plus) / step > r->resolution_most)
        return WAD_NO_CODE;
    return (bits - r->resolution_plus) / step;
}

WADI_INLINE uint32_t wadi_adc_reference_code(const wad_adc *a, const wad_adc_roles *r)
{
    return a->reference == WAD_REFERENCE_SUPPLY     ? r->reference_supply
           : a->reference == WAD_REFERENCE_INTERNAL ? r->reference_internal
                                                    : r->reference_external;
}

WADI_INLINE bool wadi_adc_has_reference(const wad_adc *a, const wad_adc_roles *r)
{
    if (!wad_has(r->reference))
        return a->reference == WAD_REFERENCE_SUPPLY;
    return (unsigned)a->reference <= WAD_REFERENCE_EXTERNAL &&
           wadi_adc_reference_code(a, r) != WAD_NO_CODE &&
           (a->reference != WAD_REFERENCE_INTERNAL || r->internal);
}

/* log2 of the conversions of one result, and of what their sum is divided by. */
WADI_INLINE unsigned wadi_adc_ratio(const wad_adc *a)
{
    return a->extra_bits ? 2u * a->extra_bits : a->average;
}

WADI_INLINE unsigned wadi_adc_shift(const wad_adc *a)
{
    return a->extra_bits ? a->extra_bits : a->average;
}

/* Does the block add them up? Else the driver does. */
WADI_INLINE bool wadi_adc_adds_up(const wad_adc *a, const wad_adc_roles *r)
{
    return wad_has(r->oversample) && wad_has(r->shift) &&
           wadi_adc_ratio(a) <= wadi_ones(r->oversample) &&
           wadi_adc_shift(a) <= wadi_ones(r->shift) &&
           wadi_adc_bits(a, r) + a->extra_bits <= r->data.width;
}

WADI_INLINE wadi_adc_at wadi_adc_at_of(const wad_adc *a)
{
    const bool adds_up = wadi_adc_adds_up(a, wadi_adc_roles(a->unit->form));
    return (wadi_adc_at){a->unit->block.base,
                         a->time,
                         a->scans,
                         a->unit->form,
                         (uint8_t)(adds_up ? 0 : wadi_adc_ratio(a)),
                         (uint8_t)(adds_up ? 0 : wadi_adc_shift(a))};
}

typedef struct wadi_adc_setting {
    uint32_t prescale, resolution;
} wadi_adc_setting;

/* Can the block be like that? */
WADI_INLINE wad_status wadi_adc_examine(const wad_adc *a, const wad_adc_roles *r,
                                        wadi_adc_setting *s)
{
    WADI_REFUSE_IF(a->average > 8u || a->extra_bits > 4u || (a->average && a->extra_bits),
                   wadi_adc_averages_cannot_be, WAD_E_ARG)
    WADI_REFUSE_IF(a->dma && !a->scans, wadi_adc_dma_needs_scans, WAD_E_ARG)
    const wadi_adc_clock c = wadi_adc_divide(r, wadi_adc_clock_hz(a), a->fastest_hz);
    WADI_REFUSE_IF(!c.hz, wadi_adc_clock_cannot_be, WAD_E_RANGE)
    const unsigned bits = wadi_adc_bits(a, r);
    const uint32_t resolution = wadi_adc_resolution(r, bits);
    WADI_REFUSE_IF(resolution == WAD_NO_CODE || bits + a->extra_bits > 16u, wadi_adc_bits_cannot_be,
                   WAD_E_RANGE)
    WADI_REFUSE_IF(!wadi_adc_has_reference(a, r), wadi_adc_lacks_reference, WAD_E_ABSENT)
    s->prescale = c.value;
    s->resolution = resolution;
    return WAD_OK;
}

/* ---- registers ---- */

WADI_INLINE void wadi_adc_put_word(const wad_adc *a, const wadi_word *w, wad_field with)
{
    wadi_put_word(a->unit->block.base, w, with.size, wadi_adc_writable(a->unit->form, w->off));
}

/* Fields of one register, of which the others are nobody's. */
WADI_INLINE void wadi_adc_put_two(const wad_adc *a, wad_field f, uint32_t fv, wad_field g,
                                  uint32_t gv)
{
    wadi_word w = {f.off, 0, 0};
    (void)wadi_gather_here(&w, f, fv);
    wadi_gather(a->unit->block.base, &w, g, gv);
    wadi_adc_put_word(a, &w, f);
}

WADI_INLINE bool wadi_adc_wait(uintptr_t base, wad_field flag)
{
    uint32_t looks = WADI_ADC_LOOKS;
    if (!wad_has(flag))
        return true;
    while (!wad_get(base, flag))
        if (!--looks)
            return false;
    return true;
}

/* Results are right aligned, of slot 0, begun by the software, and nobody is told of them. */
WADI_INLINE void wadi_adc_quiet(const wad_adc *a, const wad_adc_roles *r, wadi_word *w)
{
    const uintptr_t base = a->unit->block.base;
    wadi_word irq = {r->done_irq.off, 0, 0};
    const wad_field enables[] = {r->done_irq, r->sequence_irq, r->overrun_irq, r->watch_irq};
#define WADI_ADC_ENABLE_OFF(i)                                                                     \
    if (!wadi_gather_here(w, enables[i], 0))                                                       \
        wadi_gather(base, &irq, enables[i], 0);
    WADI_ADC_ENABLE_OFF(0)
    WADI_ADC_ENABLE_OFF(1)
    WADI_ADC_ENABLE_OFF(2)
    WADI_ADC_ENABLE_OFF(3)
#undef WADI_ADC_ENABLE_OFF
    wadi_adc_put_word(a, &irq, r->done_irq);
    wadi_gather(base, w, r->continuous, 0);
    wadi_gather(base, w, r->dma_on, 0);
    wadi_gather(base, w, r->dma_keep, 0);
}

WADI_INLINE void wadi_adc_set_more(const wad_adc *a, const wad_adc_roles *r)
{
    const wad_field none = {0};
    if (wadi_has_code(r->trigger_edge, r->trigger_edge_off))
        wadi_adc_put_two(a, r->trigger_edge, r->trigger_edge_off, r->trigger, 0);
    if (wad_has(r->length))
        wadi_adc_put_two(a, r->length, 1u - r->length_plus, none, 0);
    if (wad_has(r->oversample)) {
        const bool adds_up = wadi_adc_adds_up(a, r);
        wadi_adc_put_two(a, r->oversample, adds_up ? wadi_adc_ratio(a) : 0, r->shift,
                         adds_up ? wadi_adc_shift(a) : 0);
    }
}

/* A block that is up, with its reference's pin: all as the handle says, and on. */
WADI_INLINE wad_status wadi_adc_set(const wad_adc *a, const wad_adc_roles *r,
                                    const wadi_adc_setting *s)
{
    const uintptr_t base = a->unit->block.base;
    const wad_field with = wad_has(r->enable)     ? r->enable
                           : wad_has(r->prescale) ? r->prescale
                                                  : r->reference;
    wadi_word w = {wad_has(with) ? with.off : 0xFFFFFFFFu, 0, 0};
    if (wad_has(r->enable)) /* alone: the rest must not change while it converts */
        wad_put(base, r->enable, 0);
    wadi_gather(base, &w, r->enable, 0);
    wadi_adc_quiet(a, r, &w);
    wadi_gather(base, &w, r->prescale, s->prescale);
    wadi_gather(base, &w, r->resolution, s->resolution);
    wadi_gather(base, &w, r->align_left, 0);
    wadi_gather(base, &w, r->internal_on, 0);
    wadi_gather(base, &w, r->is_signed, 1);
    wadi_gather(base, &w, r->reference, wadi_adc_reference_code(a, r));
    (void)wadi_gather_here(&w, wad_at(r->channel, 0), 0); /* so that all of it is known */
    (void)wadi_gather_here(&w, r->start, 0);
    (void)wadi_gather_here(&w, r->stop, 0);
    (void)wadi_gather_here(&w, r->calibrate, 0);
    wadi_adc_put_word(a, &w, with);
    wadi_adc_set_more(a, r);
    if (a->reference == WAD_REFERENCE_INTERNAL && !wadi_adc_wait(base, r->reference_ready))
        return WAD_E_TIMEOUT;
    if (wadi_gather_here(&w, r->enable, 1))
        wadi_adc_put_word(a, &w, with);
    return wadi_adc_wait(base, r->ready) ? WAD_OK : WAD_E_TIMEOUT;
}

/* ---- inputs ---- */

/* a * b / c to the nearest; by the compiler where it can. */
#ifdef WADI_ADC_BODIES
#define WADI_ADC_MULDIV(a, b, c) wad_muldiv(a, b, c)
#else
#define WADI_ADC_MULDIV(a, b, c) ((uint32_t)(((uint64_t)(a) * (b) + (c) / 2u) / (c)))
#endif

/* Half cycles that a value of the sampling field stands for. */
WADI_INLINE uint32_t wadi_adc_halves(const wad_adc_roles *r, uint32_t value)
{
    uint32_t times = r->sample_times ? r->sample_times : 1u;
    if (!wad_has(r->sample))
        return r->sample_fixed;
    if (!r->sample_power)
        return r->sample_plus + times * value;
    while (value--)
        times *= r->sample_power;
    return r->sample_plus + times;
}

WADI_INLINE wad_field wadi_adc_sample_of(const wad_adc_roles *r, unsigned channel)
{
    return r->sample.n > 1u ? wad_at(r->sample, channel) : r->sample;
}

/* Shortest sampling in which exp(-t / RC) * 2 ** bits comes down to half a count, in half cycles:
 * ln 2 = 0.6931. */
WADI_INLINE uint32_t wadi_adc_needs(const wad_adc_input *in, const wad_adc_roles *r, uint32_t hz)
{
    const uint32_t ohms = in->source_ohms + r->switch_ohm;
    const uint32_t rc_ns = WADI_ADC_MULDIV(ohms, r->capacitor, 1000000u);
    const uint32_t ns = WADI_ADC_MULDIV(rc_ns, 6932u * (wadi_adc_bits(in->adc, r) + 1u), 10000u);
    return WADI_ADC_MULDIV(ns + 1u, hz / 1000u * 2u, 1000000u) + 1u;
}

/* The sampling field's value; WADI_ADC_TOO_LONG: none is as long. */
#define WADI_ADC_TOO_LONG 0xFFFFFFFFu
WADI_INLINE uint32_t wadi_adc_sampling(const wad_adc_roles *r, uint32_t wanted)
{
    const uint32_t most = wadi_ones(r->sample);
    uint32_t times = r->sample_times ? r->sample_times : 1u, value = 0;
    if (!wad_has(r->sample))
        return r->sample_fixed >= wanted || !r->capacitor ? 0 : WADI_ADC_TOO_LONG;
    if (!r->sample_power) {
        if (wanted > r->sample_plus)
            value = (wanted - r->sample_plus - 1u) / times + 1u;
        return value > most ? WADI_ADC_TOO_LONG : value;
    }
    WADI_ADC_32_TIMES(if (r->sample_plus + times < wanted && value < most) {
        times *= r->sample_power;
        value++;
    })
    return r->sample_plus + times < wanted ? WADI_ADC_TOO_LONG : value;
}

/* `is_up`: its port is. */
WADI_INLINE wad_status wadi_adc_add_body(const wad_adc_input *in, const wad_adc_roles *r,
                                         bool is_up)
{
    const uintptr_t base = in->adc->unit->block.base;
    const uint32_t hz = wadi_adc_divide(r, wadi_adc_clock_hz(in->adc), in->adc->fastest_hz).hz;
    WADI_REFUSE_IF(in->channel > wadi_ones(r->channel) ||
                       (in->differential && !wad_has(r->differential)),
                   wadi_adc_lacks_input, WAD_E_ABSENT)
    const uint32_t sampling = wadi_adc_sampling(r, wadi_adc_needs(in, r, hz));
    WADI_REFUSE_IF(sampling == WADI_ADC_TOO_LONG, wadi_adc_source_is_weak, WAD_E_RANGE)
    if (in->route && is_up) {
        wadi_take_analog(in->route);
    } else if (in->route) {
        wad_status st = wadi_analog(in->route);
        if (st != WAD_OK)
            return st;
    } else if (wad_has(r->internal_on)) {
        wad_put(base, r->internal_on, 1);
    }
    if (wad_has(r->sample))
        wad_put(base, wadi_adc_sample_of(r, in->channel), sampling);
    if (wad_has(r->differential))
        wad_put(base, wad_at(r->differential, in->channel), in->differential);
    return WAD_OK;
}

WADI_INLINE wad_status wadi_adc_calibrate_body(wadi_adc_at at, const wad_adc_roles *r)
{
    if (!wad_has(r->calibrate))
        return WAD_E_ABSENT;
    if (at.scans && at.scans->scan)
        return WAD_E_STATE;
    wad_put(at.base, r->calibrate, 1);
    return wadi_adc_wait(at.base, r->calibrated) ? WAD_OK : WAD_E_TIMEOUT;
}

/* ---- one result ---- */

WADI_INLINE void wadi_adc_forget_done(uintptr_t base, const wad_adc_roles *r)
{
    if ((r->done.how & WAD_HOW_KIND) != WAD_HOW_DATA)
        wad_clear(base, r->done);
}

/* A flag that the result's reading clears is not taken by itself: the result would be lost. */
WADI_INLINE bool wadi_adc_take_done(uintptr_t base, const wad_adc_roles *r)
{
    return (r->done.how & WAD_HOW_KIND) == WAD_HOW_DATA ? wad_get(base, r->done) != 0
                                                        : wad_take(base, r->done);
}

/* Nothing is under way any more. */
WADI_INLINE void wadi_adc_break_off(uintptr_t base, const wad_adc_roles *r)
{
    if (wad_has(r->stop)) {
        wad_put(base, r->stop, 1);
    } else if (wad_has(r->enable)) {
        wad_put(base, r->enable, 0);
        wad_put(base, r->enable, 1);
        (void)wadi_adc_wait(base, r->ready);
    }
}

WADI_INLINE wad_status wadi_adc_read_known(const wad_adc_input *in, uint16_t *code)
{
    const uintptr_t base = in->adc->unit->block.base;
    const wad_adc_roles *r = wadi_adc_roles(in->adc->unit->form);
    wad_put(base, wad_at(r->channel, 0), in->channel);
    wadi_adc_forget_done(base, r);
    wad_put(base, r->start, 1);
    if (!wadi_adc_wait(base, r->done)) {
        wadi_adc_break_off(base, r);
        return WAD_E_TIMEOUT;
    }
    *code = (uint16_t)wad_get(base, r->data);
    return WAD_OK;
}

/* ---- what the compiler knows ---- */

WADI_INLINE bool wadi_adc_is_known(const wad_adc *a)
{
    return WADI_KNOWS(a->unit, &wadi_adc_roles(a->unit->form)->start) && WADI_FOLDS(a->clock_hz) &&
           a->clock_hz && WADI_FOLDS(a->fastest_hz) && WADI_FOLDS(a->bits) &&
           WADI_FOLDS(a->average) && WADI_FOLDS(a->extra_bits) && WADI_FOLDS(a->reference) &&
           WADI_FOLDS(a->reference_route) && WADI_FOLDS(!a->scans) && WADI_FOLDS(!a->dma) &&
           !a->unit->block.in_order;
}

/* With a port that it will need. */
WADI_INLINE wad_status wadi_adc_open_known(const wad_adc *a, const wad_block *port)
{
    const wad_adc_roles *r = wadi_adc_roles(a->unit->form);
    wadi_adc_setting s;
    wad_status st = wadi_adc_examine(a, r, &s);
    if (st == WAD_OK && !wadi_up(&a->unit->block, port, 0))
        st = WAD_E_TIMEOUT;
    if (st == WAD_OK && a->reference_route)
        st = wadi_analog(a->reference_route);
    return st == WAD_OK ? wadi_adc_set(a, r, &s) : st;
}

WADI_INLINE bool wadi_adc_input_is_known(const wad_adc_input *in)
{
    return wadi_adc_is_known(in->adc) && WADI_FOLDS(in->channel) && WADI_FOLDS(in->route) &&
           WADI_FOLDS(in->source_ohms) && WADI_FOLDS(in->differential);
}

WADI_INLINE wad_status wadi_adc_open_input_known(const wad_adc_input *in)
{
    const wad_adc_roles *r = wadi_adc_roles(in->adc->unit->form);
    const wad_block *port = wadi_port_of(in->route);
    wad_status st = wadi_adc_open_known(in->adc, port);
    return st == WAD_OK ? wadi_adc_add_body(in, r, port != NULL) : st;
}

/* One conversion, waited for, with nobody beside. */
WADI_INLINE bool wadi_adc_is_lean(const wad_adc_input *in)
{
    return wadi_adc_is_known(in->adc) && WADI_FOLDS(in->channel) && !in->adc->scans &&
           (!wadi_adc_ratio(in->adc) ||
            wadi_adc_adds_up(in->adc, wadi_adc_roles(in->adc->unit->form)));
}

#endif
