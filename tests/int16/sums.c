/* SPDX-License-Identifier: MIT */
/*
 * Sums of the library whose results are known. scripts/check-target gives them to a compiler whose
 * int has 16 bits, which folds them by its target's integer rules: a call to `wrong` that is left
 * is an error. tests/test_int16.c runs the same sums here, and compares the results that stand here
 * with brute force.
 */
#ifndef SUMS_RUN
void wrong(void) __attribute__((error("comes to something else where int has 16 bits"), noreturn));
#define WRONG() wrong()
#define HERE    /* nobody calls it */
#endif

#define NAME2(line) sum_at_##line
#define NAME(line)  NAME2(line)
#define SUM(condition)                                                                             \
    void NAME(__LINE__)(void);                                                                     \
    HERE void NAME(__LINE__)(void)                                                                 \
    {                                                                                              \
        if (!(condition))                                                                          \
            WRONG();                                                                               \
    }

#include "../../drivers/check.c"
#include "../../drivers/clock.c"
#include "../../drivers/divider.c"
#include "../../drivers/wave.c"

#include WAD_CHIP

/* ---- numbers that users write ---- */

SUM(WAD_HZ(UINT32_C(48000000)).hz == UINT32_C(48000000) && WAD_HZ(50).per == 1)
SUM(WAD_KHZ(66).hz == UINT32_C(66000) && WAD_KHZ(1000).hz == UINT32_C(1000000))
SUM(WAD_PERIOD_S(3600).hz == 1 && WAD_PERIOD_S(3600).per == 3600)
SUM(WAD_PERIOD_MS(40000).hz == 1000 && WAD_PERIOD_MS(UINT32_C(86400000)).per == UINT32_C(86400000))
SUM(WAD_PERIOD_US(20).hz == UINT32_C(1000000))
SUM(WAD_DIVISOR(24000000, UINT32_C(115200) * 16, 5) == 417)
SUM(WAD_DIVISOR(UINT32_C(48000000), UINT32_C(9600), 0) == 5000)

/* ---- masks ---- */

static inline uint32_t ones_of(uint8_t width)
{
    return wadi_ones((wad_field){.width = width});
}

SUM(WADI_BIT(0) == 1 && WADI_BIT(15) == UINT32_C(0x8000) && WADI_BIT(16) == UINT32_C(0x10000))
SUM(WADI_BIT(24) == UINT32_C(0x1000000) && WADI_BIT(31) == UINT32_C(0x80000000))
SUM(ones_of(1) == 1 && ones_of(8) == 0xFF && ones_of(15) == 0x7FFF)
SUM(ones_of(16) == UINT32_C(0xFFFF) && ones_of(17) == UINT32_C(0x1FFFF))
SUM(ones_of(24) == UINT32_C(0xFFFFFF) && ones_of(31) == UINT32_C(0x7FFFFFFF))
SUM(ones_of(32) == UINT32_C(0xFFFFFFFF))

/* A register of 32 bits that reads `word`: a field of it, and what it is after a write. */
static inline uint32_t field_of(uint32_t word, uint8_t lsb, uint8_t width)
{
    folded_word = word;
    return wad_get(0, (wad_field){.lsb = lsb, .width = width, .size = 4, .n = 1});
}

static inline uint32_t word_after(uint32_t word, uint8_t lsb, uint8_t width, uint32_t value)
{
    folded_word = word;
    wad_put(0, (wad_field){.lsb = lsb, .width = width, .size = 4, .how = WAD_HOW_MERGE, .n = 1},
            value);
    return folded_word;
}

