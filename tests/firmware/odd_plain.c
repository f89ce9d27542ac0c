/* SPDX-License-Identifier: MIT */
/* Plain firmware that ends badly; chosen by ODD, the place marked. */
#include <stdint.h>
#include <wadium/cpu.h>

#ifdef LOW
#include "corran16.h"
#else
#include "corran32.h"
#endif

enum { EXITS, ABORTS, NOTHING_THERE, FAULT_HANDLED, MISALIGNED, LOW_ADDRESS, RECURSION, NULL_READ };

_Noreturn void exit(int status);
_Noreturn void abort(void);

static volatile uint32_t zero;
volatile uint32_t sink;
static union {
    uint32_t words[2];
    uint8_t bytes[8];
} mixed;

#ifdef HANDLES
void handle_bus_fault(void);
void handle_bus_fault(void)
{
    CORRAN32_CLK->GATE |= CORRAN32_CLOCKS_GATE_PINC_MASK;
    CORRAN32_CLK->RESET &= ~CORRAN32_CLOCKS_RESET_PINC_MASK;
    while (!(CORRAN32_CLK->RDONE & CORRAN32_CLOCKS_RDONE_PINC_MASK)) {
    }
    CORRAN32_PINC->DIR = 8;
    CORRAN32_PINC->OUT = 8;
    for (;;) {
    }
}
#endif

static uint32_t deeper(volatile uint32_t *n) /* here RECURSION */
{
    volatile uint32_t here[64];
    here[0] = *n + 1;
    return deeper(here) + here[1];
}

int main(void)
{
    switch (ODD) {
    case EXITS:
        exit(3); /* here EXITS */
    case ABORTS:
        abort(); /* here ABORTS */
    case NOTHING_THERE:
    case FAULT_HANDLED:
        sink = *(volatile uint32_t *)(uintptr_t)(0x50000000u + zero); /* here NOTHING_THERE */
        break;
    case MISALIGNED:
        sink = *(volatile uint32_t *)(void *)&mixed.bytes[1 + zero]; /* here MISALIGNED */
        break;
    case LOW_ADDRESS:
        *(volatile uint16_t *)(uintptr_t)(0x0482u + zero) = 1; /* here LOW_ADDRESS */
        break;
    case RECURSION:
        deeper(&zero);
        break;
    case NULL_READ:
        sink = *(volatile uint32_t *)(uintptr_t)zero; /* here NULL_READ */
        break;
    default:
        break;
    }
    for (;;)
        WAD_CPU_SLEEP();
}
