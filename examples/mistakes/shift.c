/* SPDX-License-Identifier: MIT */
/* A bit one place off: SHADOW is bit 4, bit 5 is reserved. */
#include "setup.h"

int main(void)
{
    set_tick();
    TICK->CTRL = 1u << 5 | CORRAN32_COUNTER_CTRL_EN_MASK; /* mistake */
    rest();
}
