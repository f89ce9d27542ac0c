/* SPDX-License-Identifier: MIT */
/*
 * A console that shows what it is sent: each line comes back as rows of bytes, hexadecimal and
 * text. Characters are echoed and can be erased while the line is typed. For looking at what a
 * terminal really sends: which byte its backspace is, what ends its lines.
 */
#include <wadium/irq.h>
#include <wadium/line.h>

#include <corran32_roles.h>
#include <skerry_pins.h>

static uint8_t in[64], out[512];
static const wad_uart link = {&corran32_uart0,
                              .clock_hz = 8000000,
                              .baud = 115200,
                              .tx = CORRAN32_ROUTE_UART0_TX_PA9,
                              .rx = CORRAN32_ROUTE_UART0_RX_PA10,
                              .in = WAD_RING(in),
                              .out = WAD_RING(out),
                              .priority = 1};
static wad_line line;
static char typed[48];

void handle_UART0(void);
void handle_UART0(void)
{
    wad_uart_handle(&link);
}

static void put(char c, void *context)
{
    (void)context;
    (void)wad_uart_write(&link, &c, 1, 0);
}

/* As they come: control characters too, which the line leaves out. */
static uint8_t raw[32];
static uint32_t n_raw, total;

static void show(void)
{
    wad_print_memory(put, NULL, raw, n_raw, total);
    total += n_raw;
    n_raw = 0;
}

int main(void)
{
    wad_status st = wad_uart_open(&link);
    if (st != WAD_OK)
        return (int)st;
    wad_line_open(&line, typed, sizeof typed, put, NULL);
    wad_irq_global_on();
    wad_print(wad_line_put, &line, "type, and end the line: its bytes come back\n");
    for (;;) {
        char c;
        while (wad_uart_read(&link, &c, 1, 0)) {
            raw[n_raw++] = (uint8_t)c;
            if (wad_line_feed(&line, c) >= 0 || n_raw == sizeof raw)
                show();
        }
        wad_port_sleep();
    }
}
