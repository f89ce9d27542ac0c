/* SPDX-License-Identifier: MIT */
/* Memory of a run, before and after. */
#ifndef WADI_MEMORY_H
#define WADI_MEMORY_H

#include <glib.h>

#include "wadium/host/bench.h"

/* The same in a run. */
typedef struct wadi_memory_view {
    wad_memory_shown shown;
    uint8_t *before, *after;
    char *why; /* it cannot be shown */
} wadi_memory_view;

/** Memory is looked at, at its times; what came of it; wadi_memory_view *, freed by _free. */
GPtrArray *wadi_memories_begin(wad_sim *sim, GArray *defs);
void wadi_memories_end(wad_sim *sim, GPtrArray *list, GArray *shown, GPtrArray *notes);
void wadi_memories_free(GPtrArray *list);

#endif
