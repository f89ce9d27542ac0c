/* SPDX-License-Identifier: MIT */
/* The interrupt is enabled while the flag of LOAD still stands: one tick too many. */
#include "setup.h"

void handle_CNT0(void);
void handle_CNT0(void)
{
    TICK->STAT = WRAP;
}

int main(void)
{
    set_tick();
    TICK->LOAD = CORRAN32_COUNTER_LOAD_NOW_MASK;
    CORRAN32_INT->ENSET = 1u << CORRAN32_CNT0_IRQ;
    TICK->IRQEN = CORRAN32_COUNTER_IRQEN_WRAP_MASK; /* mistake */
    TICK->CTRL = CORRAN32_COUNTER_CTRL_EN_MASK;
    WAD_CPU_IRQ_ON();
    rest();
}
