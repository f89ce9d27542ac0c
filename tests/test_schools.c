/* SPDX-License-Identifier: MIT */
/*
 * What chips of other schools do, in a few lines each: a transmitter that must be primed, a baud
 * that another timer makes, counts whose width is a mode, timers that borrow one another's bits,
 * clocks whose limits are fields.
 */
#include <math.h>
#include <string.h>

#include "small_chip.h"
#include "wadium/host/clocktree.h"

#define CORE_EDGE_PS 125000u /* 8 MHz */

/* ---- a serial port of one register, with flags that are set once ---- */

#define SERIAL_REGS                                                                                \
    "reg CTL at 0 rw { 0 ON rw\n 1 SENT rw\n 2 CAME rw\n 3 LOOP rw\n 4 IE rw\n 5 TWICE rw }\n"     \
    "reg TAKE at 4 ro { 7:0 V ro }\n reg GIVE at 4 wo { 7:0 V wo }\n"
#define SERIAL_ROLES                                                                               \
    "enable CTL.ON, loop CTL.LOOP, tx_data GIVE.V depth 0, rx_data TAKE.V\n"                       \
    "tx_ready CTL.SENT as event, tx_ready_irq CTL.IE, rx_ready CTL.CAME as event\n"
#define SENT 2u
#define CAME 4u
#define ON   (1u | 8u)

static void wait_a_while(void)
{
    for (unsigned i = 0; i < 2000; i++)
        in(BASE);
}

static uint64_t send(uint32_t byte)
{
    uint64_t from = wad_sim_now(small_sim);
    out(BASE + 4, byte);
    CHECK((in(BASE)&SENT) == 0);
    while (!(in(BASE)&SENT))
        continue;
    return wad_sim_now(small_sim) - from;
}

/* Ten bits of 16 samples of 8 edges are 1280 edges. */
static int primed(void)
{
    out(BASE, ON);
    wait_a_while();
    CHECK_READ(BASE, ON); /* it does not say that there is room: nothing was sent */
    double edges = (double)send(0x5A) / CORE_EDGE_PS;
    CHECK(edges > 1270 && edges < 1300);
    CHECK_READ(BASE, ON | SENT | CAME);
    CHECK_READ(BASE + 4, 0x5A);
    CHECK_READ(BASE, ON | SENT | CAME); /* reading the byte takes no flag */
    out(BASE, ON);
    wait_a_while();
    CHECK_READ(BASE, ON); /* what was taken away stays away */
    send(0xC3);
    CHECK_READ(BASE + 4, 0xC3);
    CHECK_READ(BASE, ON | SENT | CAME);
    out(BASE, 0); /* off and on again: a flag that was not taken stays */
    out(BASE, ON);
    CHECK_READ(BASE, ON);
    return 0;
}

static int given_twice(void)
{
    out(BASE, ON);
    out(BASE + 4, 1);
    out(BASE + 4, 2);
    wait_a_while();
    CHECK_READ(BASE + 4, 1);
    return 0;
}

static void a_transmitter_may_have_to_be_primed(void **state)
{
    static const char text[] =
        ONE_BLOCK(SERIAL_REGS "acts as uart { divider always 8\n" SERIAL_ROLES " }");
    (void)state;
    small_run(text, primed, ANY_FINDINGS);
    small_finds(text, given_twice,
                "byte 0x02 was given to A, which has no room for it: it is lost");
}

/* The same as a level is there at once, and comes back. */
static int not_primed(void)
{
    out(BASE, ON);
    CHECK_READ(BASE, ON | SENT);
    out(BASE + 4, 0x11);
    CHECK_READ(BASE, ON);
    wait_a_while();
    CHECK_READ(BASE, ON | SENT | CAME);
    out(BASE, ON);
    CHECK_READ(BASE, ON | SENT | CAME);
    return 0;
}

static void a_level_follows_what_it_tells(void **state)
{
    (void)state;
    small_run(ONE_BLOCK(SERIAL_REGS
                        "acts as uart { divider always 8\nenable CTL.ON, loop CTL.LOOP\n"
                        "tx_data GIVE.V depth 0, rx_data TAKE.V\n"
                        "tx_ready CTL.SENT as level, tx_ready_irq CTL.IE\n"
                        "rx_ready CTL.CAME }"),
              not_primed, ANY_FINDINGS);
}

