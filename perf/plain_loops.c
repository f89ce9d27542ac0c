/* SPDX-License-Identifier: MIT */
/* Firmware of plain volatile C whose accesses perf times. */
#include <wadium/cpu.h>

#include "corran32.h"

#define N 10000000u

/* From the program that loads this. */
double perf_seconds(void);
void perf_tell(unsigned what, double ns);

static volatile uint32_t flag;
static uint32_t plain[64];

#define TIMED(what, body)                                                                          \
    do {                                                                                           \
        double t0 = perf_seconds();                                                                \
        for (unsigned i = 0; i < N; i++) {                                                         \
            body;                                                                                  \
        }                                                                                          \
        perf_tell(what, (perf_seconds() - t0) / N * 1e9);                                          \
    } while (0)

int main(void)
{
    uint32_t sum = 0;
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
    for (;;)
        WAD_CPU_SLEEP();
}
