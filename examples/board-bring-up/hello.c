/* SPDX-License-Identifier: MIT */
/* The first program on a new board: a lamp that blinks, and a word on the telemetry line, 8 data
 * bits and even parity as the harbour office wants it. */
#include <wadium/clock.h>
#include <wadium/pin.h>

#include "corran32_roles.h"
#include "skerry_pins.h"

static const wad_timebase base = {&corran32_base, .clock_hz = 12000000, .hz = 1000000};
static const wad_uart link = {&corran32_uart0,
                              .clock_hz = 12000000,
                              .baud = 9600,
                              .parity = WAD_PARITY_EVEN,
                              .tx = CORRAN32_ROUTE_UART0_TX_PA9,
                              .rx = CORRAN32_ROUTE_UART0_RX_PA10,
                              .time = &base};

static wad_status open_all(void)
{
    wad_status st = wad_clock_start(&corran32_clock_xtal, 1000000);
    if (st == WAD_OK) {
        wad_put(CORRAN32_CLK_BASE, corran32_clocks_sel_core, CORRAN32_CLOCKS_SEL_CORE_XTAL);
        st = wad_timebase_open(&base);
    }
    if (st == WAD_OK)
        st = wad_pin_output(SKERRY_WARN, false);
    return st == WAD_OK ? wad_uart_open(&link) : st;
}

/* The next of a grid of 50 ms, so that nothing adds up. */
static void wait_for_turn(uint64_t *turn)
{
    uint64_t mask = wad_timebase_mask(&base);
    *turn = (*turn + 50000) & mask;
    while (((wad_timebase_now(&base) - *turn) & mask) > mask / 2) {
    }
}

/* A function of its own in the image, for whoever wants to halt there. */
__attribute__((noinline)) static bool say(void)
{
    static const char word[] = "tide 1.37 m\r\n";
    return wad_uart_write(&link, word, sizeof word - 1, 50000) == sizeof word - 1;
}

int main(void)
{
    if (open_all() != WAD_OK)
        return 1;
    uint64_t turn = wad_timebase_now(&base);
    for (;;) {
        wait_for_turn(&turn);
        wad_pin_toggle(SKERRY_WARN);
        if (!say())
            return 1;
    }
}
