/* SPDX-License-Identifier: MIT */
/* Supply, currents and levels of sleep as the datasheet shows them. */
#ifndef WADI_SHOW_POWER_H
#define WADI_SHOW_POWER_H

#include "wadium/host/sheet.h"

/** "3 uA/MHz, 420 uA while it is on", a line after `word`; nothing where the sheet states none. */
void wadi_show_draws(const char *word, const wad_draws *draws, FILE *out);
/** The supply, what core and oscillators draw, and how deep the core sleeps. */
void wadi_show_power(const wad_sheet *sheet, FILE *out);

#endif
