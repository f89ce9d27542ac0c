/* SPDX-License-Identifier: MIT */
/* Converters against the internal reference and each other; memory moved and compared. */
#include "board_check.h"

#include <wadium/dma.h>

static const wad_adc adc = {&corran32_adc0, .clock_hz = 48000000, .bits = 12, .time = &base};
static const wad_adc_input bandgap = {&adc, .channel = 12}, temperature = {&adc, .channel = 13};
static const wad_adc_input loop = {&adc, .channel = 6, .route = CORRAN32_ROUTE_ADC0_IN6_PA6,
                                   .source_ohms = 10000};

static const wad_dac dac = {&corran32_dac0, .route = CORRAN32_ROUTE_DAC0_OUT_PA5, .buffered = true};

static uint16_t converted(const wad_adc_input *input)
{
    uint16_t code = 0;
    return wad_adc_read(input, &code, 10000) == WAD_OK ? code : 0;
}

/* The DAC's level, as the ADC sees it over J3. */
static void check_loop(wad_verify *v)
{
    static const uint32_t wanted[] = {500000, 1650000, 2800000};
    static const char *const names[] = {"J3: 500 mV", "J3: 1650 mV", "J3: 2800 mV"};
    wad_status st = wad_dac_open(&dac);
    if (st == WAD_OK)
        st = wad_adc_add(&loop);
    if (!wad_verify_status(v, "converters open", st))
        return;
    for (unsigned i = 0; i < 3; i++) {
        wad_dac_write(&dac, wad_dac_counts(&dac, wanted[i], 3300000));
        wad_delay_us(&base, 200);
        uint32_t uv = wad_adc_microvolts(&adc, converted(&loop));
        wad_verify_near(v, names[i], (int32_t)(uv / 1000), (int32_t)(wanted[i] / 1000), 25);
    }
}

void check_converters(wad_verify *v)
{
    wad_status st = wad_adc_open(&adc);
    if (st == WAD_OK)
        st = wad_adc_calibrate(&adc);
    if (st == WAD_OK)
        st = wad_adc_add(&bandgap);
    if (st == WAD_OK)
        st = wad_adc_add(&temperature);
    if (!wad_verify_status(v, "converter opens and calibrates", st))
        return;
    uint32_t uv = wad_adc_microvolts(&adc, converted(&bandgap));
    wad_verify_near(v, "internal reference, mV", (int32_t)(uv / 1000), 1200, 25);
    wad_verify_range(v, "temperature, tenths of a degree",
                     wad_adc_celsius_tenths(&adc, converted(&temperature)), -400, 850);
    check_loop(v);
}

/* ---- DMA controller ---- */

static wad_dma_mover mover;
static volatile bool done;
static volatile wad_status ended;

void handle_DMA0(void);
void handle_DMA0(void)
{
    wad_dma_handle(&mover);
}

static void on_done(void *context, wad_status status, size_t moved)
{
    (void)context;
    (void)moved;
    ended = status;
    done = true;
}

void check_movers(wad_verify *v)
{
    static uint8_t from[256], to[256];
    static wad_dma copier;
    uint32_t same = 0;
    for (unsigned i = 0; i < sizeof from; i++) {
        from[i] = (uint8_t)(i * 167u + 13u);
        to[i] = (uint8_t)~from[i];
    }
    wad_status st = wad_dma_open(&mover, &corran32_dma0, 1);
    if (st == WAD_OK)
        st = wad_dma_claim(&mover, &copier, WAD_DMA_AT_ONCE, "self-test");
    if (st == WAD_OK)
        st = wad_dma_copy(&copier, to, from, sizeof from, on_done, NULL);
    if (!wad_verify_status(v, "DMA controller begins", st))
        return;
    if (!wad_verify_before(v, "DMA controller ends", &done, &base, 10000))
        return;
    for (unsigned i = 0; i < sizeof from; i++)
        same += to[i] == from[i];
    wad_verify_status(v, "DMA controller, status", ended);
    wad_verify_equal(v, "DMA controller, bytes as they were", same, sizeof from);
}
