/* SPDX-License-Identifier: MIT */
/*
 * What registers do beyond storing, one small chip for each: masks, keys, what reads otherwise,
 * numbers, other names, held values, writes that arrive later, banks, shared bytes, hooks. An
 * access takes two cycles of an 8 MHz clock.
 */
#include <string.h>

#include "small_chip.h"
#include "wadium/cpu.h"

/* ---- masks in the same write ---- */

static int masked(void)
{
    out(BASE, 0x000F00F5);
    CHECK_READ(BASE, 0x5);
    out(BASE, 0x00F0FFFF);
    CHECK_READ(BASE, 0xF5);
    out(BASE, 0x0000FFFF);
    CHECK_READ(BASE, 0xF5);
    wad_port_write16(BASE, 0, 0); /* without the mask's half nothing is let through */
    CHECK_READ(BASE, 0xF5);
    out(BASE, 0xFFFF1234);
    CHECK_READ(BASE, 0x1234);
    return 0;
}

static void only_bits_that_the_mask_lets_through_are_stored(void **state)
{
    (void)state;
    small_run(ONE_BLOCK("reg R at 0 rw { 31:16 WE wo masks V\n 15:0 V rw }"), masked, ANY_FINDINGS);
}

/* ---- a password in the same write ---- */

static int with_key(void)
{
    CHECK_READ(BASE, 0x9600);
    out(BASE, 0x2D55);
    CHECK_READ(BASE, 0x9655);
    out(BASE, 0x0011);
    CHECK_READ(BASE, 0x9655);
    out8(BASE, 0x77); /* the key's byte is not written */
    CHECK_READ(BASE, 0x9655);
    out(BASE, 0x2D00);
    CHECK_READ(BASE, 0x9600);
    return 0;
}

static void a_write_without_its_password_is_ignored_and_told(void **state)
{
    const char *text = ONE_BLOCK("reg R at 0 rw { 15:8 KEY wo key 0x2D reads 0x96\n 7:0 V rw }");
    (void)state;
    small_run(text, with_key, 3); /* and one of the byte's width */
    small_finds(text, with_key, "A.R is ignored: KEY must be 0x2d in the same write");
}

static int runs;

static int wrong_key(void)
{
    if (runs++)
        return 0;
    out(BASE, 0x2D55);
    out(BASE, 0x1155);
    CHECK(runs > 1); /* the chip was reset */
    return 0;
}

static void a_wrong_password_may_reset_the_chip(void **state)
{
    (void)state;
    runs = 0;
    small_finds(ONE_BLOCK("reg R at 0 rw { 15:8 KEY wo key 0x2D else reset\n 7:0 V rw }"),
                wrong_key, "resets the chip");
    assert_int_equal(runs, 2);
}

/* ---- what reads otherwise ---- */

static int reads_otherwise(void)
{
    out(BASE, 0xF0);
    out(BASE + 4, 0x3C);
    CHECK_READ(BASE + 8, 0x30);
    CHECK_READ(BASE + 12, 0x8000000B); /* ones of 0xF0 ^ 0x3C = 0xCC: 4, times 2 plus 3 */
    CHECK_READ(BASE + 16, ~0xFCu);
    return 0;
}

static void a_register_may_read_as_an_expression(void **state)
{
    (void)state;
    small_run(ONE_BLOCK("reg RAW at 0 rw\n reg MASK at 4 rw\n reg MIS at 8 ro reads RAW & MASK\n"
                        "reg X at 12 ro { 31 TOP ro reads 1\n"
                        " 7:0 N ro reads ones(RAW ^ MASK) * 2 + 3 }\n"
                        "reg NOT at 16 ro reads ~(RAW | MASK)"),
              reads_otherwise, 0);
}

static int reads_by_element(void)
{
    for (uint32_t i = 0; i < 3; i++) {
        out(BASE + 4 * i, 0x11 * (i + 1));
        out(BASE + 0x10 + 4 * i, 0xF << 4 * (i & 1));
    }
    CHECK_READ(BASE + 0x20, 0x1);
    CHECK_READ(BASE + 0x24, 0x20);
    CHECK_READ(BASE + 0x28, 0x3);
    return 0;
}

static void expressions_in_arrays_mean_the_own_element(void **state)
{
    (void)state;
    small_run(ONE_BLOCK("reg RAW[3] at 0 rw\n reg MASK[3] at 0x10 rw\n reg MIS[3] at 0x20 ro reads "
                        "RAW & MASK"),
              reads_by_element, 0);
}

/* ---- other names ---- */

static int other_names(void)
{
    out(BASE, 0x12345678);
    CHECK_READ(BASE + 4, 0x12345678); /* sets: it reads as what it acts on */
    out(BASE + 4, 0x80000001);
    CHECK_READ(BASE, 0x92345679);
    out(BASE + 8, 0x10000000);
    CHECK_READ(BASE, 0x82345679);
    out(BASE + 12, 0xF);
    CHECK_READ(BASE, 0x82345676);
    out(BASE + 16, 0xCAFE); /* 16 bits wide: the low half */
    CHECK_READ(BASE, 0x8234CAFE);
    out(BASE + 20, 0x3 << 4 | 0x5); /* fields: SET of low nibble, CLR of the next, by one write */
    CHECK_READ(BASE + 20, 0xCF);
    CHECK_READ(BASE, 0x8234CACF);
    out(BASE + 24, 0x9);
    CHECK_READ(BASE, 0x8234CA9F);
    CHECK_READ(BASE + 24, 0x9);
    return 0;
}

