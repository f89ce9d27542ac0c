/* SPDX-License-Identifier: MIT */
/*
 * Digital to analog converters: one value, a wave, a stream.
 *
 *     static uint16_t wave[64];
 *     static const wad_dac horn = {&corran32_dac0, .route = CORRAN32_ROUTE_DAC0_OUT_PA5,
 *                                  .streams = &(wad_dac_streams){0}};
 *     static wad_dac_stream tone = {&horn, wave, .trigger = CORRAN32_TRIGGER_DAC0_CNT1_WRAP,
 *                                   .priority = 1};
 *
 *     void handle_DAC0(void) { wad_dac_handle(&horn); }
 *
 *     tone.n = wad_wave_points(48000000, 440, 64);       those that hit 440 Hz best
 *     wad_wave_sine(wave, tone.n, 1000, 2048);
 *     st = wad_dac_open(&horn);
 *     st = wad_timer_open(&pace);                        of 440 * n a second
 *     st = wad_dac_play(&tone);
 *     wad_timer_start(&pace);
 *
 * A converter is a constant, as a serial port is (<wadium/uart.h>). With a trigger the hardware
 * brings each value out on the timer's edge, however late its handler wrote it: no jitter. Without,
 * values come out when the software writes them.
 */
#ifndef WADIUM_DAC_H
#define WADIUM_DAC_H

#include "dma.h"
#include "unit.h"
#include "wave.h"

#ifndef WADI_DAC_FORMS
#error                                                                                             \
    "include the chip's own header, such as corran32_roles.h: it includes this one for a chip that has such converters"
#else

typedef struct wad_dac_stream wad_dac_stream;

/** A block of the chip that is such a converter; generated. */
typedef struct wad_dac_unit {
    wad_block block;
    uint8_t form;
} wad_dac_unit;

/** What streams need while they play: `.streams = &(wad_dac_streams){0}`. */
typedef struct wad_dac_streams {
    volatile uint32_t underruns;  /**< triggers that found nothing new, since it was opened */
    const wad_dac_stream *stream; /**< read-only: which one plays; NULL: none */
    volatile size_t at;           /* private */
} wad_dac_streams;

/** A converter. What is left out is 0. */
typedef struct wad_dac {
    const wad_dac_unit *unit; /**< `&corran32_dac0` */
    wad_route route;          /**< its pin, whose digital input goes off; 0: it needs none */
    bool buffered;            /**< it drives a load, and keeps a little from ground and supply */
    wad_dac_streams *streams; /**< NULL: no streams */
} wad_dac;

/** Values one after the other, each at a trigger; from the beginning again at the end. The caller
 * owns it and the values. */
struct wad_dac_stream {
    const wad_dac *dac; /**< which has `streams` */
    uint16_t *codes;
    size_t n;         /**< with `refill`: even */
    uint32_t trigger; /**< that brings each out, by the number that the chip gives it */
    /** Half of the values has gone out: it is to be filled anew while the other one goes out.
     * Called by the handler. NULL: the values stay, and are played again and again. */
    void (*refill)(uint16_t *codes, size_t n, void *context);
    void *context;
    unsigned priority;
    wad_dma_port *dma; /**< values are moved by DMA; NULL: by the block's handler */
};

/** For a stream: `static wad_dma_port d = WAD_DAC_BY_DMA(&mover, EMPTY);` with the request that the
 * chip has for the converter. Values that are aligned to their size in bytes, a power of two, take
 * one channel, else two. */
#define WAD_DAC_BY_DMA(mover_, empty_)                                                             \
    {                                                                                              \
        .style = &wadi_dac_by_dma, .mover = (mover_), .tx_request = (empty_), .owner = "wave"      \
    }

/* What moves values instead of the handler. */
struct wadi_dac_style {
    wad_status (*play)(const wad_dac_stream *stream);
    wad_status (*end)(const wad_dac_stream *stream);
};
extern const struct wadi_dac_style wadi_dac_by_dma;

