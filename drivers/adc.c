/* SPDX-License-Identifier: MIT */
/* Converters, compiled for each form that the chip has; and what results mean, whatever the form.
 */
#define WADI_ADC_BODIES
#include WAD_CHIP

#ifdef WADI_ADC_FORMS

/* ---- a unit that only the run knows ---- */

#define ANY(type, name, n, params, ...)                                                            \
    type name##_any params                                                                         \
    {                                                                                              \
        return WADI_OF_FORM(WADI_ADC_MORE, n, name, __VA_ARGS__);                                  \
    }

ANY(wad_status, wadi_adc_open, a->unit->form, (const wad_adc *a), a)
ANY(wad_status, wadi_adc_add, in->adc->unit->form, (const wad_adc_input *in), in)
ANY(wad_status, wadi_adc_calibrate, at.form, (wadi_adc_at at), at)
ANY(wad_status, wadi_adc_read, at.form,
    (wadi_adc_at at, unsigned channel, uint16_t *code, uint32_t us), at, channel, code, us)
ANY(uint32_t, wadi_adc_result_ns, a->unit->form, (const wad_adc *a, unsigned channel), a, channel)
ANY(wad_status, wadi_adc_begin, s->adc->unit->form, (const wad_adc_scan *s, int32_t *ppm), s, ppm)
ANY(wad_status, wadi_adc_end, a->unit->form, (const wad_adc *a), a)

void wadi_adc_close_any(const wad_adc *a)
{
    WADI_OF_FORM(WADI_ADC_MORE, a->unit->form, wadi_adc_close, a);
}

void wadi_adc_handle_any(const wad_adc *a)
{
    WADI_OF_FORM(WADI_ADC_MORE, a->unit->form, wadi_adc_handle, a);
}

void wadi_adc_count_overrun_any(const wad_adc *a)
{
    WADI_OF_FORM(WADI_ADC_MORE, a->unit->form, wadi_adc_count_overrun, a);
}

/* ---- a timer's pace, where the chip has timers ---- */

#ifdef WADI_COUNTER_FORMS
wad_status wadi_adc_set_pace(const wad_adc_scan *s, int32_t *error_ppm)
{
    return wadi_timer_set_rate_any(s->timer, s->rate, error_ppm);
}

void wadi_adc_run_pace(const wad_adc_scan *s, bool on)
{
    wadi_timer_enable_any(s->timer, on);
}
#else
wad_status wadi_adc_set_pace(const wad_adc_scan *s, int32_t *error_ppm)
{
    (void)s;
    (void)error_ppm;
    return WAD_E_ABSENT;
}

void wadi_adc_run_pace(const wad_adc_scan *s, bool on)
{
    (void)s;
    (void)on;
}
#endif

/* ---- counts and microvolts ---- */

uint32_t wadi_adc_counts(unsigned bits, uint32_t reference_uv, uint32_t microvolts)
{
    const uint32_t most = WADI_BIT(bits) - 1u;
    const uint32_t code =
        reference_uv ? wad_muldiv(microvolts, WADI_BIT(bits), reference_uv) : most;
    return code > most ? most : code;
}

int32_t wadi_adc_tenths(uint32_t warm_uv, uint32_t slope_uv, uint32_t microvolts)
{
    const int32_t below = (int32_t)warm_uv - (int32_t)microvolts;
    const int32_t slope = (int32_t)(slope_uv ? slope_uv : 1u);
    return 250 + (below * 10 + (below < 0 ? -slope / 2 : slope / 2)) / slope;
}

#endif
