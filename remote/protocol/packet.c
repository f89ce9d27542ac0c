/* SPDX-License-Identifier: MIT */
#include "packet.h"

#include <string.h>

enum { BETWEEN, DATA, ESCAPED, RUN, SUM_HIGH, SUM_LOW };

void wadi_unpacker_init(wadi_unpacker *u)
{
    *u = (wadi_unpacker){.data = g_byte_array_new()};
}

void wadi_unpacker_clear(wadi_unpacker *u)
{
    g_byte_array_free(u->data, TRUE);
    u->data = NULL;
}

static void append(wadi_unpacker *u, uint8_t byte)
{
    if (u->data->len <= WADI_PACKET_MAX)
        g_byte_array_append(u->data, &byte, 1);
    u->last = byte;
}

/* A run: the last byte again, (count - 29) times. */
static void repeat(wadi_unpacker *u, uint8_t count)
{
    for (unsigned i = 29; i < count && u->data->len; i++)
        append(u, u->last);
}

static void begin(wadi_unpacker *u)
{
    g_byte_array_set_size(u->data, 0);
    u->sum = 0;
    u->state = DATA;
}

static wadi_packet_event between(wadi_unpacker *u, uint8_t byte)
{
    switch (byte) {
    case '$':
        begin(u);
        return WADI_PACKET_NONE;
    case '+':
        return WADI_PACKET_ACK;
    case '-':
        return WADI_PACKET_NAK;
    case 0x03:
        return WADI_PACKET_BREAK;
    default:
        return WADI_PACKET_NOISE;
    }
}

static void inside(wadi_unpacker *u, uint8_t byte)
{
    if (byte == '$') { /* the end of the one before was lost */
        begin(u);
        return;
    }
    if (byte == '#') {
        u->state = SUM_HIGH;
        return;
    }
    u->sum = (uint8_t)(u->sum + byte);
    if (u->state == ESCAPED) {
        append(u, byte ^ 0x20);
        u->state = DATA;
    } else if (u->state == RUN) {
        repeat(u, byte);
        u->state = DATA;
    } else if (byte == '}')
        u->state = ESCAPED;
    else if (byte == '*')
        u->state = RUN;
    else
        append(u, byte);
}

static wadi_packet_event finish(wadi_unpacker *u, int digit)
{
    static const uint8_t nul = 0;
    u->state = BETWEEN;
    if (digit < 0 || u->told + digit != u->sum || u->data->len > WADI_PACKET_MAX)
        return WADI_PACKET_BAD;
    g_byte_array_append(u->data, &nul, 1);
    g_byte_array_set_size(u->data, u->data->len - 1);
    return WADI_PACKET_DONE;
}

wadi_packet_event wadi_unpack(wadi_unpacker *u, uint8_t byte)
{
    int digit = g_ascii_xdigit_value((char)byte);
    switch (u->state) {
    case BETWEEN:
        return between(u, byte);
    case SUM_HIGH:
        if (digit < 0) {
            u->state = BETWEEN;
            return WADI_PACKET_BAD;
        }
        u->told = (uint8_t)(digit << 4);
        u->state = SUM_LOW;
        return WADI_PACKET_NONE;
    case SUM_LOW:
        return finish(u, digit);
    default:
        inside(u, byte);
        return WADI_PACKET_NONE;
    }
}

/* How many bytes beyond this one are equal to it and fold into one run; 0: a run does not pay, or
 * its count would be a byte of the protocol. */
static unsigned run_of(const uint8_t *data, size_t n)
{
    unsigned more = 0;
    while (more + 1 < n && more < 126 - 29 && data[more + 1] == data[0])
        more++;
    while (more == '#' - 29 || more == '$' - 29 || more == '+' - 29 || more == '-' - 29)
        more--;
    return more >= 3 ? more : 0;
}

void wadi_pack(GByteArray *out, const void *data, size_t n, bool runs)
{
    static const char digits[] = "0123456789abcdef";
    const uint8_t *bytes = data;
    uint8_t sum = 0;
    guint start = out->len;
    g_byte_array_append(out, (const guint8 *)"$", 1);
    for (size_t i = 0; i < n; i++) {
        uint8_t b = bytes[i];
        if (b == '$' || b == '#' || b == '}' || b == '*') {
            const uint8_t escaped[] = {'}', b ^ 0x20};
            g_byte_array_append(out, escaped, 2);
            continue;
        }
        g_byte_array_append(out, &b, 1);
        unsigned more = runs ? run_of(bytes + i, n - i) : 0;
        if (more) {
            const uint8_t run[] = {'*', (uint8_t)(more + 29)};
            g_byte_array_append(out, run, 2);
            i += more;
        }
    }
    for (guint i = start + 1; i < out->len; i++)
        sum = (uint8_t)(sum + out->data[i]);
    const char end[] = {'#', digits[sum >> 4], digits[sum & 15]};
    g_byte_array_append(out, (const guint8 *)end, 3);
}

void wadi_hex(GString *out, const void *data, size_t n)
{
    for (size_t i = 0; i < n; i++)
        g_string_append_printf(out, "%02x", ((const uint8_t *)data)[i]);
}

int wadi_unhex(const char *text, size_t digits, uint8_t *bytes, size_t room)
{
    if (digits % 2 || digits / 2 > room)
        return -1;
    for (size_t i = 0; i < digits / 2; i++) {
        int high = g_ascii_xdigit_value(text[2 * i]), low = g_ascii_xdigit_value(text[2 * i + 1]);
        if (high < 0 || low < 0)
            return -1;
        bytes[i] = (uint8_t)(high << 4 | low);
    }
    return (int)(digits / 2);
}
