/* SPDX-License-Identifier: MIT */
/* The timebase driver for one form: R is its role table, WADI_L(name) the form's name of a
 * function. Included by the chip's header for each form that it has, where drivers/timebase.c asks
 * for it. */

wad_status WADI_L(wadi_timebase_open)(const wad_timebase *b)
{
    const wad_block *block = &b->unit->block;
    uint32_t prescale = 1;
    const bool early = b->clock_hz || !block->chooses_clock;
    if (early)
        prescale = wadi_timebase_prescale(b, &R, wadi_timebase_clock_hz(b));
    if (!prescale)
        return WAD_E_RANGE;
    if (!wad_block_up(block, WADI_POLLS))
        return WAD_E_TIMEOUT;
    if (!early)
        prescale = wadi_timebase_prescale(b, &R, wadi_timebase_clock_hz(b));
    if (!prescale)
        return WAD_E_RANGE;
    wadi_timebase_begin(b, &R, prescale);
    return WAD_OK;
}

void WADI_L(wadi_timebase_close)(const wad_timebase *b)
{
    const uintptr_t base = b->unit->block.base;
    for (unsigned i = 0; i < R.match_irq.n && wad_has(R.match_irq); i++)
        wad_put(base, wad_at(R.match_irq, i), 0);
    for (unsigned i = 0; i < R.captured_irq.n && wad_has(R.captured_irq); i++)
        wad_put(base, wad_at(R.captured_irq, i), 0);
    if (wad_has(R.enable))
        wad_put(base, R.enable, 0);
}

uint64_t WADI_L(wadi_timebase_now)(const wad_timebase *b)
{
    return wad_get64(b->unit->block.base, R.count);
}

void WADI_L(wadi_timebase_wait)(const wad_timebase *b, uint64_t counts)
{
    const wad_deadline until = {WADI_L(wadi_timebase_now)(b), counts + 1u};
    const uint64_t mask = R.count.width >= 64 ? UINT64_MAX : ((uint64_t)1 << R.count.width) - 1u;
    while (((WADI_L(wadi_timebase_now)(b) - until.start) & mask) < until.counts) {
    }
}
