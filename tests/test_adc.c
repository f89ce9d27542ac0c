/* SPDX-License-Identifier: MIT */
/* Converters: every code by the datasheet's formula, errors by the exponential, scans, faults. */
#include <math.h>

#include "corran32_sheet.h"
#include "wadium/host/analog.h"
#include "wadium/irq.h"

#include "corran32_roles.h"

#define S WAD_PS_PER_S

static wad_sim *sim;
static double at_pin, behind; /* volts and ohms at PA4 */

static double level(void *ctx, uint64_t ps)
{
    (void)ctx;
    (void)ps;
    return at_pin;
}

/* Volts at PA4, no noise: what differs from the formula is the firmware's or the model's fault. */
static void wire(double volts, double ohms)
{
    at_pin = volts;
    behind = ohms;
    if (sim)
        wad_sim_analog(sim, wad_sheet_pin(sheet, "PA4"),
                       &(wad_analog_source){.volts = level, .ohms = ohms});
}

static bool noisy, lax;

static void run(int (*main_fn)(void), const wad_handler *handlers, uint64_t ps)
{
    char *why;
    sim = wad_sim_new(sheet, &why);
    wad_sim_attach(sim, main_fn, handlers, handlers ? 22 : 0);
    wad_sim_trim_converter(sim, wad_sheet_block(sheet, "ADC0"),
                           &(wad_converter_trim){.no_noise = !noisy});
    wire(at_pin, behind);
    wad_run_result r = wad_sim_run(sim, ps);
    for (unsigned i = 0; !lax && i < wad_sim_finding_count(sim); i++)
        wad_finding_print(wad_sim_finding(sim, i), stderr);
    assert_int_equal(r.end, WAD_RUN_TIME);
    if (!lax)
        assert_int_equal(wad_sim_finding_count(sim), 0);
}

static void end_run(void)
{
    wad_sim_free(sim);
    sim = NULL;
    noisy = lax = false;
}

static bool found(wad_finding_kind kind)
{
    for (unsigned i = 0; i < wad_sim_finding_count(sim); i++)
        if (wad_sim_finding(sim, i)->kind == kind)
            return true;
    return false;
}

static const wad_timebase base = {&corran32_base, .hz = 1000000};
static wad_adc_scans scans;
static uint32_t measured_uv;
static wad_adc adc; /* as each test wants it */
static wad_adc_input level_input = {&adc, .channel = 4, .route = CORRAN32_ROUTE_ADC0_IN4_PA4};
static const wad_adc_input bandgap_input = {&adc, .channel = 12},
                           warm_input = {&adc, .channel = 13}, ground_input = {&adc, .channel = 15};
static wad_status status;

static wad_status add(uint32_t source_ohms)
{
    level_input.source_ohms = source_ohms;
    level_input.differential = false;
    return wad_adc_add(&level_input);
}

static bool prepare(uint32_t source_ohms)
{
    status = wad_timebase_open(&base);
    adc.unit = &corran32_adc0;
    adc.time = &base;
    adc.scans = &scans;
    adc.measured_uv = &measured_uv;
    measured_uv = 0;
    if (status == WAD_OK)
        status = wad_adc_open(&adc);
    if (status == WAD_OK)
        status = add(source_ohms);
    if (status == WAD_OK)
        status = wad_adc_calibrate(&adc);
    return status == WAD_OK;
}

static void rest(void)
{
    for (;;)
        wad_port_sleep();
}

/* ---- every code ---- */

static unsigned wrong, wrong_back;

/* A step's lower edge, its middle, and just below its upper one: floor(2 ** bits * V / Vref). */
static int all_codes(void)
{
    uint16_t code;
    if (!prepare(0))
        return 1;
    for (uint32_t want = 0; want < 1u << adc.bits; want++)
        for (unsigned k = 0; k < 3; k++) {
            const double within[] = {1e-6, 0.5, 1 - 1e-6};
            wire((want + within[k]) * 3.3 / (1u << adc.bits), 0);
            status = wad_adc_read(&level_input, &code, 1000);
            wrong += status != WAD_OK || code != want;
            wrong_back += wad_adc_counts(&adc, wad_adc_microvolts(&adc, code)) != code;
        }
    rest();
    return 0;
}

static void every_code_is_the_formula(void **state)
{
    static const uint8_t bits[] = {8, 10, 12};
    (void)state;
    for (unsigned i = 0; i < G_N_ELEMENTS(bits); i++) {
        adc = (wad_adc){.bits = bits[i], .fastest_hz = 8000000};
        wrong = wrong_back = 0;
        run(all_codes, NULL, S);
        assert_int_equal(status, WAD_OK);
        assert_int_equal(wrong, 0);
        assert_int_equal(wrong_back, 0);
        end_run();
    }
}

