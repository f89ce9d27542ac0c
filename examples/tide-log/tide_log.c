/* SPDX-License-Identifier: MIT */
/*
 * Tide readings into flash memory, ten a second. Each is said to be saved when it is; what was said
 * to be saved is there, whenever the power fails. log.c knows how.
 */
#include <wadium/pin.h>
#include <wadium/print.h>

#include <corran32_roles.h>
#include <skerry_pins.h>

#include "log.h"

static const wad_timebase base = {&corran32_base, .clock_hz = 8000000, .hz = 1000000};
static const wad_uart link = {&corran32_uart0, .clock_hz = 8000000, .baud = 115200,
                              .tx = CORRAN32_ROUTE_UART0_TX_PA9, .time = &base};
static const wad_spi bus = {&corran32_spi0,
                            .clock_hz = 8000000,
                            .clock = CORRAN32_ROUTE_SPI0_SCK_PB13,
                            .mosi = CORRAN32_ROUTE_SPI0_MOSI_PB15,
                            .miso = CORRAN32_ROUTE_SPI0_MISO_PB14,
                            .time = &base};
static const wad_spi_device store = {&bus, .hz = 4000000, .by_pin = true,
                                     .select_pin = SKERRY_STORE_CS};
static log tides;

static void put(char c, void *context)
{
    (void)context;
    (void)wad_uart_write(&link, &c, 1, 10000);
}

static wad_status open(void)
{
    wad_status st = wad_pin_output(SKERRY_THERMO_CS, true); /* the other one stays out of it */
    if (st == WAD_OK)
        st = wad_pin_input(SKERRY_STORE_MISO, WAD_PULL_UP);
    if (st == WAD_OK)
        st = wad_timebase_open(&base);
    if (st == WAD_OK)
        st = wad_uart_open(&link);
    if (st == WAD_OK)
        st = wad_spi_open(&bus);
    return st == WAD_OK ? wad_spi_add(&store) : st;
}

/* A made-up tide. */
static int32_t level_of(uint32_t number)
{
    return (int32_t)(2000 + number * 37 % 1000);
}

static void tell_last(void)
{
    log_record r;
    if (!tides.count)
        wad_print(put, NULL, "the log is empty\r\n");
    else if (log_find(&tides, tides.count, &r) == WAD_OK && r.level_mm == level_of(r.number))
        wad_print(put, NULL, "%u in the log, last %.3d m\r\n", (unsigned)r.number, (int)r.level_mm);
    else
        wad_print(put, NULL, "%u in the log, and the last is WRONG\r\n", (unsigned)tides.count);
}

/* The next reading; what was not saved is tried again when the memory answers. */
static wad_status save(void)
{
    uint32_t number = tides.count + 1;
    wad_status st = log_append(&tides, level_of(number), number);
    if (st == WAD_OK)
        wad_print(put, NULL, "saved %u\r\n", (unsigned)number);
    else
        wad_print(put, NULL, "NOT saved %u: %s\r\n", (unsigned)number, wad_status_text(st));
    return st;
}

static wad_status find(void)
{
    wad_status st = log_open(&tides, &store, &base);
    if (st == WAD_OK)
        tell_last();
    else
        wad_print(put, NULL, "no log: %s\r\n",
                  st == WAD_E_ABSENT ? "no memory answers" : wad_status_text(st));
    return st;
}

int main(void)
{
    if (open() != WAD_OK)
        return 1;
    wad_status st = find();
    for (;;) {
        st = st == WAD_OK ? save() : find();
        wad_delay_ms(&base, 100);
    }
}
