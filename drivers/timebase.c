/* SPDX-License-Identifier: MIT */
/* Timebases, compiled for each form that the chip has; and times, whatever the form. */
#define WADI_TIMEBASE_BODIES
#include WAD_CHIP

#ifdef WADI_TIMEBASE_FORMS

/* ---- a unit that only the run knows ---- */

wad_status wadi_timebase_open_any(const wad_timebase *b)
{
    return WADI_OF_FORM(WADI_TIMEBASE_MORE, b->unit->form, wadi_timebase_open, b);
}

uint64_t wadi_timebase_now_any(const wad_timebase *b)
{
    return WADI_OF_FORM(WADI_TIMEBASE_MORE, b->unit->form, wadi_timebase_now, b);
}

void wadi_timebase_wait_any(const wad_timebase *b, uint64_t counts)
{
    WADI_OF_FORM(WADI_TIMEBASE_MORE, b->unit->form, wadi_timebase_wait, b, counts);
}

void wadi_timebase_close_any(const wad_timebase *b)
{
    WADI_OF_FORM(WADI_TIMEBASE_MORE, b->unit->form, wadi_timebase_close, b);
}

/* ---- times ---- */

uint64_t wadi_timebase_divide(uint32_t time, uint32_t clock_hz, uint64_t by)
{
    uint64_t rest, counts = wad_divide((uint64_t)time * clock_hz, by, &rest);
    return counts + (rest != 0);
}

uint64_t wadi_timebase_counts_any(const wad_timebase *b, uint32_t time, uint32_t per)
{
    const uint32_t clock = wadi_timebase_clock_hz(b);
    const uint32_t by = wadi_timebase_prescale(b, wadi_timebase_roles(b->unit->form), clock);
    return wadi_timebase_divide(time, clock, (uint64_t)per * (by ? by : 1u));
}

wad_deadline wadi_deadline_us_any(const wad_timebase *b, uint32_t us)
{
    return (wad_deadline){wadi_timebase_now_any(b), wadi_timebase_counts_any(b, us, 1000000u) + 1u};
}

wad_deadline wadi_deadline_ms_any(const wad_timebase *b, uint32_t ms)
{
    return (wad_deadline){wadi_timebase_now_any(b), wadi_timebase_counts_any(b, ms, 1000u) + 1u};
}

uint64_t wadi_deadline_left_any(const wad_timebase *b, const wad_deadline *d)
{
    const uint64_t gone = (wadi_timebase_now_any(b) - d->start) & wadi_timebase_mask(b);
    return gone >= d->counts ? 0 : d->counts - gone;
}

bool wadi_deadline_passed_any(const wad_timebase *b, const wad_deadline *d)
{
    return wadi_deadline_left_any(b, d) == 0;
}

#endif
