/* SPDX-License-Identifier: MIT */
/* Registers with values: what is not said has its reset value. */
#ifndef WADI_VALUES_H
#define WADI_VALUES_H

#include <glib.h>

#include "wadium/host/clocktree.h"

struct wad_regs {
    const wad_sheet *sheet;
    GHashTable *values; /* address -> uint64_t * */
};

#endif
