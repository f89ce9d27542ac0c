/* SPDX-License-Identifier: MIT */
/* The handler does not clear its flag and is entered for ever. */
#include "setup.h"

static volatile unsigned ticks;

void handle_CNT0(void);
void handle_CNT0(void) /* mistake */
{
    ticks = ticks + 1;
}

int main(void)
{
    start_tick();
    rest();
}
