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
#include <glib.h>

#include "wadium/host/part.h"

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

static void look(wad_part *p, thermometer *t)
{
    if (!t->busy || wad_part_now(p) < t->over_ps)
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

static uint32_t next(wad_part *p, unsigned i)
{
    thermometer *t = wad_part_state(p);
    look(p, t);
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

static void came(wad_part *p, unsigned i, uint32_t frame)
{
    thermometer *t = wad_part_state(p);
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
            wad_part_refuse(p, "register %u cannot be written", address);
        else if (frame & 1 && t->busy)
            wad_part_refuse(p, "a conversion was begun while one goes on");
        else if (frame & 1) {
            t->busy = true;
            wad_part_count(p, "conversions");
            t->over_ps = wad_part_now(p) + CONVERSION_PS;
        }
    }
}

static void deselected(wad_part *p, unsigned frames, unsigned bits)
{
    if (bits)
        wad_part_refuse(p, "the select ended %u bits into byte %u", bits, frames + 1);
}

static void act(wad_part *p, unsigned number, const wad_part_value *value)
{
    thermometer *t = wad_part_state(p);
    (void)number;
    look(p, t); /* what was measured before stays */
    t->degrees = value->number;
}

static void power_fails(wad_part *p)
{
    thermometer *t = wad_part_state(p);
    *t = (thermometer){.degrees = t->degrees};
}

static const wad_part_act acts[] = {{"temperature", WAD_ACT_NUMBER, WAD_UNIT_NONE, -128, 127.99,
                                     "a temperature is a number of degrees, -128 to 127.99"},
                                    {0}};

static const wad_part_spi spi = {.bits = 8, .next = next, .came = came, .deselected = deselected};

const wad_part_class wadi_part_thermometer = {.kind = "thermometer",
                                              .wires = WAD_WIRES_SPI,
                                              .state_size = sizeof(thermometer),
                                              .acts = acts,
                                              .counts = "conversions",
                                              .spi = &spi,
                                              .act = act,
                                              .power_fails = power_fails};
