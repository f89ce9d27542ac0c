/* SPDX-License-Identifier: MIT */
/* The converter of whatever chip: one result waited for, averages, and a scan of two inputs by
 * interrupt. LEVEL1: all as they should be; WARN: something was not. 1 V stands at the first input,
 * 2 V at the second. */
#include <wadium/irq.h>
#include <wadium/pin.h>
#include <wadium/watchdog.h>

#include CONVERTER_CHIP
#include CONVERTER_PINS

static const wad_timebase base = {.unit = &CONVERTER_TIME};
static wad_adc_scans scans;
/* Its clock is worked out from the registers: whatever chip it is. */
static const wad_adc adc = {&CONVERTER_BLOCK, .time = &base, .scans = &scans};
static const wad_adc average = {&CONVERTER_BLOCK, .average = 3, .time = &base, .scans = &scans};
static uint16_t codes[8];
static volatile unsigned fulls;

void handle_ADC0(void);
void handle_ADC0(void)
{
    wad_adc_handle(&adc);
}

static void on_full(const uint16_t *c, size_t n, void *context)
{
    (void)context;
    fulls += c == codes + 4 && n == 4;
}

/* Within two counts of the formula, for the noise. */
static bool is_volts(uint16_t code, uint32_t volts)
{
    uint32_t want = volts * (1u << wad_adc_bits(&adc)) * 10u / 33u;
    return code + 2u >= want && code <= want + 2u;
}

static bool one(const wad_adc *converter)
{
    const wad_adc_input first = {converter, CONVERTER_FIRST, CONVERTER_ROUTE, 1000, false};
    const wad_adc_input second = {converter, CONVERTER_SECOND, CONVERTER_ROUTE_2, 1000, false};
    uint16_t code[2];
    wad_status st = wad_adc_open(converter);
    if (st == WAD_OK)
        st = wad_adc_add(&first);
    if (st == WAD_OK)
        st = wad_adc_add(&second);
    if (st == WAD_OK && wad_adc_calibrate(converter) == WAD_E_TIMEOUT) /* absent is fine */
        st = WAD_E_TIMEOUT;
    if (st == WAD_OK)
        st = wad_adc_read(&first, &code[0], 100000);
    if (st == WAD_OK)
        st = wad_adc_read(&second, &code[1], 0);
    return st == WAD_OK && is_volts(code[0], 1) && is_volts(code[1], 2);
}

static bool scan_both(void)
{
    static const uint8_t channels[] = {CONVERTER_FIRST, CONVERTER_SECOND};
    static const wad_adc_scan scan = {.adc = &adc,
                                      .channels = channels,
                                      .n_channels = 2,
                                      .codes = codes,
                                      .n = 8,
                                      .full = on_full,
                                      .once = true};
    if (wad_adc_begin(&scan, NULL) != WAD_OK)
        return false;
    wad_irq_global_on();
    for (unsigned i = 0; i < 1000 && !fulls; i++)
        wad_port_cycles(100);
    bool good = fulls == 1 && !scans.overruns;
    for (unsigned i = 0; i < 8; i++)
        good = good && is_volts(codes[i], i % 2u + 1u);
    return good;
}

int main(void)
{
#ifdef CONVERTER_WATCHDOG
    (void)!wad_watchdog_stop();
#endif
    bool good = wad_timebase_open(&base) == WAD_OK && one(&adc) && one(&average) && one(&adc) &&
                scan_both();
    (void)!wad_pin_output(CONVERTER_LAMP, good);
    (void)!wad_pin_output(CONVERTER_WARN, !good);
    for (;;)
        wad_port_sleep();
}
