/* SPDX-License-Identifier: MIT */
/* The converter of whatever chip: one result waited for, averages, and a scan of two inputs by
 * interrupt. LEVEL1: all as they should be; WARN: something was not. 1 V stands at the first input,
 * 2 V at the second. */
#include <wadium/adc.h>
#include <wadium/irq.h>
#include <wadium/pin.h>
#include <wadium/watchdog.h>

#include CONVERTER_CHIP
#include CONVERTER_PINS

static wad_timebase base;
static wad_adc adc;
static uint16_t codes[8];
static volatile unsigned fulls;

void handle_ADC0(void);
void handle_ADC0(void)
{
    wad_adc_handle(&adc);
}

static void on_full(void *context, const uint16_t *c, size_t n)
{
    (void)context;
    fulls += c == codes + 4 && n == 4;
}

/* Within two counts of the formula, for the noise. */
static bool is_volts(uint16_t code, uint32_t volts)
{
    uint32_t want = volts * (1u << adc.bits) * 10u / 33u;
    return code + 2u >= want && code <= want + 2u;
}

static bool one(unsigned average)
{
    const wad_adc_config config = {.average = (uint8_t)average, .time = &base};
    uint16_t code[2];
    wad_status st = wad_adc_open(&adc, &CONVERTER_BLOCK, &config, NULL);
    if (st == WAD_OK)
        st = wad_adc_input(&adc, CONVERTER_FIRST, CONVERTER_ROUTE, 1000);
    if (st == WAD_OK)
        st = wad_adc_input(&adc, CONVERTER_SECOND, CONVERTER_ROUTE_2, 1000);
    if (st == WAD_OK && wad_adc_calibrate(&adc) == WAD_E_TIMEOUT) /* absent is fine */
        st = WAD_E_TIMEOUT;
    if (st == WAD_OK)
        st = wad_adc_read(&adc, CONVERTER_FIRST, &code[0], 100000);
    if (st == WAD_OK)
        st = wad_adc_read(&adc, CONVERTER_SECOND, &code[1], 100000);
    return st == WAD_OK && is_volts(code[0], 1) && is_volts(code[1], 2);
}

static bool scan_both(void)
{
    static const uint8_t channels[] = {CONVERTER_FIRST, CONVERTER_SECOND};
    static const wad_adc_scan scan = {.channels = channels,
                                      .n_channels = 2,
                                      .codes = codes,
                                      .n = 8,
                                      .full = on_full,
                                      .once = true};
    if (wad_adc_begin(&adc, &scan, NULL) != WAD_OK)
        return false;
    wad_irq_global_on();
    for (unsigned i = 0; i < 1000 && !fulls; i++)
        wad_port_cycles(100);
    bool good = fulls == 1 && !adc.overruns;
    for (unsigned i = 0; i < 8; i++)
        good = good && is_volts(codes[i], i % 2u + 1u);
    return good;
}

int main(void)
{
#ifdef CONVERTER_WATCHDOG
    (void)!wad_watchdog_stop();
#endif
    bool good = wad_timebase_open(&base, &CONVERTER_TIME, 0, NULL) == WAD_OK && one(0) && one(3) &&
                one(0) && scan_both();
    (void)!wad_pin_output(CONVERTER_LAMP, good);
    (void)!wad_pin_output(CONVERTER_WARN, !good);
    for (;;)
        wad_port_sleep();
}
