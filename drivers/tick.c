/* SPDX-License-Identifier: MIT */
/* Built once for a chip: WAD_CHIP names its generated roles header. */
#include <wadium/clock.h>
#include <wadium/irq.h>
#include <wadium/tick.h>

#include WAD_CHIP

static volatile uint32_t ticks;
static void (*on_tick)(void *context);
static void *tick_context;

#ifdef WAD_TICK_TABLE

#define R WAD_TICK_TABLE

wad_status wad_tick_start(wad_rate rate, unsigned priority, int32_t *error_ppm)
{
    const wad_block *block = &WAD_TICK_BLOCK;
    const wad_divider divider = {.up = 1,
                                 .down = 1,
                                 .min = 2,
                                 .max = wadi_ones(R.reload) + R.reload_plus,
                                 .prescale_min = 1,
                                 .prescale_max = 1};
    wad_divider_setting s;
    wad_status st = wad_divider_solve(&divider, block->clock_hz(), rate, &s);
    if (st != WAD_OK)
        return st;
    if (error_ppm)
        *error_ppm = s.error_ppm;
    wad_put(block->base, R.enable, 0);
    wad_put(block->base, R.reload, s.count - R.reload_plus);
    if (wad_has(R.count))
        wad_put(block->base, R.count, 0); /* so that the first period is whole */
    if (wad_has(R.wrap))
        wad_clear(block->base, R.wrap);
    wad_put(block->base, R.wrap_irq, 1);
    st = wad_irq_enable(block->irq, priority);
    if (st == WAD_OK)
        wad_put(block->base, R.enable, 1);
    return st;
}

void wad_tick_stop(void)
{
    wad_put(WAD_TICK_BLOCK.base, R.enable, 0);
}

void wad_tick_handle(void)
{
    if (wad_has(R.wrap)) /* entering may have cleared it, or reading does */
        (void)wad_take(WAD_TICK_BLOCK.base, R.wrap);
    ticks = ticks + 1u;
    if (on_tick)
        on_tick(tick_context);
}

#else

wad_status wad_tick_start(wad_rate rate, unsigned priority, int32_t *error_ppm)
{
    (void)rate;
    (void)priority;
    (void)error_ppm;
    return WAD_E_ABSENT;
}

void wad_tick_stop(void)
{
}

void wad_tick_handle(void)
{
}

#endif

uint32_t wad_tick_count(void)
{
    return ticks;
}

bool wad_tick_due(uint32_t *next, uint32_t every)
{
    if (ticks - *next > 0x7FFFFFFFu)
        return false;
    *next += every;
    return true;
}

void wad_tick_on(void (*fn)(void *context), void *context)
{
    tick_context = context;
    on_tick = fn;
}
