/* SPDX-License-Identifier: MIT */
/* Built once for a chip: WAD_CHIP names its generated roles header. */
#include <wadium/timebase.h>

#include WAD_CHIP

#ifdef WAD_TIMEBASE_TABLE

#define R           WAD_TIMEBASE_TABLE
#define RESET_POLLS 1000u

static wad_status find_prescaler(wad_timebase *b, uint32_t hz, int32_t *error_ppm)
{
    wad_divider d = {.up = 1, .down = 1, .min = 1, .max = 1, .prescale_min = 1, .prescale_max = 1};
    wad_divider_setting s = {.prescale = 1};
    if (wad_has(R.prescale)) {
        d.prescale_plus = R.prescale_plus;
        d.prescale_min = R.prescale_plus ? R.prescale_plus : 1u;
        d.prescale_max = wadi_ones(R.prescale) + R.prescale_plus;
    }
    wad_status st = hz ? wad_divider_solve(&d, b->clock_hz, WAD_HZ(hz), &s) : WAD_OK;
    b->prescale = s.prescale;
    if (st == WAD_OK && error_ppm)
        *error_ppm = hz ? s.error_ppm : 0;
    return st;
}

wad_status wad_timebase_open(wad_timebase *b, const wad_block *block, uint32_t hz,
                             int32_t *error_ppm)
{
    *b = (wad_timebase){.block = block, .clock_hz = block->clock_hz()};
    wad_status st = find_prescaler(b, hz, error_ppm);
    if (st != WAD_OK)
        return st;
    if (!wad_block_up(block, RESET_POLLS))
        return WAD_E_TIMEOUT;
    if (wad_has(R.enable))
        wad_put(block->base, R.enable, 0);
    if (wad_has(R.prescale))
        wad_put(block->base, R.prescale, b->prescale - R.prescale_plus);
    if (wad_has(R.enable))
        wad_put(block->base, R.enable, 1);
    return WAD_OK;
}

uint64_t wad_timebase_now(const wad_timebase *b)
{
    return wad_get64(b->block->base, R.count);
}

uint64_t wad_timebase_mask(const wad_timebase *b)
{
    (void)b;
    return R.count.width >= 64 ? UINT64_MAX : ((uint64_t)1 << R.count.width) - 1u;
}

/* time / per seconds, in counts, rounded up: time * clock / (per * prescale). */
static uint64_t counts_in(const wad_timebase *b, uint32_t time, uint32_t per)
{
    uint64_t rest, n = (uint64_t)time * b->clock_hz;
    uint64_t counts = wad_divide(n, (uint64_t)per * b->prescale, &rest);
    return counts + (rest != 0);
}

uint64_t wad_timebase_us(const wad_timebase *b, uint32_t us)
{
    return counts_in(b, us, 1000000u);
}

uint64_t wad_timebase_ms(const wad_timebase *b, uint32_t ms)
{
    return counts_in(b, ms, 1000u);
}

/* ---- deadlines ---- */

/* One count more: the one that has begun already does not count. */
static wad_deadline from_now(const wad_timebase *b, uint64_t counts)
{
    return (wad_deadline){wad_timebase_now(b), counts + 1u};
}

wad_deadline wad_deadline_us(const wad_timebase *b, uint32_t us)
{
    return from_now(b, wad_timebase_us(b, us));
}

wad_deadline wad_deadline_ms(const wad_timebase *b, uint32_t ms)
{
    return from_now(b, wad_timebase_ms(b, ms));
}

uint64_t wad_deadline_left(const wad_timebase *b, const wad_deadline *d)
{
    uint64_t gone = (wad_timebase_now(b) - d->start) & wad_timebase_mask(b);
    return gone >= d->counts ? 0 : d->counts - gone;
}

bool wad_deadline_passed(const wad_timebase *b, const wad_deadline *d)
{
    return wad_deadline_left(b, d) == 0;
}

void wad_delay_us(const wad_timebase *b, uint32_t us)
{
    wad_deadline d = wad_deadline_us(b, us);
    while (!wad_deadline_passed(b, &d)) {
    }
}

void wad_delay_ms(const wad_timebase *b, uint32_t ms)
{
    wad_deadline d = wad_deadline_ms(b, ms);
    while (!wad_deadline_passed(b, &d)) {
    }
}

#endif
