/* SPDX-License-Identifier: MIT */
/* pwm.c written by hand, from the data sheet. */
#include <stdint.h>

#include "corran32.h"
#include <wad_port.h>

#define M (1u << 9 | 1u)

int main(void)
{
    CORRAN32_CLK->GATE |= M;
    CORRAN32_CLK->RESET &= ~M;
    while ((CORRAN32_CLK->RDONE & M) != M) {
    }
    CORRAN32_PINA->FUNC[0] = (CORRAN32_PINA->FUNC[0] & ~0xFu) | 1u;
    CORRAN32_CNT1->CTRL = 1u << 4;
    CORRAN32_CNT1->PRESC = 0;
    CORRAN32_CNT1->RELOAD = 7999;
    CORRAN32_CNT1->CMP[0] = 2000;
    CORRAN32_CNT1->OUTMODE = (CORRAN32_CNT1->OUTMODE & ~7u) | 4u;
    CORRAN32_CNT1->LOAD = 1;
    CORRAN32_CNT1->STAT = 1;
    CORRAN32_CNT1->OUTEN |= 1u;
    CORRAN32_CNT1->CTRL = 1u << 4 | 1u;
    for (;;)
        wad_port_sleep();
}
