/* SPDX-License-Identifier: MIT */
/* Units behind numbers. */
#ifndef WADI_UNIT_H
#define WADI_UNIT_H

#include "wadium/host/sheet.h"

/** The unit behind a number: Hz, ms, KiB, ...; false when `name` is no unit. */
bool wadi_unit(const char *name, wad_unit *unit, wad_rational *scale);

#endif
