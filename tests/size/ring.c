/* SPDX-License-Identifier: MIT */
/* An echo through rings, by interrupt; everything is counted, but for lean.c. */
#include <corran32_roles.h>

static uint8_t in[64], out[256];
static const wad_uart link = {
    &corran32_uart0,
    .clock_hz = 8000000,
    .baud = 115200,
    .tx = CORRAN32_ROUTE_UART0_TX_PA9,
    .rx = CORRAN32_ROUTE_UART0_RX_PA10,
#ifndef LEAN
    .stats = &(wad_uart_stats){0},
#endif
    .priority = 2,
    .in = WAD_RING(in),
    .out = WAD_RING(out),
};

void handle_UART0(void);
void handle_UART0(void)
{
    wad_uart_handle(&link);
}

int main(void)
{
    if (wad_uart_open(&link) != WAD_OK)
        return 1;
    wad_irq_global_on();
    for (;;) {
        uint8_t piece[16];
        size_t n = wad_uart_read(&link, piece, sizeof piece, 0);
        if (n)
            (void)wad_uart_write(&link, piece, n, 0);
        else
            wad_port_sleep();
    }
}
