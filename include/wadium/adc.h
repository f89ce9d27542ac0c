/* SPDX-License-Identifier: MIT */
/*
 * Analog to digital converters.
 *
 *     static const wad_adc adc = {&corran32_adc0, .clock_hz = 8000000, .bits = 12};
 *     static const wad_adc_input level = {&adc, .channel = 4,
 *                                         .route = CORRAN32_ROUTE_ADC0_IN4_PA4,
 *                                         .source_ohms = 10000};
 *
 *     st = wad_adc_open(&adc);
 *     st = wad_adc_add(&level);
 *     st = wad_adc_calibrate(&adc);
 *     st = wad_adc_read(&level, &code, 0);
 *     uint32_t uv = wad_adc_microvolts(&adc, code);
 *
 * Converter and inputs are constants, as a serial port is (<wadium/uart.h>): where the compiler
 * sees them, each call is the register accesses themselves, and what they do not name costs
 * nothing.
 *
 * The order inside is the silicon's: clock, reset, converter clock within its limits, reference and
 * its settling, power and the time it takes, calibration, pins without their digital inputs, a
 * sampling time that fits the source. Results are right aligned: 0 to 2 ** bits - 1.
 *
 * Where results go into a buffer by themselves, see wad_adc_scan.
 */
#ifndef WADIUM_ADC_H
#define WADIUM_ADC_H

#include "clock.h"
#include "dma.h"
#include "timebase.h"
#include "unit.h"

#ifndef WADI_ADC_FORMS
#error                                                                                             \
    "include the chip's own header, such as corran32_roles.h: it includes this one for a chip that has converters"
#else

struct wad_adc_scan;
struct wad_timer;

/** A block of the chip that is a converter; generated. */
typedef struct wad_adc_unit {
    wad_block block;
    uint8_t form;
} wad_adc_unit;

typedef enum wad_adc_reference {
    WAD_REFERENCE_SUPPLY,
    WAD_REFERENCE_INTERNAL,
    WAD_REFERENCE_EXTERNAL
} wad_adc_reference;

/** What scans need while they run: `.scans = &(wad_adc_scans){0}`. */
typedef struct wad_adc_scans {
    volatile uint32_t overruns;      /**< results that were lost since it was opened */
    const struct wad_adc_scan *scan; /**< read-only: which one runs; NULL: none */
    volatile size_t at;              /* private from here */
    volatile uint8_t slot;
    uint16_t left;
    uint32_t sum;
} wad_adc_scans;

/** A converter. What is left out is 0: as the block does it best, against the supply. */
typedef struct wad_adc {
    const wad_adc_unit *unit; /**< `&corran32_adc0` */
    uint32_t clock_hz;   /**< of the block's clock, as it is when the converter is opened; 0: worked
                            out from the registers, at run time */
    uint32_t fastest_hz; /**< fastest converter clock; 0: the block's own limit */
    uint8_t bits;    /**< of a result, 16 at the most; 0: as the block does it best, at most 12 */
    uint8_t average; /**< 2 ** this many conversions are averaged, 0 to 8 */
    uint8_t extra_bits; /**< bits gained by 4 ** this many conversions, 0 to 4, on top of `bits` */
    wad_adc_reference reference;
    uint32_t reference_uv;     /**< microvolts; 0: the internal one's, else 3 300 000 */
    wad_route reference_route; /**< the external one's pin; 0: it needs none */
    uint32_t *measured_uv; /**< where wad_adc_supply_from leaves what it measured: it stands instead
                              of reference_uv then; NULL: nowhere */
    const wad_timebase *time; /**< for time limits; NULL: readings end by themselves, or are given
                                 up after 65 536 looks */
    wad_adc_scans *scans;     /**< NULL: no scans in the background */
    wad_dma_port *dma;        /**< scans are moved by DMA; NULL: by interrupt */
} wad_adc;

/** For a converter: `static wad_dma_port d = WAD_ADC_BY_DMA(&mover, DONE);` with the request that
 * the chip has for it. A scan whose size in bytes is a power of two, and that is aligned to it,
 * takes one channel, else two. The block converts the channels of a scan by itself, so there are no
 * more of them than it has slots, and no averages but its own. */
