/* SPDX-License-Identifier: MIT */
/* Built once for a chip: WAD_CHIP names its generated roles header. */
#include <wadium/irq.h>

#include WAD_CHIP

#define R WAD_IRQC_TABLE

wad_status wad_irq_enable(int line, unsigned priority)
{
    if (line < 0)
        return WAD_E_ARG;
    if (wad_has(R.priority) ? priority > wadi_ones(R.priority) : priority > 0)
        return WAD_E_RANGE;
    uint32_t state = wad_port_irq_save();
    if (wad_has(R.priority))
        wad_put(WAD_IRQC_BASE, wad_at(R.priority, (unsigned)line), priority);
    wad_put(WAD_IRQC_BASE, wad_at(R.enable, (unsigned)line), 1);
    wad_port_irq_restore(state);
    return WAD_OK;
}

void wad_irq_disable(int line)
{
    if (line < 0)
        return;
    uint32_t state = wad_port_irq_save();
    wad_put(WAD_IRQC_BASE, wad_at(R.enable, (unsigned)line), 0);
    wad_port_irq_restore(state);
}

bool wad_irq_pending(int line)
{
    return line >= 0 && wad_get(WAD_IRQC_BASE, wad_at(R.pending, (unsigned)line)) != 0;
}

int wad_irq_current(void)
{
    if (!wad_has(R.current))
        return -1;
    uint32_t line = wad_get(WAD_IRQC_BASE, R.current);
    return line == R.current_none ? -1 : (int)line;
}
