/* SPDX-License-Identifier: MIT */
/* The status register is written where the control register was meant. */
#include "setup.h"

int main(void)
{
    volatile uint32_t *clocks = (volatile uint32_t *)CORRAN32_CLK_BASE;
    clocks[1] = CORRAN32_CLOCKS_CTRL_XTALEN_MASK; /* mistake: CTRL is word 0 */
    rest();
}
