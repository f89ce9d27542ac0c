/* SPDX-License-Identifier: MIT */
/*
 * A captured pin as serial bytes.
 *
 *     wad_serial_format format = {.bits = 8, .parity = 'N', .stop_halves = 2};   baud 0: estimated
 *     wad_serial_decoded *d = wad_serial_decode(capture, 0, end_ps, &format, false, &why);
 *     wad_show_serial(d, "uart_tx", stdout);
 *     wad_plot_serial(d, &options, "uart.png", &why);
 *     wad_serial_decoded_free(d);
 */
#ifndef WADIUM_HOST_DECODE_H
#define WADIUM_HOST_DECODE_H

#include "bench.h"

/** Where a bit was looked at. */
typedef struct wad_serial_sample {
    uint64_t ps;
    bool level;
    enum { WAD_SAMPLE_START, WAD_SAMPLE_DATA, WAD_SAMPLE_PARITY, WAD_SAMPLE_STOP } of;
} wad_serial_sample;

typedef struct wad_serial_decoded {
    wad_serial_format format;
    bool estimated; /**< the baud is that of the edges */
    const wad_serial_heard *bytes;
    unsigned n_bytes, framing, parity, breaks;
    const wad_serial_sample *samples; /**< in order of time */
    unsigned n_samples;
    const wad_edge_record *edges; /**< inversion undone */
    unsigned n_edges;
    uint64_t end_ps;
} wad_serial_decoded;

/** The baud that the edges agree with best, and the largest of those that decode as well; 0: there
 * are not enough edges. */
double wad_serial_estimate(const wad_edge_record *edges, unsigned n,
                           const wad_serial_format *format);

/** NULL: `why` (g_free). */
wad_serial_decoded *wad_serial_decode(const wad_capture *capture, unsigned channel, uint64_t end_ps,
                                      const wad_serial_format *format, bool inverted, char **why);
void wad_serial_decoded_free(wad_serial_decoded *decoded);

/** One row of up to 16 bytes: the first one's time, hexadecimal, text. */
void wad_show_serial_row(const wad_serial_heard *bytes, unsigned n, FILE *out);
/** Rows of bytes with their times, errors named, and a sum. */
void wad_show_serial(const wad_serial_decoded *decoded, const char *name, FILE *out);
/** The line with start bits, sampling points and errors marked. Without times: the first bytes. */
bool wad_plot_serial(const wad_serial_decoded *decoded, const wad_plot_options *options,
                     const char *path, char **why);

#endif
