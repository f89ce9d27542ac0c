/* SPDX-License-Identifier: MIT */
/* echo.c written by hand, from the data sheet. */
#include "corran32.h"
#include <stdint.h>

#define R(a) (*(volatile uint32_t *)(a))
#define M    (1u << 16 | 1u)

int main(void)
{
    CORRAN32_CLK->GATE |= M;
    CORRAN32_CLK->RESET &= ~M;
    while ((CORRAN32_CLK->RDONE & M) != M) {
    }
    CORRAN32_PINA->FUNC[1] = (CORRAN32_PINA->FUNC[1] & ~0xFF0u) | 0x220u;
    CORRAN32_UART0->CTRL = 0x36;
    CORRAN32_UART0->BAUD = 139;
    CORRAN32_UART0->CTRL = 0x37;
    for (;;) {
        while (!(CORRAN32_UART0->STAT & 1u << 10)) {
        }
        uint8_t c = (uint8_t)CORRAN32_UART0->RX;
        while (!(CORRAN32_UART0->STAT & 1u << 8)) {
        }
        CORRAN32_UART0->TX = c;
    }
}
