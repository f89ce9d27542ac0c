/* SPDX-License-Identifier: MIT */
/* Serial lines: levels to bytes, with what is wrong with each, and bytes to edges. */
#ifndef WADI_SERIAL_H
#define WADI_SERIAL_H

#include "wadium/host/serial.h"

typedef struct wadi_serial_byte {
    uint64_t ps; /* of its start bit */
    uint16_t data;
    bool framing, parity, is_break;
} wadi_serial_byte;

typedef void (*wadi_serial_fn)(void *ctx, const wadi_serial_byte *byte);

/* What a sample is of. */
typedef enum wadi_sample_of {
    WADI_SAMPLE_START,
    WADI_SAMPLE_DATA,
    WADI_SAMPLE_PARITY,
    WADI_SAMPLE_STOP
} wadi_sample_of;

typedef void (*wadi_sample_fn)(void *ctx, uint64_t ps, bool level, wadi_sample_of of);

typedef struct wadi_serial_decoder {
    wad_serial_format format;
    wadi_serial_fn fn;
    void *ctx;
    bool level, receiving;
    uint64_t start;
    struct {
        uint64_t ps;
        bool level;
    } change[64];
    unsigned n;
    wadi_sample_fn on_sample; /* told where each bit was looked at; may be NULL */
} wadi_serial_decoder;

void wadi_serial_begin(wadi_serial_decoder *d, const wad_serial_format *format, wadi_serial_fn fn,
                       void *ctx);
/** A change of the line. Bytes are told once their stop bit's middle has passed: at the next
 * change, or at wadi_serial_until. */
void wadi_serial_edge(wadi_serial_decoder *d, uint64_t ps, bool level);
void wadi_serial_until(wadi_serial_decoder *d, uint64_t ps);
/** When the byte that is under way is over; 0: none is. */
uint64_t wadi_serial_over(const wadi_serial_decoder *d);

/** Time of half a bit times `halves`, in picoseconds. */
uint64_t wadi_serial_ps(const wad_serial_format *f, uint64_t halves);
/** Levels of a frame from the start bit on, lowest first, stop bits left out; how many. */
unsigned wadi_serial_frame(const wad_serial_format *f, unsigned data, uint32_t *levels);

#endif
