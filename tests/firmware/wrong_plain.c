/* SPDX-License-Identifier: MIT */
/* Mistakes of plain C that shares variables with a handler, or with DMA; chosen by WRONG. */
#include <wadium/cpu.h>

#include "corran32.h"

#define CNT CORRAN32_CNT0
#define CLK CORRAN32_CLK
#define SPIN(n)                                                                                    \
    for (uint32_t i = 0; i < (n); i++)                                                             \
    __asm volatile("nop")

static volatile uint32_t ticks;
__attribute__((unused)) static uint32_t total;
volatile uint32_t copy;
static volatile uint64_t stamp;
__attribute__((unused)) static uint8_t buffer[16];
__attribute__((unused)) static int flag;

void handle_CNT0(void);
void handle_CNT0(void)
{
    CNT->STAT = CORRAN32_COUNTER_STAT_WRAP_MASK;
    ticks = ticks + 1;
    stamp = stamp + 0x80000001u;
    if (ticks > 5)
        flag = 1;
    if (WRONG == 701)
        total += 2;
}

static void start_ticks(void)
{
    const uint32_t blocks = CORRAN32_CLOCKS_GATE_CNT0_MASK | CORRAN32_CLOCKS_GATE_CNT3_MASK;
    CLK->GATE |= blocks;
    CLK->RESET &= ~blocks;
    while ((CLK->RDONE & blocks) != blocks) {
    }
    CNT->RELOAD = 7999;
    CNT->LOAD = CORRAN32_COUNTER_LOAD_NOW_MASK;
    CNT->STAT = CORRAN32_COUNTER_STAT_WRAP_MASK;
    CNT->IRQEN = CORRAN32_COUNTER_IRQEN_WRAP_MASK;
    CORRAN32_INT->ENSET = 1u << CORRAN32_CNT0_IRQ;
    CNT->CTRL = CORRAN32_COUNTER_CTRL_EN_MASK;
    WAD_CPU_IRQ_ON();
}

#if WRONG == 704
/* A byte each tick: 16 ms for all of them. */
static void begin_transfer(void)
{
    static const uint8_t source[16] = "sixteen of them";
    CLK->GATE |= CORRAN32_CLOCKS_GATE_DMA0_MASK;
    CLK->RESET &= ~CORRAN32_CLOCKS_RESET_DMA0_MASK;
    while (!(CLK->RDONE & CORRAN32_CLOCKS_RDONE_DMA0_MASK)) {
    }
    CORRAN32_DMA0->SRC0 = (uint32_t)(uintptr_t)source;
    CORRAN32_DMA0->DST0 = (uint32_t)(uintptr_t)buffer;
    CORRAN32_DMA0->COUNT0 = sizeof buffer;
    CORRAN32_DMA0->CTRL0 = CORRAN32_DMA_CTRL_EN_MASK | CORRAN32_DMA_CTRL_SSTEP_MASK |
                           CORRAN32_DMA_CTRL_DSTEP_MASK | CORRAN32_BITS(CORRAN32_DMA_CTRL_REQ, 11);
}
#endif

int main(void)
{
    start_ticks();
    while (ticks < 3) {
    }
#if WRONG == 313 && defined(RIGHT)
    for (uint32_t next = ticks + 10;;) {
        if ((int32_t)(ticks - next) >= 0) {
            next += 10;
            copy = next;
        }
    }
#elif WRONG == 313
    for (;;)
        if (ticks % 10 == 0) /* here 313 */
            copy = 1;
#elif WRONG == 701
    copy = total; /* here 701 */
#elif WRONG == 702
    copy = (uint32_t)(stamp >> 16); /* here 702 */
#elif WRONG == 703
    ticks = ticks + 5; /* here 703 */
#elif WRONG == 704
    begin_transfer();
#ifdef RIGHT
    while (!(CORRAN32_DMA0->FLAGS & 1)) {
    }
#endif
    copy = buffer[3]; /* here 704 */
#elif WRONG == 705
    while (!flag) { /* here 705 */
    }
#elif WRONG == 706
    SPIN(200000000); /* here 706 */
#endif
    for (;;)
        WAD_CPU_SLEEP();
}
