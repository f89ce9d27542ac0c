/* SPDX-License-Identifier: MIT */
/*
 * The pressure transducer a thousand times a second, and a lamp for high water, in three ways:
 * BY_POLLING main waits for each result, BY_INTERRUPT the handler takes it, else DMA fills a ring
 * of 64 results and the core sleeps until half of it is full.
 */
#include <wadium/irq.h>
#include <wadium/pin.h>
#include <wadium/sleep.h>

#include <corran32_roles.h>
#include <skerry_pins.h>

#define RESULTS 64u

static const wad_timebase base = {&corran32_base, .clock_hz = 8000000, .hz = 1000000};
static _Alignas(2 * RESULTS) uint16_t codes[RESULTS];
static wad_threshold high = {.low = 1800, .high = 2200};

#if defined(BY_POLLING)
static const wad_adc adc = {&corran32_adc0, .clock_hz = 8000000, .bits = 12, .time = &base};
#elif defined(BY_INTERRUPT)
static const wad_adc adc = {&corran32_adc0, .clock_hz = 8000000, .bits = 12,
                            .scans = &(wad_adc_scans){0}};
#else
static wad_dma_mover mover;
static wad_dma_port by_dma = WAD_ADC_BY_DMA(&mover, CORRAN32_REQUEST_DMA0_ADC0_DONE);
static const wad_adc adc = {&corran32_adc0, .clock_hz = 8000000, .bits = 12,
                            .scans = &(wad_adc_scans){0}, .dma = &by_dma};
#endif
static const wad_adc_input level = {&adc, .channel = 4, .route = CORRAN32_ROUTE_ADC0_IN4_PA4,
                                    .source_ohms = 10000};

static void judge(const uint16_t *c, size_t n)
{
    uint32_t sum = 0;
    for (size_t i = 0; i < n; i++)
        sum += c[i];
    if (wad_threshold_update(&high, sum / (uint32_t)n))
        wad_pin_write(SKERRY_WARN, high.above);
}

#ifdef BY_POLLING

static wad_status sample(void)
{
    wad_deadline next = wad_deadline_us(&base, 1000);
    for (size_t at = 0;; at = at + 1u < RESULTS ? at + 1u : 0u) {
        if (wad_adc_read(&level, &codes[at], 1000) != WAD_OK)
            return WAD_E_TIMEOUT;
        if (at % (RESULTS / 2u) == RESULTS / 2u - 1u)
            judge(codes + (at - (RESULTS / 2u - 1u)), RESULTS / 2u);
        while (!wad_deadline_passed(&base, &next)) {
        }
        next = wad_deadline_us(&base, 1000);
    }
}

#else

static const wad_timer pace = {&corran32_cnt1, .clock_hz = 8000000, .rate = WAD_RATE_HZ(1000)};
static volatile bool half_full;
static const uint16_t *volatile half;

static void on_half(const uint16_t *c, size_t n, void *context)
{
    (void)context;
    (void)n;
    half = c;
    half_full = true;
}

static wad_status sample(void)
{
    static const uint8_t channels[] = {4};
    static const wad_adc_scan scan = {.adc = &adc,
                                      .channels = channels,
                                      .n_channels = 1,
                                      .codes = codes,
                                      .n = RESULTS,
                                      .timer = &pace,
                                      .trigger = CORRAN32_TRIGGER_ADC0_CNT1_WRAP,
                                      .rate = {.hz = 1000, .per = 1},
                                      .half = on_half,
                                      .full = on_half,
                                      .priority = 1};
    wad_status st = wad_timer_open(&pace);
    if (st == WAD_OK)
        st = wad_adc_begin(&scan, NULL);
    while (st == WAD_OK) {
        uint32_t state = wad_irq_save();
        while (!half_full) { /* a request that comes here still ends the sleep */
            wad_port_sleep();
            wad_irq_restore(state); /* its handler runs */
            state = wad_irq_save();
        }
        half_full = false;
        wad_irq_restore(state);
        judge(half, RESULTS / 2u);
    }
    return st;
}

void handle_ADC0(void);
void handle_ADC0(void)
{
    wad_adc_handle(&adc);
}

#endif

#if !defined(BY_POLLING) && !defined(BY_INTERRUPT)
void handle_DMA0(void);
void handle_DMA0(void)
{
    wad_dma_handle(&mover);
}

static wad_status open(void)
{
    wad_status st = wad_dma_open(&mover, &corran32_dma0, 1);
    return st == WAD_OK ? wad_adc_open(&adc) : st;
}
#else
static wad_status open(void)
{
    return wad_adc_open(&adc);
}
#endif

int main(void)
{
    wad_status st = wad_timebase_open(&base);
    if (st == WAD_OK)
        st = wad_pin_output(SKERRY_WARN, false);
    if (st == WAD_OK)
        st = open();
    if (st == WAD_OK)
        st = wad_adc_add(&level);
    if (st == WAD_OK)
        st = wad_adc_calibrate(&adc);
    wad_irq_global_on();
    if (st == WAD_OK)
        st = sample();
    return (int)st;
}
