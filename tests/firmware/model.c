/* SPDX-License-Identifier: MIT */
/* What means something else on the target; and a handler known by its number. */
#include <wadium/cpu.h>

#include "corran32.h"

long total;
static volatile char letter = 'a';
int fine; /* 32 bits on both */

void handle_vector_8(void);
void handle_vector_8(void)
{
    CORRAN32_CNT0->STAT = CORRAN32_COUNTER_STAT_WRAP_MASK;
    CORRAN32_PINC->TGL = 8;
}

int main(void)
{
    const uint32_t blocks = CORRAN32_CLOCKS_GATE_CNT0_MASK | CORRAN32_CLOCKS_GATE_PINC_MASK;
    CORRAN32_CLK->GATE = blocks;
    CORRAN32_CLK->RESET &= ~blocks;
    while ((CORRAN32_CLK->RDONE & blocks) != blocks) {
    }
    CORRAN32_PINC->DIR = 8;
    CORRAN32_CNT0->RELOAD = 7999;
    CORRAN32_CNT0->LOAD = 1;
    CORRAN32_CNT0->STAT = 1;
    CORRAN32_CNT0->IRQEN = 1;
    CORRAN32_INT->ENSET = 1u << CORRAN32_CNT0_IRQ;
    CORRAN32_CNT0->CTRL = 1;
    letter++;
    WAD_CPU_IRQ_ON();
    for (;;)
        WAD_CPU_SLEEP();
}
