/* SPDX-License-Identifier: MIT */
/*
 * What reading and writing do by a field's access kind: every kind in one register, random accesses
 * of all widths, held against an interpreter that takes one bit after the other by the words of the
 * table in docs/sheet-language.md.
 */
#include <string.h>

#include "small_chip.h"

/* Two bits of each kind, the second in another byte. */
typedef enum kind {
    RW,
    RO,
    WO,
    W1C,
    W1S,
    W0C,
    RC,
    W1T,
    W0S,
    W0T,
    RS,
    WC,
    WS,
    ONCE,
    PULSE,
    KINDS
} kind;
static const char *const words[KINDS] = {"rw",  "ro",  "wo", "w1c", "w1s", "w0c",  "rc",   "w1t",
                                         "w0s", "w0t", "rs", "wc",  "ws",  "once", "pulse"};

static kind kind_of(unsigned bit)
{
    return (kind)(bit % 16 < KINDS ? bit % 16 : RO);
}

static bool bits[32], used[32]; /* used: a bit of `once` was written */

static bool bit_after_write(unsigned n, bool one)
{
    switch (kind_of(n)) {
    case RW:
        return one;
    case WO:
        return one;
    case RS:
        return one;
    case W1C:
        return one ? false : bits[n];
    case W1S:
        return one ? true : bits[n];
    case W0C:
        return one ? bits[n] : false;
    case W1T:
        return one ? !bits[n] : bits[n];
    case W0S:
        return one ? bits[n] : true;
    case W0T:
        return one ? bits[n] : !bits[n];
    case WC:
        return false;
    case WS:
        return true;
    case ONCE:
        return used[n] ? bits[n] : one;
    case PULSE:
        return false;
    default:
        return bits[n];
    }
}

static void write_bits(unsigned first, unsigned count, uint32_t value)
{
    for (unsigned n = first; n < first + count; n++) {
        bits[n] = bit_after_write(n, value >> (n - first) & 1);
        used[n] = true;
    }
}

static uint32_t read_bits(unsigned first, unsigned count)
{
    uint32_t value = 0;
    for (unsigned n = 0; n < 32; n++) { /* the whole register is read, of which some bytes come */
        bool shown = kind_of(n) != WO && kind_of(n) != PULSE && bits[n];
        if (n >= first && n < first + count)
            value |= (uint32_t)shown << (n - first);
        if (kind_of(n) == RC)
            bits[n] = false;
        if (kind_of(n) == RS)
            bits[n] = true;
    }
    return value;
}

static uint32_t seed;

static uint32_t next(void)
{
    seed = seed * 1664525u + 1013904223u;
    return seed >> 8 ^ seed << 13;
}

static int at_random(void)
{
    memset(used, 0, sizeof used);
    for (unsigned n = 0; n < 32; n++)
        bits[n] = 0xA5C35A3Cu >> n & 1 && kind_of(n) != PULSE;
    for (unsigned i = 0; i < 20000 && !*small_story; i++) {
        unsigned size = 1u << next() % 3, at = next() % (4 / size) * size;
        uint32_t value = next();
        if (next() & 1) {
            if (size == 1)
                wad_port_write8(BASE, at, (uint8_t)value);
            else if (size == 2)
                wad_port_write16(BASE, at, (uint16_t)value);
            else
                wad_port_write32(BASE, at, value);
            write_bits(at * 8, size * 8, value);
        } else {
            uint32_t got = size == 1   ? wad_port_read8(BASE, at)
                           : size == 2 ? wad_port_read16(BASE, at)
                                       : wad_port_read32(BASE, at);
            uint32_t want = read_bits(at * 8, size * 8);
            if (got != want && !*small_story)
                snprintf(small_story, sizeof small_story,
                         "access %u: read %u bytes at %u: 0x%x, not 0x%x", i, size, at, got, want);
        }
    }
    return 0;
}

static void each_kind_does_what_its_words_say(void **state)
{
    GString *text =
        g_string_new("chip T {\n bus little 32\n clock core 8 MHz\n block A at 0x4000_0000 "
                     "like l\n}\nlayout l {\n reg R at 0 rw reset 0xA5C35A3C {\n");
    (void)state;
    for (unsigned n = 0; n < 32; n++)
        g_string_append_printf(text, " %u F%u %s\n", n, n, words[kind_of(n)]);
    g_string_append(text, " }\n}\n");
    for (unsigned i = 1; i <= 20; i++) {
        seed = i * 7919;
        small_run(text->str, at_random, ANY_FINDINGS);
    }
    g_string_free(text, TRUE);
}

/* The second write of such a field is a finding, and its neighbours are written all the same. */
static int twice(void)
{
    wad_port_write32(BASE, 0, 0x12);
    CHECK(wad_port_read32(BASE, 0) == 0x12);
    wad_port_write32(BASE, 0, 0x35);
    CHECK(wad_port_read32(BASE, 0) == 0x15);
    return 0;
}

static void what_is_written_once_says_so_the_second_time(void **state)
{
    (void)state;
    small_run(
        "chip T {\n bus little 32\n clock core 8 MHz\n block A at 0x4000_0000 like l\n}\nlayout l "
        "{\n"
        " reg R at 0 rw {\n 3:0 A rw\n 7:4 B once\n }\n}\n",
        twice, 1);
}

