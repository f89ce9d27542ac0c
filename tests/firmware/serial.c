/* SPDX-License-Identifier: MIT */
/* The serial port of whatever chip: echoes in the background, each byte plus one; ESC tells the
 * counts by printf, and what comes next is read by getchar. */
#include <stdio.h>

#include <wadium/cpu.h>
#include <wadium/irq.h>
#include <wadium/stdio.h>
#include <wadium/uart.h>
#include <wadium/watchdog.h>

#include SERIAL_CHIP

static wad_timebase base;
static wad_uart port;
static uint8_t in[64], out[64];

void handle_UART0(void);
void handle_UART0(void)
{
    wad_uart_handle(&port);
}

static size_t put(void *uart, const char *text, size_t n)
{
    size_t went;
    (void)!wad_uart_put(uart, text, n, 1000000, &went);
    return went;
}

static size_t get(void *uart, char *text, size_t n)
{
    size_t came;
    (void)!wad_uart_get(uart, text, n ? 1 : 0, 1000000, &came);
    return came;
}

int main(void)
{
    wad_uart_config config = {.baud = 2400,
                              .tx = SERIAL_TX,
                              .rx = SERIAL_RX,
                              .parity = SERIAL_PARITY,
                              .stop = SERIAL_STOP,
                              .time = &base};
    int32_t ppm;
    wad_status st = WAD_OK;
#ifdef SERIAL_DOG
    st = wad_watchdog_stop();
#endif
    if (st == WAD_OK)
        st = wad_timebase_open(&base, &SERIAL_TIME, 0, NULL);
    if (st == WAD_OK)
        st = wad_uart_open(&port, &SERIAL_UART, &config, &ppm);
    if (st == WAD_OK)
        st = wad_uart_background(&port, in, sizeof in, out, sizeof out, 0);
    if (st != WAD_OK)
        return (int)st + 1;
    wad_port_stdio(put, get, &port);
    wad_irq_global_on();
    for (;;) {
        uint8_t byte;
        while (wad_uart_read(&port, &byte, 1)) {
            if (byte == 27) {
                int c = getchar();
                printf("%u %u %u %u %u %c\n", (unsigned)port.stats.received,
                       (unsigned)port.stats.sent, (unsigned)port.stats.overruns,
                       (unsigned)port.stats.framing, (unsigned)port.stats.parity, c);
            } else if (byte == '#') { /* deaf for a while */
                uint32_t state = wad_irq_save();
                wad_cycles(SERIAL_DEAF);
                wad_irq_restore(state);
            } else {
                byte++;
                (void)wad_uart_write(&port, &byte, 1);
            }
        }
        wad_port_sleep();
    }
}
