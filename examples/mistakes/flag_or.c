/* SPDX-License-Identifier: MIT */
/* A flag that clears on 1 is cleared by |=, and the others with it. */
#include "setup.h"

int main(void)
{
    set_tick();
    TICK->CMP[0] = 4000;
    TICK->CTRL = CORRAN32_COUNTER_CTRL_EN_MASK;
    while (!(TICK->STAT & WRAP)) {
    }
    TICK->STAT |= WRAP; /* mistake */
    rest();
}
