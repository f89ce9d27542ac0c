/* SPDX-License-Identifier: MIT */
/* The output is on, but no pin has the function: nothing comes out. */
#include "setup.h"

int main(void)
{
    bring_up(CORRAN32_CLOCKS_GATE_CNT1_MASK | CORRAN32_CLOCKS_GATE_PINA_MASK);
    CORRAN32_CNT1->CMP[0] = 500;
    CORRAN32_CNT1->RELOAD = 999;
    CORRAN32_CNT1->OUTMODE = CORRAN32_COUNTER_OUTMODE_CH_PWM;
    CORRAN32_CNT1->OUTEN = 1; /* mistake */
    CORRAN32_CNT1->CTRL = CORRAN32_COUNTER_CTRL_EN_MASK;
    rest();
}
