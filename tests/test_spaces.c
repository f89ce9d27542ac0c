/* SPDX-License-Identifier: MIT */
/* Address spaces that overlap, bits with addresses of their own, registers accessed in parts. */
#include <string.h>

#include "small_chip.h"
#include "wadium/host/words.h"

static void a_chip_of_spaces_and_bits_runs(void **state)
{
    (void)state;
    small_run_whole("pell8", "pulse", "3 of 3 expectations met, 0 findings");
}

#define SPACES                                                                                     \
    "chip T {\n bus little 32\n space one \"first\"\n space two at 0x0500_0000\n"                  \
    "clock core 8 MHz\n block A in one at 0x40 like l\n block B in two at 0x40 like l\n"           \
    "block C at 0x40 like l\n}\nlayout l { reg R at 0 rw { 0 F rw }\n reg S at 4 rw bytes }"

static void an_address_names_its_space(void **state)
{
    static const struct {
        const char *text, *block;
    } places[] = {{"one:0x40", "A"}, {"two:0x40", "B"}, {"0x40", "C"}, {"one:0x44", "A"}};
    char text[64];
    uint64_t address;
    wad_fieldref ref;
    (void)state;
    wad_sheet *s = small_parse(SPACES);
    for (unsigned i = 0; i < sizeof places / sizeof places[0]; i++) {
        assert_true(wad_parse_address(s, places[i].text, &address));
        memset(&ref, 0, sizeof ref);
        assert_true(wad_sheet_at(s, address, &ref));
        assert_string_equal(ref.block->name, places[i].block);
        wad_format_address(s, address, text, sizeof text);
        assert_string_equal(text, strchr(places[i].text, ':') ? places[i].text : "0x00000040");
    }
    assert_false(wad_parse_address(s, "three:0x40", &address));
    assert_false(wad_parse_address(s, "one:0x1000000", &address)); /* beyond it */
    assert_false(wad_parse_address(s, "one:", &address));
    assert_int_equal(s->blocks[0]->base - 0x40,
                     0); /* C; the others stand where debuggers see them */
    assert_int_equal(wad_sheet_block(s, "B")->base, 0x05000040);
    wad_sheet_free(s);
}

static uint32_t at(const char *place)
{
    uint64_t address = 0;
    wad_parse_address(wad_sim_sheet(small_sim), place, &address);
    return (uint32_t)address;
}

static int each_its_own(void)
{
    out(at("one:0x40"), 1);
    out(at("two:0x40"), 0);
    CHECK_READ(at("one:0x40"), 1);
    CHECK_READ(at("two:0x40"), 0);
    CHECK_READ(at("0x40"), 0);
    out(at("two:0x44"), 0x11223344);
    out8(at("two:0x45"), 0x55);
    CHECK_READ(at("two:0x44"), 0x11225544);
    return 0;
}

static int nothing_there(void)
{
    in(at("two:0x80"));
    return 0;
}

static void registers_of_one_address_are_several(void **state)
{
    (void)state;
    small_run(SPACES, each_its_own, 0);
    small_finds(SPACES, nothing_there, "two:0x80");
}

static int part_of_it(void)
{
    out8(BASE + 1, 0x55);
    return 0;
}

static void parts_of_others_are_a_finding(void **state)
{
    (void)state;
    small_finds(ONE_BLOCK("reg R at 0 rw"), part_of_it, "8-bit access");
    small_run(ONE_BLOCK("reg R at 0 rw bytes"), part_of_it, 0);
}

/* Flags that clear by 1 and other bits stay as they are. */
static int bit_by_bit(void)
{
    const uint32_t bits = (uint32_t)wad_sim_sheet(small_sim)->bit_space;
    out(BASE, 0x8000000F);
    CHECK((in8(bits + 0x80 + 31) & 1) == 1);
    out8(bits + 0x80 + 3, 0);
    CHECK_READ(BASE, 0x80000007);
    out8(bits + 0x80 + 32 + 4, 1); /* the next of the row */
    CHECK_READ(BASE + 4, 0x10);
    CHECK_READ(BASE, 0x80000007);
    return 0;
}

static void one_bit_is_touched_alone(void **state)
{
    (void)state;
    small_run(ONE_BLOCK("reg R[2] at 0 rw bits at 0x80"), bit_by_bit, ANY_FINDINGS);
}

static void what_cannot_be_is_said(void **state)
{
    static const struct {
        const char *chip, *layout, *words;
    } wrong[] = {
        {"block A in x at 0 like l", "reg R at 0 rw", "there is no space 'x'"},
        {"space x\n space x\n block A in x at 0 like l", "reg R at 0 rw", "'x' stands twice"},
        {"space x at 0x100\n space y at 0x100\n block A in x at 0 like l", "reg R at 0 rw",
         "begin at one address"},
        {"space x at 0x100\n space y at 0x110\n block A in x at 0xC like l",
         "reg R at 0 rw\n reg S at 4 rw", "ends beyond the 0x10 bytes of space 'x'"},
        {"space x at 0x100\n block A in x at 0 like l\n block B at 0x140 like l", "reg R at 0 rw",
         "block 'B' lies where space 'x' is kept here, at 0x100"},
        {"space x at 0x100\n memory m at 0xF0 size 32 B\n block A in x at 0 like l",
         "reg R at 0 rw", "memory 'm' lies where space 'x'"},
        {"block A at 0x4000_0000 like l", "reg R at 0 rw bits", "say where they are"},
        {"block A at 0x80 like l\n block B at 0x90 like l", "reg R at 0 rw bits at 0x20",
         "have addresses that others have already, from 0x20"},
        {"block A at 0x80 like l", "reg R at 0 rw bits at 0x2_0000",
         "the address of the first bit"},
    };
    (void)state;
    for (unsigned i = 0; i < sizeof wrong / sizeof wrong[0]; i++) {
        char *text = g_strdup_printf(
            "chip T {\n bus little 32\n clock core 8 MHz\n %s\n}\nlayout l {\n%s\n}\n",
            wrong[i].chip, wrong[i].layout);
        small_refused(text, wrong[i].words);
        g_free(text);
    }
}

int main(void)
{
    const struct CMUnitTest tests[] = {cmocka_unit_test(a_chip_of_spaces_and_bits_runs),
                                       cmocka_unit_test(an_address_names_its_space),
                                       cmocka_unit_test(registers_of_one_address_are_several),
                                       cmocka_unit_test(parts_of_others_are_a_finding),
                                       cmocka_unit_test(one_bit_is_touched_alone),
                                       cmocka_unit_test(what_cannot_be_is_said)};
    return cmocka_run_group_tests(tests, NULL, NULL);
}
