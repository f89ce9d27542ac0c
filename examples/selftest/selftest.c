/* SPDX-License-Identifier: MIT */
/*
 * A loopback test of the telemetry port that fails when it should. First inside the block, which
 * proves divider, transmitter and receiver; then over a wire from TX to RX, which proves pins and
 * plug. What is sent is different in the two, so what one leaves behind cannot pass for the
 * other's, and with the wire cut nothing can come back: the block's own loop is off.
 *
 * LEVEL1: the block is good; LEVEL2: the wire is good; WARN: something is not.
 */
#include <wadium/pin.h>

#include <corran32_roles.h>
#include <skerry_pins.h>

#define BYTES 64u

static const wad_timebase base = {&corran32_base, .clock_hz = 8000000, .hz = 1000000};
static wad_uart_stats stats;
static const wad_uart inside = {
    &corran32_uart0, .clock_hz = 8000000, .baud = 115200, .parity = WAD_PARITY_EVEN,
    .loop = true,    .stats = &stats,     .time = &base};
static const wad_uart outside = {&corran32_uart0,
                                 .clock_hz = 8000000,
                                 .baud = 115200,
                                 .parity = WAD_PARITY_EVEN,
                                 .tx = CORRAN32_ROUTE_UART0_TX_PA9,
                                 .rx = CORRAN32_ROUTE_UART0_RX_PA10,
                                 .stats = &stats,
                                 .time = &base};

/* Each byte goes round by itself: one that comes late, twice or changed is noticed at its place. */
static bool goes_round(const wad_uart *link, uint32_t seed)
{
    for (unsigned i = 0; i < BYTES; i++) {
        uint8_t sent, came = 0;
        seed = seed * 1664525u + 1013904223u;
        sent = (uint8_t)(seed >> 24);
        if (wad_uart_write(link, &sent, 1, 1000) != 1 || wad_uart_read(link, &came, 1, 1000) != 1 ||
            came != sent)
            return false;
    }
    return !stats.framing && !stats.parity && stats.received == BYTES;
}

static bool passes(const wad_uart *link, uint32_t seed)
{
    stats = (wad_uart_stats){0};
    return wad_uart_open(link) == WAD_OK && goes_round(link, seed);
}

int main(void)
{
    bool block = false, wire = false;
    wad_status st = wad_pin_output(SKERRY_LEVEL1, false);
    if (st == WAD_OK)
        st = wad_pin_output(SKERRY_LEVEL2, false);
    if (st == WAD_OK)
        st = wad_pin_output(SKERRY_WARN, false);
    if (st == WAD_OK) /* with nothing plugged in the line rests */
        st = wad_pin_input(SKERRY_LINK_RX, WAD_PULL_UP);
    if (st == WAD_OK)
        st = wad_timebase_open(&base);
    if (st == WAD_OK) {
        block = passes(&inside, 1);
        wire = block && passes(&outside, 2);
    }
    wad_pin_write(SKERRY_LEVEL1, block);
    wad_pin_write(SKERRY_LEVEL2, wire);
    wad_pin_write(SKERRY_WARN, !block || !wire);
    for (;;)
        wad_port_sleep();
}