static void what_is_wrong_in_events_and_levels_is_said(void **state)
{
    (void)state;
#define SAID(roles, words)                                                                         \
    small_refused(ONE_BLOCK(SERIAL_REGS "acts as uart { divider always 8\n" roles " }"), words)
    SAID("enable CTL.ON as event", "role 'enable' is no flag");
    SAID("overrun CTL.CAME as level", "knows no level of it: leave 'as level' out");
    SAID("tx_ready CTL.SENT as pulse", "write 'as event' or 'as level'");
    SAID("tx_data GIVE.V depth 65", "queues of models hold 64 items at most");
    SAID("rx_data TAKE.V depth 0", "depth 1, or more");
    small_refused(ONE_BLOCK("reg R at 0 rw { 0 F rw }\n acts as own relay { done R.F as event }"),
                  "its model says when 'done' is set");
#undef SAID
}

/* An enabled flag of this sort asks when it is set, and until it is taken. */
static unsigned handled;

static void handle_sent(void)
{
    out(BASE, ON | 1u << 4);
    if (++handled < 5)
        out(BASE + 4, handled);
}

static int by_interrupts(void)
{
    handled = 0;
    wad_port_irq_on();
    out(BASE, ON | 1u << 4);
    wait_a_while();
    CHECK(handled == 0);
    out(BASE + 4, 0x77);
    for (unsigned i = 0; i < 10; i++)
        wait_a_while();
    wad_port_irq_save();
    CHECK(handled == 5);
    return 0;
}

static void an_event_asks_once(void **state)
{
    static const wad_handler handlers[] = {NULL, NULL, NULL, handle_sent};
    (void)state;
    small_run_handlers(HEAD "block A at 0x4000_0000 like l { irq 3 }\n}\nlayout l {\n" SERIAL_REGS
                            "acts as uart { divider always 8\n" SERIAL_ROLES " }\n}\n",
                       by_interrupts, handlers, G_N_ELEMENTS(handlers), ANY_FINDINGS);
}

/* A converter's flag that is taken away is ready all the same. */
static int ready_once(void)
{
    out(BASE, 1);
    wait_a_while();
    CHECK_READ(BASE, 1 | 2);
    out(BASE, 1 | 2);
    CHECK_READ(BASE, 1);
    out(BASE, 1 | 4);
    wait_a_while();
    CHECK((in(BASE)&8) != 0);
    return 0;
}

static void a_converter_is_ready_whatever_became_of_its_flag(void **state)
{
    (void)state;
    small_run(ONE_BLOCK("reg CTL at 0 rw { 0 ON rw\n 1 READY w1c\n 2 GO rw\n 3 DONE w1c\n"
                        " 7:4 CH rw }\n reg D at 4 ro volatile { 11:0 V ro }\n"
                        "acts as adc { enable CTL.ON, ready CTL.READY as event, start CTL.GO\n"
                        "done CTL.DONE, channel[n] { CTL.CH }, data[n] { D.V }, power_up 10 us\n"
                        "resolution always 12 }"),
              ready_once, ANY_FINDINGS);
}

/* ---- baud from another timer's overflow ---- */

#define TIMER 0x40010000u
static double bit_edges;

static int by_another(void)
{
    static const uint32_t reloads[] = {0xFD, 0xFA, 0xFF};
    for (unsigned twice = 0; twice < 2; twice++)
        for (unsigned i = 0; i < G_N_ELEMENTS(reloads); i++) {
            out(TIMER, reloads[i]);
            out(BASE, ON | twice << 5);
            double edges = (double)send(0x5A) / CORE_EDGE_PS / 10;
            bit_edges = 4.0 * (256 - reloads[i]) * 16 * (twice ? 1 : 2);
            CHECK(fabs(edges / bit_edges - 1) < 0.03);
            out(BASE, 0);
        }
    return 0;
}

static void a_baud_may_come_from_another_timer(void **state)
{
    (void)state;
    small_run(HEAD "block T at 0x4001_0000 like t\n"
                   "block A at 0x4000_0000 like l { clock law core / 4 / (256 - T.TH.V) }\n}\n"
                   "layout t { reg TH at 0 rw { 7:0 V rw } }\nlayout l {\n" SERIAL_REGS
                   "acts as uart { divider law 2 - CTL.TWICE\n" SERIAL_ROLES " }\n}\n",
              by_another, ANY_FINDINGS);
}

/* `max(1, V)`: a divider of 0 counts as 1. */
static int with_a_floor(void)
{
    double edges[3];
    for (uint32_t v = 0; v < 3; v++) {
        out(BASE + 8, v);
        out(BASE, ON);
        edges[v] = (double)send(0x5A) / CORE_EDGE_PS;
        out(BASE, 0);
    }
    CHECK(fabs(edges[0] - 160) < 20 && fabs(edges[1] - 160) < 20 && fabs(edges[2] - 320) < 20);
    return 0;
}