static void registers_and_fields_have_other_names(void **state)
{
    (void)state;
    small_run(ONE_BLOCK("reg R at 0 rw { 31:8 H rw\n 7:4 B rw\n 3:0 C rw }\n"
                        "reg S at 4 sets R\n reg L at 8 clears R\n reg T at 12 toggles R\n"
                        "reg N at 16 is R width 16\n"
                        "reg F at 20 rw { 3:0 SET rw sets R.C\n 7:4 CLR rw clears R.B\n }\n"
                        "reg G at 24 rw { 3:0 ALSO rw is R.B }"),
              other_names, ANY_FINDINGS);
}

/* ---- numbers ---- */

#define NUMBERS                                                                                    \
    "reg CC[3] at 0 rw { 0 F rw\n 1 IE rw }\n"                                                     \
    "reg IV at 0x10 ro { 7:0 N ro number { 2 CC[0].F, 4 CC[1].F, 6 CC[2].F } clears otherwise 0 }"

static int numbers(void)
{
    CHECK_READ(BASE + 0x10, 0);
    out(BASE + 4, 1);
    out(BASE + 8, 1);
    CHECK_READ(BASE + 0x10, 4);
    CHECK_READ(BASE + 4, 0); /* taken by the read */
    CHECK_READ(BASE + 0x10, 6);
    CHECK_READ(BASE + 0x10, 0);
    out(BASE, 1);
    out(BASE + 4, 1);
    out(BASE + 0x10, 0); /* any access */
    CHECK_READ(BASE, 0);
    CHECK_READ(BASE + 4, 1);
    return 0;
}

static void a_number_register_gives_the_first_flag_and_takes_it(void **state)
{
    (void)state;
    small_run(ONE_BLOCK(NUMBERS), numbers, ANY_FINDINGS);
}

/* Only flags that are enabled are numbered. */
static int numbers_enabled(void)
{
    out(BASE + 0x20, 7); /* so soon that both matches and the wrap have come */
    out(BASE + 0x28, 3);
    out(BASE + 0x2C, 5);
    out(BASE + 0x24, 1 | 4);
    while (!(in(BASE + 0x30) & 1))
        ;
    CHECK(in(BASE + 0x30) == 7);
    CHECK_READ(BASE + 0x34, 12);
    out(BASE + 0x24, 0);
    out(BASE + 0x24, 2);
    CHECK_READ(BASE + 0x34, 8);
    CHECK_READ(BASE + 0x34, 0);
    CHECK(in(BASE + 0x30) == 4 + 0);
    return 0;
}

static void a_number_counts_only_enabled_flags(void **state)
{
    (void)state;
    small_run(
        ONE_BLOCK(
            "reg RELOAD at 0x20 rw\n reg CTRL at 0x24 rw { 0 EN rw\n 1 IE0 rw\n 2 IEW rw\n 3 IE1 "
            "rw }\n"
            "reg CMP[2] at 0x28 rw { 15:0 V rw }\n"
            "reg ST at 0x30 rw { 0 W rw\n 1 M[2] rw }\n"
            "reg IV at 0x34 ro { 7:0 N ro number { 8 ST.M[0], 10 ST.M[1], 12 ST.W } clears }\n"
            "acts as counter { enable CTRL.EN, reload RELOAD.VALUE, wrap ST.W, wrap_irq CTRL.IEW\n"
            "compare[n] CMP[n].V, match[n] ST.M[n], match_irq[n] { CTRL.IE0, CTRL.IE1 } }"),
        numbers_enabled, ANY_FINDINGS);
}

/* ---- held values ---- */

static int held(void)
{
    out(BASE, 5); /* not held: CTL.BUF is 0 */
    CHECK_READ(BASE + 0x0C, 5);
    out(BASE + 4, 1);
    out(BASE, 9);
    CHECK_READ(BASE, 9);        /* as written */
    CHECK_READ(BASE + 0x0C, 5); /* what is active */
    out8(BASE + 1, 2);          /* parts start from what was written */
    CHECK_READ(BASE, 0x209);
    out(BASE + 8, 1);
    CHECK_READ(BASE + 0x0C, 0x209);
    out(BASE, 7);
    CHECK_READ(BASE + 0x0C, 0x209);
    out(BASE + 4, 0); /* the condition's end lets it through */
    CHECK_READ(BASE + 0x0C, 7);
    out(BASE + 0x10, 3);
    CHECK_READ(BASE + 0x10, 0); /* shows what is active */
    CHECK(in(BASE + 0x14) == 0);
    CHECK_READ(BASE + 0x10, 3); /* until that was read */
    return 0;
}

