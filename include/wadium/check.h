/* SPDX-License-Identifier: MIT */
/*
 * Did what came back come from where it should? Comparing two buffers of frames, with what a
 * difference looks like and what it suggests; checksums for devices that have one.
 *
 *     wad_exchange_check check;
 *     if (wad_check_exchange(sent, received, 64, 8, &check) != WAD_OK)
 *         wad_print(port, "frame %u: want %x, got %x: %s\r\n", check.index, check.want, check.got,
 *                   wad_pattern_text(check.pattern));
 *
 * What a jumper between the data lines cannot show: clock mode and bit order, since both ends have
 * the same; and the select. Those take a device.
 */
#ifndef WADIUM_CHECK_H
#define WADIUM_CHECK_H

#include <stddef.h>
#include <stdint.h>

#include "status.h"

/* clang-format off */
/** What the frames from the first difference on look like: X(name, text, what it suggests). */
#define WAD_PATTERNS(X)                                                                        \
    X(SAME,     "as sent",           "data lines and clock work; mode, bit order and select are not shown by a loop") \
    X(ONES,     "all ones",          "the receive line is pulled high: open wire, no device, or not selected") \
    X(ZEROS,    "all zeros",         "the receive line is low: open wire with a pull down, a short, or no device") \
    X(LATE,     "shifted right by a bit", "a bit was taken too late: wrong mode, or the clock is too fast") \
    X(EARLY,    "shifted left by a bit", "a bit was taken too early: wrong mode")              \
    X(REVERSED, "bits in reverse order", "the other end has the other bit order")              \
    X(SWAPPED,  "bytes exchanged",   "the other end has another frame size, or memory another byte order") \
    X(INVERTED, "inverted",          "an inverting buffer, or an inverted line")               \
    X(PREVIOUS, "the frame before",  "the other end answers one frame later: an echo register, or a read of old data") \
    X(FILL,     "never received",    "fewer frames were exchanged than are compared, or nothing reads the receiver") \
    X(OTHER,    "other data",        "another device, noise, or both ends out of step")
/* clang-format on */

typedef enum wad_pattern {
#define WAD_PATTERN_CODE(name, text, hint) WAD_PATTERN_##name,
    WAD_PATTERNS(WAD_PATTERN_CODE)
#undef WAD_PATTERN_CODE
} wad_pattern;

typedef struct wad_exchange_check {
    size_t index;       /**< of the first frame that differs; the number compared when none does */
    uint32_t want, got; /**< of that frame */
    size_t wrong;       /**< frames that differ */
    wad_pattern pattern;
} wad_exchange_check;

/**
 * Compares `n` frames of `bits` bits (4 to 32; memory as <wadium/spi.h> has it). WAD_OK: all the
 * same; WAD_E_DATA: not, `check` (may be NULL) tells; WAD_E_ARG: no frames, or no such size. The
 * pattern is one that holds for every frame that differs, but for the first of `LATE`, `EARLY` and
 * `PREVIOUS`. Never blocks.
 */
WAD_MUST_CHECK wad_status wad_check_exchange(const void *sent, const void *received, size_t n,
                                             unsigned bits, wad_exchange_check *check);

/** One line of English each. Never block. */
const char *wad_pattern_text(wad_pattern pattern);
const char *wad_pattern_hint(wad_pattern pattern);

/** What the drivers fill receive memory with, XORed with what is sent there, or by itself. */
#define WAD_FILL 0xA5C35A96u

/** Fills `n` frames so that none of them is what was sent (NULL: nothing was). Never blocks. */
void wad_fill_exchange(void *received, const void *sent, size_t n, unsigned bits);

/** CRC of 8 bits, polynomial x^8 + x^2 + x + 1, most significant bit first, starting with 0.
 * `crc` is that of the bytes before, WAD_CRC8_START for none. Never blocks. */
#define WAD_CRC8_START 0u
uint8_t wad_crc8(uint8_t crc, const void *data, size_t n);

/** CRC of 16 bits, polynomial x^16 + x^12 + x^5 + 1, most significant bit first. */
#define WAD_CRC16_START 0xFFFFu
uint16_t wad_crc16(uint16_t crc, const void *data, size_t n);

#endif
