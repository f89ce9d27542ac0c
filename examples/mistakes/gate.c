/* SPDX-License-Identifier: MIT */
/* The clock gate of the counter is forgotten. */
#include "setup.h"

int main(void)
{
    CLK->RESET &= ~CORRAN32_CLOCKS_RESET_CNT1_MASK;
    CORRAN32_CNT1->RELOAD = 999; /* mistake */
    CORRAN32_CNT1->CTRL = CORRAN32_COUNTER_CTRL_EN_MASK;
    rest();
}
