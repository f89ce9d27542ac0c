/* SPDX-License-Identifier: MIT */
/*
 * What the bits of a role say: codes with numbers and words of the role's own, laws, and units that
 * run without an enable. Counters count edges of an 8 MHz clock; an access takes two of them.
 */
#include <string.h>

#include "small_chip.h"

#define COUNTER "reg RELOAD at 0x10 rw reset 0xFFFF\n reg COUNT at 0x14 ro volatile { 15:0 V ro }\n"
#define ROLES   "reload RELOAD.VALUE, count COUNT.V, wrap CTRL.F, wrap_irq CTRL.IE"

static uint32_t counted(void)
{
    uint32_t first = in(BASE + 0x14);
    for (unsigned i = 0; i < 63; i++)
        in(BASE);
    return in(BASE + 0x14) - first; /* 128 edges later */
}

/* Code 0 stops it, the others divide by no power series. */
static int by_codes(void)
{
    static const uint32_t divides[] = {0, 1, 8, 64, 2, 4, 4, 4};
    CHECK(counted() == 0);
    for (uint32_t code = 1; code < 8; code++) {
        out(BASE, code << 4);
        uint32_t n = counted(), want = 128 / divides[code];
        CHECK(n + 1 >= want && n <= want + 1);
    }
    out(BASE, 0);
    CHECK(counted() == 0);
    return 0;
}

static void prescaler_codes_divide_by_what_they_say_and_one_stops(void **state)
{
    (void)state;
    small_run(ONE_BLOCK("reg CTRL at 0 rw { 0 IE rw\n 1 F w1c\n 6:4 PRE rw }\n" COUNTER
                        "acts as counter { prescale CTRL.PRE { 0 stopped, 1 is 1, 2 is 8, 3 is 64, "
                        "4 is 2, 5 .. 7 is 4 }\n" ROLES " }"),
              by_codes, 0);
}

/* Enumerators of the field say the number just as well. */
static void a_field_s_own_values_are_codes(void **state)
{
    (void)state;
    small_run(
        ONE_BLOCK("reg CTRL at 0 rw { 0 IE rw\n 1 F w1c\n 6:4 PRE rw { 0 stopped, 1 by1 is 1, "
                  "2 by8 is 8, 3 by64 is 64, 4 by2 is 2, 5 by4 is 4, 6 by4b is 4, 7 by4c is 4 "
                  "} }\n" COUNTER "acts as counter { prescale CTRL.PRE\n" ROLES " }"),
        by_codes, 0);
}

/* Several codes for one word: all of them are that. */
static int several(void)
{
    out(BASE + 0x10, 9);
    for (uint32_t mode = 0; mode < 4; mode++) {
        out(BASE, 0);
        out(BASE, mode << 4 | 1);
        uint32_t last = in(BASE + 0x14), falls = 0, rises = 0;
        for (unsigned i = 0; i < 200; i++) {
            uint32_t now = in(BASE + 0x14);
            falls += now + 2 == last;
            rises += now == last + 2;
            last = now;
        }
        CHECK(mode == 0   ? rises > 100 && falls == 0
              : mode == 2 ? falls > 100 && rises == 0
                          : rises > 50 && falls > 50);
    }
    return 0;
}

static void several_codes_may_say_one_word(void **state)
{
    (void)state;
    small_run(
        ONE_BLOCK("reg CTRL at 0 rw { 0 EN rw\n 2 IE rw\n 3 F w1c\n 5:4 MODE rw }\n" COUNTER
                  "acts as counter { enable CTRL.EN, mode CTRL.MODE { 1 updown, 0 up, 2 down, "
                  "3 updown }\n" ROLES " }"),
        several, ANY_FINDINGS);
}

/* Without an enable it always runs. */
static int always(void)
{
    CHECK(counted() == 128);
    return 0;
}

static void a_timer_without_an_enable_runs(void **state)
{
    (void)state;
    small_run(ONE_BLOCK("reg CTRL at 0 rw { 2 IE rw\n 3 F w1c }\n" COUNTER
                        "acts as counter { " ROLES " }"),
              always, 0);
}

/* Two fields make one divider, as their law says. */
static int by_law(void)
{
    out(BASE, 0x30); /* 2 * (3 + 1) = 8 */
    uint32_t n = counted();
    CHECK(n == 16);
    out(BASE, 0x130); /* 4 * (3 + 1) = 16 */
    n = counted();
    CHECK(n == 8);
    return 0;
}