SUM(field_of(UINT32_C(0xA5C3F00F), 12, 12) == 0xC3F && field_of(UINT32_C(0xA5C3F00F), 31, 1) == 1)
SUM(field_of(UINT32_C(0xA5C3F00F), 8, 24) == UINT32_C(0xA5C3F0))
SUM(field_of(UINT32_C(0xA5C3F00F), 0, 32) == UINT32_C(0xA5C3F00F))
SUM(word_after(UINT32_C(0xFFFFFFFF), 12, 8, 0x12) == UINT32_C(0xFFF12FFF))
SUM(word_after(0, 16, 16, UINT32_C(0x1FFFF)) == UINT32_C(0xFFFF0000))
SUM(word_after(UINT32_C(0x80000001), 8, 20, UINT32_C(0xABCDE)) == UINT32_C(0x8ABCDE01))
SUM(wad_at((wad_field){.lsb = 2, .width = 2, .lstep = 2, .n = 16}, 15).lsb == 32)
SUM(wad_at((wad_field){.off = 4, .step = 4, .width = 8, .n = 1}, 300).off == 1204)

/* ---- clocks, as the generated laws have them ---- */

static inline uint32_t hz_at(uint32_t word, uint32_t (*law)(void))
{
    folded_word = word;
    return law();
}

#if defined(CORRAN16_ROLES_H)
/* SYS.CLOCK: CORE 0 fast, 1 slow; CDIV */
SUM(hz_at(0, corran16_core_hz) == UINT32_C(8000000))
SUM(hz_at(0x30, corran16_core_hz) == UINT32_C(1000000))
SUM(hz_at(0x11, corran16_core_hz) == UINT32_C(16384))
SUM(hz_at(0, corran16_cnt0_hz) == UINT32_C(32768)) /* CTRL.SOURCE, bit 1 */
SUM(hz_at(2, corran16_cnt0_hz) == UINT32_C(8000000))
#elif defined(CORRAN8_ROLES_H)
SUM(hz_at(0, corran8_core_hz) == UINT32_C(8000000)) /* DIV.CORE, bits 2:0 */
SUM(hz_at(7, corran8_core_hz) == UINT32_C(62500))
#else
/* every register reads alike: SEL.CORE 1:0, CDIV 6:4, PDIV 10:8; PLL.MUL 5:0, DIV 11:8, SRC 12 */
SUM(hz_at(0, corran32_core_hz) == UINT32_C(8000000))
SUM(hz_at(1, corran32_core_hz) == UINT32_C(12000000))
SUM(hz_at(3, corran32_core_hz) == UINT32_C(32768))
SUM(hz_at(UINT32_C(0x1102), corran32_pll_hz) == UINT32_C(24000000))   /* 12 MHz * 4 / 2 */
SUM(hz_at(UINT32_C(0x101A), corran32_core_hz) == UINT32_C(168000000)) /* 12 MHz * 28 / 2 ** 1 */
SUM(hz_at(UINT32_C(0x0311), corran32_per_hz) == UINT32_C(750000))     /* 12 MHz / 2 / 2 ** 3 */
#endif

/* ---- long arithmetic ---- */

static inline bool divides(uint64_t x, uint64_t y, uint64_t quotient, uint64_t rest)
{
    uint64_t left;
    return wad_divide(x, y, &left) == quotient && left == rest;
}

#define DIVIDES(x, y)                                                                              \
    divides(UINT64_C(x), UINT64_C(y), UINT64_C(x) / UINT64_C(y), UINT64_C(x) % UINT64_C(y))
SUM(DIVIDES(0, 7))
SUM(DIVIDES(65536, 3))
SUM(DIVIDES(12345678901234, 98765))
SUM(DIVIDES(0xFFFFFFFFFFFFFFFF, 0x10001))
SUM(DIVIDES(0xFFFFFFFFFFFFFFFF, 0xFFFFFFFFFFFFFFFE))
SUM(DIVIDES(0x8000000000000000, 0xFFFF))

/* rounded to the nearest, and no more than 32 bits hold */
#define MULDIV(a, b, c)                                                                            \
    (wad_muldiv(UINT32_C(a), UINT32_C(b), UINT32_C(c)) ==                                          \
     (UINT64_C(a) * UINT64_C(b) + UINT64_C(c) / 2) / UINT64_C(c))
