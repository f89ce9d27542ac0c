/* SPDX-License-Identifier: MIT */
/*
 * One device a mode, on one bus: the same two frames in all four modes, to an echo register, which
 * answers each with the one before. What `wadium spi` draws of it is in docs/spi.md.
 *
 * LEVEL1 to LEVEL4: the echo was right in mode 0 to 3.
 */
#include <wadium/pin.h>

#include <corran32_roles.h>
#include <skerry_pins.h>

static const wad_timebase base = {&corran32_base, .clock_hz = 8000000, .hz = 1000000};
static const wad_spi bus = {&corran32_spi0,
                            .clock_hz = 8000000,
                            .clock = CORRAN32_ROUTE_SPI0_SCK_PB13,
                            .mosi = CORRAN32_ROUTE_SPI0_MOSI_PB15,
                            .miso = CORRAN32_ROUTE_SPI0_MISO_PB14,
                            .time = &base};
#define DEVICE(mode_)                                                                              \
    {                                                                                              \
        &bus, .hz = 2000000, .mode = (mode_), .select = CORRAN32_ROUTE_SPI0_CS0_PB12, .setup = 1,  \
              .hold = 1                                                                            \
    }
static const wad_spi_device devices[] = {DEVICE(0), DEVICE(1), DEVICE(2), DEVICE(3)};

static wad_status open(void)
{
    wad_status st = wad_timebase_open(&base);
    if (st == WAD_OK)
        st = wad_spi_open(&bus);
    for (unsigned mode = 0; mode < 4 && st == WAD_OK; mode++)
        st = wad_spi_add(&devices[mode]);
    return st;
}

int main(void)
{
    static const wad_pin lamps[] = {SKERRY_LEVEL1, SKERRY_LEVEL2, SKERRY_LEVEL3, SKERRY_LEVEL4};
    static const uint8_t out[] = {0x35, 0xC1};
    uint8_t before = 0, in[2];
    wad_status st = open();
    for (unsigned mode = 0; mode < 4 && st == WAD_OK; mode++) {
        st = wad_spi_transfer(&devices[mode], out, in, 2, 1000);
        if (st == WAD_OK)
            st = wad_pin_output(lamps[mode], in[0] == before && in[1] == out[0]);
        before = out[1];
    }
    for (;;)
        wad_port_sleep();
}
