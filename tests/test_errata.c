/* SPDX-License-Identifier: MIT */
/* Errata, and changes of single blocks: what they reach, what they leave, what they may not. */
#include <string.h>

#include "support.h"
#include "wadium/host/words.h"

#define HEAD                                                                                       \
    "chip T {\n bus little 32\n clock core 8 MHz\n"                                                \
    " block A at 0x1000 like l\n block B at 0x2000 like l\n"
#define LAYOUT                                                                                     \
    "layout l {\n reg CTRL at 0 rw reset 1 \"control\" {\n 0 EN rw \"on\"\n 3:2 MODE rw { 0 up, "  \
    "1 down }\n }\n reg DATA at 4 rw\n reg OLD at 8 rw\n}\n"

static wad_sheet *parse(const char *text, char **messages)
{
    wad_diags *diags = wad_diags_new();
    wad_sheet *sheet = wad_sheet_parse(text, strlen(text), "t.sheet", diags);
    size_t size;
    FILE *f = open_memstream(messages, &size);
    wad_diags_print(diags, f);
    fclose(f);
    wad_diags_free(diags);
    return sheet;
}

static wad_sheet *good(const char *text)
{
    char *messages;
    wad_sheet *sheet = parse(text, &messages);
    if (!sheet)
        fail_msg("%s", messages);
    free(messages);
    return sheet;
}

static const wad_bitfield *field(const wad_sheet *s, const char *path)
{
    wad_fieldref ref;
    char *why = NULL;
    if (!wad_sheet_resolve(s, path, &ref, &why)) {
        g_free(why);
        return NULL;
    }
    return ref.field;
}

static void a_block_s_erratum_leaves_the_others_alone(void **state)
{
    (void)state;
    wad_sheet *s = good(HEAD " erratum \"E1: modes\" ref \"errata 1\" workaround \"none\" {\n"
                             " change A.CTRL.MODE at 5:4 ro \"moved\" not 0 { 1 one, 2 two }\n"
                             " change A.DATA reset 7\n without A.OLD\n }\n}\n" LAYOUT);
    const wad_bitfield *a = field(s, "A.CTRL.MODE"), *b = field(s, "B.CTRL.MODE");
    assert_int_equal(a->lsb, 4);
    assert_int_equal(a->access, WAD_ACCESS_RO);
    assert_string_equal(a->text, "moved");
    assert_true(a->not_zero);
    assert_string_equal(wad_bitfield_enum(a, 2)->name, "two");
    assert_int_equal(b->lsb, 2);
    assert_int_equal(b->access, WAD_ACCESS_RW);
    assert_string_equal(wad_bitfield_enum(b, 1)->name, "down");
    const wad_instance *ia = wad_sheet_block(s, "A"), *ib = wad_sheet_block(s, "B");
    assert_int_equal(wad_layout_register(ia->layout, "DATA")->reset, 7);
    assert_int_equal(wad_layout_register(ib->layout, "DATA")->reset, 0);
    assert_null(wad_layout_register(ia->layout, "OLD"));
    assert_non_null(wad_layout_register(ib->layout, "OLD"));
    assert_string_equal(ia->layout->name, "l_a"); /* C has a struct for each */
    assert_string_equal(ib->layout->name, "l");
    assert_true(wad_erratum_touches(&s->errata[0], ia, wad_layout_register(ia->layout, "CTRL")));
    assert_false(wad_erratum_touches(&s->errata[0], ib, NULL));
    wad_sheet_free(s);
}

static void a_layout_s_erratum_reaches_all_its_blocks(void **state)
{
    (void)state;
    wad_sheet *s =
        good(HEAD " erratum \"E2\" {\n change l.CTRL {\n 8 NEW rw\n 0 EN w1s \"once\"\n"
                  " }\n change clock core tolerance 2 %\n affects l.DATA\n }\n}\n" LAYOUT);
    assert_non_null(field(s, "A.CTRL.NEW"));
    assert_non_null(field(s, "B.CTRL.NEW"));
    assert_int_equal(field(s, "B.CTRL.EN")->access, WAD_ACCESS_W1S);
    assert_int_equal(field(s, "B.CTRL.MODE")->lsb, 2);
    assert_ptr_equal(wad_sheet_block(s, "A")->layout, wad_sheet_block(s, "B")->layout);
    assert_int_equal(s->core->tolerance.den, 50);
    wad_sheet_free(s);
}