static void a_law_makes_one_number_of_several_fields(void **state)
{
    (void)state;
    small_run(ONE_BLOCK("reg CTRL at 0 rw { 2 IE rw\n 3 F w1c\n 7:4 A rw\n 9:8 B rw }\n" COUNTER
                        "acts as counter { prescale law (CTRL.A + 1) * 2 ** (CTRL.B + 1)\n" ROLES
                        " }"),
              by_law, 0);
}

/* The top is a register, all ones, or 7, by the waveform. */
static int by_waveform(void)
{
    static const uint32_t tops[] = {0xFFFF, 0xFFFF, 7, 49};
    out(BASE + 0x10, 49);
    for (uint32_t wave = 1; wave < 4; wave++) {
        uint32_t most = 0;
        out(BASE, wave << 4);
        out(BASE, wave << 4 | 1);
        for (unsigned i = 0; i < 400; i++) {
            uint32_t now = in(BASE + 0x14);
            most = MAX(most, now);
        }
        CHECK(wave == 1 ? most > 500 : most <= tops[wave] && most + 2 >= tops[wave]);
        out(BASE, 0);
        in(BASE);
        out(BASE + 0x20, 1); /* from 0 again */
    }
    return 0;
}

static void conditions_choose_where_a_role_lies(void **state)
{
    (void)state;
    small_run(ONE_BLOCK("reg CTRL at 0 rw { 0 EN rw\n 2 IE rw\n 3 F w1c\n 5:4 WAVE rw }\n" COUNTER
                        "reg CMD at 0x20 wo { 0 GO wo }\n"
                        "acts as counter { enable CTRL.EN\n load write CMD.GO = 1\n"
                        "reload RELOAD.VALUE when CTRL.WAVE = 3\n"
                        "reload law 4 * 2 when CTRL.WAVE = 2\n reload always 0xFFFF\n"
                        "count COUNT.V, wrap CTRL.F, wrap_irq CTRL.IE }"),
              by_waveform, ANY_FINDINGS);
}

/* A channel compares or captures by its bit; its register is the same. */
static int by_channel(void)
{
    out(BASE + 0x10, 99);
    out(BASE + 0x28, 20);
    out(BASE + 0x2C, 30);
    out(BASE + 0x20, 2); /* channel 1 does not compare */
    out(BASE, 1);
    for (unsigned i = 0; i < 100; i++)
        in(BASE);
    CHECK_READ(BASE + 0x24, 1);
    out(BASE + 0x20, 0);
    for (unsigned i = 0; i < 100; i++)
        in(BASE);
    CHECK_READ(BASE + 0x24, 3);
    return 0;
}

static void a_condition_may_be_of_each_element(void **state)
{
    (void)state;
    small_run(ONE_BLOCK("reg CTRL at 0 rw { 0 EN rw\n 2 IE rw\n 3 F w1c }\n" COUNTER
                        "reg MODE at 0x20 rw { 0 DIR[2] rw }\n reg ST at 0x24 ro { 0 M[2] ro }\n"
                        "reg CC[2] at 0x28 rw { 15:0 V rw }\n"
                        "acts as counter { enable CTRL.EN\n" ROLES "\n"
                        "compare[n] CC[n].V when MODE.DIR[n] = 0\n compare[n] always 0xFFFF\n"
                        "match[n] ST.M[n], match_irq[n] always 0 }"),
              by_channel, ANY_FINDINGS);
}

/* A sequence of accesses starts it; another one feeds. */
static int acts;

static int fed(void)
{
    if (acts++)
        return 0;
    out(BASE + 4, 0x5A); /* starts it: 1024 edges are 512 accesses */
    for (unsigned i = 0; i < 3; i++) {
        for (unsigned k = 0; k < 400; k++)
            in(BASE + 8);
        out(BASE, 0xA);
        out(BASE, 0xB);
        out(BASE, 0xA);
        out(BASE, 0xC);
    }
    CHECK(acts == 1);
    for (unsigned k = 0; k < 300; k++)
        in(BASE + 8);
    out(BASE, 0xC); /* not after 0xA */
    for (unsigned k = 0; k < 300; k++)
        in(BASE + 8);
    CHECK(acts > 1); /* it was not fed */
    return 0;
}

