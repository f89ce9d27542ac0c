/* SPDX-License-Identifier: MIT */
/* What the mistakes share on Corran32: blocks brought up, and a tick of 1 kHz, done right. */
#ifndef MISTAKES_SETUP_H
#define MISTAKES_SETUP_H

#include <wadium/cpu.h>

#include "corran32.h"

#define CLK  CORRAN32_CLK
#define TICK CORRAN32_CNT0
#define WRAP CORRAN32_COUNTER_STAT_WRAP_MASK

static inline void bring_up(uint32_t blocks)
{
    CLK->GATE |= blocks;
    CLK->RESET &= ~blocks;
    while ((CLK->RDONE & blocks) != blocks) {
    }
}

/* The counter set to 1 kHz at 8 MHz, its flag clear, its interrupt not enabled yet. */
static inline void set_tick(void)
{
    bring_up(CORRAN32_CLOCKS_GATE_CNT0_MASK);
    TICK->RELOAD = 8000 - 1;
    TICK->LOAD = CORRAN32_COUNTER_LOAD_NOW_MASK;
    TICK->STAT = WRAP; /* LOAD has set it */
}

static inline void start_tick(void)
{
    set_tick();
    TICK->IRQEN = CORRAN32_COUNTER_IRQEN_WRAP_MASK;
    CORRAN32_INT->ENSET = 1u << CORRAN32_CNT0_IRQ;
    TICK->CTRL = CORRAN32_COUNTER_CTRL_EN_MASK;
    WAD_CPU_IRQ_ON();
}

static inline _Noreturn void rest(void)
{
    for (;;)
        WAD_CPU_SLEEP();
}

#endif
