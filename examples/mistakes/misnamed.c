/* SPDX-License-Identifier: MIT */
/* The handler has a slip in its name: the default one parks the CPU. */
#include "setup.h"

void handle_CNTO(void);
void handle_CNTO(void)
{
    TICK->STAT = WRAP;
}

int main(void)
{
    set_tick();
    CORRAN32_INT->ENSET = 1u << CORRAN32_CNT0_IRQ;
    TICK->IRQEN = CORRAN32_COUNTER_IRQEN_WRAP_MASK; /* mistake */
    TICK->CTRL = CORRAN32_COUNTER_CTRL_EN_MASK;
    WAD_CPU_IRQ_ON();
    rest();
}
