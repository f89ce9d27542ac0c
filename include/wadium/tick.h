/* SPDX-License-Identifier: MIT */
/*
 * The core's tick: a periodic interrupt that every chip with such a core has alike, and a count of
 * its periods.
 *
 *     void handle_TICK(void) { wad_tick_handle(); }
 *
 *     st = wad_tick_start(WAD_HZ(1000), 3, &error_ppm);
 *     uint32_t next = wad_tick_count();
 *     for (;;) {
 *         if (wad_tick_due(&next, 500)) ...         every 500 ticks, none missed, none twice
 *         wad_port_sleep();
 *     }
 *
 * Testing `wad_tick_count() % 500 == 0` in a loop instead repeats while the tick lasts, or misses
 * it when the loop is late.
 */
#ifndef WADIUM_TICK_H
#define WADIUM_TICK_H

#include "rate.h"
#include "roles.h"

/**
 * Starts the tick, to the nearest rate there is.
 * @param error_ppm  out, may be NULL: achieved rate against wanted, parts per million
 * WAD_E_ABSENT: the chip has none; WAD_E_RANGE: too slow or too fast for it; else as
 * wad_irq_enable. Does not block.
 */
WAD_MUST_CHECK wad_status wad_tick_start(wad_rate rate, unsigned priority, int32_t *error_ppm);
void wad_tick_stop(void);

/** Ticks since the start; wraps after 2 ** 32. Never blocks; a handler may call it. */
uint32_t wad_tick_count(void);

/** True once for every `ticks` of them: when `*next` has come, which moves on by so many. From
 * `*next`, not from now: lateness does not add up. Never blocks. */
bool wad_tick_due(uint32_t *next, uint32_t ticks);

/** Calls `fn` in each tick, from its handler; NULL: none. Before the start. */
void wad_tick_on(void (*fn)(void *context), void *context);

/** The tick's handler. */
void wad_tick_handle(void);

#endif
