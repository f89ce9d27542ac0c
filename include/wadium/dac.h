/* SPDX-License-Identifier: MIT */
/*
 * Digital to analog converters: one value, a wave, a stream.
 *
 *     static wad_dac horn;
 *     static uint16_t wave[64];
 *
 *     st = wad_dac_open(&horn, &corran32_dac0, CORRAN32_ROUTE_DAC0_OUT_PA5, false);
 *     size_t n = wad_wave_points(&corran32_cnt1, 440, 64);       those that hit 440 Hz best
 *     wad_wave_sine(wave, n, 1000, 2048);
 *     st = wad_timer_open(&pace, &corran32_cnt1, WAD_HZ(440 * n), &error_ppm);
 *     st = wad_dac_play(&horn, &stream, CORRAN32_TRIGGER_DAC0_CNT1_WRAP);
 *     wad_timer_start(&pace);
 *
 * With a trigger the hardware brings each value out on the timer's edge, however late its handler
 * wrote it: no jitter. Without, values come out when the software writes them.
 */
#ifndef WADIUM_DAC_H
#define WADIUM_DAC_H

#include "dma.h"
#include "route.h"

typedef struct wad_dac_stream wad_dac_stream;

/** A converter in use. The caller owns it; it must outlive the use. */
typedef struct wad_dac {
    const wad_block *block;       /**< read-only */
    uint8_t bits;                 /**< read-only */
    volatile uint32_t underruns;  /**< read-only: triggers that found nothing new */
    const wad_dac_stream *stream; /* private from here */
    volatile size_t at;
} wad_dac;

/** Brings the block up at 0 and routes its pin, whose digital input goes off. `buffered`: it drives
 * a load, and keeps a little from ground and supply. Blocks for the reset only. WAD_E_ABSENT: no
 * buffer; WAD_E_TIMEOUT: it stays in reset; else as wad_pin_route. */
WAD_MUST_CHECK wad_status wad_dac_open(wad_dac *dac, const wad_block *block, wad_route route,
                                       bool buffered);

/** Brings a value out, 0 to 2 ** bits - 1; more is cut off there. Never blocks; a handler may call
 * it. */
void wad_dac_write(wad_dac *dac, uint32_t code);

/** The code for a voltage, to the nearest, of a supply in microvolts. Never blocks. */
uint32_t wad_dac_counts(const wad_dac *dac, uint32_t microvolts, uint32_t supply_uv);

/** Values one after the other, each at a trigger; from the beginning again at the end. The caller
 * owns it and the values. */
struct wad_dac_stream {
    uint16_t *codes;
    size_t n; /**< with `refill`: even */
    /** Half of the values has gone out: it is to be filled anew while the other one goes out.
     * Called by the handler. NULL: the values stay, and are played again and again. */
    void (*refill)(void *context, uint16_t *codes, size_t n);
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
    wad_status (*play)(wad_dac *dac);
    wad_status (*end)(wad_dac *dac);
};
extern const struct wadi_dac_style wadi_dac_by_dma;

/** Begins a stream at a trigger, by the number that the chip gives it. The block's handler must
 * call wad_dac_handle; by DMA the mover's does it. WAD_E_STATE: another owner has the request.
 * WAD_E_ARG: no values, or an odd number of them with `refill`; WAD_E_ABSENT:
 * the block has no triggers, or no interrupt. Never blocks. */
WAD_MUST_CHECK wad_status wad_dac_play(wad_dac *dac, const wad_dac_stream *stream,
                                       uint32_t trigger);
/** Ends it; the last value stays. Never blocks; `refill` may call it. WAD_E_TIMEOUT: its channel of
 * a DMA controller does not let go. */
wad_status wad_dac_end(wad_dac *dac);
void wad_dac_handle(wad_dac *dac);

/** The block's own waves, added to what was written at each trigger. */
typedef enum wad_dac_wave { WAD_WAVE_OFF, WAD_WAVE_TRIANGLE, WAD_WAVE_NOISE } wad_dac_wave;

/** `size_bits`: the wave is 2 ** size_bits - 1 steps high, 1 to 12. WAD_E_ABSENT: the block makes
 * none, or takes no triggers; WAD_E_ARG: sizes beyond. Never blocks. */
WAD_MUST_CHECK wad_status wad_dac_wave_at(wad_dac *dac, wad_dac_wave wave, unsigned size_bits,
                                          uint32_t trigger);

/** One period of a sine in `n` values: offset + amplitude * sin(2 pi i / n), by an integer table of
 * 256 steps that is interpolated; off by half a count at the most, up to an amplitude of 4095. Cut
 * off at 0. Never blocks. */
void wad_wave_sine(uint16_t *codes, size_t n, uint32_t amplitude, uint32_t offset);

/** How many values a period, `most` / 2 to `most`, bring a timer of this block's clock nearest to
 * `hz` periods a second: the largest of equally good ones. Never blocks. */
size_t wad_wave_points(const wad_block *timer, uint32_t hz, size_t most);

#endif
