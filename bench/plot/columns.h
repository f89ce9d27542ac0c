/* SPDX-License-Identifier: MIT */
/* What a channel shows in each column of a picture, or of a line of characters. */
#ifndef WADI_COLUMNS_H
#define WADI_COLUMNS_H

#include <glib.h>
#include <stdbool.h>

#include "gnuplot.h"
#include "wadium/host/capture.h"

/** The levels seen in a column, and the level at its end. */
typedef struct wadi_column {
    unsigned char seen; /* 1 << wad_level */
    unsigned char last;
} wadi_column;

/** The level stood from `from` to `to`. */
void wadi_columns_mark(wadi_column *cols, const wadi_axis *x, uint64_t from, uint64_t to,
                       uint32_t level);
/** Of a captured channel, as many as the axis has; g_free. */
wadi_column *wadi_columns_of(const wad_capture *capture, unsigned channel, const wadi_axis *x);
/** Both levels were seen. */
bool wadi_column_both(const wadi_column *column);
/** One character. */
const char *wadi_column_glyph(const wadi_column *cols, unsigned i);
/** `n` values as characters of eight heights, from the least to the most of them; NAN is a dot.
 * What spans less than `least` is drawn as that small. */
void wadi_append_heights(GString *text, const double *values, unsigned n, double least);

#endif
