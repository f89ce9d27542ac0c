/* SPDX-License-Identifier: MIT */
/*
 * One classic mistake for each finding, chosen by WRONG. The line that must be
 * named carries the mark "here NUMBER"; WRONG 0 makes none of them.
 */
#include <wadium/clock.h>
#include <wadium/irq.h>

#include "corran32_roles.h"

#define CNT0  CORRAN32_CNT0_BASE
#define POLLS 100000u
#define R     corran32_counter_roles
#define CTRL  0x00u
#define LOAD  0x04u
#define STAT  0x14u
#define IRQEN 0x18u

void handle_CNT0(void);
void handle_CNT1(void);

#if WRONG == 210
static volatile uint64_t stamp;
#endif

#if WRONG == 302
void handle_CNT0(void) /* here 302 */
{
    (void)wad_port_read32(CNT0, STAT);
}
#elif WRONG == 307
void handle_CNT0(void)
{
    wad_clear(CNT0, R.wrap);
    for (;;)
        wad_port_cycles(100);
}
void handle_CNT1(void)
{
    wad_clear(CORRAN32_CNT1_BASE, R.wrap);
}
#elif WRONG == 308
void handle_CNT0(void) /* here 308 */
{
    wad_clear(CNT0, R.wrap);
    wad_port_cycles(9000); /* of the 8000 in a millisecond */
}
#elif WRONG != 301
void handle_CNT0(void)
{
    uint32_t seen = wad_port_read32(CNT0, STAT);
    wad_port_write32(CNT0, STAT, seen); /* acknowledges all that was seen: right */
}
#endif

static void set_up(const wad_block *timer)
{
    wad_block_up(timer, POLLS);
    wad_put(timer->base, R.prescale, 7);
    wad_put(timer->base, R.reload, 999);
    wad_put(timer->base, R.load, 1);
    wad_clear(timer->base, R.wrap);
}

/* A timer that interrupts every millisecond, but for the step that WRONG leaves out. */
static void tick(const wad_block *timer, unsigned priority)
{
    set_up(timer);
#if WRONG == 303
    wad_put(timer->base, R.load, 1);
#endif
    wad_put(timer->base, R.wrap_irq, 1); /* here 301 303 304 305 306 */
#if WRONG != 304
    if (wad_irq_enable(timer->irq, priority) != WAD_OK)
        return;
#else
    (void)priority;
#endif
#if WRONG != 306
    wad_put(timer->base, R.enable, 1);
#else
    wad_put(timer->base, R.enable, 1);
    wad_put(CORRAN32_CLK_BASE, corran32_clocks_gate_cnt0, 0);
#endif
}

static void mistake(void)
{
#if WRONG == 101
    wad_put(CORRAN32_CNT2_BASE, R.enable, 1); /* here 101 */
#elif WRONG == 102
    wad_put(CORRAN32_CLK_BASE, corran32_clocks_gate_cnt2, 1);
    wad_put(CORRAN32_CNT2_BASE, R.reload, 99); /* here 102 */
#elif WRONG == 103
    wad_port_write32(0x40030000u, 0, 1); /* here 103 */
#elif WRONG == 104
    wad_put(CORRAN32_CLK_BASE, corran32_clocks_sel_core, 2); /* here 104 */
#elif WRONG == 105
    if (wad_clock_start(&corran32_clock_pll, POLLS) == WAD_OK)   /* 8 MHz * 8 = 64 MHz */
        wad_put(CORRAN32_CLK_BASE, corran32_clocks_sel_core, 2); /* here 105 */
#elif WRONG == 201
    wad_port_write32(CORRAN32_CLK_BASE, 0x18, 0x100); /* here 201 */
#elif WRONG == 202
    uint32_t gates = wad_port_read32(CORRAN32_CLK_BASE, 0x10);
    wad_port_write32(CORRAN32_CLK_BASE, 0x10, gates | 0x80000000u); /* here 202 */
#elif WRONG == 203
    wad_port_write8(CNT0, CTRL, 1); /* here 203 */
#elif WRONG == 204
    wad_port_write32(CNT0, STAT, wad_port_read32(CNT0, STAT) | 0x10u); /* here 204 */
#elif WRONG == 205
    wad_put(CNT0, R.mode, R.mode_down); /* here 205 */
#elif WRONG == 206
    wad_put(CORRAN32_CLK_BASE, corran32_clocks_pll_mul, 0); /* here 206 */
#elif WRONG == 207
    (void)wad_port_read32(CNT0, LOAD); /* here 207 */
#elif WRONG == 210
    wad_block_up(&corran32_base.block, POLLS);
    wad_put(CORRAN32_BASE_BASE, corran32_timebase_ctrl_en, 1);
    uint32_t high = wad_port_read32(CORRAN32_BASE_BASE, 0x0C);
    stamp = (uint64_t)high << 32 | wad_port_read32(CORRAN32_BASE_BASE, 0x08); /* here 210 */
#elif WRONG == 307
    set_up(&corran32_cnt1.block);
    wad_put(CORRAN32_CNT1_BASE, R.wrap_irq, 1); /* here 307 */
    if (wad_irq_enable(corran32_cnt1.block.irq, 1) == WAD_OK)
        wad_put(CORRAN32_CNT1_BASE, R.enable, 1);
#elif WRONG == 401
    wad_block_up(&corran32_cnt2.block, POLLS);
    wad_put(CORRAN32_CNT2_BASE, R.reload, 99); /* here 401 */
#elif WRONG == 501
    wad_put(CNT0, wad_at(R.drive, 0), R.drive_pwm);
    wad_put(CNT0, wad_at(R.output_on, 0), 1); /* here 501 */
#elif WRONG == 502
    (void)!wad_pin_route(WAD_ROUTE(CORRAN32_PA0, 9)); /* here 502 */
#elif WRONG == 504
    (void)!wad_pin_route(CORRAN32_ROUTE_UART0_RX_PA10);
    (void)!wad_pin_route(CORRAN32_ROUTE_UART0_RX_PB7); /* here 504 */
#endif
}

int main(void)
{
    tick(&corran32_cnt0.block, 1);
    mistake();
#if WRONG != 305
    wad_irq_global_on();
#endif
    for (;;)
        wad_port_sleep();
}
