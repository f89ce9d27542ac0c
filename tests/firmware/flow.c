/* SPDX-License-Identifier: MIT */
/* RTS and CTS: sends 40 bytes as the other end lets it, and reads what comes only after 100 ms, so
 * that RTS has to hold the other end. LEVEL1 rises when all 40 have left, WARN when that takes more
 * than 200 ms; then what was received is sent back. */
#include <wadium/cpu.h>
#include <wadium/irq.h>
#include <wadium/pin.h>

#include <corran32_roles.h>

static const wad_timebase base = {&corran32_base, .hz = 1000000};
static const wad_uart port = {&corran32_uart0,
                              .clock_hz = 8000000,
                              .baud = 9600,
                              .tx = CORRAN32_ROUTE_UART0_TX_PA9,
                              .rx = CORRAN32_ROUTE_UART0_RX_PA10,
                              .rts = CORRAN32_ROUTE_UART0_RTS_PA12,
                              .cts = CORRAN32_ROUTE_UART0_CTS_PA13,
                              .time = &base};

int main(void)
{
    static const char text[] = "0123456789012345678901234567890123456789";
    wad_status st = wad_timebase_open(&base);
    char in[64];
    size_t n = 0;
    if (st == WAD_OK)
        st = wad_pin_output(CORRAN32_PA0, false);
    if (st == WAD_OK)
        st = wad_pin_output(CORRAN32_PC3, false);
    if (st == WAD_OK)
        st = wad_uart_open(&port);
    if (st != WAD_OK)
        return 1;
    wad_cycles(8 * 100000); /* not looking: RTS holds what comes */
    n = wad_uart_read_until(&port, in, sizeof in, -1, 5000, 100000);
    bool sent = wad_uart_write(&port, text, 40, 200000) == 40;
    wad_pin_write(sent ? CORRAN32_PA0 : CORRAN32_PC3, true);
    (void)wad_uart_write(&port, in, n, 1000000);
    for (;;)
        wad_port_sleep();
}
