/* SPDX-License-Identifier: MIT */
/* Pictures through gnuplot: one process a picture, the file put in place when it is whole. */
#ifndef WADI_GNUPLOT_H
#define WADI_GNUPLOT_H

#include <stdbool.h>
#include <stdint.h>
#include <stdio.h>

/** A time axis, in the unit that suits its length. */
typedef struct wadi_axis {
    uint64_t from, to; /* picoseconds */
    unsigned columns;
    double scale; /* picoseconds in a unit */
    const char *unit;
} wadi_axis;

wadi_axis wadi_axis_of(uint64_t from, uint64_t to, unsigned columns);

/** Writes a script: `terminal` is the kind with its size, font and background, `file` the output,
 * quoted for gnuplot. */
typedef void (*wadi_script_fn)(FILE *gp, const char *terminal, const char *file, const void *data);

/** PNG or SVG by the path's ending. False: `why` (g_free). */
bool wadi_gnuplot_file(const char *path, unsigned width, unsigned height, wadi_script_fn script,
                       const void *data, char **why);
/** In characters, 79 columns, to `out`. */
bool wadi_gnuplot_text(unsigned rows, wadi_script_fn script, const void *data, FILE *out,
                       char **why);
/** Between single quotes in a script; g_free. */
char *wadi_gnuplot_quoted(const char *text);

#endif
