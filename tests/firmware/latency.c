/* SPDX-License-Identifier: MIT */
/* Three lines of three priorities whose handlers take a while; who raises them is outside. */
#include <wadium/irq.h>

#include "corran32_roles.h"

#define URGENT 1 /* the lines of PINA, PINB, PINC */
#define MIDDLE 2
#define LATE   3

static void spend(void)
{
    for (int i = 0; i < 10; i++)
        (void)wad_port_read32(CORRAN32_CLK_BASE, 0);
}

void handle_PINA(void);
void handle_PINB(void);
void handle_PINC(void);

void handle_PINA(void)
{
    spend();
}

void handle_PINB(void)
{
    spend();
}

void handle_PINC(void)
{
    spend();
}

int main(void)
{
    if (wad_irq_enable(URGENT, 0) != WAD_OK || wad_irq_enable(MIDDLE, 1) != WAD_OK ||
        wad_irq_enable(LATE, 2) != WAD_OK)
        return 1;
    wad_irq_global_on();
    for (;;) {
    }
}