/* ---- the exponential ---- */

static uint16_t first, second;
static uint32_t halves;

/* Ground on another channel first, then a step of full scale through the source. */
static int weak_source(void)
{
    if (!prepare(0) || wad_adc_add(&ground_input) != WAD_OK)
        return 1;
    wad_put(CORRAN32_ADC0_BASE, wad_at(corran32_converter_roles.sample, 4), halves);
    status = wad_adc_read(&ground_input, &first, 1000);
    if (status == WAD_OK)
        status = wad_adc_read(&level_input, &second, 1000);
    rest();
    return 0;
}

static void a_weak_source_is_off_by_the_exponential(void **state)
{
    static const double ohms[] = {0, 1e3, 5e3, 10e3, 50e3, 200e3, 1e6};
    static const double half_cycles[] = {3, 7, 19, 55};
    (void)state;
    for (unsigned i = 0; i < G_N_ELEMENTS(ohms); i++)
        for (halves = 0; halves < 4; halves++) {
            adc = (wad_adc){.bits = 12, .fastest_hz = 8000000};
            lax = true;
            wire(3.0, ohms[i]);
            run(weak_source, NULL, S / 100);
            assert_int_equal(status, WAD_OK);
            assert_int_equal(first, 0);
            double t = ceil(half_cycles[halves] / 2) / 8e6; /* whole edges of the block's clock */
            double off = exp(-t / ((ohms[i] + 1000) * 8e-12));
            int want = (int)floor(4096 * 3.0 * (1 - off) / 3.3);
            if (abs((int)second - want) > 1)
                fail_msg("%g ohm, %g half cycles: %u, not %d", ohms[i], half_cycles[halves], second,
                         want);
            bool short_time = off * 4096 > 0.5;
            assert_int_equal(found(WAD_FINDING_ADC_SAMPLING), short_time);
            end_run();
        }
}

/* The sampling time that the driver chooses is enough, and the next shorter one is not. */
static uint32_t source;
static int chosen(void)
{
    if (prepare(source))
        status = wad_adc_read(&level_input, &first, 1000);
    halves = wad_get(CORRAN32_ADC0_BASE, wad_at(corran32_converter_roles.sample, 4));
    rest();
    return 0;
}

static void the_driver_samples_as_long_as_the_source_needs(void **state)
{
    static const uint32_t ohms[] = {0, 3000, 10000, 40000, 120000};
    (void)state;
    for (unsigned i = 0; i < G_N_ELEMENTS(ohms); i++) {
        adc = (wad_adc){.bits = 12, .fastest_hz = 8000000};
        source = ohms[i];
        wire(2.5, source);
        run(chosen, NULL, S / 100);
        assert_int_equal(status, WAD_OK);
        assert_in_range(first, (int)floor(4096 * 2.5 / 3.3) - 1, (int)floor(4096 * 2.5 / 3.3));
        if (halves) {
            double t = (1 + 2 * pow(3, halves - 1)) / 2 / 8e6;
            assert_true(exp(-t / ((source + 1000) * 8e-12)) * 4096 > 0.5);
        }
        end_run();
    }
}

static int too_weak(void)
{
    if (prepare(0))
        status = add(100000000);
    rest();
    return 0;
}

static void a_source_that_is_too_weak_is_refused(void **state)
{
    (void)state;
    adc = (wad_adc){.bits = 12};
    run(too_weak, NULL, S / 100);
    assert_int_equal(status, WAD_E_RANGE);
    end_run();
}

/* ---- the known reference ---- */

static uint16_t bandgap, warm;
static uint32_t supply_uv;
static int32_t tenths;

static int measure_reference(void)
{
    if (!prepare(0) || wad_adc_add(&bandgap_input) != WAD_OK || wad_adc_add(&warm_input) != WAD_OK)
        return 1;
    status = wad_adc_read(&bandgap_input, &bandgap, 1000);
    if (status == WAD_OK)
        status = wad_adc_read(&warm_input, &warm, 1000);
    supply_uv = wad_adc_supply_from(&adc, bandgap);
    tenths = wad_adc_celsius_tenths(&adc, warm);
    rest();
    return 0;
}

static void the_bandgap_tells_the_supply(void **state)
{
    (void)state;
    adc = (wad_adc){.bits = 12};
    run(measure_reference, NULL, S / 100);
    assert_int_equal(status, WAD_OK);
    assert_int_equal(bandgap, (int)floor(4096 * 1.2 / 3.3));
    assert_true(supply_uv > 3299000 && supply_uv < 3304000);
    assert_true(tenths > 240 && tenths < 260);
    end_run();
}

