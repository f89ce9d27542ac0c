/* SPDX-License-Identifier: MIT */
/* Firmware of plain volatile C whose accesses perf times. */
#include <wadium/cpu.h>

#include "corran32.h"

/* From the program that loads this. */
double perf_seconds(void);
unsigned perf_times(void);
void perf_tell(unsigned what, double ns);
void perf_empty(const volatile void *address);
double perf_compute(void);

static volatile uint32_t flag;
static uint32_t plain[64];
static unsigned n;

#define TIMED(what, body)                                                                          \
    do {                                                                                           \
        double t0 = perf_seconds();                                                                \
        for (unsigned i = 0; i < n; i++) {                                                         \
            body;                                                                                  \
        }                                                                                          \
        perf_tell(what, (perf_seconds() - t0) / n * 1e9);                                          \
    } while (0)

/* The same work as perf_compute, which is not instrumented: a checksum over a table in memory. */
static double compute(void)
{
    double t0 = perf_seconds();
    uint32_t x = 1;
    for (unsigned k = 0; k < n / 64; k++)
        for (unsigned i = 0; i < 64; i++)
            x = (x ^ plain[i]) * 16777619u + (x >> 15);
    plain[1] = x;
    return perf_seconds() - t0;
}

int main(void)
{
    uint32_t sum = 0;
    n = perf_times();
    TIMED(6, perf_empty(&flag));
    CORRAN32_CLK->GATE |= CORRAN32_CLOCKS_GATE_CNT0_MASK;
    CORRAN32_CLK->RESET &= ~CORRAN32_CLOCKS_RESET_CNT0_MASK;
    while (!(CORRAN32_CLK->RDONE & CORRAN32_CLOCKS_RDONE_CNT0_MASK)) {
    }
    TIMED(0, plain[i & 63] += i);
    TIMED(1, sum += flag);
    TIMED(2, sum += CORRAN32_CNT0->RELOAD);
    TIMED(3, CORRAN32_CLK->PLL = 6);
    CORRAN32_CNT0->CTRL = CORRAN32_COUNTER_CTRL_EN_MASK;
    TIMED(4, sum += CORRAN32_CNT0->COUNT);
    TIMED(5, CORRAN32_CNT0->STAT = CORRAN32_COUNTER_STAT_WRAP_MASK);
    plain[0] = sum;
    perf_tell(7, compute() / perf_compute());
    for (;;)
        WAD_CPU_SLEEP();
}
