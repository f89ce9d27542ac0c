/* SPDX-License-Identifier: MIT */
/*
 * Captured pins as exchanges: frames out and in, by select, with clock rate, mode and what is
 * wrong.
 *
 *     wad_exchange_form form = {.bits = 8, .mode = -1};            the mode from the edges
 *     wad_exchanges *x = wad_exchange_decode(capture, channels, end_ps, &form, &why);
 *     wad_show_exchanges(x, 4, stdout);
 *     wad_exchanges_free(x);
 *
 * The level of the clock before its first edge is the one it rests at. Which edge takes is told by
 * the other one: data change there. Where they do not change, it is not known, and said so.
 */
#ifndef WADIUM_HOST_EXCHANGE_H
#define WADIUM_HOST_EXCHANGE_H

#include "bench.h"

enum { WAD_LINE_SELECT, WAD_LINE_CLOCK, WAD_LINE_MOSI, WAD_LINE_MISO, WAD_EXCHANGE_LINES };

typedef struct wad_exchange_form {
    unsigned bits; /**< of a frame, 1 to 32 */
    int mode;      /**< 0 to 3; -1: from the edges */
    bool lsb_first, select_high;
    uint64_t setup_ps, hold_ps; /**< data must stand so long before and behind the taking edge */
} wad_exchange_form;

/** One select's exchange; without a select, clock edges without a long pause. */
typedef struct wad_exchange {
    uint64_t from_ps, to_ps;
    unsigned first, n;    /**< its frames */
    unsigned extra;       /**< bits behind the last whole frame */
    unsigned mode;        /**< 0 to 3 */
    bool ambiguous;       /**< the lower bit of the mode is a guess: data toggle too little */
    bool disagrees;       /**< data out change at one edge of the clock and data in at the other */
    double hz, duty;      /**< of the clock; 0 with fewer than two periods */
    unsigned early, late; /**< setup and hold violations */
    bool glitch;          /**< a select shorter than a bit, without a clock */
} wad_exchange;

typedef struct wad_exchange_frame {
    uint64_t from_ps, to_ps; /**< first and last edge of its clock */
    uint32_t out, in;
} wad_exchange_frame;

typedef struct wad_exchange_sample {
    uint64_t ps;
    bool out, in;
} wad_exchange_sample;

typedef struct wad_exchanges {
    wad_exchange_form form;
    const wad_exchange *exchanges;
    unsigned n;
    const wad_exchange_frame *frames;
    unsigned n_frames;
    const wad_exchange_sample *samples; /**< where bits were taken */
    unsigned n_samples;
    unsigned shorts, glitches, early, late, disagreeing;
    bool has[WAD_EXCHANGE_LINES];
    const wad_edge_record *edges[WAD_EXCHANGE_LINES];
    unsigned n_edges[WAD_EXCHANGE_LINES];
    uint64_t end_ps;
} wad_exchanges;

/** `channels` of the capture, -1 for a line that is not there; the clock must be. NULL: `why`
 * (g_free). */
wad_exchanges *wad_exchange_decode(const wad_capture *capture, const int *channels, uint64_t end_ps,
                                   const wad_exchange_form *form, char **why);
void wad_exchanges_free(wad_exchanges *exchanges);

/** Each with its time, form, and at most `rows` rows of frames (0: all), then a sum. */
void wad_show_exchanges(const wad_exchanges *exchanges, unsigned rows, FILE *out);
/** The lines, where bits were taken, and the frames. Without times: the first exchanges. */
bool wad_plot_exchanges(const wad_exchanges *exchanges, const wad_plot_options *options,
                        const char *path, char **why);

#endif
