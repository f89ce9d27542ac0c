/* SPDX-License-Identifier: MIT */
/*
 * Analog to digital converters.
 *
 *     static wad_adc adc;
 *
 *     const wad_adc_config config = {.bits = 12, .reference_uv = 3300000, .time = &base};
 *     st = wad_adc_open(&adc, &corran32_adc0, &config, NULL);
 *     st = wad_adc_input(&adc, 4, CORRAN32_ROUTE_ADC0_IN4_PA4, 10000);     10 kohm behind it
 *     st = wad_adc_calibrate(&adc);
 *     st = wad_adc_read(&adc, 4, &code, 1000);
 *     uint32_t uv = wad_adc_microvolts(&adc, code);
 *
 * The order inside is the silicon's: clock, reset, converter clock within its limits, reference and
 * its settling, power and the time it takes, calibration, pins without their digital inputs, a
 * sampling time that fits the source. Results are right aligned: 0 to 2 ** bits - 1.
 *
 * Where results go into a buffer by themselves, see wad_adc_scan.
 */
#ifndef WADIUM_ADC_H
#define WADIUM_ADC_H

#include "dma.h"
#include "route.h"
#include "timebase.h"

typedef enum wad_adc_reference {
    WAD_REFERENCE_SUPPLY,
    WAD_REFERENCE_INTERNAL,
    WAD_REFERENCE_EXTERNAL
} wad_adc_reference;

typedef struct wad_adc_config {
    uint8_t bits; /**< of a result; 0: as the block does it best, at most 12 */
    wad_adc_reference reference;
    uint32_t reference_uv;     /**< microvolts; 0: the internal one's, else 3 300 000 */
    wad_route reference_route; /**< the external one's pin; 0: it needs none */
    uint32_t clock_hz;         /**< fastest converter clock; 0: the block's own limit */
    uint8_t average;           /**< 2 ** this many conversions are averaged, 0 to 8 */
    uint8_t extra_bits; /**< bits gained by 4 ** this many conversions, 0 to 4, on top of `bits` */
    const wad_timebase *time; /**< for timeouts; NULL: no call that waits for a conversion */
    wad_dma_port *dma;        /**< scans are moved by DMA; NULL: by interrupt */
} wad_adc_config;

/** For a configuration: `static wad_dma_port d = WAD_ADC_BY_DMA(&mover, DONE);` with the request
 * that the chip has for the converter. A scan whose size in bytes is a power of two, and that is
 * aligned to it, takes one channel, else two. The block converts the channels of a scan by itself,
 * so there are no more of them than it has slots, and no averages but its own. */
#define WAD_ADC_BY_DMA(mover_, done_)                                                              \
    {                                                                                              \
        .style = &wadi_adc_by_dma, .mover = (mover_), .rx_request = (done_), .owner = "converter"  \
    }

struct wad_adc_scan;

/** A converter in use. The caller owns it; it must outlive the use. */
typedef struct wad_adc {
    const wad_block *block;     /**< read-only */
    uint32_t reference_uv;      /**< read-only: full scale, in microvolts; set by
                                   wad_adc_supply_from as well */
    uint32_t clock_hz;          /**< read-only: of the converter */
    uint8_t bits;               /**< read-only: of a result, extra ones included */
    volatile uint32_t overruns; /**< read-only: results that were lost */
    const wad_timebase *time;   /* private from here */
    wad_dma_port *dma;
    const struct wad_adc_scan *scan;
    volatile size_t at;
    volatile uint8_t slot;
    uint8_t own_bits, software; /* of one conversion; log2 of those that are added up here */
    uint16_t left;
    uint32_t sum;
} wad_adc;

/**
 * Brings the block up: converter clock, resolution, reference, power. Blocks until the reference
 * has settled and the converter is ready, some 100 us, by looking at their flags.
 * @param clock_hz  out, may be NULL: the converter's clock
 * WAD_E_RANGE: no prescaler brings the clock within its limits, or the block has no such
 * resolution; nothing written. WAD_E_ABSENT: no such reference. WAD_E_ARG: averages beyond 8, extra
 * bits beyond 4, both at once. WAD_E_TIMEOUT: reset, power or reference never came.
 */
WAD_MUST_CHECK wad_status wad_adc_open(wad_adc *adc, const wad_block *block,
                                       const wad_adc_config *config, uint32_t *clock_hz);

/** Off: it draws nothing. Ends a scan. */
void wad_adc_close(wad_adc *adc);

/**
 * Prepares a channel: gives it its pin (route 0: an internal input, which is connected), takes the
 * pin from the digital input, and sets the shortest sampling time in which a step of full scale
 * through `source_ohms` comes within half a count: (source + switch) * capacitor * ln(2 ** (bits +
 * 1)). WAD_E_ABSENT: no such channel, no pins like that; WAD_E_RANGE: no sampling time is as long,
 * the longest is set: add a buffer, or a slower clock; else as wad_pin_route. Never blocks but for
 * the port's reset.
 */
WAD_MUST_CHECK wad_status wad_adc_input(wad_adc *adc, unsigned channel, wad_route route,
                                        uint32_t source_ohms);

