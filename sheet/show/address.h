/* SPDX-License-Identifier: MIT */
#ifndef WADI_SHOW_ADDRESS_H
#define WADI_SHOW_ADDRESS_H

#include "wadium/host/sheet.h"

/** "0x4000_1000", "direct:0x80", at least as wide as the first. */
void wadi_show_address(const wad_sheet *sheet, uint64_t address, FILE *out);

#endif