/** The block's own waves, added to what was written at each trigger. */
typedef enum wad_dac_wave { WAD_WAVE_OFF, WAD_WAVE_TRIANGLE, WAD_WAVE_NOISE } wad_dac_wave;

#include "code/dac.h" /* inline bodies, which nobody needs to read */

/** Brings the block up at 0 and routes its pin. Opening anew is right at any time: a stream of
 * before ends. Blocks for the reset only. WAD_E_ABSENT: no buffer (where the compiler knows, it
 * ends the build); WAD_E_TIMEOUT: it stays in reset; else as wad_pin_route. Not from a handler. */
WADI_INLINE WAD_MUST_CHECK wad_status wad_dac_open(const wad_dac *dac)
{
    if (WADI_MAY_FOLD && wadi_dac_is_known(dac) && !dac->streams)
        return wadi_dac_open_known(dac);
    return WADI_BY_FORM(WADI_DAC_FORMS, dac->unit->form, wadi_dac_open, dac);
}

/** Off: it drives nothing, and asks for nothing. Ends a stream. The pin keeps its function, the
 * block its clock. Never blocks, but for DMA that lets go. */
WADI_INLINE void wad_dac_close(const wad_dac *dac)
{
    WADI_BY_FORM(WADI_DAC_FORMS, dac->unit->form, wadi_dac_close, dac);
}

/** Brings a value out, 0 to 2 ** bits - 1; more is cut off there. Never blocks; a handler may call
 * it. */
WADI_INLINE void wad_dac_write(const wad_dac *dac, uint32_t code)
{
    wadi_dac_put(dac, wadi_dac_roles(dac->unit->form), code);
}

/** Of a value. */
WADI_INLINE unsigned wad_dac_bits(const wad_dac *dac)
{
    return wadi_dac_bits(dac);
}

/** The code for a voltage, to the nearest, of a supply in microvolts. Never blocks. */
WADI_INLINE uint32_t wad_dac_counts(const wad_dac *dac, uint32_t microvolts, uint32_t supply_uv)
{
    return wadi_dac_counts(wadi_dac_bits(dac), microvolts, supply_uv);
}

/** Begins a stream at its trigger. The block's handler must call wad_dac_handle; by DMA the mover's
 * does it. WAD_E_STATE: one plays, the converter has no `streams`, or another owner has the DMA
 * request; WAD_E_ARG: no values, or an odd number of them with `refill`; WAD_E_RANGE: no such
 * trigger; WAD_E_ABSENT: the block has no triggers, or no interrupt. Never blocks. */
WADI_INLINE WAD_MUST_CHECK wad_status wad_dac_play(const wad_dac_stream *stream)
{
    return WADI_BY_FORM(WADI_DAC_FORMS, stream->dac->unit->form, wadi_dac_play, stream);
}

/** Ends it; the last value stays. Never blocks; `refill` may call it. WAD_E_TIMEOUT: its channel of
 * a DMA controller does not let go. */
WADI_INLINE wad_status wad_dac_end(const wad_dac *dac)
{
    return WADI_BY_FORM(WADI_DAC_FORMS, dac->unit->form, wadi_dac_end, dac);
}

/** The converter's handler. */
WADI_INLINE void wad_dac_handle(const wad_dac *dac)
{
    WADI_BY_FORM(WADI_DAC_FORMS, dac->unit->form, wadi_dac_handle, dac);
}

/** A wave of the block's own at a trigger. `size_bits`: it is 2 ** size_bits - 1 steps high, 1 to
 * 12. WAD_E_ABSENT: the block makes none, or takes no triggers; WAD_E_ARG: sizes beyond;
 * WAD_E_RANGE: higher than the block's, or no such trigger. Never blocks. */
WADI_INLINE WAD_MUST_CHECK wad_status wad_dac_wave_at(const wad_dac *dac, wad_dac_wave wave,
                                                      unsigned size_bits, uint32_t trigger)
{
    return WADI_BY_FORM(WADI_DAC_FORMS, dac->unit->form, wadi_dac_wave, dac, wave, size_bits,
                        trigger);
}

#endif
#endif
