/* SPDX-License-Identifier: MIT */
/* A 64-bit count of the handler is read in two halves. */
#include "setup.h"

static volatile uint64_t ticks;
static volatile uint32_t last;

void handle_CNT0(void);
void handle_CNT0(void)
{
    TICK->STAT = WRAP;
    ticks = ticks + 1;
}

int main(void)
{
    start_tick();
    for (;;) {
        last = (uint32_t)(ticks >> 8); /* mistake */
        WAD_CPU_SLEEP();
    }
}
