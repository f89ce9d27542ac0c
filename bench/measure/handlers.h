/* SPDX-License-Identifier: MIT */
/* Statistics of interrupt handlers during a run. */
#ifndef WADI_HANDLERS_H
#define WADI_HANDLERS_H

#include <glib.h>

#include "wadium/host/bench.h"

typedef struct wadi_handlers wadi_handlers;

/** `spans`: each call is kept for pictures. */
wadi_handlers *wadi_handlers_new(const wad_sheet *sheet, bool spans);
void wadi_handlers_free(wadi_handlers *handlers);
void wadi_handlers_note(wadi_handlers *handlers, const wad_irq_record *record);
/** By line; lives as long as `handlers`. */
const wad_handler_stats *wadi_handlers_table(wadi_handlers *handlers, unsigned *n);
/** The line whose handler runs, -1 for main. */
int wadi_handlers_running(const wadi_handlers *h);
/** The core slept. */
void wadi_handlers_sleep(void *handlers, uint64_t from_ps, uint64_t to_ps);
const wad_sleep_span *wadi_handlers_sleeps(const wadi_handlers *h, unsigned *n);
const wad_handler_span *wadi_handlers_spans(const wadi_handlers *h, unsigned *n, unsigned *lost);

#endif
