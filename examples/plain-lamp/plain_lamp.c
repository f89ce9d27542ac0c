/* SPDX-License-Identifier: MIT */
/*
 * The job of examples/lamp in plain volatile C: the generated header, nothing
 * else. This very source goes into the target.
 */
#include <wadium/cpu.h>

#include "corran32.h"

#define CLK  CORRAN32_CLK
#define INT  CORRAN32_INT
#define WARN (1u << 3) /* PC3 */

static volatile unsigned halves; /* half seconds since the start */

void handle_CNT0(void);
void handle_CNT0(void)
{
    CORRAN32_CNT0->STAT = CORRAN32_COUNTER_STAT_WRAP_MASK;
    CORRAN32_PINC->TGL = WARN;
    halves++;
}

/* Crystal 12 MHz, PLL 12 MHz * 8 / 2 = 48 MHz, core from the PLL. */
static void start_clocks(void)
{
    CLK->CTRL |= CORRAN32_CLOCKS_CTRL_XTALEN_MASK;
    while (!(CLK->STAT & CORRAN32_CLOCKS_STAT_XTALRDY_MASK)) {
    }
    CLK->PLL = CORRAN32_BITS(CORRAN32_CLOCKS_PLL_MUL, 8 - 2) |
               CORRAN32_BITS(CORRAN32_CLOCKS_PLL_DIV, 2 - 1) |
               CORRAN32_BITS(CORRAN32_CLOCKS_PLL_SRC, CORRAN32_CLOCKS_PLL_SRC_XTAL);
    CLK->CTRL |= CORRAN32_CLOCKS_CTRL_PLLEN_MASK;
    while (!(CLK->STAT & CORRAN32_CLOCKS_STAT_PLLRDY_MASK)) {
    }
    CLK->SEL = CORRAN32_BITS(CORRAN32_CLOCKS_SEL_CORE, CORRAN32_CLOCKS_SEL_CORE_PLL);
}

static void start_blocks(void)
{
    const uint32_t blocks = CORRAN32_CLOCKS_GATE_PINA_MASK | CORRAN32_CLOCKS_GATE_PINC_MASK |
                            CORRAN32_CLOCKS_GATE_CNT0_MASK | CORRAN32_CLOCKS_GATE_CNT1_MASK;
    CLK->GATE |= blocks;
    CLK->RESET &= ~blocks;
    while ((CLK->RDONE & blocks) != blocks) {
    }
}

static void start_blinking(void)
{
    CORRAN32_PINC->DIR |= WARN;
    CORRAN32_CNT0->PRESC = 375 - 1; /* 48 MHz / 375 = 128 kHz */
    CORRAN32_CNT0->RELOAD = 64000 - 1;
    CORRAN32_CNT0->LOAD = CORRAN32_COUNTER_LOAD_NOW_MASK;
    CORRAN32_CNT0->STAT = CORRAN32_COUNTER_STAT_WRAP_MASK; /* LOAD has set it */
    CORRAN32_CNT0->IRQEN = CORRAN32_COUNTER_IRQEN_WRAP_MASK;
    INT->ENSET = 1u << CORRAN32_CNT0_IRQ;
    CORRAN32_CNT0->CTRL = CORRAN32_COUNTER_CTRL_EN_MASK;
}

static void start_level_lamps(void)
{
    static const uint32_t percent[4] = {10, 25, 50, 90};
    CORRAN32_CNT1->RELOAD = 48000 - 1; /* 1 kHz */
    for (unsigned i = 0; i < 4; i++) {
        CORRAN32_CNT1->CMP[i] = percent[i] * 480;
        CORRAN32_CNT1->OUTMODE =
            CORRAN32_WITH_AT(CORRAN32_COUNTER_OUTMODE_CH, i, CORRAN32_CNT1->OUTMODE,
                             CORRAN32_COUNTER_OUTMODE_CH_PWM);
        CORRAN32_PINA->FUNC[0] =
            CORRAN32_WITH_AT(CORRAN32_GPIO_FUNC_PIN, i, CORRAN32_PINA->FUNC[0], 1);
    }
    CORRAN32_CNT1->LOAD = CORRAN32_COUNTER_LOAD_NOW_MASK;
    CORRAN32_CNT1->STAT = CORRAN32_COUNTER_STAT_WRAP_MASK;
    CORRAN32_CNT1->OUTEN = 0xF;
    CORRAN32_CNT1->CTRL = CORRAN32_COUNTER_CTRL_EN_MASK;
}

int main(void)
{
    start_clocks();
    start_blocks();
    start_level_lamps();
    start_blinking();
    WAD_CPU_IRQ_ON();
    while (halves < 4) { /* time passes in a loop on a volatile flag ... */
    }
    for (;;) { /* ... in an empty loop, and asleep */
        if (halves > 6)
            WAD_CPU_SLEEP();
    }
}