static void acts_are_events_and_may_be_sequences(void **state)
{
    (void)state;
    acts = 0;
    small_finds(
        ONE_BLOCK("reg FEED at 0 wo { 7:0 V wo }\n reg ON at 4 rw { 7:0 V rw }\n reg X at 8 ro\n"
                  "acts as watchdog { enable ON.V { 0x5A is 1, 0 stopped }\n"
                  "feed write FEED.V = 0xA then write FEED.V = 0xC\n"
                  "timeout always 10 }"),
        fed, "it was not fed in time");
    assert_int_equal(acts, 2);
}

/* Any of several conditions, with ranges: the block answers while one holds. */
static int any_of(void)
{
    for (uint32_t sel = 0; sel < 8; sel++)
        for (uint32_t on = 0; on < 4; on++) {
            out(BASE, sel | on << 4);
            bool runs = ((on & 1) && sel >= 2 && sel <= 5) || (on == 2 && sel != 1);
            out(BASE + 0x1000, 1 + sel);
            uint32_t got = in(BASE + 0x1000);
            CHECK(got == (runs ? 1 + sel : 0));
        }
    return 0;
}

static void conditions_know_or_and_ranges(void **state)
{
    (void)state;
    small_run(HEAD "block A at 0x4000_0000 like l\n block B at 0x4000_1000 like m {\n"
                   " needs A.CTRL.X and A.CTRL.SEL = 2 .. 5 or\n"
                   " (A.CTRL.X = 0 and A.CTRL.Y and A.CTRL.SEL != 1)\n }\n}\n"
                   "layout l { reg CTRL at 0 rw { 2:0 SEL rw\n 4 X rw\n 5 Y rw } }\n"
                   "layout m { reg R at 0 rw }\n",
              any_of, ANY_FINDINGS);
}

/* Dead times in segments: `pick` by ranges, as a number that a law says. */
static int by_segments(void)
{
    out(BASE, 0x3 << 4); /* 3 */
    CHECK(counted() == 128 / 4);
    out(BASE, 0xA << 4); /* 4 * (10 - 8) = 8, and 1 */
    uint32_t n = counted();
    CHECK(n == 128 / 9 || n == 128 / 9 + 1);
    return 0;
}

static void a_law_may_pick_by_ranges(void **state)
{
    (void)state;
    small_run(
        ONE_BLOCK("reg CTRL at 0 rw { 2 IE rw\n 3 F w1c\n 7:4 A rw }\n" COUNTER
                  "acts as counter { prescale law 1 + pick CTRL.A { 0 .. 7 CTRL.A, 8 .. 15 4 * "
                  "(CTRL.A - 8) }\n" ROLES " }"),
        by_segments, 0);
}

/* A clock of the unit's own: source and divider in its own register, and a code without a source.
 */
static int by_own_clock(void)
{
    CHECK(counted() == 0);
    out(BASE, 1 << 4);
    CHECK(counted() >= 127);
    out(BASE, 2 << 4 | 1 << 6); /* 1 MHz by 2 */
    uint32_t n = counted();
    CHECK(n >= 7 && n <= 8);
    out(BASE, 0);
    CHECK(counted() == 0);
    return 0;
}

static void a_unit_may_have_a_clock_of_its_own(void **state)
{
    (void)state;
    small_run(HEAD
              "clock slow 1 MHz\n block A at 0x4000_0000 like l {\n"
              " clock law pick CTRL.SRC { 1 core, 2 slow } / 2 ** CTRL.DIV\n }\n}\nlayout l {\n"
              "reg CTRL at 0 rw { 2 IE rw\n 3 F w1c\n 5:4 SRC rw\n 7:6 DIV rw }\n" COUNTER
              "acts as counter { " ROLES " }\n}\n",
              by_own_clock, ANY_FINDINGS);
}

/* A switch that takes its time: the old source goes on until the new one is there. */
static int switched(void)
{
    CHECK_READ(BASE + 4, 0);
    out(BASE, 1); /* selected, and not on */
    CHECK_READ(BASE + 4, 0);
    CHECK(counted() >= 126);
    out(BASE, 3);
    uint32_t polls = 0;
    while (!in(BASE + 4))
        polls++;
    CHECK(polls > 10);
    CHECK(counted() == 128); /* it is the core's clock: twice as many in the same time */
    out(BASE, 0);
    CHECK_READ(BASE + 4, 0);
    return 0;
}