static void noise_stays_within_its_bound(void **state)
{
    (void)state;
    adc = (wad_adc){.bits = 12, .average = 6};
    noisy = true;
    run(measure_reference, NULL, S / 100);
    assert_int_equal(status, WAD_OK);
    assert_in_range(bandgap, 1488, 1490);
    end_run();
}

/* ---- scans ---- */

static const uint8_t channels[] = {4, 12};
static uint16_t codes[8];
static unsigned halves_seen, fulls_seen;
static wad_timer pace;
static int32_t error_ppm;
static uint64_t began_ps, full_ps[4];

static void on_half(const uint16_t *c, size_t n, void *context)
{
    (void)context;
    halves_seen += c == codes && n == 4;
}

static void on_full(const uint16_t *c, size_t n, void *context)
{
    (void)context;
    if (fulls_seen < 4)
        full_ps[fulls_seen] = wad_sim_now(sim);
    fulls_seen += c == codes + 4 && n == 4;
}

static wad_adc_scan scan;
static uint32_t rate;

static int scanning(void)
{
    if (!prepare(0) || wad_adc_add(&bandgap_input) != WAD_OK)
        return 1;
    scan = (wad_adc_scan){.adc = &adc,
                          .channels = channels,
                          .n_channels = 2,
                          .codes = codes,
                          .n = 8,
                          .timer = &pace,
                          .trigger = CORRAN32_TRIGGER_ADC0_CNT1_WRAP,
                          .rate = WAD_HZ(rate),
                          .half = on_half,
                          .full = on_full};
    pace = (wad_timer){&corran32_cnt1, .rate = WAD_RATE_HZ(1000)};
    status = wad_timer_open(&pace);
    if (status == WAD_OK)
        status = wad_adc_begin(&scan, &error_ppm);
    began_ps = wad_sim_now(sim);
    wad_irq_global_on();
    rest();
    return 0;
}

static void handle_adc(void)
{
    wad_adc_handle(&adc);
}

static const wad_handler handlers[22] = {[20] = handle_adc};

static void a_timer_paces_a_scan(void **state)
{
    (void)state;
    adc = (wad_adc){.bits = 12};
    rate = 2000;
    halves_seen = fulls_seen = 0;
    wire(1.6504, 1000);
    run(scanning, handlers, S / 50); /* 20 ms: 40 scans, 8 codes a full buffer */
    assert_int_equal(status, WAD_OK);
    assert_int_equal(error_ppm, 0);
    assert_in_range(fulls_seen, 9, 10);
    assert_in_range(halves_seen, 9, 10);
    assert_int_equal(codes[0], 2048);
    assert_int_equal(codes[1], (int)floor(4096 * 1.2 / 3.3));
    assert_int_equal(full_ps[1] - full_ps[0], 2 * S / 1000);
    assert_int_equal(full_ps[2] - full_ps[1], 2 * S / 1000);
    assert_int_equal(scans.overruns, 0);
    end_run();
}

static void a_rate_beyond_the_converter_is_refused(void **state)
{
    (void)state;
    adc = (wad_adc){.bits = 12};
    rate = 400000;
    lax = true;
    run(scanning, handlers, S / 100);
    assert_int_equal(status, WAD_E_RANGE);
    end_run();
}

/* ---- what cannot be ---- */

static int bad_input(void)
{
    uint16_t code;
    const wad_adc_input lost = {&adc, .channel = 77};
    wad_adc_scan odd = {.adc = &adc, .channels = channels, .n_channels = 2, .codes = codes, .n = 6};
    wad_adc_scan none = {
        .adc = &adc, .channels = (const uint8_t[]){99}, .n_channels = 1, .codes = codes, .n = 8};
    wrong = 0;
    if (!prepare(0))
        return 1;
    wrong += wad_adc_read(&lost, &code, 1000) != WAD_E_ABSENT;
    wrong += wad_adc_add(&lost) != WAD_E_ABSENT;
    wrong += wad_adc_begin(&odd, NULL) != WAD_E_ARG;
    wrong += wad_adc_begin(&none, NULL) != WAD_E_ABSENT;
    wrong += wad_adc_read(&level_input, &code, 1) != WAD_E_TIMEOUT; /* the longest takes longer */
    adc.bits = 9;
    wrong += wad_adc_open(&adc) != WAD_E_RANGE;
    adc = (wad_adc){&corran32_adc0, .average = 9};
    wrong += wad_adc_open(&adc) != WAD_E_ARG;
    adc = (wad_adc){&corran32_adc0, .fastest_hz = 1000};
    wrong += wad_adc_open(&adc) != WAD_E_RANGE;
    rest();
    return 0;
}

