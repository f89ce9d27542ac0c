/* SPDX-License-Identifier: MIT */
/* Built once for a chip: WAD_CHIP names its generated roles header. */
#include <wadium/irq.h>

#include WAD_CHIP

#ifdef WAD_INTERRUPTS_TABLE

#define R WAD_INTERRUPTS_TABLE

wad_status wad_irq_enable(int line, unsigned priority)
{
    if (line < 0)
        return WAD_E_ARG;
    if (wad_has(R.priority) ? priority > wadi_ones(R.priority) : priority > 0)
        return WAD_E_RANGE;
    uint32_t state = wad_port_irq_save();
    if (wad_has(R.priority))
        wad_put(WAD_INTERRUPTS_BASE, wad_at(R.priority, (unsigned)line), priority);
    wad_put(WAD_INTERRUPTS_BASE, wad_at(R.enable, (unsigned)line), 1);
    wad_port_irq_restore(state);
    return WAD_OK;
}

void wad_irq_disable(int line)
{
    if (line < 0)
        return;
    uint32_t state = wad_port_irq_save();
    wad_put(WAD_INTERRUPTS_BASE, wad_at(R.enable, (unsigned)line), 0);
    wad_port_irq_restore(state);
}

bool wad_irq_pending(int line)
{
    return line >= 0 && wad_get(WAD_INTERRUPTS_BASE, wad_at(R.pending, (unsigned)line)) != 0;
}

int wad_irq_current(void)
{
    if (!wad_has(R.current))
        return -1;
    uint32_t line = wad_get(WAD_INTERRUPTS_BASE, R.current);
    return line == R.current_none ? -1 : (int)line;
}

wad_status wad_irq_raise(int line)
{
    if (line < 0)
        return WAD_E_ARG;
    if (!wad_has(R.raise))
        return WAD_E_ABSENT;
    wad_put(WAD_INTERRUPTS_BASE, wad_at(R.raise, (unsigned)line), 1);
    return WAD_OK;
}

wad_status wad_irq_dismiss(int line)
{
    if (line < 0)
        return WAD_E_ARG;
    if (!wad_has(R.dismiss))
        return WAD_E_ABSENT;
    wad_put(WAD_INTERRUPTS_BASE, wad_at(R.dismiss, (unsigned)line), 1);
    return WAD_OK;
}

uint32_t wad_irq_hold(unsigned priority)
{
    if (!wad_has(R.threshold))
        return wad_port_irq_save();
    uint32_t before = wad_get(WAD_INTERRUPTS_BASE, R.threshold);
    if (priority < before) /* never lets through what is held already */
        wad_put(WAD_INTERRUPTS_BASE, R.threshold, priority);
    return before;
}

void wad_irq_let(uint32_t held)
{
    if (wad_has(R.threshold))
        wad_put(WAD_INTERRUPTS_BASE, R.threshold, held);
    else
        wad_port_irq_restore(held);
}

#else /* the chip has none: what cannot be done is said at the call */

wad_status wad_irq_enable(int line, unsigned priority)
{
    (void)line;
    (void)priority;
    return WAD_E_ABSENT;
}

void wad_irq_disable(int line)
{
    (void)line;
}

bool wad_irq_pending(int line)
{
    (void)line;
    return false;
}

int wad_irq_current(void)
{
    return -1;
}

wad_status wad_irq_raise(int line)
{
    (void)line;
    return WAD_E_ABSENT;
}

wad_status wad_irq_dismiss(int line)
{
    (void)line;
    return WAD_E_ABSENT;
}

/* All interrupts are held: no line has a priority. */
uint32_t wad_irq_hold(unsigned priority)
{
    (void)priority;
    return wad_port_irq_save();
}

void wad_irq_let(uint32_t held)
{
    wad_port_irq_restore(held);
}

#endif
