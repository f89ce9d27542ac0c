/* SPDX-License-Identifier: MIT */
/* Comparing exchanges: each way that a line changes data is recognised, of every frame size; and
 * checksums against long division. */
#include <string.h>

#include "support.h"
#include "wadium/check.h"

#define N 24

static uint32_t seed = 99;

static uint32_t any(unsigned bits)
{
    seed = seed * 1664525u + 1013904223u;
    uint32_t word = seed ^ seed >> 15;
    return bits == 32 ? word : word & ((1u << bits) - 1);
}

static void put(void *memory, size_t i, unsigned bits, uint32_t word)
{
    if (bits <= 8)
        ((uint8_t *)memory)[i] = (uint8_t)word;
    else if (bits <= 16)
        ((uint16_t *)memory)[i] = (uint16_t)word;
    else
        ((uint32_t *)memory)[i] = word;
}

/* The wire as a string of bits: what each trouble does to it. */
static void spoil(const uint32_t *sent, unsigned bits, wad_pattern how, uint32_t *got)
{
    const unsigned n = N * bits;
    bool *wire = g_new0(bool, n + 2), *out = g_new0(bool, n + 2);
    for (unsigned i = 0; i < n; i++)
        wire[i] = sent[i / bits] >> (bits - 1 - i % bits) & 1;
    for (unsigned i = 0; i < n; i++) {
        unsigned frame = i / bits * bits, k = i % bits;
        out[i] = how == WAD_PATTERN_ONES       ? 1
                 : how == WAD_PATTERN_ZEROS    ? 0
                 : how == WAD_PATTERN_LATE     ? i > 0 && wire[i - 1]
                 : how == WAD_PATTERN_EARLY    ? wire[i + 1]
                 : how == WAD_PATTERN_REVERSED ? wire[frame + bits - 1 - k]
                 : how == WAD_PATTERN_SWAPPED  ? wire[frame + (bits / 8 - 1 - k / 8) * 8 + k % 8]
                 : how == WAD_PATTERN_INVERTED ? !wire[i]
                 : how == WAD_PATTERN_PREVIOUS ? i >= bits && wire[i - bits]
                                               : wire[i];
    }
    for (unsigned i = 0; i < N; i++) {
        got[i] = 0;
        for (unsigned k = 0; k < bits; k++)
            got[i] = got[i] << 1 | out[i * bits + k];
    }
    g_free(wire);
    g_free(out);
}

static void each_trouble_is_recognised(void **state)
{
    (void)state;
    for (unsigned bits = 4; bits <= 32; bits++)
        for (unsigned how = WAD_PATTERN_SAME; how <= WAD_PATTERN_PREVIOUS; how++) {
            uint32_t sent[N], got[N], a[N], b[N];
            wad_exchange_check check;
            if (how == WAD_PATTERN_SWAPPED && (bits < 16 || bits % 8))
                continue;
            for (unsigned i = 0; i < N; i++)
                put(a, i, bits, sent[i] = any(bits));
            spoil(sent, bits, (wad_pattern)how, got);
            unsigned first = N, wrong = 0;
            for (unsigned i = N; i--;) {
                put(b, i, bits, got[i]);
                first = got[i] != sent[i] ? i : first;
                wrong += got[i] != sent[i];
            }
            assert_int_equal(wad_check_exchange(a, b, N, bits, &check),
                             wrong ? WAD_E_DATA : WAD_OK);
            if ((unsigned)check.pattern != how)
                fail_msg("%u bits: %s was taken for %s", bits, wad_pattern_text((wad_pattern)how),
                         wad_pattern_text(check.pattern));
            assert_int_equal(check.index, first);
            assert_int_equal(check.wrong, wrong);
            if (wrong) {
                assert_int_equal(check.want, sent[first]);
                assert_int_equal(check.got, got[first]);
            }
        }
}

