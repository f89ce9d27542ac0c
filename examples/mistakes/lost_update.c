/* SPDX-License-Identifier: MIT */
/* Main and the handler both change a counter; volatile does not make that whole. */
#include "setup.h"

static volatile uint32_t events;

void handle_CNT0(void);
void handle_CNT0(void)
{
    TICK->STAT = WRAP;
    events = events + 1;
}

int main(void)
{
    start_tick();
    for (;;) {
        events = events + 10; /* mistake */
        WAD_CPU_SLEEP();
    }
}
