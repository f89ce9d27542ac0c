/* SPDX-License-Identifier: MIT */
/* The pin function stands behind a key that was not written. */
#include <wadium/cpu.h>

#include "corran8.h"

int main(void)
{
    CORRAN8_WDT->KEY = 0x36;
    CORRAN8_WDT->KEY = 0xC9;
    CORRAN8_WDT->CTRL = 0;
    CORRAN8_PORT0->FUNC = 1; /* mistake */
    for (;;)
        WAD_CPU_SLEEP();
}
