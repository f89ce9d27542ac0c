/* SPDX-License-Identifier: MIT */
/* Built once for a chip: WAD_CHIP names its generated roles header. */
#include <wadium/clock.h>
#include <wadium/irq.h>

#include WAD_CHIP

#ifdef WAD_CLOCKS_TABLE

#define R WAD_CLOCKS_TABLE

wad_status wad_clock_watch(const wad_clock_source *clock, unsigned priority)
{
    if (!clock->watch.mask || !wad_has(R.lost) || WAD_CLOCKS_IRQ < 0)
        return WAD_E_ABSENT;
    uint32_t state = wad_port_irq_save(); /* control registers are shared */
    wad_clear(WAD_CLOCKS_BASE, R.lost);
    wad_put(WAD_CLOCKS_BASE, R.lost_irq, 1);
    wad_port_irq_restore(state);
    return wad_need_meet(&clock->watch, 0) ? wad_irq_enable(WAD_CLOCKS_IRQ, priority)
                                           : WAD_E_TIMEOUT;
}

bool wad_clock_lost(void)
{
    return wad_has(R.lost) && wad_take(WAD_CLOCKS_BASE, R.lost);
}

#else /* the chip has none: what cannot be done is said at the call */

wad_status wad_clock_watch(const wad_clock_source *clock, unsigned priority)
{
    (void)clock;
    (void)priority;
    return WAD_E_ABSENT;
}

bool wad_clock_lost(void)
{
    return false;
}

#endif
