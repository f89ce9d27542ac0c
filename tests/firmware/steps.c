/* SPDX-License-Identifier: MIT */
/*
 * A driver's order of steps by hand: a timer that interrupts and drives a pin.
 * SKIP leaves one step out; the line that must be named then carries its mark.
 */
#include <wadium/irq.h>

#include "corran32_roles.h"

enum { NOTHING, CLOCK, RESET, ROUTE, FLAG, BLOCK_ENABLE, CONTROLLER, MASK };

#define R    corran32_counter_roles
#define BASE CORRAN32_CNT1_BASE
#define CLK  CORRAN32_CLK_BASE

void handle_CNT1(void);
void handle_CNT1(void)
{
    wad_clear(BASE, R.wrap);
}

static void bring_up(void)
{
    if (SKIP != CLOCK)
        wad_put(CLK, corran32_clocks_gate_cnt1, 1);
    if (SKIP != RESET) {
        wad_put(CLK, corran32_clocks_reset_cnt1, 0);
        while (!wad_get(CLK, corran32_clocks_rdone_cnt1)) {
        }
    }
    wad_put(CLK, corran32_clocks_gate_pina, 1);
    wad_put(CLK, corran32_clocks_reset_pina, 0);
    while (!wad_get(CLK, corran32_clocks_rdone_pina)) {
    }
}

int main(void)
{
    bring_up();
    if (SKIP != ROUTE)
        wad_put(CORRAN32_PINA_BASE, wad_at(corran32_gpio_roles.function, 0), 1);
    wad_put(BASE, R.prescale, 7); /* here CLOCK RESET */
    wad_put(BASE, R.reload, 999);
    wad_put(BASE, wad_at(R.compare, 0), 250);
    wad_put(BASE, wad_at(R.drive, 0), R.drive_pwm);
    wad_put(BASE, R.load, 1);
    wad_put(BASE, wad_at(R.output_on, 0), 1); /* here ROUTE */
    if (SKIP != FLAG)
        wad_clear(BASE, R.wrap);
    wad_put(BASE, R.wrap_irq, 1); /* here FLAG BLOCK_ENABLE CONTROLLER MASK */
    if (SKIP != CONTROLLER && wad_irq_enable(corran32_cnt1.block.irq, 0) != WAD_OK)
        return 1;
    if (SKIP != BLOCK_ENABLE)
        wad_put(BASE, R.enable, 1);
    if (SKIP != MASK)
        wad_irq_global_on();
    for (;;)
        wad_port_sleep();
}
