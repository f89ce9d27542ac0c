/* SPDX-License-Identifier: MIT */
/* Three timers of one register set, each with its own handler. */
#include "holm32.h"
#include <wadium/port.h>

void handle_TIM_T0_wrap(void)
{
    HOLM32_TIM->FLAGS = HOLM32_TIMERS_FLAGS_OVF_MASK(0);
}

void handle_TIM_T0_match0(void)
{
    HOLM32_TIM->FLAGS = HOLM32_TIMERS_FLAGS_M_MASK(0);
}

void handle_TIMERS(void)
{
    HOLM32_TIM->FLAGS =
        HOLM32_TIM->FLAGS & (HOLM32_TIMERS_FLAGS_S_MASK(0) | HOLM32_TIMERS_FLAGS_S_MASK(1) |
                             HOLM32_TIMERS_FLAGS_S_MASK(2));
}

int main(void)
{
    HOLM32_TIM->TOP[0] = 8000 - 1;
    HOLM32_TIM->CC[0] = 2000;
    ((volatile uint32_t *)HOLM32_TIM_BASE)[0x60 / 4] = (20000u - 1) << 16 | 3; /* CH[2] */
    HOLM32_TIM->CTRL =
        HOLM32_TIMERS_CTRL_RUN0_MASK | HOLM32_TIMERS_CTRL_IE0_MASK | HOLM32_TIMERS_CTRL_MIE_MASK(0);
    wad_port_irq_on();
    for (;;)
        wad_port_sleep();
}
