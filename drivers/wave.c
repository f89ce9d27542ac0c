/* SPDX-License-Identifier: MIT */
/* Waves for converters, in integers. */
#include <wadium/clock.h>
#include <wadium/reg.h>
#include <wadium/wave.h>

/* 65535 * sin(pi / 2 * i / 64), rounded */
static const uint16_t quarter[65] = {
    0,     1608,  3216,  4821,  6424,  8022,  9616,  11204, 12785, 14359, 15924, 17479, 19024,
    20557, 22078, 23586, 25079, 26557, 28020, 29465, 30893, 32302, 33692, 35061, 36409, 37736,
    39039, 40319, 41575, 42806, 44011, 45189, 46340, 47464, 48558, 49624, 50659, 51664, 52638,
    53580, 54490, 55367, 56211, 57021, 57797, 58537, 59243, 59913, 60546, 61144, 61704, 62227,
    62713, 63161, 63571, 63943, 64276, 64570, 64826, 65042, 65219, 65357, 65456, 65515, 65535};

/* sin(2 pi * turn / 2 ** 24) times 65535: between two of the table's points, h = 2 pi / 256 apart,
 * a straight line lies below the curve by sin * h * h / 2 * x * (1 - x), which is made up for. */
static int32_t sine(uint32_t turn)
{
    bool negative = turn >> 23 & 1u;
    uint32_t at = turn & 0x3FFFFFu; /* within its quarter */
    if (turn >> 22 & 1u)
        at = 0x400000u - at;
    uint32_t i = at >> 16, part = at & 0xFFFFu;
    uint32_t value = quarter[i];
    if (part) {
        uint32_t step = (uint32_t)quarter[i + 1u] - quarter[i];
        value += (step * (part >> 4) + 0x800u) >> 12;
        uint32_t x = part >> 8, sag = x * (256u - x); /* of 2 ** 16 */
        value += (value / 256u * sag / 3320u + 128u) >> 8;
    }
    return negative ? -(int32_t)value : (int32_t)value;
}

void wad_wave_sine(uint16_t *codes, size_t n, uint32_t amplitude, uint32_t offset)
{
    for (size_t i = 0; i < n; i++) {
        uint32_t turn = wad_muldiv((uint32_t)i, WADI_BIT(24), (uint32_t)n);
        int32_t s = sine(turn & 0xFFFFFFu);
        uint32_t size = wad_muldiv((uint32_t)(s < 0 ? -s : s), amplitude, 65535u);
        codes[i] = (uint16_t)(s >= 0 ? offset + size : offset > size ? offset - size : 0u);
    }
}

size_t wad_wave_points(uint32_t clock_hz, uint32_t hz, size_t most)
{
    uint32_t least = 0xFFFFFFFFu;
    size_t best = most;
    for (size_t n = most; hz && n >= most / 2u && n > 1u; n--) {
        uint32_t rate = hz * (uint32_t)n, counts = (clock_hz + rate / 2u) / rate;
        uint32_t reached = counts * rate; /* the clock that would give it exactly */
        uint32_t off = reached > clock_hz ? reached - clock_hz : clock_hz - reached;
        if (counts && off < least) {
            least = off;
            best = n;
        }
    }
    return best;
}
