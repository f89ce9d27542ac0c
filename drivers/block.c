/* SPDX-License-Identifier: MIT */
#include <wadium/reg.h>

static bool holds(const wad_need *need)
{
    return (wadi_read(need->address, 0, need->size) & need->mask) == need->value;
}

bool wad_need_meet(const wad_need *need, uint32_t polls)
{
    if (!need->wait) {
        uint32_t state = wad_port_irq_save(); /* gate registers are shared by all drivers */
        uint32_t old = wadi_read(need->address, 0, need->size);
        wadi_write(need->address, 0, need->size, (old & ~need->mask) | need->value);
        wad_port_irq_restore(state);
        return true;
    }
    while (!holds(need))
        if (polls-- == 0)
            return false;
    return true;
}

bool wad_block_up(const wad_block *block, uint32_t polls)
{
    for (unsigned i = 0; i < block->n_needs; i++)
        if (!holds(&block->needs[i]) && !wad_need_meet(&block->needs[i], polls))
            return false;
    return true;
}
