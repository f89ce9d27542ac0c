/* SPDX-License-Identifier: MIT */
/* Waves in integers, for converters and duties. */
#ifndef WADIUM_WAVE_H
#define WADIUM_WAVE_H

#include <stddef.h>
#include <stdint.h>

/** One period of a sine in `n` values: offset + amplitude * sin(2 pi i / n), by an integer table of
 * 256 steps that is interpolated; off by half a count at the most, up to an amplitude of 4095. Cut
 * off at 0. Never blocks. */
void wad_wave_sine(uint16_t *codes, size_t n, uint32_t amplitude, uint32_t offset);

/** How many values a period, `most` / 2 to `most`, bring a timer of this clock nearest to `hz`
 * periods a second: the largest of equally good ones. Never blocks. */
size_t wad_wave_points(uint32_t clock_hz, uint32_t hz, size_t most);

#endif
