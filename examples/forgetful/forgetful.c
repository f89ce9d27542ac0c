/* SPDX-License-Identifier: MIT */
/*
 * A blinking warning lamp, written straight on the registers by somebody in a
 * hurry: it compiles, it runs, nothing blinks, and the silicon says nothing.
 */
#include <wadium/irq.h>

#include "corran32_roles.h"

#define R   corran32_counter_roles
#define CLK CORRAN32_CLK_BASE
#define CNT CORRAN32_CNT0_BASE
#define PIN CORRAN32_PINC_BASE

void handle_CNT0(void);
void handle_CNT0(void)
{
    wad_port_write32(PIN, corran32_gpio_tgl.off, 1u << 3);
    wad_clear(CNT, R.wrap);
}

int main(void)
{
    wad_put(CLK, corran32_clocks_gate_pinc, 1);
    wad_put(PIN, wad_at(corran32_gpio_dir_pin, 3), 1); /* its reset was never released */

    wad_block_up(&corran32_cnt0.block, 1000);
    wad_put(CNT, R.prescale, 8000 - 1); /* 8 MHz / 8000 = 1 kHz */
    wad_put(CNT, R.reload, 500 - 1);
    wad_put(CNT, R.load, 1);
    wad_port_write32(CNT, R.wrap.off, wad_port_read32(CNT, R.wrap.off) | 1); /* |= on a flag */
    wad_put(CNT, R.wrap_irq, 1); /* the line at the controller is missing */
    wad_put(CNT, R.enable, 1);

    wad_irq_global_on();
    for (;;)
        wad_port_sleep();
}
