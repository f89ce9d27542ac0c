/* SPDX-License-Identifier: MIT */
/* The whole chain is enabled, but the global mask stays closed. */
#include "setup.h"

void handle_CNT0(void);
void handle_CNT0(void)
{
    TICK->STAT = WRAP;
}

int main(void)
{
    set_tick();
    CORRAN32_INT->ENSET = 1u << CORRAN32_CNT0_IRQ;
    TICK->IRQEN = CORRAN32_COUNTER_IRQEN_WRAP_MASK; /* mistake */
    TICK->CTRL = CORRAN32_COUNTER_CTRL_EN_MASK;
    rest();
}