/** Against the next channel instead of ground; results are two's complement then, in `bits` bits,
 * and wad_adc_signed extends them. WAD_E_ABSENT: the block cannot. */
WAD_MUST_CHECK wad_status wad_adc_differential(wad_adc *adc, unsigned channel, bool on);

/** Measures its own offset and gain. Blocks for that, some 50 us. WAD_E_ABSENT: it has none to do;
 * WAD_E_STATE: a scan runs; WAD_E_TIMEOUT: its flag did not come. */
WAD_MUST_CHECK wad_status wad_adc_calibrate(wad_adc *adc);

/** One result, waited for. WAD_E_STATE: a scan runs, or no `time`; WAD_E_ABSENT: no such channel;
 * WAD_E_TIMEOUT: it did not end within `timeout_us`. Not from a handler. */
WAD_MUST_CHECK wad_status wad_adc_read(wad_adc *adc, unsigned channel, uint16_t *code,
                                       uint32_t timeout_us);

/** Time that one result of a channel takes, in nanoseconds, averaging included. Never blocks. */
uint32_t wad_adc_result_ns(const wad_adc *adc, unsigned channel);

/* ---- in the background ---- */

/** Half a buffer is full, its first element, and how many. Called by the handler. */
typedef void (*wad_adc_fn)(void *context, const uint16_t *codes, size_t n);

/**
 * Channels one after the other into a buffer, which is filled again and again: `half` hears of the
 * first half, `full` of the second, while the other one is being filled. The caller owns it and
 * `codes`.
 */
typedef struct wad_adc_scan {
    const uint8_t *channels;
    uint8_t n_channels; /**< 1 or more; the timer begins the first, each other follows */
    uint16_t *codes;
    size_t n; /**< a multiple of 2 * n_channels */
    const struct wad_timer
        *timer;       /**< opened, stopped; its period paces the scan. NULL: as fast as it goes */
    uint32_t trigger; /**< with a timer: the number that the chip gives its trigger */
    wad_rate rate;    /**< with a timer: scans a second; hz 0: as the timer stands */
    wad_adc_fn half, full; /**< may be NULL */
    void *context;
    bool once;         /**< ends behind `full` */
    unsigned priority; /**< of its interrupt */
} wad_adc_scan;

/**
 * Begins a scan, and its timer. The block's handler must call wad_adc_handle; by DMA the mover's is
 * enough, and the block's counts overruns.
 * @param error_ppm  out, may be NULL: achieved against wanted rate; 0 without a timer
 * WAD_E_ARG: no channels, a size that is no multiple of 2 * n_channels; WAD_E_RANGE: the results
 * take longer than the rate allows; WAD_E_ABSENT: no interrupt, no triggers; WAD_E_STATE: one runs.
 * Nothing has begun then.
 */
WAD_MUST_CHECK wad_status wad_adc_begin(wad_adc *adc, const wad_adc_scan *scan, int32_t *error_ppm);
/** Ends it, and stops its timer. Never blocks, but for an element of DMA; a callback may call it.
 * WAD_E_TIMEOUT: its channel of a DMA controller does not let go. */
wad_status wad_adc_end(wad_adc *adc);
/** The converter's handler. */
void wad_adc_handle(wad_adc *adc);

/* What moves results instead of the handler. */
struct wadi_adc_style {
    wad_status (*open)(wad_adc *adc);
    wad_status (*begin)(wad_adc *adc, const wad_adc_scan *scan);
    wad_status (*end)(wad_adc *adc);
};
extern const struct wadi_adc_style wadi_adc_by_dma;

/** For somebody else who moves the results: DMA. Where they are read, and how wide. */
uintptr_t wad_adc_address(const wad_adc *adc);
unsigned wad_adc_access_bytes(const wad_adc *adc);

/* ---- counts and microvolts ---- */

/* Never block; a handler may call them. */

/** code * reference / 2 ** bits, to the nearest microvolt. */
uint32_t wad_adc_microvolts(const wad_adc *adc, uint32_t code);
/** The way back: microvolts to the nearest code, 2 ** bits - 1 at the most. */
uint32_t wad_adc_counts(const wad_adc *adc, uint32_t microvolts);
/** A differential result. */
int32_t wad_adc_signed(const wad_adc *adc, uint16_t code);
/** The supply, where it is the reference, from a result of the bandgap channel: every later
 * microvolt is measured with it. Microvolts; 0: the chip has no bandgap. */
uint32_t wad_adc_supply_from(wad_adc *adc, uint16_t bandgap_code);
/** Tenths of a degree Celsius from a result of the temperature channel. */
int32_t wad_adc_celsius_tenths(const wad_adc *adc, uint16_t code);

/** Is a value above or below? Changes only beyond `high`, and back only below `low`. */
typedef struct wad_threshold {
    uint32_t low, high;
    bool above; /**< read-only */
} wad_threshold;

/** True when it has changed sides with this value. */
static inline bool wad_threshold_update(wad_threshold *t, uint32_t value)
{
    bool was = t->above;
    if (value > t->high)
        t->above = true;
    else if (value < t->low)
        t->above = false;
    return t->above != was;
}

#endif