static void what_was_written_waits_for_its_event(void **state)
{
    (void)state;
    small_run(ONE_BLOCK("reg R at 0 rw held until write CMD.GO = 1 when CTL.BUF { 15:0 V rw }\n"
                        "reg CTL at 4 rw { 0 BUF rw }\n reg CMD at 8 wo { 0 GO wo }\n"
                        "reg NOW at 0x0C ro reads R.V\n"
                        "reg S at 0x10 rw { 7:0 V rw held until read X shows active }\n"
                        "reg X at 0x14 ro"),
              held, ANY_FINDINGS);
}

/* Until the timer's wrap, whose flag is set already. */
static int held_until_wrap(void)
{
    out(BASE + 0x10, 999);
    out(BASE, 1);
    while (!in(BASE + 0x18))
        ;
    out(BASE + 0x1C, 42);
    CHECK_READ(BASE + 0x20, 0);
    for (unsigned i = 0; i < 450; i++) /* less than a period */
        in(BASE);
    CHECK_READ(BASE + 0x20, 0);
    for (unsigned i = 0; i < 100; i++)
        in(BASE);
    CHECK_READ(BASE + 0x20, 42);
    return 0;
}

static void a_flag_lets_through_also_when_it_is_set_already(void **state)
{
    static const char *const events[] = {"wrap", "ST.F"};
    (void)state;
    for (unsigned i = 0; i < 2; i++) {
        char *text = g_strdup_printf(
            ONE_BLOCK("reg CTL at 0 rw { 0 EN rw\n 1 IE rw }\n reg RELOAD at 0x10 rw\n"
                      "reg ST at 0x18 ro { 0 F ro }\n"
                      "reg BUF at 0x1C rw held until %s\n reg NOW at 0x20 ro reads BUF\n"
                      "acts as counter { enable CTL.EN, reload RELOAD.VALUE plus 1, wrap ST.F, "
                      "wrap_irq CTL.IE }"),
            events[i]);
        small_run(text, held_until_wrap, ANY_FINDINGS);
        g_free(text);
    }
}

/* ---- writes that arrive later ---- */

static int later(void)
{
    out(BASE, 5);
    CHECK_READ(BASE + 4, 1);
    CHECK_READ(BASE, 0);
    out(BASE, 6); /* lost */
    unsigned polls = 0;
    while (in(BASE + 4))
        polls++;
    CHECK(polls >= 2 && polls < 10); /* 3 cycles of 1 MHz are 24 of the core's, 12 accesses */
    CHECK_READ(BASE, 5);
    return 0;
}

static void a_write_may_arrive_later_and_the_next_is_lost_meanwhile(void **state)
{
    const char *text =
        HEAD "clock slow 1 MHz\n block A at 0x4000_0000 like l\n}\nlayout l {\n"
             "reg R at 0 rw after 3 cycles of slow busy ST.B\n reg ST at 4 ro { 0 B ro }\n}\n";
    (void)state;
    small_run(text, later, 1);
    small_finds(text, later, "A.R is lost: the one before it is still under way");
}

/* ---- registers at one address ---- */

static int banks(void)
{
    out(BASE, 0x11);
    out8(BASE + 4, 1);
    CHECK_READ(BASE, 0);
    out(BASE, 0x22);
    CHECK_READ(BASE, 0x22);
    out8(BASE + 4, 0);
    CHECK_READ(BASE, 0x11);
    out8(BASE + 4, 2);
    CHECK_READ(BASE, 0);
    return 0;
}

static void a_condition_chooses_among_registers_at_one_address(void **state)
{
    const char *text = ONE_BLOCK("reg D at 0 rw when LINE.BANK = 0\n"
                                 "reg L at 0 rw when LINE.BANK = 1\n"
                                 "reg LINE at 4 rw { 7:0 BANK rw }");
    (void)state;
    small_finds(text, banks, "no register is there now");
    small_run(ONE_BLOCK("reg D at 0 rw\n reg L at 0 rw when LINE.BANK = 1\n"
                        "reg E at 0 ro when LINE.BANK = 2\n reg LINE at 4 rw { 7:0 BANK rw }"),
              banks, ANY_FINDINGS);
}

/* ---- a byte that halves share ---- */

static int shared_byte(void)
{
    out8(BASE + 1, 0x12);
    CHECK(in8(BASE + 5) == 0 && in8(BASE + 4) == 0); /* nothing has changed */
    out8(BASE, 0x34);
    CHECK(in8(BASE + 4) == 0x34 && in8(BASE + 5) == 0x12);
    out8(BASE + 0, 0x56); /* the byte holds what went through it last */
    CHECK(in8(BASE + 5) == 0x12);
    out8(BASE + 3, 0x77); /* of another value */
    out8(BASE, 0x99);
    CHECK(in8(BASE + 5) == 0x77);
    CHECK(in8(BASE) == 0x99); /* takes the high part */
    out8(BASE + 3, 0x11);
    CHECK(in8(BASE + 1) == 0x11); /* and the byte was used meanwhile */
    return 0;
}