/* A pulse acts on the unit and reads 0. */
static int pulse(void)
{
    wad_port_write32(BASE, 0x10, 999);
    wad_port_write32(BASE, 0, 1);
    for (unsigned i = 0; i < 50; i++)
        wad_port_read32(BASE, 0x14);
    CHECK(wad_port_read32(BASE, 0x14) > 50);
    wad_port_write32(BASE, 0, 3); /* count anew */
    CHECK(wad_port_read32(BASE, 0) == 1);
    CHECK(wad_port_read32(BASE, 0x14) < 10);
    return 0;
}

static void a_pulse_acts_and_reads_as_0(void **state)
{
    (void)state;
    small_run(
        "chip T {\n bus little 32\n clock core 8 MHz\n block A at 0x4000_0000 like l\n}\nlayout l "
        "{\n"
        " reg CTRL at 0 rw {\n 0 EN rw\n 1 AGAIN pulse\n 2 F w1c\n }\n reg TOP at 0x10 rw\n reg "
        "COUNT at "
        "0x14 ro\n acts as counter { enable CTRL.EN, load CTRL.AGAIN, reload TOP.VALUE, count "
        "COUNT.VALUE, wrap CTRL.F, wrap_irq always 0 }\n}\n",
        pulse, 0);
}

/* ---- flags that accesses take ---- */

/* F0 goes with a read of DATA, F1 with a command's bit, F2 with status and then data, F3 with any
 * write of CMD. */
static int clearings(void)
{
    wad_port_write32(BASE, 0, 0xF);
    CHECK(wad_port_read32(BASE, 0) == 0xF);
    wad_port_read32(BASE, 8); /* no status was read: F2 stays */
    CHECK(wad_port_read32(BASE, 0) == 0xE);
    wad_port_write32(BASE, 0, 0xF);
    wad_port_write8(BASE, 0x11, 1); /* not the command's byte */
    CHECK(wad_port_read32(BASE, 0) == 7);
    wad_port_write32(BASE, 0, 0xF);
    wad_port_write32(BASE, 0x10, 2);
    CHECK(wad_port_read32(BASE, 0) == 7);
    wad_port_read32(BASE, 4); /* status: F2 is noted */
    wad_port_write32(BASE, 0x10, 1);
    CHECK(wad_port_read32(BASE, 0) == 5);
    wad_port_read32(BASE, 8);
    CHECK(wad_port_read32(BASE, 0) == 0);
    wad_port_write32(BASE, 0, 4);
    wad_port_read32(BASE, 4);     /* noted */
    wad_port_write32(BASE, 0, 0); /* it falls, and the note with it */
    wad_port_write32(BASE, 0, 4); /* another one */
    wad_port_read32(BASE, 8);
    CHECK(wad_port_read32(BASE, 0) == 4);
    wad_port_read32(BASE, 4);
    wad_port_read32(BASE, 0xC); /* or the other data register */
    CHECK(wad_port_read32(BASE, 0) == 0);
    return 0;
}

static void accesses_take_flags_away(void **state)
{
    (void)state;
    small_run(
        "chip T {\n bus little 32\n clock core 8 MHz\n block A at 0x4000_0000 like l\n}\nlayout l "
        "{\n"
        " reg F at 0 rw {\n 0 F0 rw cleared by read DATA\n 1 F1 rw cleared by write CMD.C = 1\n"
        " 2 F2 rw cleared by read STAT then read DATA or read STAT then read OTHER\n"
        " 3 F3 rw cleared by write CMD\n }\n reg STAT at 4 ro {\n 3:0 F ro\n }\n"
        " reg DATA at 8 ro\n reg OTHER at 0xC ro\n reg CMD at 0x10 rw {\n 1:0 C rw\n 8 D rw\n "
        "}\n}\n",
        clearings, ANY_FINDINGS);
}

/* Flags in an array of registers, each by its own data register; `once` through an alias. */
static int arrays(void)
{
    for (unsigned i = 0; i < 3; i++)
        wad_port_write32(BASE, i * 4, 1);
    wad_port_read32(BASE, 0x10 + 4);
    CHECK(wad_port_read32(BASE, 0) == 1);
    CHECK(wad_port_read32(BASE, 4) == 0);
    CHECK(wad_port_read32(BASE, 8) == 1);
    wad_port_read32(BASE, 0x20);
    CHECK(wad_port_read32(BASE, 0) == 0 && wad_port_read32(BASE, 8) == 0);
    wad_port_write32(BASE, 0x34, 1); /* sets a bit of what is stored once */
    CHECK(wad_port_read32(BASE, 0x30) == 1);
    wad_port_write32(BASE, 0x34, 2);
    CHECK(wad_port_read32(BASE, 0x30) == 1);
    return 0;
}

static void arrays_of_registers_and_aliases_do_alike(void **state)
{
    (void)state;
    small_run(
        "chip T {\n bus little 32\n clock core 8 MHz\n block A at 0x4000_0000 like l\n}\nlayout l "
        "{\n"
        " reg F[3] at 0 rw {\n 0 F rw cleared by read D or read ALL\n }\n reg D[3] at 0x10 ro\n"
        " reg ALL at 0x20 ro\n reg O at 0x30 rw {\n 3:0 V once\n }\n reg OS at 0x34 sets O\n}\n",
        arrays, ANY_FINDINGS);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(each_kind_does_what_its_words_say),
        cmocka_unit_test(what_is_written_once_says_so_the_second_time),
        cmocka_unit_test(a_pulse_acts_and_reads_as_0),
        cmocka_unit_test(accesses_take_flags_away),
        cmocka_unit_test(arrays_of_registers_and_aliases_do_alike),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
