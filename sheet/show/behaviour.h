/* SPDX-License-Identifier: MIT */
/* What registers do beyond storing, as sentences. */
#ifndef WADI_SHOW_BEHAVIOUR_H
#define WADI_SHOW_BEHAVIOUR_H

#include "wadium/host/sheet.h"

/** "read STAT then read RX or wrap" */
void wadi_show_events(const wad_clearing *list, unsigned n, FILE *out);
/** "; key 0x2D, else the write is ignored"; nothing for NULL. */
void wadi_show_behaviour(const wad_behaviour *more, FILE *out);
/** Hooks of a layout, or of the chip, a line each. */
void wadi_show_hooks(const wad_hook *hooks, unsigned n, FILE *out);
/** Resets, gates that answer later, windows of the block. */
void wadi_show_openings(const wad_sheet *sheet, const wad_instance *block, FILE *out);

#endif