static void what_never_came_is_not_taken_for_data(void **state)
{
    (void)state;
    for (unsigned bits = 4; bits <= 32; bits++) {
        uint32_t sent[N], a[N], b[N];
        wad_exchange_check check;
        for (unsigned i = 0; i < N; i++)
            put(a, i, bits, sent[i] = any(bits));
        wad_fill_exchange(b, a, N, bits);
        for (unsigned i = 0; i < N - 5; i++)
            put(b, i, bits, sent[i]);
        assert_int_equal(wad_check_exchange(a, b, N, bits, &check), WAD_E_DATA);
        assert_int_equal(check.pattern, WAD_PATTERN_FILL);
        assert_int_equal(check.index, N - 5);
        assert_int_equal(check.wrong, 5);
    }
}

static void anything_else_is_other_data(void **state)
{
    uint8_t a[N], b[N];
    wad_exchange_check check;
    (void)state;
    for (unsigned i = 0; i < N; i++) {
        a[i] = (uint8_t)any(8);
        b[i] = a[i];
    }
    b[7] ^= 0x10;
    b[9] ^= 0x03;
    assert_int_equal(wad_check_exchange(a, b, N, 8, &check), WAD_E_DATA);
    assert_int_equal(check.pattern, WAD_PATTERN_OTHER);
    assert_int_equal(check.index, 7);
    assert_int_equal(check.wrong, 2);
    assert_int_equal(wad_check_exchange(a, a, 0, 8, &check), WAD_E_ARG);
    assert_int_equal(wad_check_exchange(a, a, 4, 3, &check), WAD_E_ARG);
    assert_int_equal(wad_check_exchange(a, a, 4, 33, &check), WAD_E_ARG);
    assert_int_equal(wad_check_exchange(a, NULL, 4, 8, &check), WAD_E_ARG);
    for (unsigned i = 0; i <= WAD_PATTERN_OTHER; i++) {
        assert_true(strlen(wad_pattern_text((wad_pattern)i)) > 5);
        assert_true(strlen(wad_pattern_hint((wad_pattern)i)) > 20);
    }
}

/* Long division of the message, with as many zeros behind it, over the field of two elements. */
static uint32_t divide(const uint8_t *data, size_t n, unsigned width, uint32_t polynomial,
                       uint32_t start)
{
    size_t bits = n * 8 + width;
    bool *b = g_new0(bool, bits + 1);
    uint32_t rest = 0;
    for (size_t i = 0; i < n * 8; i++)
        b[i] = data[i / 8] >> (7 - i % 8) & 1;
    for (unsigned i = 0; i < width; i++)
        b[i] ^= start >> (width - 1 - i) & 1;
    for (size_t i = 0; i < n * 8; i++)
        for (unsigned k = 0; b[i] && k <= width; k++)
            b[i + k] ^=
                k && polynomial >> (width - k) & 1; /* b[i] itself stays, and is done with */
    for (unsigned i = 0; i < width; i++)
        rest = rest << 1 | b[n * 8 + i];
    g_free(b);
    return rest;
}

static void checksums_are_what_long_division_leaves(void **state)
{
    uint8_t data[40];
    (void)state;
    for (size_t n = 2; n <= sizeof data; n++) {
        for (size_t i = 0; i < n; i++)
            data[i] = (uint8_t)any(8);
        assert_int_equal(wad_crc8(WAD_CRC8_START, data, n), divide(data, n, 8, 0x07, 0));
        assert_int_equal(wad_crc16(WAD_CRC16_START, data, n), divide(data, n, 16, 0x1021, 0xFFFF));
        /* in two parts, the same */
        assert_int_equal(wad_crc16(wad_crc16(WAD_CRC16_START, data, 1), data + 1, n - 1),
                         wad_crc16(WAD_CRC16_START, data, n));
    }
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(each_trouble_is_recognised),
        cmocka_unit_test(what_never_came_is_not_taken_for_data),
        cmocka_unit_test(anything_else_is_other_data),
        cmocka_unit_test(checksums_are_what_long_division_leaves),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