static void two_halves_go_through_one_byte(void **state)
{
    (void)state;
    small_run(HEAD "block A at 0x4000_0000 like l\n}\nlayout l {\n"
                   "reg CL at 0 rw width 8\n reg CH at 1 rw width 8\n"
                   "reg DL at 2 rw width 8\n reg DH at 3 rw width 8\n"
                   "reg SL at 4 ro width 8 reads CL\n reg SH at 5 ro width 8 reads CH\n"
                   "value C = CH.VALUE : CL.VALUE through TEMP\n"
                   "value D = DH.VALUE : DL.VALUE through TEMP\n}\n",
              shared_byte, ANY_FINDINGS);
}

/* ---- hooks ---- */

static int hooks(void)
{
    out(BASE + 4, 0x30);
    out(BASE, 2); /* not enabled: nothing */
    CHECK_READ(BASE + 4, 0x30);
    out(BASE, 3);
    CHECK_READ(BASE + 4, 0x33); /* COUNT = COUNT + written */
    CHECK_READ(BASE + 8, 0);
    CHECK_READ(BASE + 0x10, 0);
    for (unsigned i = 0; i < 80; i++)
        in(BASE);
    CHECK_READ(BASE + 8, 0x80 | 3); /* 20 us later */
    (void)in(BASE + 0x0C);
    CHECK_READ(BASE + 0x10, 7);
    out(BASE + 0x14, 1); /* puts all back */
    CHECK_READ(BASE + 4, 0);
    return 0;
}

static void hooks_assign_at_their_event(void **state)
{
    (void)state;
    small_run(ONE_BLOCK("reg CTL at 0 rw { 0 EN rw\n 1 GO wo }\n reg COUNT at 4 rw\n"
                        "reg ST at 8 ro { 7 DONE ro\n 3:0 N ro }\n reg TAKE at 0x0C ro\n"
                        "reg N at 0x10 ro\n reg RST at 0x14 wo { 0 NOW wo }\n"
                        "on write CTL.GO = 1 when CTL.EN { COUNT.VALUE = COUNT.VALUE + written\n"
                        " after 20 us { ST.DONE = 1, ST.N = COUNT.VALUE & 0xF } }\n"
                        "on read TAKE { N.VALUE = N.VALUE + 7 }\n"
                        "on write RST.NOW = 1 { reset }"),
              hooks, ANY_FINDINGS);
}

/* ---- locks ---- */

#define LOCK(words)                                                                                \
    ONE_BLOCK("reg R at 0 rw locked S\n reg K at 4 wo { 15:8 KEY wo\n 0 X wo }\n"                  \
              "reg ST at 8 rw { 0 SHUT ro\n 1 AGAIN rw }\n lock S key K.KEY 0x35 0xC9 " words)

static void open_it(void)
{
    out(BASE + 4, 0x3500);
    out(BASE + 4, 0xC900);
}

static int opens_once(void)
{
    CHECK_READ(BASE + 8, 1);
    open_it();
    CHECK_READ(BASE + 8, 0);
    out(BASE, 1);
    CHECK_READ(BASE, 1);
    out(BASE + 4, 0); /* closes */
    CHECK_READ(BASE + 8, 1);
    open_it();
    out(BASE, 2);
    CHECK_READ(BASE, 1);
    out(BASE + 8, 2);
    open_it();
    out(BASE, 3);
    CHECK_READ(BASE, 3);
    return 0;
}

static void a_lock_that_opens_once_says_so(void **state)
{
    const char *text = LOCK("once unless ST.AGAIN shows ST.SHUT");
    (void)state;
    small_run(text, opens_once, 1);
    small_finds(text, opens_once, "A.R is ignored: it opens only once until a reset");
}

static int opens_unbroken(void)
{
    out(BASE + 4, 0x3500);
    (void)in(BASE + 8);
    out(BASE + 4, 0xC900);
    out(BASE, 1);
    CHECK_READ(BASE, 0);
    open_it();
    out(BASE, 2);
    CHECK_READ(BASE, 2);
    return 0;
}

static void an_access_between_breaks_an_unbroken_key(void **state)
{
    const char *text = LOCK("unbroken");
    (void)state;
    small_run(text, opens_unbroken, 1);
    small_finds(text, opens_unbroken, "then 0xC9, with no access between");
}

static int opens_for_a_while(void)
{
    open_it();
    out(BASE, 1);
    CHECK_READ(BASE, 1); /* six cycles are three accesses */
    (void)in(BASE + 8);
    out(BASE, 2);
    CHECK_READ(BASE, 1);
    return 0;
}

static void an_opening_expires(void **state)
{
    (void)state;
    small_run(LOCK("open for 6 cycles"), opens_for_a_while, 1);
}

static int locks_up(void)
{
    open_it();
    out(BASE, 1);
    out(BASE + 4, 0x3500);
    out(BASE + 4, 0x1100);
    open_it();
    out(BASE, 2);
    CHECK_READ(BASE, 1);
    return 0;
}

static int bites(void)
{
    if (runs++)
        return 0;
    out(BASE + 4, 0x3500);
    out(BASE + 4, 0x1100);
    CHECK(runs > 1); /* the chip was reset */
    return 0;
}

