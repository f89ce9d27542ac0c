/* SPDX-License-Identifier: MIT */
/* Main waits for a flag that is not volatile: the optimiser reads it once. */
#include "setup.h"

static unsigned ticked;

void handle_CNT0(void);
void handle_CNT0(void)
{
    TICK->STAT = WRAP;
    ticked = 1;
}

int main(void)
{
    start_tick();
    while (!ticked) { /* mistake */
    }
    rest();
}
