/* SPDX-License-Identifier: MIT */
/* One of an array that differs from the rest: in layouts, of one block, by an erratum, in groups.
 */
#include <stdlib.h>
#include <string.h>

#include "small_chip.h"
#include "wadium/host/words.h"

#define REGS                                                                                       \
    "reg CTRL at 0 rw { 0 EN rw }\n reg CNT at 4 ro volatile { 15:0 V ro }\n"                      \
    "reg TOP at 8 rw { 15:0 V rw }\n reg SEEN at 0xC ro\n"                                         \
    "reg CC[3] at 0x10 rw { 15:0 V rw\n 16 FLAG w1c\n 17 IE rw }\n"
#define ROLES                                                                                      \
    "acts as counter { enable CTRL.EN, count CNT.V, reload TOP.V plus 1, compare[n] CC[n].V, "     \
    "match[n] CC[n].FLAG, match_irq[n] CC[n].IE }\n"

static void wait(unsigned n)
{
    while (n--)
        in(BASE);
}

/* The first's flag goes by its access kind, the second's by reading SEEN, the third's stays. */
static int by_element(void)
{
    for (uint32_t i = 0; i < 3; i++)
        out(BASE + 0x10 + 4 * i, 5);
    out(BASE + 8, 9);
    out(BASE, 1);
    wait(20);
    out(BASE, 0);
    for (uint32_t i = 0; i < 3; i++)
        CHECK_READ(BASE + 0x10 + 4 * i, 0x10005);
    for (uint32_t i = 0; i < 3; i++)
        out(BASE + 0x10 + 4 * i, 0x10005);
    CHECK_READ(BASE + 0x10, 5);
    CHECK_READ(BASE + 0x14, 0x10005);
    CHECK_READ(BASE + 0x18, 0x10005);
    in(BASE + 0xC);
    CHECK_READ(BASE + 0x14, 5);
    CHECK_READ(BASE + 0x18, 0x10005);
    return 0;
}

static void flags_of_a_row_go_differently(void **state)
{
    (void)state;
    small_run(
        ONE_BLOCK(REGS "change CC[1].FLAG ro cleared by read SEEN\n change CC[2].FLAG ro\n" ROLES),
        by_element, ANY_FINDINGS);
}

/* Bits that lie elsewhere, another reset value, one that cannot be written. */
static int elsewhere(void)
{
    CHECK_READ(BASE, 0x8);
    CHECK_READ(BASE + 4, 0x80);
    for (uint32_t i = 0; i < 3; i++)
        out(BASE + 4 * i, ~0u);
    CHECK_READ(BASE, 0x80F8);
    CHECK_READ(BASE + 4, 0x200F8);
    CHECK_READ(BASE + 8, 0x8);
    return 0;
}

static void bits_of_one_lie_elsewhere(void **state)
{
    (void)state;
    small_run(ONE_BLOCK("reg FMT[3] at 0 rw reset 8 { 15 PHASE rw\n 7:3 N rw }\n"
                        "change FMT[1].PHASE at 17\n change FMT[1] reset 0x80\n change FMT[2] ro"),
              elsewhere, ANY_FINDINGS);
}

/* Of a group by its element; of an array in it by both. */
static int in_groups(void)
{
    for (uint32_t at = 0; at < 0x20; at += 4)
        out(BASE + at, ~0u);
    for (uint32_t at = 0; at < 0x20; at += 4)
        CHECK_READ(BASE + at, at == 0x10 ? 0xF0 : at == 8 ? 0 : 0xF);
    return 0;
}

static void one_of_a_group_differs(void **state)
{
    (void)state;
    small_run(ONE_BLOCK("group CH[2] step 0x10 at 0 { reg A at 0 rw { 3:0 V rw }\n"
                        " reg B[3] at 4 rw { 3:0 V rw } }\n"
                        "change CH[1].A.V at 7:4\n change CH[0].B[1].V ro"),
              in_groups, ANY_FINDINGS);
}

