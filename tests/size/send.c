/* SPDX-License-Identifier: MIT */
/* One transfer by interrupt, with its callback. */
#include <corran32_roles.h>

static const wad_uart link = {
    &corran32_uart0, .clock_hz = 8000000,
    .baud = 115200,  .tx = CORRAN32_ROUTE_UART0_TX_PA9,
    .priority = 2,   .sends = &(wad_uart_transfer){0},
};

static volatile bool over;
static void told(wad_status st, size_t n, void *context)
{
    (void)st;
    (void)n;
    (void)context;
    over = true;
}

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
    if (wad_uart_send(&link, "the tide is out\r\n", 17, told, NULL) != WAD_OK)
        return 2;
    for (;;)
        wad_port_sleep();
}
