/* SPDX-License-Identifier: MIT */
/*
 * A count that runs for ever: time of day of the chip, delays, deadlines, time stamps.
 *
 *     static wad_timebase base;
 *
 *     st = wad_timebase_open(&base, &corran32_base, 1000000, NULL);   counts microseconds
 *     wad_deadline d = wad_deadline_ms(&base, 20);
 *     while (!answered())
 *         if (wad_deadline_passed(&base, &d))
 *             return TIMEOUT;
 *     uint64_t edge = wad_timebase_now(&base);
 *     wad_delay_us(&base, 15);
 *
 * Periodic callbacks and software timers on one of its channels: <wadium/alarm.h>.
 */
#ifndef WADIUM_TIMEBASE_H
#define WADIUM_TIMEBASE_H

#include "rate.h"
#include "roles.h"

/** A timebase in use. The caller owns it; it must outlive the use. */
typedef struct wad_timebase {
    const wad_block *block; /**< read-only */
    uint32_t clock_hz;      /**< read-only: the clock that it divides ... */
    uint32_t prescale;      /**< read-only: ... by this */
} wad_timebase;

/**
 * Brings the block up and lets it count `hz` times a second, or as near as its prescaler comes; 0:
 * undivided. Blocks for the block's reset only; its clock must run already (wad_clock_start).
 *
 * @param error_ppm  out, may be NULL: achieved against wanted rate, positive when fast; 0 for hz 0
 * WAD_E_RANGE: the prescaler does not come near (more than half a count off); WAD_E_TIMEOUT: the
 * block stays in reset. Neither starts it.
 */
WAD_MUST_CHECK wad_status wad_timebase_open(wad_timebase *base, const wad_block *block, uint32_t hz,
                                            int32_t *error_ppm);

/** The count. Up to 64 bits, never torn: halves of two moments are not put together. Never blocks;
 * a handler may call it. */
uint64_t wad_timebase_now(const wad_timebase *base);

/** All ones of the count's width. */
uint64_t wad_timebase_mask(const wad_timebase *base);

/** Counts in a time, rounded up, so that what waits that long never waits less. Never block. */
uint64_t wad_timebase_us(const wad_timebase *base, uint32_t us);
uint64_t wad_timebase_ms(const wad_timebase *base, uint32_t ms);

/** A time to come; right across the count's wrap, if asked at least once a turn of the count. */
typedef struct wad_deadline {
    uint64_t start, counts;
} wad_deadline;

wad_deadline wad_deadline_us(const wad_timebase *base, uint32_t us);
wad_deadline wad_deadline_ms(const wad_timebase *base, uint32_t ms);
/** Once true it stays so until the count has gone all the way round. Never blocks. */
bool wad_deadline_passed(const wad_timebase *base, const wad_deadline *deadline);
/** Counts left, 0 when passed. */
uint64_t wad_deadline_left(const wad_timebase *base, const wad_deadline *deadline);

/** Waits at least so long, looking at the count. Blocks; interrupts are served meanwhile, and what
 * they take is part of the wait. */
void wad_delay_us(const wad_timebase *base, uint32_t us);
void wad_delay_ms(const wad_timebase *base, uint32_t ms);

#endif
