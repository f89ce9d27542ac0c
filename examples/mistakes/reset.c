/* SPDX-License-Identifier: MIT */
/* The gate is open, but the counter is still held in reset. */
#include "setup.h"

int main(void)
{
    CLK->GATE |= CORRAN32_CLOCKS_GATE_CNT1_MASK;
    CORRAN32_CNT1->RELOAD = 999; /* mistake */
    CORRAN32_CNT1->CTRL = CORRAN32_COUNTER_CTRL_EN_MASK;
    rest();
}