static void what_cannot_be_is_refused(void **state)
{
    (void)state;
    adc = (wad_adc){.bits = 16, .average = 8};
    run(bad_input, NULL, S / 100);
    assert_int_equal(wrong, 0);
    end_run();
}

static int trigger_never_comes(void)
{
    wad_put(CORRAN32_CLK_BASE, corran32_clocks_gate_cnt1, 0);
    wad_deadline late;
    if (!prepare(0))
        return 1;
    wad_put2(CORRAN32_ADC0_BASE, corran32_converter_roles.trigger, 1,
             corran32_converter_roles.trigger_edge, 1);
    late = wad_deadline_ms(&base, 5);
    status = WAD_OK;
    while (!wad_get(CORRAN32_ADC0_BASE, corran32_converter_roles.done))
        if (wad_deadline_passed(&base, &late)) {
            status = WAD_E_TIMEOUT;
            break;
        }
    rest();
    return 0;
}

static void a_trigger_that_never_comes_is_no_hang(void **state)
{
    (void)state;
    adc = (wad_adc){.bits = 12};
    run(trigger_never_comes, NULL, S / 50);
    assert_int_equal(status, WAD_E_TIMEOUT);
    end_run();
}

static void an_input_above_the_supply_is_clipped_and_told(void **state)
{
    (void)state;
    adc = (wad_adc){.bits = 12};
    source = 0;
    lax = true;
    wire(3.6, 100);
    run(chosen, NULL, S / 100);
    assert_int_equal(first, 4095);
    assert_true(found(WAD_FINDING_ADC_RANGE));
    end_run();
}

static void a_reference_at_0_volts_is_full_scale_and_told(void **state)
{
    (void)state;
    adc = (wad_adc){.bits = 12,
                    .reference = WAD_REFERENCE_EXTERNAL,
                    .reference_uv = 2500000,
                    .reference_route = CORRAN32_ROUTE_ADC0_VREF_PB2};
    source = 0;
    lax = true;
    wire(1, 100);
    run(chosen, NULL, S / 100);
    assert_int_equal(first, 4095);
    assert_true(found(WAD_FINDING_ADC_REFERENCE));
    end_run();
}

/* ---- against the next input ---- */

static double against; /* volts at PA5 */
static int32_t difference;
static uint16_t alone;

static double other_level(void *ctx, uint64_t ps)
{
    (void)ctx;
    (void)ps;
    return against;
}

static int differences(void)
{
    uint16_t code;
    const wad_adc_input other = {&adc, .channel = 5, .route = CORRAN32_ROUTE_ADC0_IN5_PA5};
    const wad_adc_input lost = {&adc, .channel = 20, .differential = true};
    if (!prepare(0) || wad_adc_add(&other) != WAD_OK)
        return 1;
    wad_sim_analog(sim, wad_sheet_pin(sheet, "PA5"), &(wad_analog_source){.volts = other_level});
    status = wad_adc_add(&lost) == WAD_E_ABSENT ? WAD_OK : WAD_E_STATE;
    for (unsigned i = 0; status == WAD_OK && i <= 330; i++) {
        double half = 1u << (adc.bits - 1), want;
        /* from -3.3 V to 3.3 V, in the middle of a step, wherever the two stand */
        want = floor((i / 330.0 * 2 - 1) * half);
        want = fmin(fmax(want, -half), half - 1);
        double volts = (want + 0.5) * 3.3 / half;
        against = volts > 0 ? (3.3 - volts) * (i % 3) / 2 : -volts;
        wire(against + volts, 0);
        level_input.differential = true, status = wad_adc_add(&level_input);
        if (status == WAD_OK)
            status = wad_adc_read(&level_input, &code, 1000);
        difference = wad_adc_signed(&adc, code);
        wrong += difference != (int32_t)want;
    }
    for (int32_t k = 0, all = 1 << adc.bits; k < all; k++) /* wherever its upper bits stand */
        wrong += wad_adc_signed(&adc, (uint16_t)k) != (k < all / 2 ? k : k - all);
    if (status == WAD_OK)
        status = add(0);
    wire(3.3 * (100.5 / (1u << adc.bits)), 0);
    if (status == WAD_OK)
        status = wad_adc_read(&level_input, &alone, 1000);
    rest();
    return 0;
}

