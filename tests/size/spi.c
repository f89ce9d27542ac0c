/* SPDX-License-Identifier: MIT */
/* A device on an SPI port is asked, again and again. */
#include <corran32_roles.h>

static const wad_spi bus = {
    &corran32_spi0,
    .clock_hz = 8000000,
    .clock = CORRAN32_ROUTE_SPI0_SCK_PB13,
    .mosi = CORRAN32_ROUTE_SPI0_MOSI_PB15,
    .miso = CORRAN32_ROUTE_SPI0_MISO_PB14,
};
static const wad_spi_device thermo = {&bus, .hz = 1000000, .select = CORRAN32_ROUTE_SPI0_CS0_PB12};

volatile uint8_t seen;

int main(void)
{
    if (wad_spi_open(&bus) != WAD_OK || wad_spi_add(&thermo) != WAD_OK)
        return 1;
    for (;;) {
        static const uint8_t ask[3] = {0x80, 0, 0};
        uint8_t answer[3];
        if (wad_spi_transfer(&thermo, ask, answer, sizeof answer, 0) == WAD_OK)
            seen = answer[1];
    }
}