static void a_wrong_key_may_lock_for_good_or_reset(void **state)
{
    (void)state;
    small_finds(LOCK("else stuck"), locks_up, "a wrong key has locked it until a reset");
    runs = 0;
    small_run(LOCK("else reset"), bites, 0);
    assert_int_equal(runs, 2);
}

/* ---- groups ---- */

#define CHANNELS                                                                                   \
    "group CH[4] step 0x20 at 0x40 {\n reg READ at 0 rw\n reg CTL at 4 rw { 0 EN rw\n 8 F w1c }\n" \
    " reg SET at 8 sets CTL\n reg BUF[3] at 0x10 rw { 7:0 V rw }\n"                                \
    " reg SUM at 0x0C ro reads CH.READ + 1\n }\n reg ALL at 0 ro reads CH[1].READ | CH[2].READ\n"

static int grouped(void)
{
    for (uint32_t n = 0; n < 4; n++) {
        uint32_t at = BASE + 0x40 + 0x20 * n;
        out(at, 1u << n);
        out(at + 8, 1);
        CHECK_READ(at + 4, 1);
        CHECK_READ(at + 0x0C, (1u << n) + 1);
        for (uint32_t k = 0; k < 3; k++)
            out(at + 0x10 + 4 * k, n * 3 + k);
    }
    CHECK_READ(BASE, 6);
    for (uint32_t n = 0; n < 12; n++)
        CHECK_READ(BASE + 0x40 + 0x20 * (n / 3) + 0x10 + 4 * (n % 3), n);
    return 0;
}

static void groups_interleave_arrays(void **state)
{
    (void)state;
    small_run(ONE_BLOCK(CHANNELS), grouped, 0);
    wad_sheet *s = small_parse(ONE_BLOCK(CHANNELS));
    static const char *const paths[] = {"A.CH[3].CTL.F", "A.CH[2].BUF[1].V", "A.CH[0].READ",
                                        "A.ALL"};
    static const uint32_t at[] = {0xA4, 0x94, 0x40, 0};
    for (unsigned i = 0; i < G_N_ELEMENTS(paths); i++) {
        wad_fieldref ref;
        char *why = NULL, *name;
        if (!wad_sheet_resolve(s, paths[i], &ref, &why))
            fail_msg("%s", why);
        name = wad_fieldref_name(&ref);
        assert_string_equal(name, paths[i]);
        assert_int_equal(wad_fieldref_address(&ref), BASE + at[i]);
        g_free(name);
    }
    wad_sheet_free(s);
}

/* The header has an array of structs, and a compiler agrees to every offset. */
static void the_header_has_an_array_of_structs(void **state)
{
    char *folder = test_folder(), *out, *err;
    char *sheet = g_build_filename(folder, "t.sheet", NULL);
    char *header = g_build_filename(folder, "t.h", NULL);
    char *program = g_build_filename(folder, "t.c", NULL);
    (void)state;
    assert_true(g_file_set_contents(sheet, ONE_BLOCK(CHANNELS), -1, NULL));
    assert_int_equal(WADIUM(&out, &err, "emit", "header", sheet, "-o", header), 0);
    g_free(out);
    g_free(err);
    const char *text = "#include \"t.h\"\n"
                       "_Static_assert(offsetof(t_l_regs, CH[2].BUF[1]) == 0x94, \"\");\n"
                       "uint32_t f(void) { return T_A->CH[3].CTL & T_L_CH_CTL_F_MASK; }\n";
    assert_true(g_file_set_contents(program, text, -1, NULL));
    if (test_spawn(&out, &err, "cc", "-std=c11", "-Wall", "-Werror", "-fsyntax-only", program,
                   NULL))
        fail_msg("%s", err);
    g_free(out);
    g_free(err);
    g_free(sheet);
    g_free(header);
    g_free(program);
    test_remove(folder);
}

/* ---- windows ---- */

static int windows(void)
{
    out(BASE, 0x55);
    out(BASE + 0x1000, 0x0F);
    CHECK_READ(BASE, 0x5F);
    out(BASE + 0x2000, 0x50);
    CHECK_READ(BASE, 0x0F);
    out(BASE + 0x3000, 0xFF);
    CHECK_READ(BASE, 0xF0);
    CHECK_READ(BASE + 0x1000, 0xF0); /* each reads as the register itself */
    CHECK_READ(BASE + 0x3000, 0xF0);
    out(BASE + 0x3008, 0x11); /* the second register too */
    CHECK_READ(BASE + 8, 0x11);
    CHECK_READ(BASE + 0x10, 0); /* an event: CMD.GO = 1 */
    out(BASE + 0x100C, 1);      /* ... by the window that sets */
    CHECK_READ(BASE + 0x10, 1);
    out(BASE + 0x200C, 1); /* through `clears` 0 is written */
    CHECK_READ(BASE + 0x10, 1);
    out(BASE + 0x9000, 1); /* the other block, whose window lies elsewhere */
    CHECK_READ(BASE + 0x8000, 1);
    CHECK_READ(BASE, 0xF0);
    return 0;
}