static void a_difference_of_two_inputs_has_a_sign(void **state)
{
    static const uint8_t bits[] = {8, 10, 12};
    (void)state;
    for (unsigned i = 0; i < G_N_ELEMENTS(bits); i++) {
        adc = (wad_adc){.bits = bits[i], .fastest_hz = 8000000};
        wrong = alone = 0;
        wire(0, 0);
        run(differences, NULL, S / 10);
        assert_int_equal(status, WAD_OK);
        assert_int_equal(wrong, 0);
        assert_int_equal(alone, 100);
        end_run();
    }
}

/* ---- the other converter's own waves ---- */

static wad_dac_wave shape;
static unsigned size_bits, n_steps;
static int steps[200];

static void on_step(void *ctx, uint64_t ps, double volts)
{
    (void)ctx;
    (void)ps;
    if (n_steps < G_N_ELEMENTS(steps))
        steps[n_steps++] = (int)lround(volts / 3.3 * 4096);
}

static int makes_waves(void)
{
    static const wad_dac dac = {&corran32_dac0, .route = CORRAN32_ROUTE_DAC0_OUT_PA5};
    status = wad_dac_open(&dac);
    pace = (wad_timer){&corran32_cnt1, .rate = WAD_RATE_HZ(10000)};
    if (status == WAD_OK)
        status = wad_timer_open(&pace);
    wad_dac_write(&dac, 1000);
    if (wad_dac_wave_at(&dac, shape, 0, 1) != WAD_E_ARG ||
        wad_dac_wave_at(&dac, shape, 13, 1) != WAD_E_ARG ||
        wad_dac_wave_at(&dac, (wad_dac_wave)3, 4, 1) != WAD_E_ARG ||
        wad_dac_wave_at(&dac, shape, 4, 8) != WAD_E_RANGE)
        return 1;
    if (status == WAD_OK)
        status = wad_dac_wave_at(&dac, shape, size_bits, CORRAN32_TRIGGER_DAC0_CNT1_WRAP);
    n_steps = 0; /* what came before it */
    wad_timer_start(&pace);
    rest();
    return 0;
}

static void waves_are_as_high_as_asked(void **state)
{
    (void)state;
    for (size_bits = 1; size_bits <= 11; size_bits += size_bits < 4 ? 1 : 7) {
        int most = (1 << size_bits) - 1, highest = 0, changes = 0;
        for (shape = WAD_WAVE_OFF; shape <= WAD_WAVE_NOISE; shape++) {
            adc = (wad_adc){0};
            /* nothing new is written at the triggers: told where no wave is made */
            char *why;
            sim = wad_sim_new(sheet, &why);
            wad_sim_attach(sim, makes_waves, NULL, 0);
            wad_sim_watch_analog(sim, wad_sheet_pin(sheet, "PA5"), on_step, NULL);
            assert_int_equal(wad_sim_run(sim, S / 50).end, WAD_RUN_TIME);
            assert_int_equal(status, WAD_OK);
            assert_in_range(n_steps, shape == WAD_WAVE_OFF ? 1 : 195, 200);
            for (unsigned i = 0; i < n_steps; i++) {
                int at = steps[i] - 1000, turn = ((int)i + 1) % (2 * most);
                if (shape == WAD_WAVE_OFF)
                    assert_int_equal(at, 0);
                else if (shape == WAD_WAVE_TRIANGLE)
                    assert_int_equal(at, turn <= most ? turn : 2 * most - turn);
                else
                    assert_in_range(at, 0, most);
                highest = MAX(highest, shape == WAD_WAVE_NOISE ? at : 0);
                changes += shape == WAD_WAVE_NOISE && i && steps[i] != steps[i - 1];
            }
            end_run();
        }
        assert_true(highest > most * 3 / 4 && changes > 50);
    }
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(every_code_is_the_formula),
        cmocka_unit_test(a_weak_source_is_off_by_the_exponential),
        cmocka_unit_test(the_driver_samples_as_long_as_the_source_needs),
        cmocka_unit_test(a_source_that_is_too_weak_is_refused),
        cmocka_unit_test(the_bandgap_tells_the_supply),
        cmocka_unit_test(noise_stays_within_its_bound),
        cmocka_unit_test(a_timer_paces_a_scan),
        cmocka_unit_test(a_rate_beyond_the_converter_is_refused),
        cmocka_unit_test(what_cannot_be_is_refused),
        cmocka_unit_test(a_trigger_that_never_comes_is_no_hang),
        cmocka_unit_test(an_input_above_the_supply_is_clipped_and_told),
        cmocka_unit_test(a_reference_at_0_volts_is_full_scale_and_told),
        cmocka_unit_test(a_difference_of_two_inputs_has_a_sign),
        cmocka_unit_test(waves_are_as_high_as_asked),
    };
    return cmocka_run_group_tests(tests, set_up, tear_down);
}
