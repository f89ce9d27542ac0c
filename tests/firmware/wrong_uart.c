/* SPDX-License-Identifier: MIT */
/* Mistakes with serial ports, chosen by WRONG, and with RIGHT the same task done well. */
#include "corran32_roles.h"

#ifndef RIGHT
#define RIGHT 0
#endif
#define PORT CORRAN32_UART0_BASE
#define R    corran32_serial_roles

static const wad_timebase base = {&corran32_base, .hz = 1000000};
static uint8_t in[32];

/* The peer sends twelve bytes at 115 200 baud, 8E1; for 811 the line is inverted. */
static const wad_uart port = {&corran32_uart0,
                              .baud = RIGHT          ? 115200
                                      : WRONG == 802 ? 57600
                                      : WRONG == 810 ? 123000
                                                     : 115200,
                              .invert_rx = WRONG == 811 && RIGHT,
                              .parity = WRONG == 803 && !RIGHT ? WAD_PARITY_ODD : WAD_PARITY_EVEN,
                              .tx = CORRAN32_ROUTE_UART0_TX_PA9,
                              .rx = CORRAN32_ROUTE_UART0_RX_PA10,
                              .in = WRONG == 801 && !RIGHT ? NULL : WAD_RING(in),
                              .time = &base,
                              .priority = 1};

void handle_UART0(void);
void handle_UART0(void) /* here 808 */
{
#if WRONG == 808
    if (RIGHT)
        wad_put(PORT, R.tx_ready_irq, 0);
#else
    wad_uart_handle(&port);
#endif
}

static void act(void)
{
#if WRONG == 801
    wad_port_cycles(8 * 20000); /* longer than twelve bytes take */
#elif WRONG == 804
    if (!RIGHT || wad_get(PORT, R.rx_ready))
        (void)wad_get(PORT, R.rx_data); /* here 804 */
#elif WRONG == 805
    for (unsigned i = 0; i < 12; i++) {
        while (RIGHT && !wad_get(PORT, R.tx_ready)) {
        }
        wad_put(PORT, R.tx_data, i); /* here 805 */
    }
#elif WRONG == 806
    wad_put(PORT, R.tx_enable, RIGHT);
    wad_put(PORT, R.tx_data, 'x'); /* here 806 */
#elif WRONG == 808
    uint32_t state = wad_port_irq_save();
    wad_put(PORT, R.tx_ready_irq, 1);
    wad_port_irq_restore(state);
#elif WRONG == 807
    (void)wad_uart_write(&port, "end", 3, 10000);
    if (RIGHT)
        (void)!wad_uart_drain(&port, 10000);
    wad_put(PORT, R.enable, 0); /* here 807 */
#endif
}

int main(void)
{
    wad_status st = wad_timebase_open(&base);
    if (st == WAD_OK)
        st = wad_uart_open(&port); /* here 801 802 803 810 811 */
    if (st != WAD_OK)
        return 1;
    wad_port_irq_on();
    act();
    for (;;)
        wad_port_sleep();
}
