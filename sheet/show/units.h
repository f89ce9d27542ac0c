/* SPDX-License-Identifier: MIT */
/* Units in `wadium show`: which a block has, and where a unit's roles lie. */
#ifndef WADI_SHOW_UNITS_H
#define WADI_SHOW_UNITS_H

#include <stdio.h>

#include "wadium/host/sheet.h"

/** "units T0 T1 S[8]"; nothing for a block that has none. */
void wadi_show_units(const wad_sheet *s, const wad_instance *block, FILE *out);
/** A line a role: its name, and its bits. */
void wadi_show_roles(const wad_instance *unit, FILE *out);
/** "pins CH0 on", "pins A, B" */
void wadi_show_signals(const wad_role *role, FILE *out);
/** Where one element lies, and what its bits say. */
void wadi_show_element(const wad_instance *unit, const wad_role *role, unsigned k, FILE *out);

#endif
