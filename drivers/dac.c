/* SPDX-License-Identifier: MIT */
/* Converters to volts, compiled for each form that the chip has. */
#define WADI_DAC_BODIES
#include WAD_CHIP

#ifdef WADI_DAC_FORMS

/* ---- a unit that only the run knows ---- */

#define ANY(type, name, dac, params, ...)                                                          \
    type name##_any params                                                                         \
    {                                                                                              \
        return WADI_OF_FORM(WADI_DAC_MORE, dac->unit->form, name, __VA_ARGS__);                    \
    }

ANY(wad_status, wadi_dac_open, d, (const wad_dac *d), d)
ANY(wad_status, wadi_dac_play, s->dac, (const wad_dac_stream *s), s)
ANY(wad_status, wadi_dac_end, d, (const wad_dac *d), d)
ANY(wad_status, wadi_dac_wave, d,
    (const wad_dac *d, wad_dac_wave wave, unsigned bits, uint32_t trigger), d, wave, bits, trigger)

void wadi_dac_close_any(const wad_dac *d)
{
    WADI_OF_FORM(WADI_DAC_MORE, d->unit->form, wadi_dac_close, d);
}

void wadi_dac_handle_any(const wad_dac *d)
{
    WADI_OF_FORM(WADI_DAC_MORE, d->unit->form, wadi_dac_handle, d);
}

void wadi_dac_count_underrun_any(const wad_dac *d)
{
    WADI_OF_FORM(WADI_DAC_MORE, d->unit->form, wadi_dac_count_underrun, d);
}

uint32_t wadi_dac_counts(unsigned bits, uint32_t microvolts, uint32_t supply_uv)
{
    const uint32_t most = WADI_BIT(bits) - 1u;
    const uint32_t code = supply_uv ? wad_muldiv(microvolts, WADI_BIT(bits), supply_uv) : 0;
    return code > most ? most : code;
}

#endif