static void windows_show_registers_once_more(void **state)
{
    (void)state;
    small_run(HEAD "block A at 0x4000_0000 like l { window at 0x3000 toggles }\n"
                   "block B at 0x4000_8000 like l\n"
                   "window at 0x1000 sets of A B\n window at 0x2000 clears of A\n}\n"
                   "layout l { reg R at 0 rw\n reg S at 8 rw\n reg CMD at 12 rw { 0 GO rw }\n"
                   "reg N at 0x10 ro\n on write CMD.GO = 1 { N.VALUE = N.VALUE + 1 } }\n",
              windows, 0);
}

static int bit_by_bit(void)
{
    out(BASE, 0xF0);
    uint32_t at = 0x42000000u;
    CHECK(in(at + 4 * 4) == 1 && in(at + 3 * 4) == 0);
    out(at + 1 * 4, 1);
    out(at + 7 * 4, 0);
    CHECK_READ(BASE, 0x72);
    out(at + 31 * 4, 5); /* bit 0 of what is written */
    CHECK_READ(BASE, 0x80000072);
    out(at + 32 * 4 + 2 * 4, 1); /* flags: one of them alone goes */
    CHECK_READ(BASE + 4, 0xFB);
    out(at + 32 * 4 + 3 * 4, 0);
    CHECK_READ(BASE + 4, 0xFB);
    return 0;
}

static void an_address_range_may_be_shown_bit_by_bit(void **state)
{
    (void)state;
    small_run(HEAD "block A at 0x4000_0000 like l\n"
                   "window at 0x4200_0000 bits of 0x4000_0000 size 64 KiB\n}\n"
                   "layout l { reg R at 0 rw\n reg C at 4 w1c reset 0xFF }\n",
              bit_by_bit, ANY_FINDINGS);
}

/* ---- gates and resets that take their time ---- */

static int opens_later(void)
{
    CHECK_READ(BASE + 0x1000, 0); /* gated */
    out(BASE, 1);
    out(BASE + 0x1000, 7); /* still in reset */
    CHECK_READ(BASE + 0x1000, 0);
    out(BASE, 3); /* released: 8 cycles are 4 accesses */
    CHECK_READ(BASE + 4, 0);
    unsigned polls = 0;
    while (!in(BASE + 4))
        polls++;
    CHECK(polls >= 1 && polls <= 4);
    out(BASE + 0x1000, 7);
    CHECK_READ(BASE + 0x1000, 7);
    out(BASE, 1); /* back in reset */
    CHECK_READ(BASE + 4, 0);
    out(BASE, 3);
    while (!in(BASE + 4))
        ;
    CHECK_READ(BASE + 0x1000, 0);
    return 0;
}

static void a_reset_is_over_when_it_says_so(void **state)
{
    const char *text = HEAD "block S at 0x4000_0000 like s\n"
                            "block A at 0x4000_1000 like l {\n needs S.CTL.ON\n"
                            " reset while S.CTL.RUN = 0 ready S.ST.DONE after 8 cycles\n }\n}\n"
                            "layout s { reg CTL at 0 rw { 0 ON rw\n 1 RUN rw }\n"
                            " reg ST at 4 ro { 0 DONE ro } }\n layout l { reg R at 0 rw }\n";
    (void)state;
    small_run(text, opens_later, ANY_FINDINGS);
    small_finds(text, opens_later, "A.R is ignored: S.CTL.ON is 0, must be 1");
    small_finds(text, opens_later, "A.R is ignored: it is in reset while S.CTL.RUN = 0");
}

/* ---- big-endian ---- */

static int from_the_top(void)
{
    out(BASE, 0x12345678);
    CHECK(in8(BASE) == 0x12 && in8(BASE + 1) == 0x34 && in8(BASE + 3) == 0x78);
    CHECK(wad_port_read16(BASE, 0) == 0x1234 && wad_port_read16(BASE, 2) == 0x5678);
    out8(BASE + 1, 0xAB);
    CHECK_READ(BASE, 0x12AB5678);
    wad_port_write16(BASE, 2, 0xCDEF);
    CHECK_READ(BASE, 0x12ABCDEF);
    wad_port_write16(BASE, 4, 0x1122); /* of 16 bits, by bytes */
    CHECK(in8(BASE + 4) == 0x11 && in8(BASE + 5) == 0x22);
    return 0;
}

static void narrow_accesses_of_a_big_endian_chip_begin_at_the_top(void **state)
{
    char *text = g_strdup(ONE_BLOCK("reg R at 0 rw\n reg S at 4 rw width 16"));
    char *little = strstr(text, "little");
    (void)state;
    memcpy(little, "   big", 6);
    small_run(text, from_the_top, ANY_FINDINGS);
    g_free(text);
}

/* ---- a status register that entries save ---- */

static unsigned woken, wakes;

static void wake(void)
{
    out(BASE, 7);                 /* the flag goes */
    CHECK_READ(BASE + 0x1000, 0); /* entered with interrupts off, and awake */
    if (++wakes == 3)
        wad_cpu_saved(2, 0);
}

