/* SPDX-License-Identifier: MIT */
/* One pin changes with each overflow, by single bits alone; another falls if all else is as
 * written. */
#include "pell8.h"

int main(void)
{
    PELL8_PANEL->LATCH = 0x5A;
    ((volatile unsigned char *)&PELL8_PANEL->WORD)[1] = 0x12; /* one byte of it */
    ((volatile unsigned char *)&PELL8_PANEL->WORD)[0] = 0x34;
    PELL8_TIM->START = 2;
    PELL8_BIT(0x70 + 2) = 1; /* 6 */
    PELL8_BIT(PELL8_TIM_CTRL_RUN_BIT) = 1;
    if (PELL8_PANEL->LATCH == 0x5A && PELL8_PANEL->WORD == 0x1234 && PELL8_TIM->CTRL == 1)
        PELL8_BIT(PELL8_PORT_OUT_P1_BIT) = 0;
    for (;;) {
        while (!PELL8_BIT(PELL8_TIM_CTRL_OVF_BIT))
            ;
        PELL8_BIT(PELL8_TIM_CTRL_OVF_BIT) = 0;
        PELL8_BIT(PELL8_PORT_OUT_P0_BIT) = !PELL8_BIT(PELL8_PORT_OUT_P0_BIT);
    }
}
