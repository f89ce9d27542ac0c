/* SPDX-License-Identifier: MIT */
/* SPI devices that the compiler knows, built so that it folds: what is left are register accesses
 * and one small loop. All come back over a jumper; lit when they did. */
#include <corran32_roles.h>
#include <skerry_pins.h>

static const wad_spi bus = {
    &corran32_spi0,
    .clock_hz = 8000000,
    .clock = CORRAN32_ROUTE_SPI0_SCK_PB13,
    .mosi = CORRAN32_ROUTE_SPI0_MOSI_PB15,
    .miso = CORRAN32_ROUTE_SPI0_MISO_PB14,
};
#define DEVICE(mode_, ...)                                                                         \
    {                                                                                              \
        &bus, .hz = 2000000, .mode = (mode_), __VA_ARGS__                                          \
    }
static const wad_spi_device plain = DEVICE(0, .select = CORRAN32_ROUTE_SPI0_CS0_PB12);
static const wad_spi_device second = DEVICE(1, .lsb_first = true, .select_number = 2,
                                            .select = CORRAN32_ROUTE_SPI0_CS2_PB11, .setup = 2);
static const wad_spi_device third = DEVICE(2, .bits = 5, .gap = 3);
static const wad_spi_device by_pin =
    DEVICE(3, .by_pin = true, .select_pin = CORRAN32_PB5, .select_high = true);
static unsigned wrong;

#define MUST(condition) wrong += !(condition)

/* The reads are of ones that went out. */
#define TEST(device, mask)                                                                         \
    do {                                                                                           \
        static const uint8_t out[] = {0x35, 0xC1, 0x00, 0xFF, 0x9A, 0x12};                         \
        uint8_t in[7] = {0, 0, 0, 0, 0, 0, 0x5E};                                                  \
        MUST(wad_spi_transfer(&device, out, in, 6, 0) == WAD_OK);                                  \
        for (unsigned i = 0; i < 6; i++)                                                           \
            MUST((in[i] & (mask)) == (out[i] & (mask)));                                           \
        MUST(in[6] == 0x5E);                                                                       \
        MUST(wad_spi_write(&device, out, 6, 0) == WAD_OK);                                         \
        MUST(wad_spi_transfer(&device, out + 1, in, 1, 0) == WAD_OK);                              \
        MUST((in[0] & (mask)) == (out[1] & (mask)));                                               \
        MUST(wad_spi_read(&device, in, 2, 0) == WAD_OK);                                           \
        MUST((in[0] & (mask)) == (mask) && (in[1] & (mask)) == (mask));                            \
        in[0] = in[3] = 0x5E;                                                                      \
        MUST(wad_spi_write_read(&device, out, 2, in + 1, 2, 0) == WAD_OK);                         \
        MUST((in[1] & (mask)) == (mask) && in[0] == 0x5E && in[3] == 0x5E);                        \
        MUST(wad_spi_transfer(&device, out, in, 0, 0) == WAD_E_ARG);                               \
    } while (0)

/* A frame that nobody took is no answer to the next exchange. */
static void leave_one(void)
{
    static const uint8_t out[] = {0x42};
    uint8_t in[1] = {0};
    MUST(wad_spi_begin(&plain) == WAD_OK);
    wad_put(CORRAN32_SPI0_BASE, corran32_spi_roles.tx_data, 0x99);
    while (!wad_get(CORRAN32_SPI0_BASE, corran32_spi_roles.rx_ready) ||
           wad_get(CORRAN32_SPI0_BASE, corran32_spi_roles.busy)) {
    }
    MUST(wad_spi_transfer(&plain, out, in, 1, 0) == WAD_OK && in[0] == 0x42);
}

int main(void)
{
    uint8_t byte = 0;
    void *const nothing = NULL;
    if (wad_pin_output(SKERRY_WARN, false) != WAD_OK ||
        wad_pin_output(SKERRY_LEVEL1, false) != WAD_OK)
        return 1;
    for (unsigned round = 0; round < 2; round++) { /* opened anew, it is as good */
        MUST(wad_spi_open(&bus) == WAD_OK);
        MUST(wad_spi_add(&plain) == WAD_OK && wad_spi_add(&second) == WAD_OK);
        MUST(wad_spi_add(&third) == WAD_OK && wad_spi_add(&by_pin) == WAD_OK);
        TEST(plain, 0xFFu);
        TEST(second, 0xFFu);
        TEST(third, 0x1Fu);
        TEST(by_pin, 0xFFu);
        MUST(WAD_SPI_HZ(plain) == 2000000);
        MUST(wad_spi_transfer(&plain, nothing, &byte, 1, 0) == WAD_E_ARG);
        MUST(wad_spi_write(&plain, nothing, 1, 0) == WAD_E_ARG);
        MUST(wad_spi_write_read(&plain, &byte, 1, nothing, 1, 0) == WAD_E_ARG);
        leave_one();
    }
    wad_spi_close(&bus);
    MUST(!wad_get(CORRAN32_SPI0_BASE, corran32_spi_roles.enable));
    wad_pin_write(SKERRY_WARN, wrong != 0);
    wad_pin_write(SKERRY_LEVEL1, !wrong);
    for (;;)
        wad_port_sleep();
}
