/* SPDX-License-Identifier: MIT */
/*
 * Text out of numbers: small, freestanding, without heap or floating point.
 *
 *     static void put(char c, void *uart) { ... }
 *
 *     wad_print(put, &link, "tide %.3d m, lamp %04x, %s\r\n", level_mm, lamps, name);
 *
 *     %d %i  int32_t       %u  uint32_t       %x  uint32_t in hexadecimal
 *     %c     a character   %s  a string       %%  a percent sign
 *     %5d    at least five characters; %-5d to the left; %05d filled with zeros
 *     %.3d   fixed-point: the number counts thousandths, 12345 is 12.345; %u likewise
 *
 * Anything else after a percent sign comes out as it stands.
 */
#ifndef WADIUM_PRINT_H
#define WADIUM_PRINT_H

#include <stdarg.h>
#include <stddef.h>
#include <stdint.h>

typedef void (*wad_put_fn)(char c, void *context);

/** Gives each character to `put`; how many there were. Blocks as `put` does. */
#if defined(__GNUC__)
__attribute__((format(printf, 3, 4)))
#endif
size_t
wad_print(wad_put_fn put, void *context, const char *format, ...);
size_t wad_vprint(wad_put_fn put, void *context, const char *format, va_list args);

/** Into a buffer, cut where it ends, with a 0 behind; how many characters all of it has. Never
 * blocks. */
#if defined(__GNUC__)
__attribute__((format(printf, 3, 4)))
#endif
size_t
wad_format(char *buffer, size_t size, const char *format, ...);

/** Memory as rows of 16 bytes: address, hexadecimal, characters. */
void wad_print_memory(wad_put_fn put, void *context, const void *data, size_t n, uint32_t address);

#endif
