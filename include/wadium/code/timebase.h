/* SPDX-License-Identifier: MIT */
/* The timebase's bodies, written once over a role table: inline where unit and table are known,
 * compiled for each form in <wadium/code/timebase_form.h>. Included by <wadium/timebase.h> alone.
 */
#ifndef WADI_TIMEBASE_CODE_H
#define WADI_TIMEBASE_CODE_H

#ifdef WADI_TIMEBASE_FORMS

WADI_DECLARE(WADI_TIMEBASE_FORMS, wad_status, wadi_timebase_open, const wad_timebase *);
WADI_DECLARE(WADI_TIMEBASE_FORMS, uint64_t, wadi_timebase_now, const wad_timebase *);
WADI_DECLARE(WADI_TIMEBASE_FORMS, void, wadi_timebase_wait, const wad_timebase *, uint64_t);
WADI_DECLARE(WADI_TIMEBASE_FORMS, void, wadi_timebase_close, const wad_timebase *);

/* Of no form. */
uint64_t wadi_timebase_divide(uint32_t time, uint32_t clock_hz, uint64_t by);
uint64_t wadi_timebase_counts_any(const wad_timebase *b, uint32_t time, uint32_t per);
wad_deadline wadi_deadline_us_any(const wad_timebase *b, uint32_t us);
wad_deadline wadi_deadline_ms_any(const wad_timebase *b, uint32_t ms);
uint64_t wadi_deadline_left_any(const wad_timebase *b, const wad_deadline *d);
bool wadi_deadline_passed_any(const wad_timebase *b, const wad_deadline *d);

WADI_REFUSE(wadi_timebase_rate_cannot_be,
            "wad_timebase_open: its prescaler does not come near to this .hz from this clock");

/* The chip's header has them. */
WADI_INLINE const wad_timebase_roles *wadi_timebase_roles(unsigned form);
WADI_INLINE uint32_t wadi_timebase_writable(unsigned form, uint32_t off);

WADI_INLINE uint32_t wadi_timebase_clock_hz(const wad_timebase *b)
{
    return b->clock_hz ? b->clock_hz : b->unit->block.clock_hz();
}

/* What the clock is divided by, the nearest in rate; 0: beyond what the field holds. */
WADI_INLINE uint32_t wadi_timebase_prescale(const wad_timebase *b, const wad_timebase_roles *r,
                                            uint32_t clock_hz)
{
    const bool has = wad_has(r->prescale);
    const uint32_t least = has && r->prescale_plus ? r->prescale_plus : 1u;
    const uint32_t most = has ? wadi_ones(r->prescale) + r->prescale_plus : 1u;
    if (!b->hz)
        return least;
    const uint32_t low = clock_hz / b->hz, rest = clock_hz % b->hz;
    const bool nearer_low = (uint64_t)rest * (low + 1u) <= (uint64_t)(b->hz - rest) * low;
    const uint32_t best = nearer_low ? low : low + 1u;
    return low < least || best > most ? 0 : best;
}

WADI_INLINE int32_t wadi_timebase_ppm(const wad_timebase *b)
{
    const uint32_t clock = wadi_timebase_clock_hz(b);
    const uint32_t by = wadi_timebase_prescale(b, wadi_timebase_roles(b->unit->form), clock);
    if (!b->hz || !by)
        return 0;
    const int64_t is = clock, wanted = (int64_t)b->hz * by;
    return (int32_t)((is - wanted) * 1000000 / wanted);
}

/* The count can be read where it is used. */
WADI_INLINE bool wadi_timebase_folds(const wad_timebase *b)
{
    return WADI_KNOWS(b->unit, &wadi_timebase_roles(b->unit->form)->count);
}

WADI_INLINE bool wadi_timebase_is_known(const wad_timebase *b)
{
    return wadi_timebase_folds(b) && WADI_FOLDS(b->clock_hz) && b->clock_hz && WADI_FOLDS(b->hz) &&
           !b->unit->block.in_order;
}

WADI_INLINE uint64_t wadi_timebase_mask(const wad_timebase *b)
{
    const unsigned width = wadi_timebase_roles(b->unit->form)->count.width;
    return width >= 64 ? UINT64_MAX : ((uint64_t)1 << width) - 1u;
}

/* time / per seconds, in counts, rounded up: time * clock / (per * prescale). */
WADI_INLINE uint64_t wadi_timebase_counts(const wad_timebase *b, uint32_t time, uint32_t per)
{
    if (!WADI_MAY_FOLD || !wadi_timebase_is_known(b))
        return wadi_timebase_counts_any(b, time, per);
    const uint32_t by = wadi_timebase_prescale(b, wadi_timebase_roles(b->unit->form), b->clock_hz);
    const uint64_t parts = (uint64_t)per * (by ? by : 1u);
    if (b->clock_hz % parts == 0)
        return time * (b->clock_hz / parts);
    if (WADI_FOLDS(time))
        return ((uint64_t)time * b->clock_hz + parts - 1u) / parts;
    return wadi_timebase_divide(time, b->clock_hz, parts);
}

/* The block is up. */
WADI_INLINE void wadi_timebase_begin(const wad_timebase *b, const wad_timebase_roles *r,
                                     uint32_t prescale)
{
    const uintptr_t base = b->unit->block.base;
    if (wad_has(r->enable))
        wad_put(base, r->enable, 0);
    if (wad_has(r->prescale))
        wad_put(base, r->prescale, prescale - r->prescale_plus);
    if (wad_has(r->enable))
        wad_put(base, r->enable, 1);
}

WADI_INLINE wad_status wadi_timebase_open_known(const wad_timebase *b)
{
    const wad_timebase_roles *r = wadi_timebase_roles(b->unit->form);
    const uint32_t prescale = wadi_timebase_prescale(b, r, b->clock_hz);
    WADI_REFUSE_IF(!prescale, wadi_timebase_rate_cannot_be, WAD_E_RANGE)
    if (!wadi_up(&b->unit->block, 0, 0))
        return WAD_E_TIMEOUT;
    wadi_timebase_begin(b, r, prescale);
    return WAD_OK;
}

#endif
#endif
