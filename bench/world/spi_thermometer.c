/* SPDX-License-Identifier: MIT */
/*
 * A made-up thermometer: registers of 8 bits behind a command byte.
 *
 *     command  7     1 reads, 0 writes
 *              6     1: after every two bytes comes their CRC, over command and all bytes so far
 *              3:0   register; the next byte is the next one
 *     0 ID     0x5C
 *     1 STAT   0     READY: a result that nobody has read; reading DEGL clears it
 *              1     BUSY: a conversion goes on, for 30 ms
 *     2 CTRL   0     writing 1 begins a conversion
 *     3 DEGH, 4 DEGL  degrees, signed, in 1/256; reading DEGH holds DEGL
 */
#include "bench/language/said.h"
#include "spi_bus.h"
#include "wadium/host/model.h"

#define ID            0x5C
#define CONVERSION_PS UINT64_C(30000000000)

enum { REG_ID, REG_STAT, REG_CTRL, REG_DEGH, REG_DEGL };

typedef struct thermometer {
    double degrees;       /* of the water */
    int16_t result, held; /* in 1/256 degree */
    bool ready, busy;
    uint64_t over_ps; /* the conversion's end */
    uint8_t command, crc;
    unsigned given; /* bytes since the command, or its last CRC */
    unsigned address;
    bool gives_low; /* the frame under way is DEGL */
} thermometer;

static void look(wadi_spi_device *d, thermometer *t)
{
    if (!t->busy || wad_sim_now(wadi_spi_sim(d)) < t->over_ps)
        return;
    t->busy = false;
    t->ready = true;
    double value = t->degrees * 256;
    t->result = (int16_t)CLAMP(value < 0 ? value - 0.5 : value + 0.5, -32768.0, 32767.0);
}

/* Bit by bit, most significant first: x^8 + x^2 + x + 1. */
static uint8_t crc_with(uint8_t crc, uint8_t byte)
{
    for (unsigned i = 8; i--;) {
        bool top = (crc >> 7 ^ byte >> i) & 1;
        crc = (uint8_t)(crc << 1 ^ (top ? 7 : 0));
    }
    return crc;
}

static uint8_t read_register(thermometer *t)
{
    switch (t->address++) {
    case REG_ID:
        return ID;
    case REG_STAT:
        return (uint8_t)(t->ready | t->busy << 1);
    case REG_DEGH:
        t->held = t->result;
        return (uint8_t)((uint16_t)t->held >> 8);
    case REG_DEGL:
        return (uint8_t)t->held;
    default:
        return 0;
    }
}

static uint32_t next(wadi_spi_device *d, unsigned i)
{
    thermometer *t = wadi_spi_state(d);
    look(d, t);
    t->gives_low = false;
    if (i == 0 || !(t->command & 0x80))
        return 0;
    if (t->command & 0x40 && t->given == 2) {
        t->given = 0;
        return t->crc;
    }
    t->gives_low = t->address == REG_DEGL;
    uint8_t byte = read_register(t);
    t->crc = crc_with(t->crc, byte);
    t->given++;
    return byte;
}

static void came(wadi_spi_device *d, unsigned i, uint32_t frame)
{
    thermometer *t = wadi_spi_state(d);
    if (i == 0) {
        t->command = (uint8_t)frame;
        t->address = frame & 15;
        t->given = 0;
        t->crc = crc_with(0, (uint8_t)frame);
    } else if (t->command & 0x80) {
        t->ready = t->ready && !t->gives_low;
    } else {
        unsigned address = t->address++;
        if (address != REG_CTRL)
            wadi_spi_refuse(d, "register %u cannot be written", address);
        else if (frame & 1 && t->busy)
            wadi_spi_refuse(d, "a conversion was begun while one goes on");
        else if (frame & 1) {
            t->busy = true;
            t->over_ps = wad_sim_now(wadi_spi_sim(d)) + CONVERSION_PS;
        }
    }
}

static void deselected(wadi_spi_device *d, unsigned frames, unsigned bits)
{
    if (bits)
        wadi_spi_refuse(d, "the select ended %u bits into byte %u", bits, frames + 1);
}

static void set(wadi_spi_device *d, double value)
{
    thermometer *t = wadi_spi_state(d);
    look(d, t); /* what was measured before stays */
    t->degrees = value;
}

static void power_fails(wadi_spi_device *d)
{
    thermometer *t = wadi_spi_state(d);
    *t = (thermometer){.degrees = t->degrees};
}

const wadi_spi_class wadi_spi_thermometer = {.kind = "thermometer",
                                             .bits = 8,
                                             .state_size = sizeof(thermometer),
                                             .next = next,
                                             .came = came,
                                             .deselected = deselected,
                                             .set = set,
                                             .power_fails = power_fails};
