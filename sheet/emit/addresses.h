/* SPDX-License-Identifier: MIT */
/* What the generated header says of addresses: spaces, windows, bits. */
#ifndef WADI_EMIT_ADDRESSES_H
#define WADI_EMIT_ADDRESSES_H

#include "wadium/host/sheet.h"

/** The macros that every address passes through, WAD_ADDRESS and CHIP_AT. */
void wadi_emit_addresses(const wad_sheet *sheet, FILE *out);
/** "WAD_ADDRESS(0x40001000u)", "CHIP_AT(direct, 0x80u)", so many bytes behind the block's base;
 * g_free. */
char *wadi_emit_address(const wad_sheet *sheet, const wad_instance *block, uint64_t beyond);
/** The block's registers once more. */
void wadi_emit_windows(const wad_sheet *sheet, const wad_instance *block, FILE *out);
/** Accesses to one bit: windows of the chip, registers that say `bits`. */
void wadi_emit_bits(const wad_sheet *sheet, FILE *out);

#endif