static void a_divider_may_have_a_floor(void **state)
{
    (void)state;
    small_run(ONE_BLOCK(SERIAL_REGS "reg DIV at 8 rw { 7:0 V rw }\n"
                                    "acts as uart { divider law max(1, DIV.V)\n" SERIAL_ROLES " }"),
              with_a_floor, ANY_FINDINGS);
}

/* ---- counts whose width is a mode; a third timer that borrows ---- */

#define TIMERS                                                                                     \
    "reg CTL at 0 rw { 0 RUN0 rw\n 1 OVF0 rw\n 2 RUN1 rw\n 3 OVF1 rw\n 5:4 M0 rw }\n"              \
    "reg TL0 at 4 rw { 7:0 V rw\n }\n reg TH0 at 8 rw { 7:0 V rw }\n"                              \
    "reg TL1 at 0xC rw { 7:0 V rw }\n reg TH1 at 0x10 rw { 7:0 V rw }\n"                           \
    "reg TOP at 0x14 rw { 7:0 V rw }\n reg LOW at 0x18 rw { 4:0 V rw is TL0.V }\n"                 \
    "acts as counter T0 { enable CTL.RUN0, wrap CTL.OVF0, wrap_irq always 0\n"                     \
    "count TH0.V : LOW.V when CTL.M0 = 0\n count TH0.V : TL0.V when CTL.M0 = 1\n count TL0.V\n"    \
    "start TH0.V when CTL.M0 = 2, autoload always 1 when CTL.M0 = 2 }\n"                           \
    "acts as counter T1 { wrap CTL.OVF1, wrap_irq always 0\n"                                      \
    "enable CTL.RUN1 when CTL.M0 != 3\n enable always 1\n count TH1.V : TL1.V }\n"                 \
    "acts as counter T2 { wrap CTL.OVF1, wrap_irq always 0\n"                                      \
    "enable CTL.RUN1 when CTL.M0 = 3\n count TH0.V when CTL.M0 = 3 }"

/* Edges of the clock until the flag is set, the count from `from`. */
static double until(uint32_t control, uint32_t flag)
{
    out(BASE, control);
    uint64_t begin = wad_sim_now(small_sim);
    while (!(in(BASE)&flag))
        continue;
    double edges = (double)(wad_sim_now(small_sim) - begin) / CORE_EDGE_PS;
    out(BASE, control & ~5u & ~flag);
    return edges;
}

static int by_mode(void)
{
    out(BASE + 8, 0xF0); /* 13 bits: 0x1E00 to 0x2000 */
    CHECK(fabs(until(1, 2) - 512) < 8);
    out(BASE + 8, 0xFC); /* 16 bits: 0xFC00 to 0x10000 */
    out(BASE + 4, 0);
    CHECK(fabs(until(1 | 1 << 4, 2) - 1024) < 8);
    out(BASE, 2 << 4); /* 8 bits from 0xFC's complement on: 4 counts and again */
    out(BASE + 8, 0x38);
    out(BASE + 4, 0x80);
    CHECK(fabs(until(1 | 2 << 4, 2) - 128) < 8);
    until(1 | 2 << 4, 2);
    return 0;
}

static int split(void)
{
    out(BASE, 3 << 4);
    out(BASE + 4, 0x40);
    out(BASE + 8, 0x80);
    CHECK(fabs(until(4 | 3 << 4, 8) - 128) < 8); /* TH0, by the other timer's bit and flag */
    CHECK_READ(BASE + 4, 0x40);
    CHECK(fabs(until(1 | 3 << 4, 2) - 192) < 8); /* TL0 alone */
    return 0;
}

static void a_mode_may_choose_the_width_of_a_count(void **state)
{
    (void)state;
    small_run(ONE_BLOCK(TIMERS), by_mode, ANY_FINDINGS);
}

static void a_third_timer_may_borrow_run_bit_and_flag(void **state)
{
    (void)state;
    small_run(ONE_BLOCK(TIMERS), split, ANY_FINDINGS);
}

/* ---- clocks ---- */

/* Each wait state lets the core run 24 MHz faster; the divider of the PLL has 13 bits of fraction.
 */
