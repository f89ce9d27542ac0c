/* SPDX-License-Identifier: MIT */
/*
 * A count that runs for ever: time of day of the chip, delays, deadlines, time stamps.
 *
 *     static const wad_timebase base = {&corran32_base, .clock_hz = 8000000,
 *                                       .hz = 1000000};              counts microseconds
 *     st = wad_timebase_open(&base);
 *     wad_deadline d = wad_deadline_ms(&base, 20);
 *     while (!answered())
 *         if (wad_deadline_passed(&base, &d))
 *             return TIMEOUT;
 *     uint64_t edge = wad_timebase_now(&base);
 *     wad_delay_us(&base, 15);
 *
 * A timebase is a constant, as a serial port is (<wadium/uart.h>). Periodic callbacks and software
 * timers on one of its channels: <wadium/alarm.h>.
 */
#ifndef WADIUM_TIMEBASE_H
#define WADIUM_TIMEBASE_H

#include "unit.h"

/** A block of the chip that is a timebase; generated. */
typedef struct wad_timebase_unit {
    wad_block block;
    uint8_t form;
} wad_timebase_unit;

/** A timebase. What is left out is 0. */
typedef struct wad_timebase {
    const wad_timebase_unit *unit; /**< `&corran32_base` */
    uint32_t clock_hz; /**< of the block's clock; 0: worked out from the registers, each time */
    uint32_t hz;       /**< counts a second, or as near as its prescaler comes; 0: undivided */
} wad_timebase;

/** A time to come; right across the count's wrap, if asked at least once a turn of the count. */
typedef struct wad_deadline {
    uint64_t start, counts;
} wad_deadline;

#include "code/timebase.h" /* inline bodies, which nobody needs to read */

#ifdef WADI_TIMEBASE_FORMS

/**
 * Brings the block up and lets it count. Blocks for the block's reset only; its clock must run
 * already (wad_clock_start). A constant rate that the prescaler does not come near ends the build.
 * Else WAD_E_RANGE, nothing is written; WAD_E_TIMEOUT: the block stays in reset. Opening anew is
 * right at any time, the count goes on.
 */
WADI_INLINE WAD_MUST_CHECK wad_status wad_timebase_open(const wad_timebase *base)
{
    wad_status st;
    if (WADI_MAY_FOLD && wadi_timebase_is_known(base))
        st = wadi_timebase_open_known(base);
    else
        st = WADI_BY_FORM(WADI_TIMEBASE_FORMS, base->unit->form, wadi_timebase_open, base);
    if (st == WAD_OK)
        wadi_tell_clock(&base->unit->block, base->clock_hz);
    return st;
}

/** Stops it, where it can be stopped; it asks for nothing. The block keeps its clock. Never blocks.
 */
WADI_INLINE void wad_timebase_close(const wad_timebase *base)
{
    WADI_BY_FORM(WADI_TIMEBASE_FORMS, base->unit->form, wadi_timebase_close, base);
}

/** What its rate is off by, in parts per million of the wanted one, positive when fast; a constant
 * where rate and clock are. 0 for a rate of 0. */
#define WAD_TIMEBASE_PPM(base) wadi_timebase_ppm(&(base))

/** The count. Up to 64 bits, never torn: halves of two moments are not put together. Never blocks;
 * a handler may call it. */
WADI_INLINE uint64_t wad_timebase_now(const wad_timebase *base)
{
    if (WADI_MAY_FOLD && wadi_timebase_folds(base))
        return wad_get64(base->unit->block.base, wadi_timebase_roles(base->unit->form)->count);
    return wadi_timebase_now_any(base);
}

/** All ones of the count's width. */
WADI_INLINE uint64_t wad_timebase_mask(const wad_timebase *base)
{
    return wadi_timebase_mask(base);
}

/** Counts in a time, rounded up, so that what waits that long never waits less. Never block. */
WADI_INLINE uint64_t wad_timebase_us(const wad_timebase *base, uint32_t us)
{
    return wadi_timebase_counts(base, us, 1000000u);
}

WADI_INLINE uint64_t wad_timebase_ms(const wad_timebase *base, uint32_t ms)
{
    return wadi_timebase_counts(base, ms, 1000u);
}

/** A moment from now: not earlier. One count more than the time has, for the one that has begun
 * does not count. Never block; a handler may call them. */
WADI_INLINE wad_deadline wad_deadline_us(const wad_timebase *base, uint32_t us)
{
    if (WADI_MAY_FOLD && wadi_timebase_is_known(base))
        return (wad_deadline){wad_timebase_now(base), wad_timebase_us(base, us) + 1u};
    return wadi_deadline_us_any(base, us);
}

WADI_INLINE wad_deadline wad_deadline_ms(const wad_timebase *base, uint32_t ms)
{
    if (WADI_MAY_FOLD && wadi_timebase_is_known(base))
        return (wad_deadline){wad_timebase_now(base), wad_timebase_ms(base, ms) + 1u};
    return wadi_deadline_ms_any(base, ms);
}

/** Counts left, 0 when passed. */
WADI_INLINE uint64_t wad_deadline_left(const wad_timebase *base, const wad_deadline *deadline)
{
    if (!WADI_MAY_FOLD || !wadi_timebase_folds(base))
        return wadi_deadline_left_any(base, deadline);
    const uint64_t gone = (wad_timebase_now(base) - deadline->start) & wad_timebase_mask(base);
    return gone >= deadline->counts ? 0 : deadline->counts - gone;
}

/** Once true it stays so until the count has gone all the way round. Never blocks. */
WADI_INLINE bool wad_deadline_passed(const wad_timebase *base, const wad_deadline *deadline)
{
    if (!WADI_MAY_FOLD || !wadi_timebase_folds(base))
        return wadi_deadline_passed_any(base, deadline);
    return wad_deadline_left(base, deadline) == 0;
}

/** Waits at least so long, looking at the count. Blocks; interrupts are served meanwhile, and what
 * they take is part of the wait. */
WADI_INLINE void wad_delay_us(const wad_timebase *base, uint32_t us)
{
    WADI_BY_FORM(WADI_TIMEBASE_FORMS, base->unit->form, wadi_timebase_wait, base,
                 wad_timebase_us(base, us));
}

WADI_INLINE void wad_delay_ms(const wad_timebase *base, uint32_t ms)
{
    WADI_BY_FORM(WADI_TIMEBASE_FORMS, base->unit->form, wadi_timebase_wait, base,
                 wad_timebase_ms(base, ms));
}

#else /* no chip's handle can be here: for bodies that ask only where they have one */

WADI_REFUSED(wad_status, wad_timebase_open, "this chip has no timebase that drivers serve",
             const wad_timebase *);

WADI_INLINE wad_deadline wad_deadline_us(const wad_timebase *base, uint32_t us)
{
    (void)base;
    return (wad_deadline){0, us};
}

WADI_INLINE wad_deadline wad_deadline_ms(const wad_timebase *base, uint32_t ms)
{
    (void)base;
    return (wad_deadline){0, ms};
}

WADI_INLINE bool wad_deadline_passed(const wad_timebase *base, const wad_deadline *deadline)
{
    (void)base;
    (void)deadline;
    return true;
}

#endif
#endif
