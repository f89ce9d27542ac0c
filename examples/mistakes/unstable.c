/* SPDX-License-Identifier: MIT */
/* The direction is changed while the counter runs. */
#include "setup.h"

int main(void)
{
    set_tick();
    TICK->CTRL = CORRAN32_COUNTER_CTRL_EN_MASK;
    TICK->CTRL |= CORRAN32_COUNTER_CTRL_MODE_DOWN << 1; /* mistake */
    rest();
}