#define CLOCKS                                                                                     \
    "chip T {\n bus little 32\n memory ram at 0x2000_0000 size 4 KiB\n clock xtal 12 MHz on "      \
    "K.XT.KEY = 0xC36 ready K.XT.UP after 50 us\n clock boot 8 MHz\n"                              \
    "clock pll law xtal * (K.PLL.N + K.PLL.F / 2 ** 13) on K.PLL.ON ready K.PLL.LOCK after 20 "    \
    "us\n"                                                                                         \
    "clock core law pick K.SEL.SRC { 0 boot, 1 xtal, 2 pll } within 1 MHz .. 24 MHz * "            \
    "(F.WAIT.N + 1)\n clock common law core / (K.SEL.DIV + 1)\n"                                   \
    "block K at 0x4000_0000 like k\n block F at 0x4001_0000 like f\n"                              \
    "block C[2] step 0x100 at 0x4002_0000 like c { clock common }\n}\n"                            \
    "layout k { reg XT at 0 rw { 11:0 KEY rw\n 12 UP ro\n }\n reg PLL at 4 rw { 12:0 F rw\n"       \
    " 18:16 N rw\n 24 ON rw\n 25 LOCK ro\n }\n reg SEL at 8 rw { 1:0 SRC rw\n 11:4 DIV rw\n } }\n" \
    "layout f { reg WAIT at 0 rw { 1:0 N rw\n } }\nlayout c { reg CTL at 0 rw { 0 ON rw\n }\n"     \
    "reg N at 4 ro volatile { 15:0 V ro\n }\n reg TOP at 8 rw reset 0xFFFF { 15:0 V rw\n }\n"      \
    "reg ST at 12 rw { 0 F w1c\n 1 IE rw\n }\n"                                                    \
    "acts as counter { enable CTL.ON, count N.V, reload TOP.V, wrap ST.F, wrap_irq ST.IE } }\n"

static uint32_t waits;

/* 12 MHz times 5 and 1/4 are 63 MHz: two wait states, before. */
static int fast(void)
{
    out(BASE, 0x123); /* another value is none */
    for (unsigned i = 0; i < 500; i++)
        in(BASE);
    CHECK((in(BASE)&1u << 12) == 0);
    out(BASE, 0xC36);
    while (!(in(BASE)&1u << 12))
        continue;
    out(BASE + 4, 1u << 24 | 5u << 16 | 1u << 11);
    while (!(in(BASE + 4) & 1u << 25))
        continue;
    out(0x40010000, waits);
    out(BASE + 8, 2 | 6u << 4); /* common is a seventh of it: 9 MHz */
    uint64_t from = wad_sim_now(small_sim);
    for (unsigned i = 0; i < 63; i++)
        in(BASE);
    double us = (double)(wad_sim_now(small_sim) - from) / 1e6;
    CHECK(fabs(us - 126 / 63.0) < 1e-3);
    out(0x40020000, 1);
    out(0x40020100, 1);
    uint32_t a = in(0x40020004), b = in(0x40020104);
    for (unsigned i = 0; i < 62; i++)
        in(BASE);
    CHECK(in(0x40020004) - a == 128 / 7 || in(0x40020004) - a == 128 / 7 + 1);
    CHECK(in(0x40020104) - b == 128 / 7 || in(0x40020104) - b == 128 / 7 + 1);
    return 0;
}

static int lowered_too_early(void)
{
    fast();
    out(0x40010000, 0);
    return 0;
}

static void the_limits_of_a_clock_may_be_fields(void **state)
{
    (void)state;
    waits = 2;
    small_run(CLOCKS, fast, 0);
    small_finds(CLOCKS, lowered_too_early, "clock 'core' runs at 63 MHz, limits 1 MHz to 24 MHz");
    waits = 1;
    small_finds(CLOCKS, fast, "clock 'core' runs at 63 MHz, limits 1 MHz to 48 MHz");
    small_refused(HEAD "clock b law core within 1 MHz .. b\n}\n", "depends on itself");
    small_refused(HEAD "clock b law core within 1 .. 2 MHz\n}\n", "frequency");
    small_refused(HEAD "block A at 0x4000_0002 like l\n}\nlayout l { reg R at 0 rw\n }\n",
                  "block 'A' begins at 0x40000002, which is no multiple of the bus' 4 bytes");
}

