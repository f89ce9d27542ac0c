/* SPDX-License-Identifier: MIT */
/*
 * The tide gauge's self-test, for the board and for the simulated one: every driver once, each with
 * one jumper at the most; what it finds goes out as TAP on the telemetry port.
 *
 * The watchdog comes first, before a word is said: it resets the chip once, and the second start
 * tells what the first one was about.
 */
#include "board_check.h"

#include <wadium/clock.h>
#include <wadium/fault.h>
#include <wadium/irq.h>
#include <wadium/watchdog.h>

#define WAITING 0x0B17E5A1u

const wad_timebase base = {&corran32_base, .clock_hz = 48000000, .hz = 1000000};
void (*on_base)(void);

static const wad_uart link = {&corran32_uart0,
                              .clock_hz = 48000000,
                              .baud = 115200,
                              .tx = CORRAN32_ROUTE_UART0_TX_PA9,
                              .rx = CORRAN32_ROUTE_UART0_RX_PA10,
                              .time = &base};
/* Survives the watchdog's reset; what stands there after a cold start is no number of ours. */
static uint32_t stage __attribute__((section(".noinit")));

void handle_BASE(void);
void handle_BASE(void)
{
    if (on_base)
        on_base();
}

static void put(char c, void *context)
{
    (void)context;
    (void)wad_uart_write(&link, &c, 1, 100000);
}

/* Crystal 12 MHz, PLL 12 MHz * 8 / 2 = 48 MHz, core from the PLL. */
static wad_status start_clocks(void)
{
    wad_status st = wad_clock_start(&corran32_clock_xtal, 1000000);
    if (st != WAD_OK)
        return st;
    wad_put2(CORRAN32_CLK_BASE, corran32_clocks_pll_mul, 8 - 2, corran32_clocks_pll_div, 2 - 1);
    wad_put(CORRAN32_CLK_BASE, corran32_clocks_pll_src, CORRAN32_CLOCKS_PLL_SRC_XTAL);
    st = wad_clock_start(&corran32_clock_pll, 1000000);
    if (st == WAD_OK)
        wad_put(CORRAN32_CLK_BASE, corran32_clocks_sel_core, CORRAN32_CLOCKS_SEL_CORE_PLL);
    return st;
}

/* True when the chip has been reset by it; else it will be, or it does not bite. A reset of another
 * kind in between begins all anew. */
static bool bitten(void)
{
    bool bit = wad_watchdog_bit(), second = stage == WAITING && bit;
    stage = second ? 0 : WAITING;
    if (second)
        return true;
    if (wad_watchdog_start(20000, NULL) == WAD_OK)
        wad_delay_ms(&base, 100);
    stage = 0;
    return false;
}

static void tell_wiring(wad_verify *v)
{
    wad_verify_note(v, "wiring: J1 from PC10 to PC11, serial port");
    wad_verify_note(v, "wiring: J2 from PC6 to PC5, SPI port");
    wad_verify_note(v, "wiring: J3 from PA5 to PA6, converters");
    wad_verify_note(v, "wiring: J4 from PC8 to PB8, timer to capture");
    wad_verify_note(v, "wiring: J5 from PC9 to PA11, encoder");
}

int main(void)
{
    wad_verify v;
    wad_fault fault;
    wad_status st = start_clocks();
    if (st == WAD_OK)
        st = wad_timebase_open(&base);
    bool bit = st == WAD_OK && bitten();
    if (st == WAD_OK)
        st = wad_uart_open(&link);
    if (st != WAD_OK)
        return (int)st;
    if (wad_fault_take(&fault))
        wad_fault_print(&fault, put, NULL);
    wad_verify_begin(&v, put, NULL, "Skerry");
    tell_wiring(&v);
    wad_irq_global_on();
    wad_verify_that(&v, "watchdog resets the chip", bit);
    check_clocks(&v);
    check_timers(&v);
    check_alarms(&v);
    check_interrupts(&v);
    check_pins(&v);
    check_input(&v);
    check_serial(&v);
    check_exchange(&v);
    check_encoder(&v);
    check_converters(&v);
    check_movers(&v);
    wad_pin_write(SKERRY_WARN, !wad_verify_end(&v));
    (void)(wad_uart_drain(&link, 100000) == WAD_OK);
    for (;;)
        wad_port_sleep();
}
