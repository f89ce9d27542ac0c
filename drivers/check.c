/* SPDX-License-Identifier: MIT */
/* Comparing what was exchanged, and checksums. Touches no register. */
#include <stdbool.h>
#include <wadium/check.h>
#include <wadium/port.h>

static uint32_t mask_of(unsigned bits)
{
    return bits >= 32u ? 0xFFFFFFFFu : ((uint32_t)1 << bits) - 1u;
}

static uint32_t frame(const void *data, size_t i, unsigned bits)
{
    uint32_t word = bits <= 8u    ? ((const uint8_t *)data)[i]
                    : bits <= 16u ? ((const uint16_t *)data)[i]
                                  : ((const uint32_t *)data)[i];
    return word & mask_of(bits);
}

static uint32_t reversed(uint32_t word, unsigned bits)
{
    uint32_t out = 0;
    for (unsigned i = 0; i < bits; i++)
        out |= (word >> i & 1u) << (bits - 1u - i);
    return out;
}

static uint32_t swapped(uint32_t word, unsigned bits)
{
    if (bits <= 8u || bits % 8u)
        return word;
    uint32_t out = 0;
    for (unsigned i = 0; i < bits; i += 8u)
        out |= (word >> i & 0xFFu) << (bits - 8u - i);
    return out;
}

/* Both buffers, as one looks at frame `i`. */
typedef struct pair {
    const void *sent, *received;
    unsigned bits;
} pair;

/* Would the pattern have made this of it? Where it needs the frame before, the first is let pass
 * but for what it must have. */
static bool fits(const pair *p, size_t i, wad_pattern pattern)
{
    const uint32_t mask = mask_of(p->bits);
    uint32_t want = frame(p->sent, i, p->bits), got = frame(p->received, i, p->bits);
    uint32_t before = i ? frame(p->sent, i - 1u, p->bits) : 0;
    switch (pattern) {
    case WAD_PATTERN_ONES:
        return got == mask;
    case WAD_PATTERN_ZEROS:
        return got == 0;
    case WAD_PATTERN_LATE: /* the first bit is the last of the frame before */
        return i ? got == (want >> 1 | (before & 1u) << (p->bits - 1u))
                 : (got & mask >> 1) == want >> 1;
    case WAD_PATTERN_EARLY: /* the last bit is the first of the next frame, or whatever */
        return (got | 1u) == ((want << 1 & mask) | 1u);
    case WAD_PATTERN_REVERSED:
        return got == reversed(want, p->bits);
    case WAD_PATTERN_SWAPPED:
        return got == swapped(want, p->bits);
    case WAD_PATTERN_INVERTED:
        return got == (~want & mask);
    case WAD_PATTERN_PREVIOUS:
        return i == 0 || got == before;
    case WAD_PATTERN_FILL:
        return got == ((want ^ WAD_FILL) & mask);
    default:
        return got == want;
    }
}

/* The first pattern that explains every difference. Frames that look as sent must fit as well, but
 * for fill: what came before the end is right. */
static wad_pattern explain(const pair *p, size_t first, size_t n)
{
    for (unsigned pattern = WAD_PATTERN_ONES; pattern < WAD_PATTERN_OTHER; pattern++) {
        bool fill = pattern == WAD_PATTERN_FILL, all = true;
        bool whole = pattern == WAD_PATTERN_LATE || pattern == WAD_PATTERN_EARLY ||
                     pattern == WAD_PATTERN_PREVIOUS || pattern == WAD_PATTERN_REVERSED;
        for (size_t i = whole ? 0 : first; i < n && all; i++)
            all = fits(p, i, (wad_pattern)pattern) ||
                  (!fill && !whole && fits(p, i, WAD_PATTERN_SAME));
        if (all)
            return (wad_pattern)pattern;
    }
    return WAD_PATTERN_OTHER;
}

wad_status wad_check_exchange(const void *sent, const void *received, size_t n, unsigned bits,
                              wad_exchange_check *check)
{
    const pair p = {sent, received, bits};
    wad_exchange_check c = {.index = n, .pattern = WAD_PATTERN_SAME};
    if (!sent || !received || !n || bits < 4u || bits > 32u)
        return WAD_E_ARG;
    for (size_t i = n; i--;)
        if (!fits(&p, i, WAD_PATTERN_SAME)) {
            c.index = i;
            c.wrong++;
        }
    if (c.wrong) {
        c.want = frame(sent, c.index, bits);
        c.got = frame(received, c.index, bits);
        c.pattern = explain(&p, c.index, n);
    }
    if (check)
        *check = c;
#ifdef WAD_PORT_TELLS
    if (c.pattern == WAD_PATTERN_FILL)
        wad_port_tell_short((uint32_t)c.index, (uint32_t)n);
#endif
    return c.wrong ? WAD_E_DATA : WAD_OK;
}

const char *wad_pattern_text(wad_pattern pattern)
{
    static const char *const texts[] = {
#define TEXT(name, text, hint) text,
        WAD_PATTERNS(TEXT)
#undef TEXT
    };
    return (unsigned)pattern <= WAD_PATTERN_OTHER ? texts[pattern] : "?";
}

const char *wad_pattern_hint(wad_pattern pattern)
{
    static const char *const hints[] = {
#define HINT(name, text, hint) hint,
        WAD_PATTERNS(HINT)
#undef HINT
    };
    return (unsigned)pattern <= WAD_PATTERN_OTHER ? hints[pattern] : "?";
}

void wad_fill_exchange(void *received, const void *sent, size_t n, unsigned bits)
{
    for (size_t i = 0; i < n; i++) {
        uint32_t word = (sent ? frame(sent, i, bits) : 0u) ^ WAD_FILL;
        if (bits <= 8u)
            ((uint8_t *)received)[i] = (uint8_t)(word & mask_of(bits));
        else if (bits <= 16u)
            ((uint16_t *)received)[i] = (uint16_t)(word & mask_of(bits));
        else
            ((uint32_t *)received)[i] = word & mask_of(bits);
    }
}

/* ---- checksums ---- */

uint8_t wad_crc8(uint8_t crc, const void *data, size_t n)
{
    const uint8_t *bytes = data;
    for (size_t i = 0; i < n; i++) {
        crc ^= bytes[i];
        for (unsigned k = 0; k < 8u; k++)
            crc = (uint8_t)(crc << 1 ^ (crc & 0x80u ? 0x07u : 0u));
    }
    return crc;
}

uint16_t wad_crc16(uint16_t crc, const void *data, size_t n)
{
    const uint8_t *bytes = data;
    for (size_t i = 0; i < n; i++) {
        crc ^= (uint16_t)((uint16_t)bytes[i] << 8);
        for (unsigned k = 0; k < 8u; k++)
            crc = (uint16_t)(crc << 1 ^ (crc & 0x8000u ? 0x1021u : 0u));
    }
    return crc;
}