static void its_place_is_known_by_name_and_address(void **state)
{
    char *why = NULL;
    wad_fieldref ref;
    (void)state;
    wad_sheet *s = small_parse(
        HEAD
        "block A at 0x4000_0000 like l\n block B at 0x4001_0000 like l {\n change R[1].F at 9\n }\n"
        "erratum \"E3: one too far\" { change A.R[2].F at 4 } }\n"
        "layout l { reg R[3] at 0 rw { 0 F rw } }");
    static const struct {
        const char *path;
        unsigned lsb;
    } want[] = {{"A.R[0].F", 0}, {"A.R[1].F", 0}, {"A.R[2].F", 4},
                {"B.R[0].F", 0}, {"B.R[1].F", 9}, {"B.R[2].F", 0}};
    for (unsigned i = 0; i < sizeof want / sizeof want[0]; i++) {
        wad_word word;
        assert_true(wad_sheet_resolve(s, want[i].path, &ref, &why));
        assert_int_equal(ref.lsb, want[i].lsb);
        char *name = wad_fieldref_name(&ref);
        assert_string_equal(name, want[i].path);
        g_free(name);
        memset(&word, 0, sizeof word);
        assert_true(wad_sheet_at(s, wad_fieldref_address(&ref), &word.ref));
        assert_ptr_equal(word.ref.reg, ref.reg);
    }
    assert_true(wad_sheet_resolve(s, "A.R[2]", &ref, &why));
    assert_true(wad_erratum_touches(&s->errata[0], ref.block, ref.reg));
    wad_sheet_free(s);
}

static void what_cannot_be_is_said(void **state)
{
    static const struct {
        const char *layout, *words;
    } wrong[] = {
        {"reg R[3] at 0 rw { 0 F rw }\n change R[3].F ro", "'R' has no element 3"},
        {"reg R[3] at 0 rw { 0 F rw }\n change R[1] at 0x40", "stays where the array has it"},
        {"reg R[3] at 0 rw { 0 F rw }\n change R[1] width 16", "as wide as the others"},
        {"reg R[3] at 0 rw { 0 F rw }\n change R[1].G ro", "nothing of this name to change"},
        {"reg R[3] at 0 rw { 0 F rw }\n change S.F ro", "nothing of this name to change"},
        {"reg R[3] at 0 rw { 0 F rw }\n change R[1].F ro\n change R[1].F rw", "two changes"},
        {"reg R[3] at 0 rw { 0 F rw }\n reg S[3] at 16 rw { 0 F rw }\n change R[1].F ro\n"
         "value V[n] = R[n].F : S[n].F",
         "row of alike registers"},
        {"reg R[3] at 0 rw { 0 F rw }\n change R[1].F", "what changes"},
    };
    (void)state;
    for (unsigned i = 0; i < sizeof wrong / sizeof wrong[0]; i++) {
        char *text = g_strdup_printf(HEAD "block A at 0x4000_0000 like l\n}\nlayout l {\n%s\n}\n",
                                     wrong[i].layout);
        small_refused(text, wrong[i].words);
        g_free(text);
    }
}

/* What is shown to people is there for machines. */
static void json_tells_elements_roles_and_behaviour(void **state)
{
    static const char *const words[] = {
        "\"element\" : 1",
        "\"cleared_by\" : \"read SEEN\"",
        "\"does\" : \"key 0x2D, else the chip is reset\"",
        "\"lies_in\" : \"A.CC[0].FLAG\"",
        "\"lies_in\" : \"A.TOP.V  plus 1  when CTRL.EN = 0\"",
        "\"lies_in\" : \"law TOP.V * 2\"",
    };
    char *text = NULL;
    size_t size;
    (void)state;
    wad_sheet *s = small_parse(
        ONE_BLOCK("reg KEYED at 0x30 rw { 15:8 K wo key 0x2D else reset }\n"
                  "reg CTRL at 0 rw { 0 EN rw }\n reg CNT at 4 ro volatile { 15:0 V ro }\n"
                  "reg TOP at 8 rw { 15:0 V rw }\n reg SEEN at 0xC ro\n"
                  "reg CC[3] at 0x10 rw { 15:0 V rw\n 16 FLAG w1c\n 17 IE rw }\n"
                  "change CC[1].FLAG ro cleared by read SEEN\n"
                  "acts as counter { enable CTRL.EN, count CNT.V\n"
                  "reload TOP.V plus 1 when CTRL.EN = 0\n reload law TOP.V * 2\n"
                  "compare[n] CC[n].V, match[n] CC[n].FLAG, match_irq[n] CC[n].IE }"));
    FILE *out = open_memstream(&text, &size);
    wad_show_chip_json(s, out);
    fclose(out);
    for (unsigned i = 0; i < sizeof words / sizeof words[0]; i++)
        if (!strstr(text, words[i]))
            fail_msg("%s is not in %s", words[i], text);
    free(text);
    wad_sheet_free(s);
}

int main(void)
{
    const struct CMUnitTest tests[] = {cmocka_unit_test(flags_of_a_row_go_differently),
                                       cmocka_unit_test(bits_of_one_lie_elsewhere),
                                       cmocka_unit_test(one_of_a_group_differs),
                                       cmocka_unit_test(its_place_is_known_by_name_and_address),
                                       cmocka_unit_test(json_tells_elements_roles_and_behaviour),
                                       cmocka_unit_test(what_cannot_be_is_said)};
    return cmocka_run_group_tests(tests, NULL, NULL);
}
