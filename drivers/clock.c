/* SPDX-License-Identifier: MIT */
#include <wadium/clock.h>

wad_status wad_clock_start(const wad_clock_source *clock, uint32_t polls)
{
    if (clock->on.mask && !wad_need_meet(&clock->on, polls))
        return WAD_E_TIMEOUT;
    if (clock->ready.mask && !wad_need_meet(&clock->ready, polls))
        return WAD_E_TIMEOUT;
    return WAD_OK;
}

/* Long division, a bit at a time: small, and no 64-bit division helper is linked for it. */
uint32_t wad_muldiv(uint32_t a, uint32_t b, uint32_t c)
{
    uint64_t n = (uint64_t)a * b + c / 2;
    if (n >> 32 >= c)
        return 0xFFFFFFFFu;
    uint64_t remainder = n >> 32;
    uint32_t low = (uint32_t)n, quotient = 0;
    for (unsigned i = 0; i < 32; i++) {
        remainder = remainder << 1 | low >> 31;
        low <<= 1;
        quotient <<= 1;
        if (remainder >= c) {
            remainder -= c;
            quotient |= 1;
        }
    }
    return quotient;
}
