/* SPDX-License-Identifier: MIT */
/* spi.c written by hand, from the data sheet; its waits are bounded too. */
#include <stdbool.h>
#include <stddef.h>
#include <stdint.h>

#include "corran32.h"

#define M (1u << 24 | 1u << 1)

volatile uint8_t seen;

static __attribute__((noinline)) bool move(const uint8_t *out, uint8_t *in, size_t n)
{
    uint32_t old = 65536;
    while (CORRAN32_SPI0->LEVEL & 7u && --old) /* of an exchange that was broken off */
        (void)CORRAN32_SPI0->RX;
    for (size_t i = 0; i < n; i++) {
        uint32_t looks = 65536;
        CORRAN32_SPI0->TX = out[i];
        while (!(CORRAN32_SPI0->STAT & 1u << 9))
            if (!--looks)
                return false;
        in[i] = (uint8_t)CORRAN32_SPI0->RX;
    }
    return true;
}

static bool transfer(const uint8_t *out, uint8_t *in, size_t n)
{
    CORRAN32_SPI0->CTRL &= ~1u;
    CORRAN32_SPI0->CTRL = 0x702;
    CORRAN32_SPI0->RATE = 3;
    CORRAN32_SPI0->SELECT = 1u << 2;
    CORRAN32_SPI0->TIMES = 0;
    CORRAN32_SPI0->CTRL = 0x703;
    CORRAN32_SPI0->SELECT = 1u << 3 | 1u << 2;
    bool good = move(out, in, n);
    CORRAN32_SPI0->SELECT = 1u << 2;
    uint32_t looks = 65536;
    while (looks && CORRAN32_SPI0->STAT & 1u << 10)
        looks--;
    return good && looks;
}

int main(void)
{
    CORRAN32_CLK->GATE |= M;
    CORRAN32_CLK->RESET &= ~M;
    while ((CORRAN32_CLK->RDONE & M) != M) {
    }
    CORRAN32_PINB->FUNC[1] = (CORRAN32_PINB->FUNC[1] & ~0xFFFF0000u) | 0x11110000u;
    for (;;) {
        static const uint8_t ask[3] = {0x80, 0, 0};
        uint8_t answer[3];
        if (transfer(ask, answer, sizeof answer))
            seen = answer[1];
    }
}
