/* SPDX-License-Identifier: MIT */
/* What the drivers' tables can say. */
#ifndef WADI_SERVED_H
#define WADI_SERVED_H

#include "wadium/host/sheet.h"

/** Why no driver serves a block or unit that acts as something: "enable is inverted"; NULL: one
 * does. g_free. */
char *wadi_unserved(const wad_instance *block);

#endif
