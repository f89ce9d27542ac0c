/* SPDX-License-Identifier: MIT */
/* Everything is configured, and the enable bit is forgotten. */
#include "setup.h"

int main(void)
{
    bring_up(CORRAN32_CLOCKS_GATE_CNT1_MASK);
    CORRAN32_CNT1->PRESC = 7;
    CORRAN32_CNT1->RELOAD = 999; /* mistake */
    rest();
}
