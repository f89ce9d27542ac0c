/* SPDX-License-Identifier: MIT */
/* The core is switched to the PLL before the PLL runs. */
#include "setup.h"

int main(void)
{
    CLK->PLL = CORRAN32_BITS(CORRAN32_CLOCKS_PLL_MUL, 4);
    CLK->CTRL |= CORRAN32_CLOCKS_CTRL_PLLEN_MASK;
    CLK->SEL = CORRAN32_BITS(CORRAN32_CLOCKS_SEL_CORE, CORRAN32_CLOCKS_SEL_CORE_PLL); /* mistake */
    rest();
}
