/* SPDX-License-Identifier: MIT */
/* The serial port of whatever chip: echoes in the background, each byte plus one; ESC tells the
 * counts by printf, and what comes next is read by getchar. */
#include <stdio.h>

#include <wadium/cpu.h>
#include <wadium/irq.h>
#include <wadium/stdio.h>
#include <wadium/watchdog.h>

#include SERIAL_CHIP

static const wad_timebase base = {.unit = &SERIAL_TIME};
static uint8_t in[64], out[64];
static wad_uart_stats stats;
static const wad_uart port = {&SERIAL_UART,
                              .baud = 2400,
                              .tx = SERIAL_TX,
                              .rx = SERIAL_RX,
                              .parity = SERIAL_PARITY,
                              .stop = SERIAL_STOP,
                              .in = WAD_RING(in),
                              .out = WAD_RING(out),
                              .stats = &stats,
                              .time = &base};

void handle_UART0(void);
void handle_UART0(void)
{
    wad_uart_handle(&port);
}

static size_t put(void *context, const char *text, size_t n)
{
    (void)context;
    return wad_uart_write(&port, text, n, 1000000);
}

static size_t get(void *context, char *text, size_t n)
{
    (void)context;
    return wad_uart_read(&port, text, n ? 1 : 0, 1000000);
}

int main(void)
{
    wad_status st = WAD_OK;
#ifdef SERIAL_DOG
    st = wad_watchdog_stop();
#endif
    if (st == WAD_OK)
        st = wad_timebase_open(&base);
    if (st == WAD_OK)
        st = wad_uart_open(&port);
    if (st != WAD_OK)
        return (int)st + 1;
    wad_port_stdio(put, get, NULL);
    wad_irq_global_on();
    for (;;) {
        uint8_t byte;
        while (wad_uart_read(&port, &byte, 1, 0)) {
            if (byte == 27) {
                int c = getchar();
                printf("%u %u %u %u %u %c\n", (unsigned)stats.received, (unsigned)stats.sent,
                       (unsigned)stats.overruns, (unsigned)stats.framing, (unsigned)stats.parity,
                       c);
            } else if (byte == '#') { /* deaf for a while */
                uint32_t state = wad_irq_save();
                wad_cycles(SERIAL_DEAF);
                wad_irq_restore(state);
            } else {
                byte++;
                (void)wad_uart_write(&port, &byte, 1, 0);
            }
        }
        wad_port_sleep();
    }
}
