/* SPDX-License-Identifier: MIT */
#ifndef WADI_SNAPSHOT_H
#define WADI_SNAPSHOT_H

#include <glib.h>

#include "wadium/host/snapshot.h"

struct wad_snapshot {
    const wad_sheet *sheet;
    char *source;
    GArray *words;     /* wad_word */
    GPtrArray *absent; /* left_out */
};

#endif