static void errata_come_after_the_block_s_own_changes(void **state)
{
    (void)state;
    wad_sheet *s = good("chip T {\n bus little 32\n clock core 8 MHz\n"
                        " block A at 0x1000 like l {\n change CTRL.EN \"block\"\n"
                        " change DATA reset 3\n }\n block B at 0x2000 like l\n"
                        " erratum \"E\" { change A.CTRL.EN \"erratum\" }\n}\n" LAYOUT);
    assert_string_equal(field(s, "A.CTRL.EN")->text, "erratum");
    assert_string_equal(field(s, "B.CTRL.EN")->text, "on");
    assert_int_equal(wad_layout_register(wad_sheet_block(s, "A")->layout, "DATA")->reset, 3);
    wad_sheet_free(s);
}

static void one_of_an_array_can_be_changed(void **state)
{
    (void)state;
    wad_sheet *s = good("chip T {\n bus little 32\n clock core 8 MHz\n"
                        " block A[3] step 0x100 at 0x1000 like l\n"
                        " erratum \"E\" { change A1.DATA reset 5 }\n}\n" LAYOUT);
    for (unsigned i = 0; i < 3; i++)
        assert_int_equal(wad_layout_register(s->blocks[i]->layout, "DATA")->reset, i == 1 ? 5 : 0);
    wad_sheet_free(s);
}

static void what_cannot_be_is_told_at_its_line(void **state)
{
    static const struct {
        const char *text, *want;
    } wrong[] = {
        {HEAD " erratum \"E\" { change A.CTRL.EN \"x\" }\n erratum \"F\" { change A.CTRL.EN \"y\" "
              "}\n}\n" LAYOUT,
         "two changes of one level set the description of this"},
        {HEAD " erratum \"E\" { change A.CTRL.NONE \"x\" }\n}\n" LAYOUT,
         "t.sheet:6:23: error: there is nothing of this name to change"},
        {HEAD " erratum \"E\" { without C.CTRL }\n}\n" LAYOUT, "nothing of this name to take out"},
        {HEAD " erratum \"E\" { affects A.NONE }\n}\n" LAYOUT, "\"E\" affects 'A.NONE'"},
        {HEAD " erratum \"E\" { change A.CTRL.EN }\n}\n" LAYOUT, "expected what changes"},
        {HEAD " erratum \"E\" { change A.CTRL.EN at 40 }\n}\n" LAYOUT, "bit 40 lies outside"},
        {"over \"nowhere\"\nerratum \"E\" { change A.CTRL.EN \"x\" }\n",
         "t.sheet:1:6: error: there is no sheet 'nowhere' to correct"},
        {"over \"corran32\"\nlayout l {\n}\n", "expected 'erratum'"},
        {"over \"corran32\"\nerratum \"E\" {\n change CNT0.CTRL.ENN \"x\"\n}\n",
         "t.sheet:3:9: error: there is nothing of this name"},
    };
    (void)state;
    for (unsigned i = 0; i < G_N_ELEMENTS(wrong); i++) {
        char *messages;
        wad_sheet *s = parse(wrong[i].text, &messages);
        assert_null(s);
        if (!strstr(messages, wrong[i].want))
            fail_msg("case %u: wanted '%s' in:\n%s", i, wrong[i].want, messages);
        free(messages);
    }
}

/* The overlay that ships: one file over another, the corrected sheet as it was. */
static void revision_a_stands_over_the_chip(void **state)
{
    (void)state;
    wad_sheet *a = test_chip("corran32-rev-a"), *chip = test_chip("corran32");
    assert_string_equal(a->name, "Corran32");
    assert_string_not_equal(a->hash, chip->hash);
    assert_string_equal(wad_bitfield_enum(field(a, "UART1.CTRL.PARITY"), 2)->name, "odd");
    assert_string_equal(wad_bitfield_enum(field(chip, "UART1.CTRL.PARITY"), 2)->name, "even");
    assert_int_equal(wad_sheet_clock(a, "pll")->max_hz.num, 80000000);
    assert_int_equal(field(a, "CNT2.PRESC.DIV")->width, 8);
    assert_int_equal(field(a, "CNT1.PRESC.DIV")->width, 16);
    char *text;
    size_t size;
    FILE *f = open_memstream(&text, &size);
    const wad_instance *b = wad_sheet_block(a, "CNT2");
    wad_show_register(a, b, wad_layout_register(b->layout, "PRESC"), 0, f);
    fclose(f);
    assert_non_null(strstr(text, "erratum E9: timer 2 takes no prescaler over 255 (errata sheet "
                                 "2.4)\n        workaround: use timer 3 for slow rates\n"));
    free(text);
    f = open_memstream(&text, &size);
    assert_int_equal(wad_find(a, "exchange even", f), 1);
    fclose(f);
    free(text);
    wad_sheet_free(a);
    wad_sheet_free(chip);
}

