/* SPDX-License-Identifier: MIT */
/* A lamp by the timer's period, and a main loop that sleeps until the second channel's handler
 * wakes it at each fourth match. */
#include "karst16.h"
#include <wadium/cpu.h>

static volatile unsigned matches;

void handle_TA_wrap(void)
{
    KARST16_P->OUT ^= 1;
}

void handle_TA_match(void)
{
    if (KARST16_TA->IV == 4 && ++matches % 4 == 0)
        wad_cpu_saved(KARST16_CORE_STATUS_DEEP_MASK, 0);
}

int main(void)
{
    KARST16_WD->CTL = 0x5A00 | KARST16_WATCHDOG_CTL_HOLD_MASK;
    KARST16_P->DIR = 3;
    KARST16_TA->CC[0] = 327;
    KARST16_TA->CC[2] = 100;
    KARST16_TA->CTL0 = KARST16_TIMER_CTL0_IE_MASK;
    KARST16_TA->CTLN[1] = KARST16_TIMER_CTLN_IE_MASK;
    KARST16_TA->CTL = 1 << 8 | 1 << 4 | KARST16_TIMER_CTL_CLR_MASK;
    for (;;) {
        KARST16_CPU->STATUS = KARST16_CORE_STATUS_I_MASK | KARST16_CORE_STATUS_DEEP_MASK;
        KARST16_CPU->STATUS = 0; /* the port's register is the handler's too */
        KARST16_P->OUT |= 2;
        KARST16_P->OUT &= (unsigned short)~2;
    }
}
