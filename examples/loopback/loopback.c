/* SPDX-License-Identifier: MIT */
/*
 * Is the SPI port's wiring sound? Once a second 64 frames go out at MOSI, and a jumper brings
 * them back at MISO. They are compared with what was sent, frame by frame, and the telemetry port
 * says what a difference looks like. The pull-up tells a cut wire from a line that is held low.
 *
 * LEVEL1: the last test passed; WARN: it failed.
 */
#include <wadium/check.h>
#include <wadium/pin.h>
#include <wadium/print.h>

#include <corran32_roles.h>
#include <skerry_pins.h>

#define FRAMES 64u

static const wad_timebase base = {&corran32_base, .clock_hz = 8000000, .hz = 1000000};
static const wad_uart link = {&corran32_uart0, .clock_hz = 8000000, .baud = 115200,
                              .tx = CORRAN32_ROUTE_UART0_TX_PA9, .time = &base};
static const wad_spi bus = {&corran32_spi0,
                            .clock_hz = 8000000,
                            .clock = CORRAN32_ROUTE_SPI0_SCK_PB13,
                            .mosi = CORRAN32_ROUTE_SPI0_MOSI_PB15,
                            .miso = CORRAN32_ROUTE_SPI0_MISO_PB14,
                            .time = &base};
static const wad_spi_device jumper = {&bus, .hz = 1000000};
static uint8_t sent[FRAMES], received[FRAMES];
static uint32_t seed = 1;

static void put(char c, void *context)
{
    (void)context;
    (void)wad_uart_write(&link, &c, 1, 10000);
}

static wad_status open(void)
{
    wad_status st = wad_pin_output(SKERRY_LEVEL1, false);
    if (st == WAD_OK)
        st = wad_pin_output(SKERRY_WARN, false);
    if (st == WAD_OK)
        st = wad_pin_input(SKERRY_THERMO_MISO, WAD_PULL_UP);
    if (st == WAD_OK)
        st = wad_timebase_open(&base);
    if (st == WAD_OK)
        st = wad_uart_open(&link);
    if (st == WAD_OK)
        st = wad_spi_open(&bus);
    return st == WAD_OK ? wad_spi_add(&jumper) : st;
}

/* Other frames each time: what an earlier test left behind cannot pass. */
static void test(unsigned number)
{
    wad_exchange_check check;
    for (unsigned i = 0; i < FRAMES; i++) {
        seed = seed * 1664525u + 1013904223u;
        sent[i] = (uint8_t)(seed >> 24);
    }
    wad_status st = wad_spi_transfer(&jumper, sent, received, FRAMES, 10000);
    if (st == WAD_OK)
        st = wad_check_exchange(sent, received, FRAMES, 8, &check);
    wad_pin_write(SKERRY_LEVEL1, st == WAD_OK);
    wad_pin_write(SKERRY_WARN, st != WAD_OK);
    if (st == WAD_OK)
        wad_print(put, NULL, "test %u: pass, %u frames\r\n", number, FRAMES);
    else if (st == WAD_E_DATA)
        wad_print(put, NULL, "test %u: FAIL, frame %u: sent %02x, received %02x: %s\r\n  %s\r\n",
                  number, (unsigned)check.index, (unsigned)check.want, (unsigned)check.got,
                  wad_pattern_text(check.pattern), wad_pattern_hint(check.pattern));
    else
        wad_print(put, NULL, "test %u: FAIL, %s\r\n", number, wad_status_text(st));
}

int main(void)
{
    wad_status st = open();
    if (st != WAD_OK) {
        wad_pin_write(SKERRY_WARN, true);
        return 1;
    }
    wad_print(put, NULL, "loopback at %u Hz\r\n", (unsigned)WAD_SPI_HZ(jumper));
    for (unsigned number = 1;; number++) {
        test(number);
        wad_delay_ms(&base, 1000);
    }
}