static int sleeps_by_status(void)
{
    out(BASE + 0x10, 799);
    out(BASE, 3);
    out(BASE + 0x1000, 3); /* lets interrupts through, and sleeps */
    woken = wakes;
    CHECK_READ(BASE + 0x1000, 1); /* restored, but for what the handler has cleared */
    CHECK(woken == 3);
    return 0;
}

static void a_core_sleeps_by_the_status_that_it_saves(void **state)
{
    static const wad_handler handlers[] = {NULL, wake};
    const char *text = "chip T {\n bus little 32\n memory ram at 0x2000_0000 size 4 KiB\n"
                       "clock core 8 MHz\n"
                       "cpu c16 global CPU.STATUS.I saves CPU.STATUS nests never\n"
                       "on entry { CPU.STATUS.I = 0, CPU.STATUS.DEEP = 0 }\n"
                       "sleep deep when CPU.STATUS.DEEP\n"
                       "block A at 0x4000_0000 like l { irq 1 }\n"
                       "block CPU at 0x4000_1000 like c\n}\n"
                       "layout c { reg STATUS at 0 rw { 0 I rw\n 1 DEEP rw } }\n"
                       "layout l { reg CTL at 0 rw { 0 EN rw\n 1 IE rw\n 2 F w1c }\n"
                       "reg RELOAD at 0x10 rw\n"
                       "acts as counter { enable CTL.EN, reload RELOAD.VALUE plus 1\n"
                       "wrap CTL.F, wrap_irq CTL.IE } }\n";
    (void)state;
    wakes = 0;
    small_run_handlers(text, sleeps_by_status, handlers, 2, ANY_FINDINGS);
    assert_int_equal(wakes, 3);
}

/* ---- what is wrong ---- */

static void what_is_wrong_is_said(void **state)
{
    static const struct {
        const char *layout, *words;
    } cases[] = {
        {"reg R at 0 rw\n lock S while R.VALUE once", "is of a lock with a key"},
        {"reg R at 0 rw { 7:0 V rw }\n lock S key R.V 0x100", "a value of the key must be"},
        {"reg R at 0 rw\n lock S key R 1 shows R", "one bit shows that it is closed"},
        {"reg R at 0 rw\n lock S key R 1 else burn", "'ignored', 'stuck' or 'reset'"},
        {"reg R at 0 rw\n lock S key R 1 open for 3 V", "expected cycles or a time"},
        {"reg R at 0 rw\n lock S key R 1\n lock S key R 2", "lock 'S' stands twice"},
        {"group G[4] step 8 at 0 { reg R at 8 rw }", "reaches beyond its group's step"},
        {"group G[4] at 0 { reg R at 8 rw }", "expected 'step'"},
        {"group G at 0 { value V = R }", "a group is of registers"},
        {"group G[2] step 4 at 0 { reg R at 0 rw }\n group G[2] step 4 at 8 { reg R at 0 rw }",
         "'G' stands twice"},
        {"group G[2] step 4 at 0 { reg R at 0 rw }\n reg S at 8 ro reads G[0].Q",
         "group 'G' has no register 'Q'"},
        {"group G[2] step 4 at 0 { reg R at 0 rw }\n reg S at 8 ro reads G[2].R", "no element 2"},
        {"reg R at 0 rw { 31:16 WE wo masks Q\n 15:0 V rw }", "no register 'Q'"},
        {"reg R at 0 rw { 31:24 WE wo masks R.V\n 15:0 V rw }",
         "as many bits as the field that it masks"},
        {"reg R at 0 rw { 7:0 V rw }\n reg S at 4 rw { 7:0 WE wo masks R.V }",
         "of the same register"},
        {"reg R at 0 rw { 7:0 K wo key 256 }", "the key must be a whole number from 0 to 255"},
        {"reg R at 0 rw { 7:0 K wo key 3 else burn }", "'reset' or 'ignored'"},
        {"reg R at 0 rw { 7:0 K wo key }", "expected the key"},
        {"reg R at 0 ro reads", "what it reads"},
        {"reg R at 0 ro reads S", "no register 'S'"},
        {"reg R at 0 ro reads 8 / R", "can be 0"},
        {"reg R at 0 rw { 3:0 A rw is B }", "no register 'B'"},
        {"reg R at 0 rw { 7:4 A rw is B\n 2:0 B rw }", "more bits than the field that it acts on"},
        {"reg R at 0 rw { 7:4 A rw is B\n 3:0 B rw is A }", "that is another name itself"},
        {"reg R at 0 rw { 0 F rw\n 7:4 N ro number { } }", "lists the flags that it numbers"},
        {"reg R at 0 rw { 1:0 F rw\n 7:4 N ro number { 1 R.F } }", "a flag of one bit"},
        {"reg R at 0 rw held", "say how long"},
        {"reg R at 0 rw held until nothing", "is no register here and no flag of a unit"},
        {"reg R at 0 rw held until S.F", "is no register here and no flag of a unit"},
        {"reg R at 0 rw after 3 ohm", "expected cycles or a time"},
        {"reg R at 0 rw after 3 cycles of quick", "there is no clock 'quick'"},
        {"reg R at 0 rw after 3 cycles busy R", "one bit says that it is busy"},
        {"reg R at 0 rw\n value V = R through T", "goes one of two parts"},
        {"reg R at 0 rw\n on write R { }", "say what happens"},
        {"reg R at 0 rw\n on write R { R.VALUE }", "expected '='"},
        {"reg R at 0 rw\n on R { R.VALUE = 1 }", "say whether reading or writing it is meant"},
        {"reg R at 0 rw\n on wrap { R.VALUE = 1 }", "no flag of a unit"},
        {"reg R at 0 rw { 0 F w1c cleared by nothing }", "no flag of a unit"},
    };
    (void)state;
    for (unsigned i = 0; i < G_N_ELEMENTS(cases); i++) {
        char *text = g_strdup_printf(ONE_BLOCK("%s"), cases[i].layout);
        small_refused(text, cases[i].words);
        g_free(text);
    }
}