/* Wait states go up with what the solver wants, and stand before the switch. */
static void a_plan_sets_what_allows_a_rate_before_it(void **state)
{
    (void)state;
    wad_sheet *s = small_parse(CLOCKS);
    wad_clock_wish wish = {wad_sheet_clock(s, "core"), {60000000, 1}};
    wad_clock_plan plan;
    char *why;
    wad_fieldref held_ref;
    assert_true(wad_sheet_resolve(s, "K.PLL.F", &held_ref, &why));
    wad_clock_setting held = {held_ref, 0};
    assert_true(wad_clock_solve(s, &wish, 1, &held, 1, &plan, &why));
    int wait = -1, source = -1;
    for (unsigned i = 0; i < plan.n_settings; i++) {
        char *name = wad_fieldref_name(&plan.settings[i].field);
        if (!strcmp(name, "F.WAIT.N")) {
            wait = (int)i;
            assert_int_equal(plan.settings[i].value, 2);
        }
        source = !strcmp(name, "K.SEL.SRC") ? (int)i : source;
        g_free(name);
    }
    assert_true(plan.worst_ppm < 1e-9);
    assert_true(wait >= 0 && source > wait);
    wad_clock_plan_clear(&plan);
    wad_sheet_free(s);
}

/* ---- registers ---- */

static int by_two_bits(void)
{
    CHECK_READ(BASE, 0x100); /* it reads as it must be written */
    out(BASE, 0x101);
    CHECK_READ(BASE, 0x101);
    out(BASE, 0x100);
    CHECK_READ(BASE, 0x101); /* only the other bit takes it away */
    out(BASE, 0x102);
    CHECK_READ(BASE, 0x100);
    return 0;
}

static int without_the_bit(void)
{
    out(BASE, 1);
    return 0;
}

static void two_bits_switch_on_and_off(void **state)
{
    static const char text[] =
        ONE_BLOCK("reg CTL at 0 rw { 0 ON w1s\n 1 OFF wo clears CTL.ON\n 8 _ must 1 }\n"
                  "reg N at 4 ro volatile { 15:0 V ro }\n reg TOP at 8 rw { 15:0 V rw }\n"
                  "acts as counter { enable CTL.ON, count N.V, reload TOP.V, wrap always 0 }");
    (void)state;
    small_run(text, by_two_bits, ANY_FINDINGS);
    small_finds(text, without_the_bit, "must");
}

/* A view four bits to the left, and one register for two: the same bits. */
static int views(void)
{
    out(BASE + 8, 0xABC0);
    CHECK_READ(BASE, 0xABC);
    out(BASE, 0x123);
    CHECK_READ(BASE + 8, 0x1230);
    out(BASE + 12, 0x0456u | 0x0789u << 16);
    CHECK_READ(BASE, 0x456);
    CHECK_READ(BASE + 4, 0x789);
    return 0;
}

static void one_value_has_several_views(void **state)
{
    (void)state;
    small_run(ONE_BLOCK("reg A at 0 rw { 11:0 V rw }\n reg B at 4 rw { 11:0 V rw }\n"
                        "reg LEFT at 8 rw { 15:4 V rw is A.V }\n"
                        "reg DUAL at 12 wo { 11:0 A wo is A.V\n 27:16 B wo is B.V }"),
              views, 0);
}

/* The sum of a channel's flags; taking the sum away takes all. */
static int summary(void)
{
    out(BASE + 4, 6);
    CHECK_READ(BASE, 7);
    out(BASE + 8, 2);
    CHECK_READ(BASE, 5);
    out(BASE + 8, 1);
    CHECK_READ(BASE, 0);
    /* the masked ones, written back, take themselves away */
    out(BASE + 4, 6);
    out(BASE + 12, 4);
    CHECK_READ(BASE + 16, 4);
    out(BASE + 16, in(BASE + 16));
    CHECK_READ(BASE, 3);
    return 0;
}

static void a_summary_takes_all_flags_away(void **state)
{
    (void)state;
    small_run(
        ONE_BLOCK("reg ST at 0 rw { 0 ANY ro reads ST.HALF | ST.END\n 1 HALF w1c\n 2 END w1c }\n"
                  "reg SET at 4 wo { 1 HALF wo sets ST.HALF\n 2 END wo sets ST.END }\n"
                  "reg CLR at 8 wo { 0 ANY wo\n 1 HALF wo clears ST.HALF\n 2 END wo clears "
                  "ST.END }\n reg EN at 12 rw { 1 HALF rw\n 2 END rw }\n"
                  "reg MASKED at 16 rw { 1 HALF rw clears ST.HALF reads ST.HALF & EN.HALF\n"
                  " 2 END rw clears ST.END reads ST.END & EN.END }\n"
                  "on write CLR.ANY = 1 { ST.HALF = 0, ST.END = 0 }"),
        summary, ANY_FINDINGS);
}

/* ---- numbers ---- */

