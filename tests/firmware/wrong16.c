/* SPDX-License-Identifier: MIT */
/* What goes wrong on this chip: a flag that is cleared by writing 0 to it, read, changed and
 * written back; two blocks' groups of pins that meet. */
#include <wadium/irq.h>

#include "corran16_roles.h"

#define CNT0  CORRAN16_CNT0_BASE
#define FLAGS 0x06u

#if WRONG == 809
static uint8_t ring[32];
static const wad_uart port = {&corran16_uart0, .baud = 9600, .rx = CORRAN16_ROUTE_UART0_RX_P11,
                              .in = WAD_RING(ring)};

#ifndef RIGHT
#define RIGHT 0
#endif

/* The overrun's flag is left alone: from then on nothing is received. */
void handle_UART0(void);
void handle_UART0(void)
{
    if (RIGHT)
        wad_uart_handle(&port);
    else if (wad_get(CORRAN16_UART0_BASE, corran16_serial_roles.rx_ready))
        (void)wad_get(CORRAN16_UART0_BASE, corran16_serial_roles.rx_data);
}

int main(void)
{
    if (wad_uart_open(&port) != WAD_OK) /* here 809 */
        return 1;
    if (!RIGHT) /* nor does it ask for an interrupt */
        wad_put(CORRAN16_UART0_BASE, corran16_serial_roles.overrun_irq, 0);
    wad_port_cycles(8 * 15000); /* longer than a byte takes at 9600 baud */
    wad_irq_global_on();
    for (;;)
        wad_port_sleep();
}
#elif WRONG == 503
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
    const wad_timer t = {&corran16_cnt0, .rate = WAD_RATE_KHZ(1)};
    /* a slow core and a fast counter: many counts between a read and a write */
    wad_put(CORRAN16_SYS_BASE, corran16_system_clock_cdiv, 7);
    wad_block_up(&corran16_cnt0.block, 1);
    corran16_counter_unlock(CNT0);
    wad_put(CNT0, corran16_counter_ctrl_source, CORRAN16_COUNTER_CTRL_SOURCE_FAST);
    corran16_counter_lock(CNT0);
    if (wad_timer_open(&t) != WAD_OK)
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
