/* SPDX-License-Identifier: MIT */
/* The block asks, but the line is not enabled at the interrupt controller. */
#include "setup.h"

void handle_CNT0(void);
void handle_CNT0(void)
{
    TICK->STAT = WRAP;
}

int main(void)
{
    set_tick();
    TICK->IRQEN = CORRAN32_COUNTER_IRQEN_WRAP_MASK; /* mistake */
    TICK->CTRL = CORRAN32_COUNTER_CTRL_EN_MASK;
    WAD_CPU_IRQ_ON();
    rest();
}