static int conversions(void)
{
    /* sampling, and 12 bits and a half: in clocks of 8 MHz */
    static const double samples[] = {1.5, 7.5, 13.5, 28.5};
    out(BASE, 1);
    for (uint32_t code = 0; code < 4; code++) {
        out(BASE + 8, code);
        uint64_t from = wad_sim_now(small_sim);
        out(BASE, 1 | 4);
        while (!(in(BASE)&8))
            continue;
        double edges = (double)(wad_sim_now(small_sim) - from) / CORE_EDGE_PS;
        out(BASE, 1 | 8);
        CHECK(fabs(edges - (samples[code] + 12.5)) < 8);
    }
    return 0;
}

static void sampling_times_are_codes_with_halves(void **state)
{
    (void)state;
    small_run(
        ONE_BLOCK("reg CTL at 0 rw { 0 ON rw\n 2 GO rw\n 3 DONE w1c\n 7:4 CH rw }\n"
                  "reg D at 4 ro volatile { 11:0 V ro }\n reg S at 8 rw { 1:0 V rw }\n"
                  "acts as adc { enable CTL.ON, start CTL.GO, done CTL.DONE, resolution always "
                  "12\n channel[n] { CTL.CH }, data[n] { D.V }\n"
                  "sample[n] { S.V } { 0 is 1.5, 1 is 7.5, 2 is 13.5, 3 is 28.5 } }"),
        conversions, ANY_FINDINGS);
}

static int by_a_half(void)
{
    out(BASE, 1);
    for (unsigned i = 0; i < 100; i++)
        in(BASE);
    return 0;
}

/* A model that divides by whole numbers says so. */
static void a_fraction_that_is_not_served_is_told(void **state)
{
    (void)state;
    small_finds(ONE_BLOCK("reg CTL at 0 rw { 0 ON rw\n 5:4 P rw }\n"
                          "reg N at 4 ro volatile { 15:0 V ro }\n reg TOP at 8 rw reset 9 { 15:0 V "
                          "rw }\n acts as counter { enable CTL.ON, count N.V, reload TOP.V\n"
                          "wrap always 0, prescale CTL.P { 0 is 5 / 2, 1 is 1 } }"),
                by_a_half,
                "typed, but not simulated: prescale of A says 2.5, and the model takes 2");
}

/* Functions by two registers: a number, and where the port begins. */
static int mapped(void)
{
    out(0x40010008, 3);
    out(BASE + 8, 9);
    out(BASE + 12, 5);
    out(BASE, 1);
    out(0x4001000C, 1u); /* pin 0 belongs to something, by MAP: the timer */
    out(0x40010010, 2);
    unsigned high = 0, port = 0;
    for (unsigned i = 0; i < 400; i++)
        high += in(0x40010000) & 1;
    CHECK(high > 150 && high < 250);
    out(0x40010010, 0); /* another number: nobody drives it */
    out(0x4001000C, 0); /* the port's again */
    out(0x40010004, 1);
    for (unsigned i = 0; i < 10; i++)
        port += in(0x40010000) & 1;
    CHECK(port == 10);
    return 0;
}

static void a_map_and_a_select_choose_together(void **state)
{
    (void)state;
    small_run(HEAD
              "block P at 0x4001_0000 like p {\n carries G[2]\n }\n"
              "block A at 0x4000_0000 like l {\n pins CH0 out { G0 fn 14 }\n }\n}\n"
              "layout p { reg I at 0 ro { 0 P[2] ro }\n reg O at 4 rw { 0 P[2] rw }\n"
              "reg D at 8 rw { 0 P[2] rw }\n reg SEL at 0xC rw { 0 PIN[2] rw }\n"
              "reg MAP[2] at 0x10 rw { 3:0 V rw }\n"
              "acts as gpio { in[n] I.P[n], out[n] O.P[n], dir[n] D.P[n]\n"
              "function[n] MAP[n].V plus 12 when SEL.PIN[n] = 1 } }\n"
              "layout l { reg CTL at 0 rw { 0 EN rw }\n reg N at 4 ro volatile { 15:0 V ro }\n"
              "reg TOP at 8 rw { 15:0 V rw }\n reg CC[1] at 0xC rw { 15:0 V rw }\n"
              "acts as counter { enable CTL.EN, count N.V, reload TOP.V plus 1, wrap always 0\n"
              "compare[n] CC[n].V, drive[n] always 1 { 1 pwm }, output_on[n] always 1\n"
              "output[n] pins CH } }",
              mapped, ANY_FINDINGS);
}

