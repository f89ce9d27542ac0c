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

/** Writes a script: `terminal` is the kind with its size, font and background. What is drawn comes
 * out of gnuplot's standard output. */
typedef void (*wadi_script_fn)(FILE *gp, const char *terminal, const void *data);

/** PNG or SVG by the path's ending. False: `why` (g_free). */
bool wadi_gnuplot_file(const char *path, unsigned width, unsigned height, wadi_script_fn script,
                       const void *data, char **why);
/** In characters, 79 columns, to `out`. */
bool wadi_gnuplot_characters(unsigned rows, wadi_script_fn script, const void *data, FILE *out,
                             char **why);

/** The only way for a name, a title, a unit into a script: as a string with its quotes, control
 * characters as blanks, so that no text of anybody's is a command. `before` and `after` are ours.
 */
void wadi_gnuplot_text(FILE *gp, const char *before, const char *text, const char *after);
/** The same as a mark of an axis, at a place of it, where % would begin a format. */
void wadi_gnuplot_mark(FILE *gp, const char *text, double at);

#endif