/* ---- a whole chip of that school, as one uses it ---- */

static void a_chip_of_passwords_numbers_and_saved_status_runs(void **state)
{
    (void)state;
    small_run_whole("karst16", "sleeper", "4 of 4 expectations met, 0 findings");
}

static void a_chip_of_windows_groups_and_inverted_flags_runs(void **state)
{
    (void)state;
    small_run_whole("lundy32", "echo", "2 of 2 expectations met, 0 findings");
}

static void windows_and_resets_are_told_what_is_wrong(void **state)
{
    static const struct {
        const char *chip, *words;
    } cases[] = {
        {"window at 0x10 sets of A", "lies over register R of block 'A'"},
        {"window at 0x1000 sets of B", "there is no block 'B'"},
        {"window at 0x1000 bites of A", "what the window does"},
        {"window at 0x1000 bits of A", "shows an address range"},
        {"window at 0x1000 sets of 0x4000_0000 size 1 KiB", "shows an address range"},
        {"window at 0x1000 sets", "expected 'of'"},
        {"window at 0x1000 sets of", "a block's name"},
        {"window at 0x4200_0000 bits of 0x4000_0000 size 512 MiB", "from 1 byte to 256 MiB"},
        {"window at 0xF000_0000 bits of 0x4000_0000 size 64 MiB", "ends beyond"},
        {"block B at 0x4000_1000 like l { reset A.R.V }", "expected 'while'"},
        {"block B at 0x4000_1000 like l { needs A.R.V ready A.R.V }",
         "one bit says that it is ready"},
        {"block B at 0x4000_1000 like l { needs A.R.V = 1 after 3 V }",
         "expected cycles or a time"},
    };
    (void)state;
    for (unsigned i = 0; i < G_N_ELEMENTS(cases); i++) {
        char *text = g_strdup_printf(HEAD "block A at 0x4000_0000 like l\n %s\n}\n"
                                          "layout l { reg R[8] at 0 rw { 7:0 V rw } }\n",
                                     cases[i].chip);
        small_refused(text, cases[i].words);
        g_free(text);
    }
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(only_bits_that_the_mask_lets_through_are_stored),
        cmocka_unit_test(a_write_without_its_password_is_ignored_and_told),
        cmocka_unit_test(a_wrong_password_may_reset_the_chip),
        cmocka_unit_test(a_register_may_read_as_an_expression),
        cmocka_unit_test(expressions_in_arrays_mean_the_own_element),
        cmocka_unit_test(registers_and_fields_have_other_names),
        cmocka_unit_test(a_number_register_gives_the_first_flag_and_takes_it),
        cmocka_unit_test(a_number_counts_only_enabled_flags),
        cmocka_unit_test(what_was_written_waits_for_its_event),
        cmocka_unit_test(a_flag_lets_through_also_when_it_is_set_already),
        cmocka_unit_test(a_write_may_arrive_later_and_the_next_is_lost_meanwhile),
        cmocka_unit_test(a_condition_chooses_among_registers_at_one_address),
        cmocka_unit_test(two_halves_go_through_one_byte),
        cmocka_unit_test(hooks_assign_at_their_event),
        cmocka_unit_test(a_lock_that_opens_once_says_so),
        cmocka_unit_test(an_access_between_breaks_an_unbroken_key),
        cmocka_unit_test(an_opening_expires),
        cmocka_unit_test(a_wrong_key_may_lock_for_good_or_reset),
        cmocka_unit_test(groups_interleave_arrays),
        cmocka_unit_test(the_header_has_an_array_of_structs),
        cmocka_unit_test(windows_show_registers_once_more),
        cmocka_unit_test(an_address_range_may_be_shown_bit_by_bit),
        cmocka_unit_test(a_reset_is_over_when_it_says_so),
        cmocka_unit_test(narrow_accesses_of_a_big_endian_chip_begin_at_the_top),
        cmocka_unit_test(a_core_sleeps_by_the_status_that_it_saves),
        cmocka_unit_test(a_chip_of_passwords_numbers_and_saved_status_runs),
        cmocka_unit_test(a_chip_of_windows_groups_and_inverted_flags_runs),
        cmocka_unit_test(windows_and_resets_are_told_what_is_wrong),
        cmocka_unit_test(what_is_wrong_is_said),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
