/* SPDX-License-Identifier: MIT */
/* What the timer driver's files share. Included once a file, behind WAD_CHIP's choice of chip. */
#ifndef WADI_TIMER_PRIVATE_H
#define WADI_TIMER_PRIVATE_H

#include <wadium/clock.h>
#include <wadium/irq.h>
#include <wadium/timer.h>

#include WAD_CHIP

#ifdef WAD_COUNTER_TABLE
#define R WAD_COUNTER_TABLE

static inline uint32_t largest(uint8_t bits, uint32_t plus)
{
    return bits >= 32 ? 0xFFFFFFFFu : WADI_BIT(bits) - 1u + plus;
}

/* A register that a lock keeps is opened for the one write, with nothing in between. */
static inline void put(uintptr_t base, wad_field f, uint32_t value)
{
    if (!(f.how & WAD_HOW_LOCKED)) {
        wad_put(base, f, value);
        return;
    }
    uint32_t state = wad_port_irq_save();
    WAD_COUNTER_UNLOCK(base);
    wad_put(base, f, value);
    WAD_COUNTER_LOCK(base);
    wad_port_irq_restore(state);
}

#endif
#endif
