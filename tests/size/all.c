/* SPDX-License-Identifier: MIT */
/* Everything that the serial driver does, in one program: one port with rings, one with transfers,
 * one polled. */
#include <corran32_roles.h>

static uint8_t in[64], out[256];
static uint16_t words[8];
static const wad_timebase base = {&corran32_base, .clock_hz = 8000000, .hz = 1000000};
static const wad_uart rings = {&corran32_uart0,
                               .clock_hz = 8000000,
                               .baud = 115200,
                               .tx = CORRAN32_ROUTE_UART0_TX_PA9,
                               .rx = CORRAN32_ROUTE_UART0_RX_PA10,
                               .in = WAD_RING(in),
                               .out = WAD_RING(out),
                               .stats = &(wad_uart_stats){0},
                               .time = &base,
                               .priority = 2};
static const wad_uart transfers = {&corran32_uart1,
                                   .clock_hz = 8000000,
                                   .baud = 9600,
                                   .bits = 9,
                                   .parity = WAD_PARITY_EVEN,
                                   .tx = CORRAN32_ROUTE_UART1_TX_PA2,
                                   .rx = CORRAN32_ROUTE_UART1_RX_PA3,
                                   .sends = &(wad_uart_transfer){0},
                                   .receives = &(wad_uart_transfer){0},
                                   .time = &base,
                                   .priority = 2};

void handle_UART0(void);
void handle_UART0(void)
{
    wad_uart_handle(&rings);
}

void handle_UART1(void);
void handle_UART1(void)
{
    wad_uart_handle(&transfers);
}

static void over(wad_status st, size_t n, void *context)
{
    (void)st;
    (void)n;
    *(volatile bool *)context = true;
}

static wad_status use_rings(void)
{
    char line[32];
    wad_status st = wad_uart_open(&rings);
    int n = wad_uart_read_line(&rings, line, sizeof line, '\n');
    if (n > 0 && wad_uart_room(&rings) > 20)
        (void)wad_uart_write(&rings, line, (size_t)n, 1000);
    if (wad_uart_waiting(&rings) > 20)
        (void)wad_uart_read_until(&rings, line, sizeof line, ';', 100, 1000);
    if (wad_uart_read(&rings, line, sizeof line, 0))
        (void)wad_uart_write(&rings, line, 2, 0);
    wad_uart_discard(&rings);
    (void)wad_uart_flush(&rings);
    if (st == WAD_OK)
        st = wad_uart_set_baud(&rings, 9600, 1000);
    if (st == WAD_OK)
        st = wad_uart_drain(&rings, 1000);
    wad_uart_close(&rings);
    return st;
}

static wad_status use_transfers(void)
{
    static volatile bool sent, came;
    wad_status st = wad_uart_open(&transfers);
    if (st == WAD_OK)
        st = wad_uart_receive_until(&transfers, in, sizeof in, WAD_UNTIL_IDLE, 0, over,
                                    (void *)(uintptr_t)&came);
    if (st == WAD_OK)
        st = wad_uart_send(&transfers, "tide", 4, over, (void *)(uintptr_t)&sent);
    wad_uart_abort(&transfers);
    (void)wad_uart_write_words(&transfers, words, 8, 1000);
    (void)wad_uart_read_words(&transfers, words, 8, 1000);
    int word = wad_uart_take(&transfers);
    if (word >= 0)
        (void)wad_uart_give(&transfers, (uint32_t)word);
    return st;
}

int main(void)
{
    wad_irq_global_on();
    if (use_rings() != WAD_OK || use_transfers() != WAD_OK)
        return 1;
    for (;;)
        wad_port_sleep();
}