/* What a code does at the output depends on the waveform. */
static int two_shapes(void)
{
    unsigned high[2] = {0, 0};
    out(0x40010008, 1);
    out(0x4001000C, 1);
    out(BASE + 8, 99);
    out(BASE + 12, 25);
    for (unsigned wave = 0; wave < 2; wave++) {
        out(BASE, 2u << 4 | wave << 1);
        out(BASE, 2u << 4 | wave << 1 | 1);
        for (unsigned i = 0; i < 1000; i++)
            high[wave] += in(0x40010000) & 1;
        out(BASE, 0);
    }
    CHECK(high[0] > 450 && high[0] < 550); /* it changes at each match */
    CHECK(high[1] > 230 && high[1] < 270); /* a quarter of each period */
    return 0;
}

static void what_a_code_drives_depends_on_the_waveform(void **state)
{
    (void)state;
    small_run(HEAD
              "block P at 0x4001_0000 like p {\n carries G[2]\n }\n"
              "block A at 0x4000_0000 like l {\n pins CH0 out { G0 fn 1 }\n }\n}\n"
              "layout p { reg I at 0 ro { 0 P[2] ro }\n reg O at 4 rw { 0 P[2] rw }\n"
              "reg D at 8 rw { 0 P[2] rw }\n reg F at 0xC rw { 0 P[2] rw }\n"
              "acts as gpio { in[n] I.P[n], out[n] O.P[n], dir[n] D.P[n], function[n] F.P[n] } }\n"
              "layout l { reg CTL at 0 rw { 0 EN rw\n 1 FAST rw\n 5:4 OUT rw }\n"
              "reg N at 4 ro volatile { 15:0 V ro }\n"
              "reg TOP at 8 rw { 15:0 V rw }\n reg CC[1] at 0xC rw { 15:0 V rw }\n"
              "acts as counter { enable CTL.EN, count N.V, reload TOP.V plus 1, wrap always 0\n"
              "compare[n] CC[n].V, output_on[n] always 1, output[n] pins CH\n"
              "drive[n] { CTL.OUT } { 0 off, 1 clear, 2 toggle, 3 set } when CTL.FAST = 0\n"
              "drive[n] { CTL.OUT } { 0 off, 1 pwm_low, 2 pwm, 3 off } } }",
              two_shapes, ANY_FINDINGS);
}

/* ---- movers with fixed requests ---- */

#define MOVER(request)                                                                             \
    "reg CH[2] step 0x10 at 0 rw { 0 EN rw }\n reg SRC[2] step 0x10 at 4 rw\n"                     \
    "reg DST[2] step 0x10 at 8 rw\n reg CNT[2] step 0x10 at 12 rw { 15:0 V rw }\n"                 \
    "reg ST at 0x40 w1c { 0 END[2] w1c }\n"                                                        \
    "acts as dma { enable[n] CH[n].EN, source[n] SRC[n].VALUE, destination[n] DST[n].VALUE\n"      \
    "count[n] CNT[n].V, end[n] ST.END[n], request[n] " request "\n channels 2 }"
#define MOVED(request, also)                                                                       \
    HEAD "block A at 0x4000_0000 like l { clock core }\n"                                          \
         "block M at 0x4001_0000 like m {\n requests {\n 1 A.rx_ready\n 2 T0.wrap T1.wrap\n }\n "  \
         "}\n"                                                                                     \
         "block T0 at 0x4002_0000 like t\n block T1 at 0x4003_0000 like t\n" also "}\n"            \
         "layout l {\n" SERIAL_REGS                                                                \
         "acts as uart { divider always 1\nenable CTL.ON, loop CTL.LOOP\n"                         \
         "tx_data GIVE.V, rx_data TAKE.V, tx_ready CTL.SENT, rx_ready CTL.CAME, rx_dma CTL.TWICE " \
         "}\n"                                                                                     \
         "}\nlayout m {\n" MOVER(                                                                  \
             request) "\n}\nlayout t { reg CTL at 0 rw { 0 ON rw\n }\n"                            \
                      "reg TOP at 4 rw { 15:0 V rw\n }\n reg N at 8 ro volatile { 15:0 V ro\n }\n" \
                      "reg ST at 12 w1c { 0 F w1c }\n reg X at 16 rw\n"                            \
                      "acts as counter { enable CTL.ON, reload TOP.V plus 1, count N.V, wrap "     \
                      "ST.F } }\n"
#define FIXED MOVED("always n + 1", "")
#define CHOSEN                                                                                     \
    MOVED("MUX.CH[n].REQ", "block MUX at 0x4004_0000 like x\n")                                    \
    "layout x { reg CH[2] at 0 rw { 3:0 REQ rw } }\n"
