/* SPDX-License-Identifier: MIT */
/* adc.c written by hand, from the data sheet; its waits are bounded too. */
#include <stdbool.h>
#include <stdint.h>

#include "corran32.h"

#define M (1u << 27 | 1u << 0)

volatile uint16_t seen;

static __attribute__((noinline)) bool came(uint32_t flag)
{
    uint32_t looks = 65536;
    while (!(CORRAN32_ADC0->STAT & flag))
        if (!--looks)
            return false;
    return true;
}

int main(void)
{
    uint32_t looks = 4096;
    CORRAN32_CLK->GATE |= M;
    CORRAN32_CLK->RESET &= ~M;
    while ((CORRAN32_CLK->RDONE & M) != M)
        if (!--looks)
            return 1;
    CORRAN32_ADC0->CTRL = 2u << 4;
    CORRAN32_ADC0->CTRL = 2u << 4 | 1u;
    if (!came(1u << 0))
        return 1;
    CORRAN32_PINA->FUNC[0] |= 15u << 16;
    CORRAN32_PINA->DIGOFF |= 1u << 4;
    CORRAN32_ADC0->SAMPLE[0] = (CORRAN32_ADC0->SAMPLE[0] & ~(7u << 16)) | 2u << 16;
    CORRAN32_ADC0->GO = 1u << 2;
    if (!came(1u << 1))
        return 1;
    for (;;) {
        CORRAN32_ADC0->SLOT[0] = (CORRAN32_ADC0->SLOT[0] & ~15u) | 4u;
        CORRAN32_ADC0->STAT = 1u << 8;
        CORRAN32_ADC0->GO = 1u << 0;
        if (came(1u << 8))
            seen = (uint16_t)CORRAN32_ADC0->DATA;
        else
            CORRAN32_ADC0->GO = 1u << 1;
    }
}
