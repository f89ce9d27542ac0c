/* SPDX-License-Identifier: MIT */
/* Both relays, each pulled again as soon as it has been. */
#include "scarba32.h"
#include <wadium/port.h>

void handle_RELAYS(void)
{
    for (unsigned i = 0; i < 2; i++)
        if (SCARBA32_PULL->R[i].STATE & 2)
            SCARBA32_PULL->R[i].STATE = 2 | 1;
}

int main(void)
{
    SCARBA32_PINS->FN = 3;
    SCARBA32_CNT->CTRL = 1 << 1 | 1;
    SCARBA32_PULL->R[0].CTRL = 2 << 4 | 2 | 1; /* 3 ms, and 0.2 of bouncing */
    SCARBA32_PULL->R[1].CTRL = 1 << 4 | 2 | 1; /* 4 ms, and 1 */
    SCARBA32_PULL->R[0].STATE = 1;
    SCARBA32_PULL->R[1].STATE = 1;
    wad_port_irq_on();
    for (;;)
        wad_port_sleep();
}