#define WAD_ADC_BY_DMA(mover_, done_)                                                              \
    {                                                                                              \
        .style = &wadi_adc_by_dma, .mover = (mover_), .rx_request = (done_), .owner = "converter"  \
    }

/** One input, and what stands behind it. */
typedef struct wad_adc_input {
    const wad_adc *adc;
    uint8_t channel;      /**< its number, as the block counts them */
    wad_route route;      /**< its pin; 0: an internal input, which is connected */
    uint32_t source_ohms; /**< of what drives the pin */
    bool differential;    /**< against the next channel instead of ground; results are two's
                             complement then, and wad_adc_signed extends them */
} wad_adc_input;

/** Half a buffer is full, its first element, and how many. Called by the handler. */
typedef void (*wad_adc_fn)(const uint16_t *codes, size_t n, void *context);

/**
 * Channels one after the other into a buffer, which is filled again and again: `half` hears of the
 * first half, `full` of the second, while the other one is being filled. The caller owns it and
 * `codes`.
 */
typedef struct wad_adc_scan {
    const wad_adc *adc;      /**< which has `scans` */
    const uint8_t *channels; /**< of inputs that were added */
    uint8_t n_channels;      /**< 1 or more; the timer begins the first, each other follows */
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

/* What moves results instead of the handler. */
struct wadi_adc_style {
    wad_status (*open)(const wad_adc *adc);
    wad_status (*begin)(const wad_adc_scan *scan);
    wad_status (*end)(const wad_adc *adc);
    void (*close)(const wad_adc *adc);
};
extern const struct wadi_adc_style wadi_adc_by_dma;

#include "code/adc.h" /* inline bodies, which nobody needs to read */

/**
 * Brings the block up: converter clock, resolution, reference, power. Blocks until the reference
 * has settled and the converter is ready, some 100 us, by looking at their flags. Opening anew is
 * right at any time: a scan of before is forgotten; inputs are to be added again.
 *
 * What the block cannot be ends the build where the compiler sees it. Else WAD_E_RANGE: no
 * prescaler brings the clock within its limits, or the block has no such resolution; WAD_E_ABSENT:
 * no such reference, or it asks no DMA controller; WAD_E_ARG: averages beyond 8, extra bits beyond
 * 4, both at once, DMA without scans; nothing is written then. WAD_E_TIMEOUT: reset, power or
 * reference never came; WAD_E_STATE: the DMA request is taken; else as wad_pin_route. Not from a
 * handler.
 */
WADI_INLINE WAD_MUST_CHECK wad_status wad_adc_open(const wad_adc *adc)
{
    wad_status st;
    if (WADI_MAY_FOLD && wadi_adc_is_known(adc) && !adc->scans && !adc->dma)
        st = wadi_adc_open_known(adc, NULL);
    else
        st = WADI_BY_FORM(WADI_ADC_FORMS, adc->unit->form, wadi_adc_open, adc);
    if (st == WAD_OK)
        wadi_tell_clock(&adc->unit->block, adc->clock_hz);
    return st;
}

/** Off: it draws nothing, and asks for nothing. Ends a scan. Pins keep their functions, the block
 * its clock. Never blocks, but for DMA that lets go. */
WADI_INLINE void wad_adc_close(const wad_adc *adc)
{
    WADI_BY_FORM(WADI_ADC_FORMS, adc->unit->form, wadi_adc_close, adc);
}

/**
 * Prepares an input: gives it its pin, takes the pin from the digital input, and sets the shortest
 * sampling time in which a step of full scale through `source_ohms` comes within half a count:
 * (source + switch) * capacitor * ln(2 ** (bits + 1)).
 *
 * A constant input that cannot be ends the build. Else WAD_E_ABSENT: no such channel, no pins like
 * that, no differences; WAD_E_RANGE: no sampling time is as long: add a buffer, or take a slower
 * clock; nothing is written then; else as wad_pin_route. Never blocks but for the port's reset.
 */
WADI_INLINE WAD_MUST_CHECK wad_status wad_adc_add(const wad_adc_input *input)
{
    if (WADI_MAY_FOLD && wadi_adc_input_is_known(input))
        return wadi_adc_add_body(input, wadi_adc_roles(input->adc->unit->form), false);
    return WADI_BY_FORM(WADI_ADC_FORMS, input->adc->unit->form, wadi_adc_add, input);
}

/** Both for a converter of one input: wad_adc_open, then wad_adc_add; what they do to gates and
 * resets goes together. */
WADI_INLINE WAD_MUST_CHECK wad_status wad_adc_open_input(const wad_adc_input *input)
{
    const wad_adc *adc = input->adc;
    if (WADI_MAY_FOLD && wadi_adc_input_is_known(input) && !adc->scans && !adc->dma &&
        wadi_is_plain(input->route) && !adc->reference_route) {
        wad_status folded = wadi_adc_open_input_known(input);
        if (folded == WAD_OK)
            wadi_tell_clock(&adc->unit->block, adc->clock_hz);
        return folded;
    }
    wad_status st = wad_adc_open(adc);
    return st == WAD_OK ? wad_adc_add(input) : st;
}

/** Measures its own offset and gain. Blocks for that, some 50 us. WAD_E_ABSENT: it has none to do;
 * WAD_E_STATE: a scan runs; WAD_E_TIMEOUT: its flag did not come. */
WADI_INLINE WAD_MUST_CHECK wad_status wad_adc_calibrate(const wad_adc *adc)
{
    const wadi_adc_at at = wadi_adc_at_of(adc);
    if (WADI_MAY_FOLD && wadi_adc_is_known(adc) && !adc->scans)
        return wadi_adc_calibrate_body(at, wadi_adc_roles(adc->unit->form));
    return WADI_BY_FORM(WADI_ADC_FORMS, adc->unit->form, wadi_adc_calibrate, at);
}

/**
 * One result, waited for `timeout_us` at the most; 0: for 65 536 looks at its flag. WAD_E_STATE: a
 * scan runs, or a limit and the converter has no `time` (where the compiler knows, it ends the
 * build); WAD_E_ABSENT: no such channel; WAD_E_TIMEOUT: it did not come; it is broken off. Not from
 * a handler.
 */
WADI_INLINE WAD_MUST_CHECK wad_status wad_adc_read(const wad_adc_input *input, uint16_t *code,
                                                   uint32_t timeout_us)
{
    const wad_adc *adc = input->adc;
    WADI_REFUSE_IF(timeout_us && !adc->time, wadi_adc_has_no_time, WAD_E_STATE)
    if (WADI_MAY_FOLD && WADI_FOLDS(timeout_us) && !timeout_us && wadi_adc_is_lean(input))
        return wadi_adc_read_known(input, code);
    return WADI_BY_FORM(WADI_ADC_FORMS, adc->unit->form, wadi_adc_read, wadi_adc_at_of(adc),
                        input->channel, code, timeout_us);
}

/** Time that one result of a channel takes, in nanoseconds, averaging included. Never blocks. */
WADI_INLINE uint32_t wad_adc_result_ns(const wad_adc *adc, unsigned channel)
{
    return WADI_BY_FORM(WADI_ADC_FORMS, adc->unit->form, wadi_adc_result_ns, adc, channel);
}

/** The clock that a converter gets, in hertz: a constant where its `.clock_hz` is; 0: there is none
 * within its limits. */
#define WAD_ADC_HZ(adc) wadi_adc_hz(&(adc))

/* ---- in the background ---- */

/**
 * Begins a scan, and its timer. The block's handler must call wad_adc_handle; by DMA the mover's is
 * enough, and the block's counts overruns.
 * @param error_ppm  out, may be NULL: achieved against wanted rate; 0 without a timer
 * WAD_E_ARG: no channels, a size that is no multiple of 2 * n_channels; WAD_E_RANGE: the results
 * take longer than the rate allows; WAD_E_ABSENT: no interrupt, no triggers, no such channel;
 * WAD_E_STATE: one runs, or the converter has no `scans`. Nothing has begun then.
 */
WADI_INLINE WAD_MUST_CHECK wad_status wad_adc_begin(const wad_adc_scan *scan, int32_t *error_ppm)
{
    return WADI_BY_FORM(WADI_ADC_FORMS, scan->adc->unit->form, wadi_adc_begin, scan, error_ppm);
}

/** Ends it, and stops its timer. Never blocks, but for an element of DMA; a callback may call it.
 * WAD_E_TIMEOUT: its channel of a DMA controller does not let go. */
WADI_INLINE wad_status wad_adc_end(const wad_adc *adc)
{
    return WADI_BY_FORM(WADI_ADC_FORMS, adc->unit->form, wadi_adc_end, adc);
}

/** The converter's handler. */
WADI_INLINE void wad_adc_handle(const wad_adc *adc)
{
    WADI_BY_FORM(WADI_ADC_FORMS, adc->unit->form, wadi_adc_handle, adc);
}

/** For somebody else who moves the results: where they are read, and how wide. Never block. */
WADI_INLINE uintptr_t wad_adc_address(const wad_adc *adc)
{
    return adc->unit->block.base + wadi_adc_roles(adc->unit->form)->data.off;
}

WADI_INLINE unsigned wad_adc_access_bytes(const wad_adc *adc)
{
    return wadi_adc_roles(adc->unit->form)->data.size;
}

/* ---- counts and microvolts ---- */

/* Never block; a handler may call them. */

/** Bits of a result, extra ones included. */
WADI_INLINE unsigned wad_adc_bits(const wad_adc *adc)
{
    return wadi_adc_bits(adc, wadi_adc_roles(adc->unit->form)) + adc->extra_bits;
}

/** Full scale, in microvolts: the reference, as it is said or was measured. */
WADI_INLINE uint32_t wad_adc_reference_uv(const wad_adc *adc)
{
    const uint32_t measured = adc->measured_uv ? *adc->measured_uv : 0;
    if (measured)
        return measured;
    return adc->reference_uv                          ? adc->reference_uv
           : adc->reference == WAD_REFERENCE_INTERNAL ? wadi_adc_roles(adc->unit->form)->internal
                                                      : 3300000u;
}

/** code * reference / 2 ** bits, to the nearest microvolt. */
WADI_INLINE uint32_t wad_adc_microvolts(const wad_adc *adc, uint32_t code)
{
    return wad_muldiv(wad_adc_reference_uv(adc), code, WADI_BIT(wad_adc_bits(adc)));
}

/** The way back: microvolts to the nearest code, 2 ** bits - 1 at the most. */
WADI_INLINE uint32_t wad_adc_counts(const wad_adc *adc, uint32_t microvolts)
{
    return wadi_adc_counts(wad_adc_bits(adc), wad_adc_reference_uv(adc), microvolts);
}

/** A differential result. */
WADI_INLINE int32_t wad_adc_signed(const wad_adc *adc, uint16_t code)
{
    const uint32_t sign = WADI_BIT(wad_adc_bits(adc) - 1u), mask = sign * 2u - 1u;
    return (int32_t)((code & mask) ^ sign) - (int32_t)sign;
}

/** The supply, where it is the reference, from a result of the bandgap channel, in microvolts; the
 * handle's `measured_uv` takes it, and every later microvolt is measured with it. 0: the chip has
 * no bandgap. */
WADI_INLINE uint32_t wad_adc_supply_from(const wad_adc *adc, uint16_t bandgap_code)
{
    const uint32_t bandgap = wadi_adc_roles(adc->unit->form)->bandgap;
    if (!bandgap || !bandgap_code)
        return 0;
    const uint32_t uv = wad_muldiv(bandgap, WADI_BIT(wad_adc_bits(adc)), bandgap_code);
    if (adc->measured_uv)
        *adc->measured_uv = uv;
    return uv;
}

/** Tenths of a degree Celsius from a result of the temperature channel. */
WADI_INLINE int32_t wad_adc_celsius_tenths(const wad_adc *adc, uint16_t code)
{
    const wad_adc_roles *r = wadi_adc_roles(adc->unit->form);
    return wadi_adc_tenths(r->warm, r->slope, wad_adc_microvolts(adc, code));
}

#endif

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
