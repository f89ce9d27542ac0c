/* SPDX-License-Identifier: MIT */
/*
 * What an analog signal is made of: frequency, amplitude, distortion.
 *
 *     wad_tone t;
 *     if (wad_tone_measure(samples, n, from_ps, to_ps, &t))
 *         printf("%.6g Hz, %.4g V, %.3g %% distortion\n", t.hz, t.amplitude, 100 * t.distortion);
 *
 * Samples hold until the next one, as a converter's output does. They are looked at 65 536 times,
 * weighted by a Blackman-Harris window, and transformed by FFTW.
 */
#ifndef WADIUM_HOST_SPECTRUM_H
#define WADIUM_HOST_SPECTRUM_H

#include <stdbool.h>
#include <stddef.h>
#include <stdint.h>

/** A value from a time on, until the next one. */
typedef struct wad_sample {
    uint64_t ps;
    double value;
} wad_sample;

typedef struct wad_tone {
    double hz;        /**< of the strongest line besides the mean */
    double amplitude; /**< of that line, half from top to bottom */
    double mean;
    double min, max;
    double distortion; /**< harmonics 2 to 10 against it, as a share (effective values) */
} wad_tone;

/** Between two times. False: fewer than 16 samples, or less than five periods of anything. Mean,
 * min and max are right all the same, if there is a sample at all. */
bool wad_tone_measure(const wad_sample *samples, size_t n, uint64_t from_ps, uint64_t to_ps,
                      wad_tone *tone);

#endif