static void a_clock_may_report_its_switch(void **state)
{
    (void)state;
    small_run("chip T {\n bus little 32\n clock quartz 16 MHz on A.CLK.ON after 10 us\n"
              "clock inner 8 MHz\n"
              "clock core law pick A.CLK.SEL { 0 inner, 1 quartz } switched A.ST.IS\n"
              "block A at 0x4000_0000 like l\n}\nlayout l {\n"
              "reg CLK at 0 rw { 0 SEL rw\n 1 ON rw }\n reg ST at 4 ro { 0 IS ro }\n" COUNTER
              "reg CTRL at 0x20 rw { 2 IE rw\n 3 F w1c }\n acts as counter { " ROLES " }\n}\n",
              switched, ANY_FINDINGS);
}

static void a_law_that_may_overflow_is_refused(void **state)
{
    static const struct {
        const char *law, *words;
    } cases[] = {
        {"(CTRL.W + 1) * (CTRL.W + 1) * (CTRL.W + 1)",
         "can reach 1.84e+19, more than 64 bits hold"},
        {"2 ** CTRL.A * 2 ** CTRL.W", "more than 64 bits hold"},
        {"10 ** (CTRL.A + 5)", "can reach 1e+20"},
    };
    (void)state;
    for (unsigned i = 0; i < G_N_ELEMENTS(cases); i++) {
        char *text =
            g_strdup_printf(ONE_BLOCK("reg CTRL at 0 rw { 2 IE rw\n 3 F w1c\n 7:4 A rw }\n" COUNTER
                                      "acts as counter { " ROLES "\n prescale law %s }"),
                            cases[i].law);
        char **wide = g_strsplit(text, "CTRL.W", -1);
        char *all = g_strjoinv("RELOAD.VALUE", wide);
        small_refused(all, cases[i].words);
        g_strfreev(wide);
        g_free(all);
        g_free(text);
    }
}

/* A code that no list knows is told when it is written. */
static int unlisted(void)
{
    out(BASE, 2 << 4);
    out(BASE, 5 << 4);
    return 0;
}

/* A switch is on and off by codes; hardware that stops it writes the code. */
static int by_magic(void)
{
    out(BASE + 0x10, 9);
    CHECK(counted() == 0);
    out(BASE, 0x39A0);
    CHECK(counted() == 0);
    out(BASE, 0xC360);
    for (unsigned i = 0; i < 20; i++)
        in(BASE);
    CHECK_READ(BASE, 0x39A2); /* one period, and it has stopped itself */
    CHECK(counted() == 0);
    return 0;
}

static void a_switch_may_say_on_and_off_by_codes(void **state)
{
    (void)state;
    small_run(ONE_BLOCK("reg CTRL at 0 rw { 0 IE rw\n 1 F w1c\n 15:4 EN rw }\n" COUNTER
                        "acts as counter { enable CTRL.EN { 0xC36 on, 0x39A off }\n"
                        "one_shot always 1\n" ROLES " }"),
              by_magic, ANY_FINDINGS);
    small_refused(ONE_BLOCK("reg CTRL at 0 rw { 0 IE rw\n 1 F w1c }\n" COUNTER
                            "acts as counter { reload RELOAD.VALUE, wrap CTRL.F\n"
                            "wrap_irq CTRL.IE { 1 on, 0 off } }"),
                  "knows no 'on' of role 'wrap_irq'");
}

/* Outputs that are called otherwise than one after the other. */
static int two_outputs(void)
{
    out(0x4001000C, 3);
    out(BASE + 0x10, 99);
    out(BASE + 0x20, 25);
    out(BASE + 0x24, 75);
    out(BASE, 1);
    unsigned high[2] = {0, 0};
    for (unsigned i = 0; i < 1000; i++) {
        uint32_t pins = in(0x40010000);
        high[0] += pins & 1;
        high[1] += pins >> 1 & 1;
    }
    CHECK(high[0] > 230 && high[0] < 270);
    CHECK(high[1] > 730 && high[1] < 770);
    return 0;
}

