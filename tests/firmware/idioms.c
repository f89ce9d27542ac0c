/* SPDX-License-Identifier: MIT */
/*
 * Right ways to share with a handler, and ways to touch the same data wrongly; chosen by CASE.
 * The right ones toggle PC3 six times and raise nothing; the wrong ones are marked.
 */
#include <stdbool.h>
#include <wadium/cpu.h>

#include "corran32.h"

enum {
    LOCK,
    HAND_OVER,
    ATOMICS,
    INIT,
    LINE_OFF,
    HIGH_LOW_HIGH,
    RING,
    SET_REGISTER,
    TAKE_FLAG,
    TAKE_ON_ONE_LINE,
    PLAIN_READ,
    PLAIN_WRITE,
    WIDE_READ,
    UPDATE,
    REGISTER_UPDATE,
    UNGUARDED_PART
};

#define CLK CORRAN32_CLK
#define CNT CORRAN32_CNT0
#define PIN CORRAN32_PINC

#define TAKE(reg, flag) ((reg) & (flag) ? ((reg) = (flag), true) : false)

static uint32_t shared, limit;
static uint32_t block[4];
static volatile bool full, ready;
static _Atomic uint32_t counted;
static volatile uint32_t low, high, ticks;
static volatile uint64_t wide;
static uint8_t queue[8];
static volatile unsigned head, tail;
volatile uint32_t sink;

void handle_CNT0(void);
void handle_CNT0(void)
{
    if (CASE != TAKE_ON_ONE_LINE)
        CNT->STAT = CORRAN32_COUNTER_STAT_WRAP_MASK;
    switch (CASE) {
    case TAKE_ON_ONE_LINE:
        if (TAKE(CNT->STAT, CORRAN32_COUNTER_STAT_WRAP_MASK))
            ready = true;
        break;
    case LOCK:
    case LINE_OFF:
    case PLAIN_READ:
    case UNGUARDED_PART:
        shared++;
        break;
    case HAND_OVER:
        if (!full) {
            for (unsigned i = 0; i < 4; i++)
                block[i] += i + 1;
            WAD_CPU_BARRIER(); /* compilers move plain accesses past volatile ones */
            full = true;
        }
        break;
    case ATOMICS:
        counted++;
        break;
    case INIT:
    case PLAIN_WRITE:
        sink = limit;
        break;
    case HIGH_LOW_HIGH:
        low = low + 0x80000001u;
        high = high + (low < 0x80000001u);
        break;
    case RING:
        if ((head + 1) % 8 != tail) {
            queue[head] = (uint8_t)head;
            head = (head + 1) % 8;
        }
        break;
    case SET_REGISTER:
    case REGISTER_UPDATE:
        PIN->OUT ^= 4;
        break;
    case TAKE_FLAG:
        ready = true;
        break;
    case WIDE_READ:
        wide = wide + 0x80000001u;
        break;
    default:
        break;
    }
    ticks = ticks + 1;
}

static void start(void)
{
    const uint32_t blocks = CORRAN32_CLOCKS_GATE_CNT0_MASK | CORRAN32_CLOCKS_GATE_PINC_MASK;
    CLK->GATE |= blocks;
    CLK->RESET &= ~blocks;
    while ((CLK->RDONE & blocks) != blocks) {
    }
    PIN->DIR |= 0xC;
    CNT->RELOAD = 799;
    for (unsigned i = 0; i < 4 && CASE == TAKE_ON_ONE_LINE; i++)
        CNT->CMP[i] = 0xFFFF; /* never met: WRAP is the only flag that sets */
    CNT->LOAD = CORRAN32_COUNTER_LOAD_NOW_MASK;
    CNT->STAT = CORRAN32_COUNTER_STAT_WRAP_MASK;
    WAD_CPU_IRQ_ON();
    limit = 5; /* before the line is enabled */
    CNT->IRQEN = CORRAN32_COUNTER_IRQEN_WRAP_MASK;
    CORRAN32_INT->ENSET = 1u << CORRAN32_CNT0_IRQ;
    CNT->CTRL = CORRAN32_COUNTER_CTRL_EN_MASK;
}

static uint64_t stamp(void)
{
    uint32_t h, l;
    do {
        h = high;
        l = low;
    } while (h != high);
    return (uint64_t)h << 32 | l;
}

static void right(void)
{
    switch (CASE) {
    case LOCK:
        WAD_CPU_IRQ_OFF();
        shared = shared + 3;
        sink = shared;
        WAD_CPU_IRQ_ON();
        break;
    case HAND_OVER:
        if (full) {
            WAD_CPU_BARRIER();
            sink = block[0] + block[3];
            block[1] = 0;
            WAD_CPU_BARRIER();
            full = false;
        }
        break;
    case ATOMICS:
        counted += 2;
        sink = counted;
        break;
    case LINE_OFF:
        CORRAN32_INT->ENCLR = 1u << CORRAN32_CNT0_IRQ;
        WAD_CPU_BARRIER();
        shared = shared + 3;
        sink = shared;
        WAD_CPU_BARRIER();
        CORRAN32_INT->ENSET = 1u << CORRAN32_CNT0_IRQ;
        break;
    case HIGH_LOW_HIGH:
        sink = (uint32_t)(stamp() >> 16);
        break;
    case RING:
        while (tail != head) {
            sink = queue[tail];
            tail = (tail + 1) % 8;
        }
        break;
    case SET_REGISTER:
        PIN->SET = 4;
        PIN->CLR = 4;
        break;
    case TAKE_FLAG:
        if (ready)
            ready = false;
        break;
    default:
        break;
    }
}

__attribute__((noinline)) static void wrong(void)
{
    switch (CASE) {
    case PLAIN_READ:
        sink = shared; /* here PLAIN_READ */
        break;
    case PLAIN_WRITE:
        limit = 6; /* here PLAIN_WRITE */
        break;
    case WIDE_READ:
        sink = (uint32_t)(wide >> 16); /* here WIDE_READ */
        break;
    case UPDATE:
        ticks = ticks + 100; /* here UPDATE */
        break;
    case REGISTER_UPDATE:
        PIN->OUT |= 2; /* here REGISTER_UPDATE */
        break;
    case UNGUARDED_PART:
        WAD_CPU_IRQ_OFF();
        shared = shared + 3;
        WAD_CPU_IRQ_ON();
        sink = shared; /* here UNGUARDED_PART */
        break;
    default:
        break;
    }
}

int main(void)
{
    start();
    for (unsigned i = 0; i < 6; i++) {
        uint32_t until = ticks + 2;
        while (ticks < until) {
            right();
            wrong();
        }
        PIN->TGL = 8;
    }
    for (;;)
        WAD_CPU_SLEEP();
}
