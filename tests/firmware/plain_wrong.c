/* SPDX-License-Identifier: MIT */
/* Classic mistakes in plain volatile C, chosen by CASE; the line to be named is marked. */
#include <wadium/cpu.h>

#include "corran32.h"

enum {
    RIGHT,
    GATED,
    IN_RESET,
    READ_ONLY,
    RMW,
    STORM,
    STALE,
    NO_LINE,
    NO_MASK,
    UNSTABLE,
    BITS,
    WIDE,
    COPY
};

#define CLK CORRAN32_CLK
#define CNT CORRAN32_CNT0

static volatile unsigned ticks;
static unsigned got;

void handle_CNT0(void);
void handle_CNT0(void) /* here STORM */
{
    if (CASE != STORM)
        CNT->STAT = CORRAN32_COUNTER_STAT_WRAP_MASK;
    ticks++;
}

static void bring_up(uint32_t mask)
{
    CLK->GATE |= mask;
    CLK->RESET &= ~mask;
    while ((CLK->RDONE & mask) != mask) {
    }
}

/* The counter's control register as bit-fields, which compilers write as single bytes. */
typedef struct control {
    volatile uint32_t enable : 1;
    volatile uint32_t mode : 2;
    volatile uint32_t one_shot : 1;
    volatile uint32_t shadow : 1;
} control;

typedef struct two_words {
    uint32_t presc, reload;
} two_words;

static void mistake(void)
{
    if (CASE == GATED)
        CORRAN32_CNT2->RELOAD = 5; /* here GATED */
    if (CASE == IN_RESET) {
        CLK->GATE |= CORRAN32_CLOCKS_GATE_CNT2_MASK;
        CORRAN32_CNT2->RELOAD = 5; /* here IN_RESET */
    }
    if (CASE == READ_ONLY)
        *(volatile uint32_t *)&CLK->RDONE = 1; /* here READ_ONLY */
    if (CASE == RMW)
        CNT->STAT |= CORRAN32_COUNTER_STAT_WRAP_MASK; /* here RMW */
    if (CASE == UNSTABLE) {
        CNT->CTRL |= CORRAN32_COUNTER_CTRL_EN_MASK;
        CNT->CTRL |= CORRAN32_BITS(CORRAN32_COUNTER_CTRL_MODE, 1); /* here UNSTABLE */
    }
    if (CASE == BITS) {
        ((control *)&CNT->CTRL)->shadow = 1;
        ((control *)&CNT->CTRL)->one_shot = 1;
        got = CNT->CTRL;
    }
    if (CASE == WIDE) {
        *(volatile uint64_t *)(uintptr_t)&CNT->PRESC = UINT64_C(0x0000123400000056);
        got = CNT->PRESC << 16 | CNT->RELOAD;
    }
    if (CASE == COPY) {
        two_words w = {0x56, 0x1234};
        *(volatile two_words *)(uintptr_t)&CNT->PRESC = w;
        got = CNT->PRESC << 16 | CNT->RELOAD;
    }
}

int main(void)
{
    bring_up(CORRAN32_CLOCKS_GATE_CNT0_MASK | CORRAN32_CLOCKS_GATE_PINC_MASK);
    mistake();
    CNT->CTRL = 0;
    CNT->PRESC = 7;
    CNT->RELOAD = 999;
    CNT->LOAD = CORRAN32_COUNTER_LOAD_NOW_MASK;
    if (CASE != STALE)
        CNT->STAT = CORRAN32_COUNTER_STAT_WRAP_MASK;
    CNT->IRQEN = CORRAN32_COUNTER_IRQEN_WRAP_MASK; /* here STALE NO_LINE NO_MASK */
    if (CASE != NO_LINE)
        CORRAN32_INT->ENSET = 1u << CORRAN32_CNT0_IRQ;
    CNT->CTRL = CORRAN32_COUNTER_CTRL_EN_MASK;
    if (CASE != NO_MASK)
        WAD_CPU_IRQ_ON();
    if (CASE >= BITS) { /* shows what it read back as pulses of that many changes */
        CORRAN32_PINC->DIR |= 8;
        unsigned want = CASE == BITS ? 0x18 : 0x561234;
        for (unsigned i = 0; i < (got == want ? 6u : 2u); i++)
            CORRAN32_PINC->TGL = 8;
    }
    for (;;) {
    }
}
