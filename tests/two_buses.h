/* SPDX-License-Identifier: MIT */
/* Two SPI ports of Corran32 in a test's own program: their handlers, a main that rests. */
#ifndef TEST_TWO_BUSES_H
#define TEST_TWO_BUSES_H

#include "corran32_roles.h"
#include "corran32_sheet.h"

static wad_sim *sim;
static const wad_timebase base = {&corran32_base, .hz = 1000000};
static wad_spi bus, second; /* known to the run only */
static wad_spi_stats bus_stats;
static wad_spi_jobs bus_jobs;

static void handle_bus(void)
{
    wad_spi_handle(&bus);
}

static void handle_second(void)
{
    wad_spi_handle(&second);
}

static const wad_handler handlers[32] = {
    [CORRAN32_SPI0_IRQ] = handle_bus, [CORRAN32_SPI1_IRQ] = handle_second};

static int rest(void)
{
    for (;;)
        wad_port_sleep();
    return 0;
}

#endif
