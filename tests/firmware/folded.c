/* SPDX-License-Identifier: MIT */
/*
 * Converters as the compiler sees them, against the same ones as only the run does: all registers
 * must be alike afterwards, whatever stood there before. LEVEL1: all as they should be; WARN:
 * something was not, and `story` tells what.
 */
#include <corran32_roles.h>
#include <skerry_pins.h>

#define REGISTERS 15u

/* For the debugger, when WARN is lit. */
volatile unsigned story, which;

static wad_status with_any(const wad_adc *adc, const wad_adc_input *input)
{
    wad_status st = wadi_adc_open_any(adc);
    return st == WAD_OK ? wadi_adc_add_any(input) : st;
}

static void note(uint32_t *to)
{
    for (unsigned i = 0; i < REGISTERS; i++)
        to[i] = i == 1u || i == 3u || i == 4u ? 0 : wadi_read(CORRAN32_ADC0_BASE, i * 4u, 4);
    to[REGISTERS] = wadi_read(CORRAN32_PINA_BASE, corran32_gpio_roles.function.off, 4);
    to[REGISTERS + 1u] = wadi_read(CORRAN32_PINA_BASE, corran32_gpio_roles.digital_off.off, 4);
}

/* What an opening before may have left: anything that may stand there while the block is off. */
static void soil(uint32_t seed)
{
    const uintptr_t base = CORRAN32_ADC0_BASE;
    const wad_adc_roles *r = &corran32_converter_roles;
    wad_put(base, r->enable, 0);
    wad_put(base, r->resolution, seed % 5u);
    wad_put(base, r->prescale, seed * 7u);
    wad_put(base, r->align_left, seed);
    wad_put(base, r->is_signed, seed + 1u);
    wad_put(base, r->internal_on, seed >> 1);
    wad_put(base, r->oversample, seed % 9u);
    wad_put(base, r->shift, seed % 9u);
    wad_put(base, r->trigger, seed % 3u);
    wad_put(base, r->length, seed);
    for (unsigned i = 0; i < 10u; i++) {
        wad_put(base, wad_at(r->sample, i), (seed + i) % 6u);
        wad_put(base, wad_at(r->differential, i), seed >> i);
    }
}

static bool same(wad_status known, const uint32_t *a, wad_status any, const uint32_t *b)
{
    bool good = known == any;
    for (unsigned i = 0; i < REGISTERS + 2u; i++)
        if (a[i] != b[i]) {
            which = i;
            good = false;
        }
    return good;
}

#define TRY(members, input_members)                                                                \
    {                                                                                              \
        static const wad_adc adc = {&corran32_adc0, .clock_hz = 8000000, members};                 \
        static const wad_adc_input input = {&adc, input_members};                                  \
        uint32_t known[REGISTERS + 2u], any[REGISTERS + 2u];                                       \
        for (unsigned i = 0; i < 6u && !story; i++) {                                              \
            soil(i * 11u);                                                                         \
            wad_status st = i % 2u ? wad_adc_open_input(&input) : wad_adc_open(&adc);              \
            if (st == WAD_OK && i % 2u == 0)                                                       \
                st = wad_adc_add(&input);                                                          \
            note(known);                                                                           \
            soil(i * 11u);                                                                         \
            wad_status also = with_any(&adc, &input);                                              \
            note(any);                                                                             \
            if (!same(st, known, also, any))                                                       \
                story = __LINE__;                                                                  \
        }                                                                                          \
        wad_adc_close(&adc);                                                                       \
    }
#define BOTH(...) __VA_ARGS__

int main(void)
{
    if (wad_pin_output(SKERRY_LEVEL1, false) != WAD_OK ||
        wad_pin_output(SKERRY_WARN, false) != WAD_OK || !wad_block_up(&corran32_adc0.block, 1000))
        return 1;
    TRY(.bits = 12, BOTH(.channel = 4, .route = CORRAN32_ROUTE_ADC0_IN4_PA4))
    TRY(.bits = 8, BOTH(.channel = 6, .route = CORRAN32_ROUTE_ADC0_IN6_PA6, .source_ohms = 50000))
    TRY(BOTH(.bits = 16, .fastest_hz = 1000000),
        BOTH(.channel = 5, .route = CORRAN32_ROUTE_ADC0_IN5_PA5, .differential = true))
    TRY(BOTH(.average = 8, .fastest_hz = 123456), BOTH(.channel = 12, .source_ohms = 3000))
    TRY(BOTH(.bits = 10, .extra_bits = 3, .reference = WAD_REFERENCE_INTERNAL), BOTH(.channel = 13))
    TRY(BOTH(.reference = WAD_REFERENCE_EXTERNAL, .reference_route = CORRAN32_ROUTE_ADC0_VREF_PB2),
        BOTH(.channel = 0, .source_ohms = 200000))
    (void)!wad_pin_output(story ? SKERRY_WARN : SKERRY_LEVEL1, true);
    for (;;)
        wad_port_sleep();
}
