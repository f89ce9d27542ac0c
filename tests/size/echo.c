/* SPDX-License-Identifier: MIT */
/* The smallest echo: one port, polled. */
#include <corran32_roles.h>

static const wad_uart link = {
    &corran32_uart0,
    .clock_hz = 8000000,
    .baud = 115200,
    .tx = CORRAN32_ROUTE_UART0_TX_PA9,
    .rx = CORRAN32_ROUTE_UART0_RX_PA10,
};

int main(void)
{
    if (wad_uart_open(&link) != WAD_OK)
        return 1;
    for (;;) {
        int c = wad_uart_take(&link);
        if (c >= 0)
            while (!wad_uart_give(&link, (uint32_t)c)) {
            }
    }
}
