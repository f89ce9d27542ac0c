/* SPDX-License-Identifier: MIT */
/* Flags that clear on 0 are cleared by &=: one that comes in between is lost. */
#include <wadium/cpu.h>

#include "corran16.h"

#define CNT CORRAN16_CNT0

int main(void)
{
    CORRAN16_SYS->CLOCK = CORRAN16_BITS(CORRAN16_SYSTEM_CLOCK_CDIV, 7); /* a slow core */
    CORRAN16_SYS->STOP = 0;
    CNT->PROTECT = 0x5A;
    CNT->CTRL = CORRAN16_COUNTER_CTRL_SOURCE_MASK; /* 8 MHz */
    CNT->PERIOD = 8000 - 1;
    CNT->CTRL = CORRAN16_COUNTER_CTRL_SOURCE_MASK | CORRAN16_COUNTER_CTRL_RUN_MASK;
    for (unsigned i = 0; i < 200; i++) {
        wad_cycles(37);
        CNT->FLAGS &= (uint16_t)~CORRAN16_COUNTER_FLAGS_WRAP_MASK; /* mistake */
    }
    for (;;)
        WAD_CPU_SLEEP();
}
