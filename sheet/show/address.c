/* SPDX-License-Identifier: MIT */
#include "address.h"

#include <string.h>

void wadi_show_address(const wad_sheet *sheet, uint64_t address, FILE *out)
{
    char text[64];
    wad_format_address(sheet, address, text, sizeof text);
    if (strchr(text, ':'))
        fprintf(out, "%-11s", text);
    else
        fprintf(out, "0x%04X_%04X", (unsigned)(address >> 16), (unsigned)(address & 0xFFFF));
}