static void signals_may_be_listed(void **state)
{
    static const char text[] = HEAD
        "block P at 0x4001_0000 like p {\n carries G[2]\n }\n"
        "block A at 0x4000_0000 like l {\n pins FIRST out { G0 fn 1 }\n pins OTHER out { G1 fn 1 "
        "}\n }\n}\nlayout p { reg I at 0 ro { 0 P[2] ro }\n reg O at 4 rw { 0 P[2] rw }\n"
        "reg D at 8 rw { 0 P[2] rw }\n reg F at 0xC rw { 0 P[2] rw }\n"
        "acts as gpio { in[n] I.P[n], out[n] O.P[n], dir[n] D.P[n], function[n] F.P[n] } }\n"
        "layout l { reg CTRL at 0 rw { 0 EN rw\n 2 IE rw\n 3 F w1c }\n" COUNTER
        "reg CC[2] at 0x20 rw\n"
        "acts as counter { enable CTRL.EN, count COUNT.V, reload RELOAD.VALUE plus 1\n"
        "compare[n] CC[n].VALUE, drive[n] always 1 { 1 pwm }, output_on[n] always 1\n"
        "output[n] { pins FIRST, pins OTHER } } }";
    (void)state;
    small_run(text, two_outputs, ANY_FINDINGS);
    small_refused(ONE_BLOCK("reg CTRL at 0 rw { 0 EN rw }\n acts as counter { enable CTRL.EN\n"
                            "output { pins A, pins B } }"),
                  "write output[n] { pins A, pins B }");
}

static void a_code_in_no_list_is_a_finding(void **state)
{
    (void)state;
    small_finds(ONE_BLOCK("reg CTRL at 0 rw { 2 IE rw\n 3 F w1c\n 7:4 A rw }\n" COUNTER
                          "acts as counter { prescale CTRL.A { 0 stopped, 1 is 1, 2 is 8 }\n" ROLES
                          " }"),
                unlisted, "A.CTRL.A set to 5, which the sheet's list of prescale does not know");
}

/* A role in another name of bits lies in the bits; conditions follow names too. */
static int by_other_name(void)
{
    out(BASE, 3 << 4);
    CHECK(counted() == 128 / 4);
    out(BASE + 0x20, 1);
    CHECK(counted() == 128 / 2);
    CHECK_READ(BASE + 0x24, 7);
    return 0;
}

static void roles_follow_other_names(void **state)
{
    (void)state;
    small_run(ONE_BLOCK("reg CTRL at 0 rw { 2 IE rw\n 3 F w1c\n 7:4 A rw }\n" COUNTER
                        "reg ALSO at 0x20 rw { 3:0 B rw is CTRL.A }\n reg X at 0x24 ro\n"
                        "on read RELOAD { X.VALUE = 1 }\n"
                        "on write ALSO when ALSO.B = 1 { X.VALUE = 7 }\n"
                        "acts as counter { prescale ALSO.B { 0 stopped, 1 is 2, 3 is 4 }\n" ROLES
                        " }"),
              by_other_name, 0);
}

/* What no model takes is a doubt, and nothing is accepted and ignored. */
static void what_no_model_takes_is_a_doubt(void **state)
{
    static const struct {
        const char *roles, *words;
    } cases[] = {
        {"compare[n] R[n].V { 0 is 3 }",
         "kind 'counter' takes no number for role 'compare' that a code says"},
        {"dead_time law CTRL.A * 2",
         "kind 'counter' takes no number for role 'dead_time' that a law says"},
        {"mode CTRL.M", "role 'mode' of kind 'counter' has no 'sideways': 2 does nothing"},
        {"prescale X.V", "lies in X.V, which reads as an expression"},
    };
    (void)state;
    for (unsigned i = 0; i < G_N_ELEMENTS(cases); i++) {
        char *text = g_strdup_printf(
            ONE_BLOCK(
                "reg CTRL at 0 rw { 2 IE rw\n 3 F w1c\n 7:4 A rw\n 9:8 M rw { 0 up, 1 down, 2 "
                "sideways } }\n" COUNTER "reg R[2] at 0x20 rw { 7:0 V rw }\n"
                "reg X at 0x30 ro { 7:0 V ro reads CTRL }\nacts as counter { " ROLES "\n %s }"),
            cases[i].roles);
        wad_diags *diags = wad_diags_new();
        wad_sheet *s = small_parse(text);
        wad_sheet_lint(s, diags);
        char *all = test_diags_text(diags);
        if (!strstr(all, cases[i].words) || !strstr(all, "typed, but not simulated"))
            fail_msg("no doubt says '%s': %s", cases[i].words, all);
        g_free(all);
        wad_sheet_free(s);
        wad_diags_free(diags);
        g_free(text);
    }
}

