/* SPDX-License-Identifier: MIT */
/* What the generators share. */
#ifndef WADI_EMIT_H
#define WADI_EMIT_H

#include <glib.h>

#include "files/quote.h"
#include "wadium/host/sheet.h"

/** One layout of each name, the widest variant where there are several; free the array. */
GPtrArray *wadi_emit_layouts(const wad_sheet *sheet);
/** The comment that opens each generated file. */
void wadi_emit_banner(const wad_sheet *sheet, const char *what, FILE *out);
/** Writes `text` with '@' for the chip's name in capitals, '~' in small letters, '^' for the hash.
 */
void wadi_emit_text(const wad_sheet *sheet, const char *text, FILE *out);
/** True when a field can be written at all. */
bool wadi_emit_writable(const wad_bitfield *field);

/** Tables of the block's rates that the target solves (<wadium/rate.h>). */
void wadi_emit_dividers(const wad_sheet *sheet, const wad_instance *block, FILE *out);

#endif
