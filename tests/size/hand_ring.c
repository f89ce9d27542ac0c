/* SPDX-License-Identifier: MIT */
/* ring.c written by hand, from the data sheet. */
#include "corran32.h"
#include <stddef.h>
#include <stdint.h>
#include <wad_port.h>

#define M (1u << 16 | 1u)
static uint8_t in[64], out[256];
static volatile uint32_t in_put, in_taken, out_put, out_taken;
#ifdef LEAN
#define COUNT(what) ((void)0)
#else
static volatile uint32_t overruns, dropped, received, framing;
#define COUNT(what) (what++)
#endif

void handle_UART0(void);
void handle_UART0(void)
{
    CORRAN32_UART0->STAT = 1u << 5;
    while (CORRAN32_UART0->LEVEL & 15u) {
        uint32_t c = CORRAN32_UART0->RX;
        COUNT(received);
        if (c & 1u << 12)
            COUNT(framing);
        uint32_t put = in_put;
        if (put - in_taken < sizeof in) {
            in[put % sizeof in] = (uint8_t)c;
            in_put = put + 1;
        } else
            COUNT(dropped);
    }
    if (CORRAN32_UART0->STAT & 1u) {
        CORRAN32_UART0->STAT = 1u;
        COUNT(overruns);
    }
    if (CORRAN32_UART0->IRQEN & 1u << 8) {
        while (CORRAN32_UART0->STAT & 1u << 8) {
            uint32_t taken = out_taken;
            if (taken == out_put) {
                CORRAN32_UART0->IRQEN &= ~(1u << 8);
                break;
            }
            CORRAN32_UART0->TX = out[taken % sizeof out];
            out_taken = taken + 1;
        }
    }
}
__attribute__((noinline)) static size_t uart_write(const void *data, size_t n)
{
    const uint8_t *p = data;
    uint32_t state = wad_port_irq_save();
    uint32_t put = out_put, room = sizeof out - (put - out_taken);
    size_t i;
    if (n > room)
        n = room;
    for (i = 0; i < n; i++)
        out[put++ % sizeof out] = p[i];
    out_put = put;
    if (n)
        CORRAN32_UART0->IRQEN |= 1u << 8;
    wad_port_irq_restore(state);
    return n;
}
__attribute__((noinline)) static size_t uart_read(void *data, size_t n)
{
    uint8_t *p = data;
    uint32_t taken = in_taken, held = in_put - taken;
    if (n > held)
        n = held;
    for (size_t i = 0; i < n; i++)
        p[i] = in[taken++ % sizeof in];
    in_taken = taken;
    return n;
}

int main(void)
{
    CORRAN32_CLK->GATE |= M;
    CORRAN32_CLK->RESET &= ~M;
    while ((CORRAN32_CLK->RDONE & M) != M) {
    }
    CORRAN32_PINA->FUNC[1] = (CORRAN32_PINA->FUNC[1] & ~0xFF0u) | 0x220u;
    CORRAN32_UART0->CTRL = 0x36;
    CORRAN32_UART0->BAUD = 139;
    CORRAN32_UART0->FIFO = 20u << 8 | 3u << 4 | 3u;
    CORRAN32_UART0->CTRL = 0x37;
    CORRAN32_UART0->IRQEN = 1u << 10 | 1u << 5 | 1u;
    CORRAN32_INT->PRIO[0] = (CORRAN32_INT->PRIO[0] & ~(3u << 24)) | 2u << 24;
    CORRAN32_INT->ENSET = 1u << 12;
    wad_port_irq_on();
    for (;;) {
        uint8_t buf[16];
        size_t n = uart_read(buf, sizeof buf);
        if (n)
            uart_write(buf, n);
        else
            wad_port_sleep();
    }
}
