/* SPDX-License-Identifier: MIT */
/*
 * Counts waves: an interrupt every millisecond stands for a wave and adds one; main takes one off
 * and flashes the warning lamp for it. Both change `waves`, main with interrupts open: once in a
 * while a wave is lost. FIXED closes interrupts around it.
 */
#include <wadium/cpu.h>

#include "corran32.h"

#define CLK  CORRAN32_CLK
#define WARN (1u << 3) /* PC3 */

static volatile uint32_t waves, seen;

void handle_CNT0(void);
void handle_CNT0(void)
{
    CORRAN32_CNT0->STAT = CORRAN32_COUNTER_STAT_WRAP_MASK;
    if (seen < 100) {
        seen = seen + 1;
        waves = waves + 1;
    }
}

static void start(void)
{
    const uint32_t blocks = CORRAN32_CLOCKS_GATE_CNT0_MASK | CORRAN32_CLOCKS_GATE_PINC_MASK;
    CLK->GATE |= blocks;
    CLK->RESET &= ~blocks;
    while ((CLK->RDONE & blocks) != blocks) {
    }
    CORRAN32_PINC->DIR |= WARN;
    CORRAN32_CNT0->RELOAD = 8000 - 1; /* 8 MHz / 8000 = 1 kHz */
    CORRAN32_CNT0->LOAD = CORRAN32_COUNTER_LOAD_NOW_MASK;
    CORRAN32_CNT0->STAT = CORRAN32_COUNTER_STAT_WRAP_MASK;
    CORRAN32_CNT0->IRQEN = CORRAN32_COUNTER_IRQEN_WRAP_MASK;
    CORRAN32_INT->ENSET = 1u << CORRAN32_CNT0_IRQ;
    CORRAN32_CNT0->CTRL = CORRAN32_COUNTER_CTRL_EN_MASK;
    WAD_CPU_IRQ_ON();
}

static void take_one(void)
{
#ifdef FIXED
    WAD_CPU_IRQ_OFF();
    waves = waves - 1;
    WAD_CPU_IRQ_ON();
#else
    waves = waves - 1; /* read, subtract, write: a wave in between is lost */
#endif
}

int main(void)
{
    start();
    for (;;) {
        while (!waves) {
        }
        take_one();
        CORRAN32_PINC->TGL = WARN;
    }
}