#define MOVES   0x40010000u
#define TIMER_0 0x40020000u
#define TIMER_1 0x40030000u

static void arm_channel(unsigned ch, uint32_t from, unsigned n)
{
    out(MOVES + ch * 16 + 4, from);
    out(MOVES + ch * 16 + 8, TIMER_0 + 16);
    out(MOVES + ch * 16 + 12, n);
    out(MOVES + ch * 16, 1);
}

/* Channel 1 moves with each overflow of either timer: 20 and 30 us, 5 in 60 us. */
static int by_either(void)
{
    out(TIMER_0 + 4, 159);
    out(TIMER_1 + 4, 239);
    arm_channel(1, TIMER_0 + 8, 1000);
    out(TIMER_0, 1);
    out(TIMER_1, 1);
    for (unsigned i = 0; i < 240 * 10; i++)
        in(BASE);
    uint32_t moved = 1000 - in(MOVES + 16 + 12);
    CHECK(moved >= 4800 / 160 + 4800 / 240 - 2 && moved <= 4800 / 160 + 4800 / 240 + 1);
    return 0;
}

/* Channel 0 is the serial port's, which the sheet says, and no bit. */
static int by_its_own(void)
{
    arm_channel(0, BASE + 4, 3);
    out(BASE, ON | 1u << 5);
    for (uint32_t i = 0; i < 3; i++) {
        while (!(in(BASE)&SENT))
            continue;
        out(BASE + 4, 0x30 + i);
    }
    while (!(in(MOVES + 0x40) & 1))
        continue;
    CHECK_READ(TIMER_0 + 16, 0x32);
    return 0;
}

/* The same, where another block says whose each is. */
static int by_a_choice(void)
{
    out(0x40040000, 1);
    out(0x40040004, 2);
    by_its_own();
    return by_either();
}

static void requests_may_be_fixed_and_several_on_one(void **state)
{
    (void)state;
    small_run(FIXED, by_either, ANY_FINDINGS);
    small_run(FIXED, by_its_own, ANY_FINDINGS);
    small_run(CHOSEN, by_a_choice, ANY_FINDINGS);
    small_refused(HEAD "block M at 0x4001_0000 like m { requests {\n 2 T0.wrap\n 2 T0.wrap\n } }\n"
                       "block T0 at 0x4002_0000 like t\n}\nlayout m {\n" MOVER(
                           "always n + 1") "\n}\n"
                                           "layout t { reg ST at 12 w1c { 0 F w1c }\n reg TOP at 4 "
                                           "rw { 15:0 V rw }\n"
                                           "acts as counter { reload TOP.V, wrap ST.F } }\n",
                  "several sources of one stand behind it");
    small_refused(HEAD "block M at 0x4001_0000 like m { requests { 3 T0.wrap } }\n"
                       "block T0 at 0x4002_0000 like t\n}\nlayout m {\n" MOVER(
                           "always n + 1") "\n}\n"
                                           "layout t { reg ST at 12 w1c { 0 F w1c }\n reg TOP at 4 "
                                           "rw { 15:0 V rw }\n"
                                           "acts as counter { reload TOP.V, wrap ST.F } }\n",
                  "2");
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(a_transmitter_may_have_to_be_primed),
        cmocka_unit_test(a_level_follows_what_it_tells),
        cmocka_unit_test(what_is_wrong_in_events_and_levels_is_said),
        cmocka_unit_test(an_event_asks_once),
        cmocka_unit_test(a_converter_is_ready_whatever_became_of_its_flag),
        cmocka_unit_test(a_baud_may_come_from_another_timer),
        cmocka_unit_test(a_divider_may_have_a_floor),
        cmocka_unit_test(a_mode_may_choose_the_width_of_a_count),
        cmocka_unit_test(a_third_timer_may_borrow_run_bit_and_flag),
        cmocka_unit_test(the_limits_of_a_clock_may_be_fields),
        cmocka_unit_test(a_plan_sets_what_allows_a_rate_before_it),
        cmocka_unit_test(two_bits_switch_on_and_off),
        cmocka_unit_test(one_value_has_several_views),
        cmocka_unit_test(a_summary_takes_all_flags_away),
        cmocka_unit_test(sampling_times_are_codes_with_halves),
        cmocka_unit_test(a_fraction_that_is_not_served_is_told),
        cmocka_unit_test(a_map_and_a_select_choose_together),
        cmocka_unit_test(what_a_code_drives_depends_on_the_waveform),
        cmocka_unit_test(requests_may_be_fixed_and_several_on_one),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
