/* SPDX-License-Identifier: MIT */
/* Says what fault ended the run before, then makes one. */
#include <wadium/fault.h>

#include "corran32_roles.h"

static const wad_timebase base = {&corran32_base, .hz = 1000000};
static const wad_uart link = {&corran32_uart0,
                              .clock_hz = 8000000,
                              .baud = 115200,
                              .tx = CORRAN32_ROUTE_UART0_TX_PA9,
                              .rx = CORRAN32_ROUTE_UART0_RX_PA10,
                              .time = &base};

static void put(char c, void *context)
{
    (void)context;
    (void)wad_uart_write(&link, &c, 1, 100000);
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
    wad_fault fault;
    if (wad_timebase_open(&base) != WAD_OK || wad_uart_open(&link) != WAD_OK)
        return 1;
    if (wad_fault_take(&fault)) {
        wad_fault_print(&fault, put, NULL);
        if (!wad_fault_take(&fault)) /* once */
            wad_print(put, NULL, "told\r\n");
        for (;;)
            wad_port_sleep();
    }
    wad_print(put, NULL, "cold\r\n");
    if (wad_uart_drain(&link, 10000) != WAD_OK)
        return 1;
    make_fault((volatile uint32_t *)0x60000000u);
    for (;;) {
    }
}