SUM(MULDIV(3300000, 4095, 4096))
SUM(MULDIV(40000, 40000, 7))
SUM(MULDIV(0xFFFFFFFF, 0xFFFFFFFF, 0xFFFFFFFF))
SUM(MULDIV(65535, 65537, 65536))
SUM(wad_muldiv(UINT32_C(0xFFFFFFFF), 2, 1) == UINT32_C(0xFFFFFFFF))
SUM(wad_power(10, 6) == UINT32_C(1000000) && wad_power(2, 31) == UINT32_C(0x80000000))

/* ---- checksums and waves ---- */

SUM(wad_crc8(WAD_CRC8_START, "123456789", 9) == 0xF4)
SUM(wad_crc16(WAD_CRC16_START, "123456789", 9) == 0x29B1)
SUM(wad_crc16(0, "123456789", 9) == 0x31C3)

/* 65535 * sin(2 pi * turn / 2 ** 24): 28316.7, 39985.9, -57647.8 */
SUM(sine(0) == 0 && sine(UINT32_C(0x200000)) == 46340 && sine(UINT32_C(0x400000)) == 65535)
SUM(sine(UINT32_C(0x123456)) == 28316)
SUM(sine(UINT32_C(0x654321)) == 39985)
SUM(sine(UINT32_C(0xABCDEF)) == -57648)

/* ---- settings of timers and baud rates ---- */

static const uint32_t steps[] = {1, 8, 64, 256, 1024};
static const wad_divider plain = {.up = 1,
                                  .down = 1,
                                  .min = 1,
                                  .max = 65536,
                                  .prescale_min = 1,
                                  .prescale_max = 1,
                                  .count_plus = 1};
static const wad_divider powers = {.up = 1,
                                   .down = 1,
                                   .min = 1,
                                   .max = 65536,
                                   .prescale_min = 1,
                                   .prescale_max = 128,
                                   .power = 2,
                                   .count_plus = 1};
static const wad_divider chosen = {
    .up = 1, .down = 1, .min = 1, .max = 256, .set = steps, .n_set = 5, .count_plus = 1};
static const wad_divider serial = {
    .up = 32, .down = 16, .min = 32, .max = 65535, .prescale_min = 1, .prescale_max = 1};
static const wad_divider small = {.up = 1,
                                  .down = 1,
                                  .min = 1,
                                  .max = 65536,
                                  .prescale_min = 1,
                                  .prescale_max = 4,
                                  .prescale_plus = 1,
                                  .count_plus = 1};
static const wad_divider wide_one = {.up = 1,
                                     .down = 1,
                                     .min = 1,
                                     .max = 65536,
                                     .prescale_min = 1,
                                     .prescale_max = 65536,
                                     .prescale_plus = 1,
                                     .count_plus = 1};

static inline bool solves(const wad_divider *d, uint32_t clock_hz, wad_rate rate, wad_status status,
                          uint32_t prescale, uint32_t count, int32_t ppm)
{
    wad_divider_setting s = {0};
#ifdef SUMS_RUN
    check_nearest(d, clock_hz, rate.hz, rate.per, (uint64_t)prescale * count);
#endif
    return wad_divider_solve(d, clock_hz, rate, &s) == status && s.prescale == prescale &&
           s.count == count && s.error_ppm == ppm;
}

SUM(solves(&plain, UINT32_C(8000000), WAD_KHZ(66), WAD_OK, 1, 121, 1753))
SUM(solves(&plain, UINT32_C(32768), WAD_KHZ(100), WAD_E_RANGE, 1, 1, -672320))
SUM(solves(&powers, UINT32_C(8000000), WAD_HZ(1), WAD_OK, 128, 62500, 0))
SUM(solves(&chosen, UINT32_C(8000000), WAD_KHZ(1), WAD_OK, 64, 125, 0))
SUM(solves(&serial, UINT32_C(24000000), WAD_HZ(UINT32_C(115200)), WAD_OK, 1, 417, -799))
SUM(solves(&small, UINT32_C(48000000), WAD_HZ(300), WAD_OK, 4, 40000, 0))
SUM(solves(&wide_one, UINT32_C(48000000), WAD_PERIOD_S(100), WAD_E_RANGE, 65536, 65536, 117587))