static void what_is_wrong_in_codes_is_said(void **state)
{
    static const struct {
        const char *roles, *words;
    } cases[] = {
        {"mode CTRL.A { 0 up, 1 dwon }",
         "kind 'counter' knows no 'dwon' of role 'mode' (did you mean 'down'?)"},
        {"prescale CTRL.A { 0 is 1, 0 is 2 }", "code 0 stands twice in this list"},
        {"prescale CTRL.A { 0 is 1, 2 .. 5 is 2, 5 is 3 }", "code 5 stands twice in this list"},
        {"prescale CTRL.A { 16 is 1 }", "a code: what the bits hold"},
        {"prescale CTRL.A { 1 }", "a word of the role, or 'is' and a number"},
        {"prescale CTRL.A { 1 is }", "expected a number or a name"},
        {"prescale law 8 / CTRL.A", "can be 0"},
        {"prescale law 1 + pick CTRL.A { 0 .. 7 1, 3 2 }",
         "the value 3 picks a line before this one already"},
        {"prescale law 1 + pick CTRL.A { 9 2, 0 .. 15 1 }", "the value 9 picks a line"},
        {"prescale law 1 + pick CTRL.A { 0 .. 16 1 }", "has 4 bits: it never reads 16"},
        {"prescale law 1 + pick CTRL.A { 5 .. 4 1 }", "are none: the smaller first"},
        {"prescale law CTRL.A & 3", "expected the end"},
        {"reload RELOAD.VALUE when CTRL.A = 1", "is bound above for all other cases"},
        {"prescale CTRL.A when CTRL.A = 1, prescale CTRL.A, prescale CTRL.A when CTRL.A = 2",
         "only the last may lack its 'when'"},
        {"prescale CTRL.A when CTRL.Q = 1", "no field 'Q'"},
        {"prescale CTRL.A when CTRL.A = 16", "the field's value"},
        {"load write CTRL.A", "say which value"},
        {"reload write CTRL.A = 1", "role 'reload' is a place, and nothing that happens"},
        {"load[n] write CTRL.A = 1", "an event is one"},
        {"compare[n] law CTRL.A", "a law gives one number"},
    };
    (void)state;
    for (unsigned i = 0; i < G_N_ELEMENTS(cases); i++) {
        char *text = g_strdup_printf(
            ONE_BLOCK("reg CTRL at 0 rw { 2 IE rw\n 3 F w1c\n 7:4 A rw\n }\n" COUNTER
                      "acts as counter { " ROLES "\n %s }"),
            cases[i].roles);
        small_refused(text, cases[i].words);
        g_free(text);
    }
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(prescaler_codes_divide_by_what_they_say_and_one_stops),
        cmocka_unit_test(a_field_s_own_values_are_codes),
        cmocka_unit_test(several_codes_may_say_one_word),
        cmocka_unit_test(a_timer_without_an_enable_runs),
        cmocka_unit_test(a_law_makes_one_number_of_several_fields),
        cmocka_unit_test(conditions_choose_where_a_role_lies),
        cmocka_unit_test(a_condition_may_be_of_each_element),
        cmocka_unit_test(acts_are_events_and_may_be_sequences),
        cmocka_unit_test(conditions_know_or_and_ranges),
        cmocka_unit_test(a_unit_may_have_a_clock_of_its_own),
        cmocka_unit_test(a_clock_may_report_its_switch),
        cmocka_unit_test(a_law_that_may_overflow_is_refused),
        cmocka_unit_test(a_law_may_pick_by_ranges),
        cmocka_unit_test(a_switch_may_say_on_and_off_by_codes),
        cmocka_unit_test(signals_may_be_listed),
        cmocka_unit_test(a_code_in_no_list_is_a_finding),
        cmocka_unit_test(roles_follow_other_names),
        cmocka_unit_test(what_no_model_takes_is_a_doubt),
        cmocka_unit_test(what_is_wrong_in_codes_is_said),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
