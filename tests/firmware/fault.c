/* SPDX-License-Identifier: MIT */
/* Says what fault ended the run before, then makes one. */
#include <wadium/fault.h>
#include <wadium/uart.h>

#include "corran32_roles.h"

static wad_timebase base;
static wad_uart link;

static void put(char c, void *port)
{
    (void)(wad_uart_put(port, &c, 1, 100000, NULL) == WAD_OK);
}

void handle_fault(void);
void handle_fault(void)
{
    wad_port_reset();
}

void make_fault(volatile uint32_t *nowhere);
__attribute__((noinline)) void make_fault(volatile uint32_t *nowhere)
{
    *nowhere = 1;
}

int main(void)
{
    const wad_uart_config config = {.baud = 115200,
                                    .tx = CORRAN32_ROUTE_UART0_TX_PA9,
                                    .rx = CORRAN32_ROUTE_UART0_RX_PA10,
                                    .time = &base};
    wad_fault fault;
    if (wad_timebase_open(&base, &corran32_base, 1000000, NULL) != WAD_OK ||
        wad_uart_open(&link, &corran32_uart0, &config, NULL) != WAD_OK)
        return 1;
    if (wad_fault_take(&fault)) {
        wad_fault_print(&fault, put, &link);
        if (!wad_fault_take(&fault)) /* once */
            wad_print(put, &link, "told\r\n");
        for (;;)
            wad_port_sleep();
    }
    wad_print(put, &link, "cold\r\n");
    make_fault((volatile uint32_t *)0x60000000u);
    for (;;) {
    }
}
