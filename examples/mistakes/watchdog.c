/* SPDX-License-Identifier: MIT */
/* The watchdog runs from reset, and nobody feeds or stops it. */
#include <wadium/cpu.h>

#include "corran8.h"

int main(void)
{
    CORRAN8_CLK->DIV = 0;
    while (!(CORRAN8_PORT1->IN & 1)) { /* mistake: waits for a pin that never comes */
    }
    for (;;)
        WAD_CPU_SLEEP();
}
