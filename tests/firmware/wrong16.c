/* SPDX-License-Identifier: MIT */
/* What goes wrong on this chip: a flag that is cleared by writing 0 to it, read, changed and
 * written back; two blocks' groups of pins that meet. */
#include <wadium/timer.h>

#include "corran16_roles.h"

#define CNT0  CORRAN16_CNT0_BASE
#define FLAGS 0x06u

#if WRONG == 503
int main(void)
{
    if (wad_pin_route(CORRAN16_ROUTE_CNT0_CH0_P14) != WAD_OK)
        return 1;
    (void)!wad_pin_route(CORRAN16_ROUTE_CNT1_CH0_P14); /* here 503 */
    for (;;)
        wad_port_sleep();
}
#else
int main(void)
{
    wad_timer t;
    /* a slow core and a fast counter: many counts between a read and a write */
    wad_put(CORRAN16_SYS_BASE, corran16_system_clock_cdiv, 7);
    wad_block_up(&corran16_cnt0, 1);
    corran16_counter_unlock(CNT0);
    wad_put(CNT0, corran16_counter_ctrl_source, CORRAN16_COUNTER_CTRL_SOURCE_FAST);
    corran16_counter_lock(CNT0);
    if (wad_timer_open(&t, &corran16_cnt0, WAD_KHZ(1), NULL) != WAD_OK)
        return 1;
    wad_timer_start(&t);
    for (unsigned i = 0; i < 100; i++) {
        wad_port_cycles(37);
        wad_port_write16(CNT0, FLAGS, wad_port_read16(CNT0, FLAGS) & 0xFFFEu); /* here 209 */
    }
    for (;;)
        wad_port_sleep();
}
#endif
