/* SPDX-License-Identifier: MIT */
/* Statistics of interrupt handlers during a run. */
#ifndef WADI_HANDLERS_H
#define WADI_HANDLERS_H

#include <glib.h>

#include "wadium/host/bench.h"

typedef struct wadi_handlers wadi_handlers;

wadi_handlers *wadi_handlers_new(const wad_sheet *sheet);
void wadi_handlers_free(wadi_handlers *handlers);
void wadi_handlers_note(wadi_handlers *handlers, const wad_irq_record *record);
/** By line; lives as long as `handlers`. */
const wad_handler_stats *wadi_handlers_table(wadi_handlers *handlers, unsigned *n);

#endif