static void fields_mean_something_only_when(void **state)
{
    (void)state;
    wad_sheet *sheet = test_chip("corran32");
    wad_word w = {0};
    char *why;
    const char *const with[] = {"LEAD=2", "HALF=1", NULL}, *const without[] = {"LEAD=2", NULL};
    assert_true(wad_sheet_resolve(sheet, "UART0.CTRL", &w.ref, &why));
    wad_fieldref reg = w.ref;
    assert_true(wad_encode(&reg, 0, with, &w, &why));
    char **doubts = wad_word_doubts(&w);
    assert_null(doubts[0]);
    g_strfreev(doubts);
    assert_int_equal(wad_word_meaning(&w, field(sheet, "UART0.CTRL.LEAD"), NULL), WAD_MEANS);
    assert_true(wad_encode(&reg, 0, without, &w, &why));
    doubts = wad_word_doubts(&w);
    assert_string_equal(doubts[0], "LEAD is set, but means something only while CTRL.HALF = 1");
    assert_null(doubts[1]);
    g_strfreev(doubts);
    assert_int_equal(wad_word_meaning(&w, field(sheet, "UART0.CTRL.LEAD"), NULL),
                     WAD_MEANS_NOTHING);
    wad_sheet_free(sheet);
}

static void laws_may_not_divide_by_what_can_be_0(void **state)
{
    static const struct {
        const char *fields, *law;
        bool good;
    } laws[] = {{"7:0 D rw", "clock / R.D", false},
                {"7:0 D rw not 0", "clock / R.D", true},
                {"7:0 D rw", "clock / (R.D + 1)", true},
                {"7:0 D rw", "clock / (256 - R.D)", true},
                {"7:0 D rw", "clock / (255 - R.D)", false},
                {"7:0 D rw", "clock / (100 - R.D)", false}, /* 0 inside, not at an end */
                {"7:0 D rw { 0 a is 2, 1 b is 8 }", "clock / R.D", true},
                {"7:0 D rw { 0 a is 0, 1 b is 8 }", "clock / R.D", false},
                {"3:0 F rw\n 11:4 I rw not 0", "clock / (16 * (R.I + R.F / 16))", true},
                {"3:0 F rw\n 11:4 I rw", "clock / (16 * (R.I + R.F / 16))", false},
                {"4:0 D rw", "clock / 2 ** R.D", true}};
    (void)state;
    for (unsigned i = 0; i < G_N_ELEMENTS(laws); i++) {
        char *messages, *text = g_strdup_printf(
                            "chip T {\n bus little 32\n clock core 8 MHz\n block A at 0 like l\n}\n"
                            "layout l {\n reg R at 0 rw reset 1 {\n %s\n }\n rate r law %s\n}\n",
                            laws[i].fields, laws[i].law);
        wad_sheet *s = parse(text, &messages);
        if ((s != NULL) != laws[i].good)
            fail_msg("%s of %s: %s", laws[i].law, laws[i].fields, messages);
        if (!s)
            assert_non_null(strstr(messages, "which can be 0"));
        wad_sheet_free(s);
        free(messages);
        g_free(text);
    }
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(a_block_s_erratum_leaves_the_others_alone),
        cmocka_unit_test(a_layout_s_erratum_reaches_all_its_blocks),
        cmocka_unit_test(errata_come_after_the_block_s_own_changes),
        cmocka_unit_test(one_of_an_array_can_be_changed),
        cmocka_unit_test(what_cannot_be_is_told_at_its_line),
        cmocka_unit_test(revision_a_stands_over_the_chip),
        cmocka_unit_test(fields_mean_something_only_when),
        cmocka_unit_test(laws_may_not_divide_by_what_can_be_0),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
