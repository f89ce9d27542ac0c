/* SPDX-License-Identifier: MIT */
/* Mistakes with SPI ports, chosen by WRONG, and with RIGHT the same task done well. */
#include <wadium/check.h>

#include "corran32_roles.h"

#ifndef RIGHT
#define RIGHT 0
#endif
#define PORT CORRAN32_SPI0_BASE
#define R    corran32_spi_roles

static const wad_timebase base = {&corran32_base, .hz = 1000000};
static uint8_t in[8];
static const uint8_t ask[8] = {0x80}; /* the thermometer's name */

static const wad_spi bus = {&corran32_spi0,
                            .clock = CORRAN32_ROUTE_SPI0_SCK_PB13,
                            .mosi = CORRAN32_ROUTE_SPI0_MOSI_PB15,
                            .miso = CORRAN32_ROUTE_SPI0_MISO_PB14,
                            .device = WRONG == 910,
                            .watch = WRONG == 911 && !RIGHT,
                            .watch_select = CORRAN32_ROUTE_SPI0_CS0_PB12,
                            .time = &base};

/* The thermometer takes mode 0 and 2 MHz. Its select is the port's pin where that is the point. */
static const wad_spi_device thermo = {&bus,
                                      .hz = WRONG == 905 && !RIGHT ? 4000000 : 2000000,
                                      .mode = WRONG == 901 && !RIGHT ? 1 : 0,
                                      .by_pin = WRONG == 902,
                                      .select_pin = CORRAN32_PB12,
                                      .select = WRONG == 902 ? 0 : CORRAN32_ROUTE_SPI0_CS0_PB12};

/* Both are ready, the block is set for the thermometer, and it is selected. */
static void begin(void)
{
    (void)!wad_spi_begin(&thermo); /* here 911 910 */
}

static void wait_for_one(void)
{
    while (!wad_get(PORT, R.rx_ready)) {
    }
}

static void act(void)
{
#if WRONG == 901 || WRONG == 905
    (void)!wad_spi_transfer(&thermo, ask, in, 2, 1000); /* here 901 905 */
#elif WRONG == 902
    begin();
    wad_put(PORT, R.tx_data, 0x80);
    if (RIGHT)
        wait_for_one();
    wad_pin_write(CORRAN32_PB12, true); /* here 902 */
    wait_for_one();
    (void)wad_get(PORT, R.rx_data);
#elif WRONG == 903
    begin();
    wad_put(PORT, R.tx_data, 0x80);
    if (RIGHT)
        wait_for_one();
    else
        while (!wad_get(PORT, R.tx_ready)) {
        }
    in[0] = (uint8_t)wad_get(PORT, R.rx_data); /* here 903 */
#elif WRONG == 904 || WRONG == 908
    begin();
    for (unsigned i = 0; i < (WRONG == 904 ? 8 : 2); i++) {
        while (!wad_get(PORT, R.tx_ready)) {
        }
        wad_put(PORT, R.tx_data, ask[i]); /* here 904 908 */
        while (RIGHT && !wad_get(PORT, R.rx_ready)) {
        }
        if (RIGHT)
            in[i] = (uint8_t)wad_get(PORT, R.rx_data);
        while (WRONG == 904 && wad_get(PORT, R.busy)) {
        }
    }
    if (WRONG == 904 && !RIGHT)
        in[0] = (uint8_t)wad_get(PORT, R.rx_data);
#elif WRONG == 906
    begin();
    wad_put(PORT, R.tx_data, 0x80);
    if (RIGHT)
        wait_for_one();
    wad_put(PORT, R.bits, 15); /* here 906 */
    wait_for_one();
    (void)wad_get(PORT, R.rx_data);
#elif WRONG == 907
    if (!RIGHT)
        wad_pin_write(CORRAN32_PB12, true);
    begin();
    if (!RIGHT)
        wad_pin_write(CORRAN32_PB12, false); /* here 907 */
    wad_put(PORT, R.tx_data, 0x80);
    wait_for_one();
    (void)wad_get(PORT, R.rx_data);
#elif WRONG == 909
    if (wad_spi_transfer(&thermo, ask, in, 2, 1000) == WAD_OK) {
        uint8_t want[8] = {0, 0x5C};
        wad_fill_exchange(in + 2, want + 2, 6, 8); /* as a longer exchange would have begun */
        (void)!wad_check_exchange(want, in, RIGHT ? 2 : 8, 8, NULL); /* here 909 */
    }
#elif WRONG == 910
    begin();
    if (RIGHT)
        wad_put(PORT, R.tx_data, 0x55);
    wad_delay_ms(&base, 100); /* another controller takes a frame meanwhile */
    while (wad_get(PORT, R.rx_ready))
        (void)wad_get(PORT, R.rx_data);
#elif WRONG == 911
    begin(); /* the other one selects at 50 ms */
#elif WRONG == 912
    begin();
    for (unsigned i = 0; i < 8; i++) {
        while (RIGHT && !wad_get(PORT, R.tx_ready)) {
        }
        wad_put(PORT, R.tx_data, ask[i]); /* here 912 */
        while (RIGHT && !wad_get(PORT, R.rx_ready)) {
        }
        if (RIGHT)
            (void)wad_get(PORT, R.rx_data);
    }
    while (!RIGHT && wad_get(PORT, R.busy)) {
    }
    while (!RIGHT && wad_get(PORT, R.rx_ready))
        (void)wad_get(PORT, R.rx_data);
#elif WRONG == 913
    begin();
    wad_put(PORT, R.enable, RIGHT);
    wad_put(PORT, R.tx_data, 0x80); /* here 913 */
    while (RIGHT && !wad_get(PORT, R.rx_ready)) {
    }
    if (RIGHT)
        (void)wad_get(PORT, R.rx_data);
    wad_put(PORT, R.enable, 1);
#elif WRONG == 914
    wad_pin_write(CORRAN32_PB5, RIGHT);
    (void)!wad_spi_transfer(&thermo, ask, in, 2, 1000); /* here 914 */
#endif
}

int main(void)
{
    wad_status st = wad_pin_output(CORRAN32_PB5, true);
    if (st == WAD_OK)
        st = wad_timebase_open(&base);
    if (st == WAD_OK)
        st = wad_spi_open(&bus);
    if (st == WAD_OK)
        st = wad_spi_add(&thermo);
    if (st != WAD_OK)
        return 1;
    act();
    for (;;)
        wad_port_sleep();
}
