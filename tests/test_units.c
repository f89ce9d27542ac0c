/* SPDX-License-Identifier: MIT */
/*
 * Where the bits of a role may lie, and several units in one block: each chip here is a few lines,
 * its firmware plain reads and writes, and what must come of them follows from cycles of its clock.
 */
#include <glib/gstdio.h>
#include <string.h>

#include "small_chip.h"

#define SYS 0x40001000u
#define INT 0x40002000u

static void run_with(const char *text, int (*body)(void), const wad_handler *handlers, unsigned n,
                     bool findings)
{
    small_run_handlers(text, body, handlers, n, findings ? ANY_FINDINGS : 0);
}

static void run(const char *text, int (*body)(void))
{
    small_run(text, body, 0);
}

#define COUNTER "reg RELOAD at 0x10 rw reset 0xFFFF\n reg COUNT at 0x14 ro volatile { 15:0 V ro }\n"

/* ---- places ---- */

/* A bit that holds the counter, at 1 after reset: it runs when it is cleared. */
static int held(void)
{
    CHECK(in(BASE + 0x14) == in(BASE + 0x14));
    out(BASE, 0);
    uint32_t first = in(BASE + 0x14), second = in(BASE + 0x14);
    CHECK(second - first == 2); /* an access takes two cycles */
    out(BASE, 1);
    CHECK(in(BASE + 0x14) == in(BASE + 0x14));
    return 0;
}

static void a_hold_bit_is_an_inverted_enable(void **state)
{
    (void)state;
    run(HEAD "block A at 0x4000_0000 like l\n}\nlayout l {\n"
             "reg CTRL at 0 rw reset 1 { 0 HOLD rw\n 1 IE rw\n 2 F w1c\n }\n" COUNTER
             "acts as counter { enable not CTRL.HOLD, reload RELOAD.VALUE, count COUNT.V, wrap "
             "CTRL.F, wrap_irq CTRL.IE }\n}\n",
        held);
}

/* Its enable lies in another block, its flag in a register that all timers share. */
static int far(void)
{
    out(BASE + 0x10, 99);
    out(BASE + 0x110, 199);
    out(SYS, 3);
    CHECK(in(BASE + 0x14) != in(BASE + 0x14));
    CHECK(in(BASE + 0x114) != in(BASE + 0x114));
    while (!in(SYS + 4))
        ;
    CHECK(in(SYS + 4) == 1); /* the shorter one, alone */
    out(SYS + 4, 1);
    CHECK(in(SYS + 4) == 0);
    while (in(SYS + 4) < 2)
        ;
    out(SYS, 0);
    CHECK(in(BASE + 0x14) == in(BASE + 0x14));
    return 0;
}

static void roles_may_lie_in_other_blocks_by_row(void **state)
{
    (void)state;
    run(HEAD "block A[2] step 0x100 at 0x4000_0000 like l\n block SYS at 0x4000_1000 like s\n}\n"
             "layout l {\n" COUNTER
             "acts as counter { enable SYS.RUN.T[i], reload RELOAD.VALUE, count COUNT.V, wrap "
             "SYS.FLAGS.T[i], wrap_irq always 0 }\n}\n"
             "layout s {\n reg RUN at 0 rw { 0 T[2] rw }\n reg FLAGS at 4 w1c { 0 T[2] w1c }\n }\n",
        far);
}

/* Runs while both are 1. */
static int both(void)
{
    out(BASE, 1);
    CHECK(in(BASE + 0x14) == in(BASE + 0x14));
    out(BASE, 2);
    CHECK(in(BASE + 0x14) == in(BASE + 0x14));
    out(BASE, 3);
    CHECK(in(BASE + 0x14) != in(BASE + 0x14));
    return 0;
}

static void two_bits_may_have_to_be_set(void **state)
{
    (void)state;
    run(HEAD "block A at 0x4000_0000 like l\n}\nlayout l {\n"
             "reg CTRL at 0 rw { 0 ARM rw\n 1 GO rw\n 2 F w1c\n }\n" COUNTER
             "acts as counter { enable CTRL.ARM and CTRL.GO, reload RELOAD.VALUE, count COUNT.V, "
             "wrap CTRL.F, wrap_irq always 0 }\n}\n",
        both);
}

/* The reload is joined from two registers, its high part first; the count runs to 0x1FF. */
static int joined(void)
{
    out(BASE + 4, 0xFF);
    out(BASE + 8, 1);
    out(BASE, 1);
    uint32_t most = 0, n;
    while (!(in(BASE)&4))
        if ((n = in(BASE + 0x14)) > most)
            most = n;
    CHECK(most > 0x1F0 && most <= 0x1FF);
    return 0;
}

static void a_number_may_be_joined_from_registers(void **state)
{
    (void)state;
    run(HEAD "block A at 0x4000_0000 like l\n}\nlayout l {\n"
             "reg CTRL at 0 rw { 0 EN rw\n 2 F w1c\n }\n reg LOW at 4 rw { 7:0 V rw }\n"
             "reg HIGH at 8 rw { 7:0 V rw }\n reg COUNT at 0x14 ro volatile { 15:0 V ro }\n"
             "acts as counter { enable CTRL.EN, reload HIGH.V : LOW.V, count COUNT.V, wrap CTRL.F, "
             "wrap_irq always 0 }\n}\n",
        joined);
}

/* Channel 0 of the array is the period, the channels begin with the next one; listed outputs. */
static int shifted(void)
{
    out(BASE + 0x20, 99); /* CC[0], the period */
    out(BASE + 0x24, 10);
    out(BASE + 0x28, 60);
    out(BASE, 1);
    while (!in(BASE + 0x30))
        ;
    CHECK(in(BASE + 0x30) == 2); /* channel 0 is CC[1], its flag bit 1 */
    while (!(in(BASE + 0x30) & 4))
        ;
    CHECK(in(BASE + 0x30) == 6);
    return 0;
}

static void elements_may_begin_further_on(void **state)
{
    (void)state;
    run(HEAD "block A at 0x4000_0000 like l\n}\nlayout l {\n"
             "reg CTRL at 0 rw { 0 EN rw\n 2 F w1c\n }\n reg CC[3] at 0x20 rw { 15:0 V rw }\n"
             "reg FLAGS at 0x30 w1c { 0 CC[3] w1c }\n"
             "acts as counter { enable CTRL.EN, reload CC[0].V, wrap CTRL.F, wrap_irq always 0, "
             "compare[n] CC[n + 1].V, match[n] FLAGS.CC[n + 1], match_irq[n] always 0 }\n}\n",
        shifted);
}

static void how_many_elements_a_role_has(void **state)
{
    (void)state;
    wad_sheet *s = small_parse(
        HEAD "block A at 0x4000_0000 like l\n}\nlayout l {\n"
             "reg CTRL at 0 rw { 0 EN rw\n 1 F w1c\n 2 IE rw }\n reg CC[5] at 0x20 rw { 15:0 V "
             "rw\n 16 ON rw }\n reg TOP at 0x40 rw\n"
             "acts as counter { enable CTRL.EN, reload TOP.VALUE, wrap CTRL.F, wrap_irq CTRL.IE, "
             "compare[n] CC[2 * n].V, match[n] always 0, match_irq[n] always (n - n), "
             "output_on[n] { CC[1 .. 3].ON, not CC[4].ON } }\n}\n");
    const wad_layout *l = wad_sheet_block(s, "A")->layout;
    assert_int_equal(wad_role_count(wad_layout_role(l, "compare")), 3); /* 0, 2, 4 */
    assert_int_equal(wad_role_count(wad_layout_role(l, "match")), 4);   /* as the longest other */
    const wad_role *on = wad_layout_role(l, "output_on");
    assert_int_equal(wad_role_count(on), 4);
    for (unsigned i = 0; i < 4; i++) {
        wad_fieldref ref = wad_role_ref(wad_sheet_block(s, "A"), on, i);
        assert_int_equal(ref.reg_index, i + 1);
        assert_int_equal(on->places[i].parts[0].low, i == 3);
    }
    wad_sheet_free(s);
}

/* ---- units ---- */

#define TIMERS                                                                                     \
    HEAD "block TIM at 0x4000_0000 like timers {\n unit T0 { irq 1 }\n unit T1 { irq 2 }\n unit "  \
         "S[1 .. 2] { irq 8 + i }\n }\n block INT at 0x4000_2000 like ints\n}\n"                   \
         "layout timers {\n reg CTRL at 0 rw { 0 RUN0 rw\n 1 RUN1 rw\n 2 IE0 rw\n 3 IE1 rw\n }\n"  \
         "reg FLAGS at 4 w1c { 0 OVF[2] w1c\n 4 S[3] w1c }\n"                                      \
         "reg TOP[2] at 0x10 rw { 15:0 V rw }\n reg COUNT[2] at 0x18 ro { 15:0 V ro }\n"           \
         "reg CH[3] step 16 at 0x40 rw { 0 EN rw\n 1 IE rw\n 31:16 TOP rw }\n"                     \
         "acts as counter T0 { enable CTRL.RUN0, reload TOP[0].V, count COUNT[0].V, wrap "         \
         "FLAGS.OVF[0], wrap_irq CTRL.IE0 }\n"                                                     \
         "acts as counter T1 { enable CTRL.RUN1, reload TOP[1].V, count COUNT[1].V, wrap "         \
         "FLAGS.OVF[1], wrap_irq CTRL.IE1 }\n"                                                     \
         "acts as counter S[3] { enable CH[i].EN, reload CH[i].TOP, wrap FLAGS.S[i], wrap_irq "    \
         "CH[i].IE }\n }\n"                                                                        \
         "layout ints {\n reg EN at 0 rw { 0 L[16] rw }\n acts as interrupts { enable[n] EN.L[n] " \
         "}\n }\n"

/* Each of them alone moves its own count and sets its own flag. */
static int two_timers(void)
{
    out(BASE + 0x10, 49);
    out(BASE + 0x14, 299);
    out(BASE, 1);
    CHECK(in(BASE + 0x18) != in(BASE + 0x18));
    CHECK(in(BASE + 0x1C) == in(BASE + 0x1C));
    while (!in(BASE + 4))
        ;
    CHECK(in(BASE + 4) == 1);
    out(BASE, 2); /* one stops and the other begins by one write */
    out(BASE + 4, 1);
    CHECK(in(BASE + 0x18) == in(BASE + 0x18));
    CHECK(in(BASE + 0x1C) != in(BASE + 0x1C));
    while (!in(BASE + 4))
        ;
    CHECK(in(BASE + 4) == 2);
    out(BASE + 4, 2);
    out(BASE + 0x50, 1u | 79u << 16);
    while (!(in(BASE + 4) & 0x70))
        ;
    CHECK((in(BASE + 4) & 0x70) == 0x20);
    return 0;
}

static void two_timers_share_their_registers(void **state)
{
    (void)state;
    run(TIMERS, two_timers);
}

static unsigned entered[16];

static void on_t0(void)
{
    entered[1]++;
    out(BASE + 4, 1);
}

static void on_t1(void)
{
    entered[2]++;
    out(BASE + 4, 2);
}

static void on_s2(void)
{
    entered[10]++;
    out(BASE + 4, 0x40);
}

static int by_interrupt(void)
{
    memset(entered, 0, sizeof entered);
    out(BASE + 0x10, 999);
    out(BASE + 0x14, 1999);
    out(BASE + 0x60, 3u | 3999u << 16);
    out(INT, 1u << 1 | 1u << 2 | 1u << 10);
    wad_port_irq_on();
    out(BASE, 0xF);
    uint64_t until = wad_sim_now(small_sim) + WAD_PS_PER_S / 1000; /* 8000 cycles */
    while (wad_sim_now(small_sim) < until)
        in(BASE);
    wad_port_irq_save();
    CHECK(entered[1] == 8 && entered[2] == 4);
    CHECK(entered[10] == 2 || entered[10] == 1); /* it began some cycles before */
    return 0;
}

static void each_unit_asks_by_its_own_line(void **state)
{
    static const wad_handler handlers[16] = {[1] = on_t0, [2] = on_t1, [10] = on_s2};
    (void)state;
    run_with(TIMERS, by_interrupt, handlers, 16, false);
}

static void units_have_names(void **state)
{
    (void)state;
    wad_sheet *s = small_parse(TIMERS);
    static const char *const names[] = {"TIM.T0", "TIM.T1", "TIM.S[0]", "TIM.S[1]", "TIM.S[2]"};
    for (unsigned i = 0; i < G_N_ELEMENTS(names); i++) {
        const wad_instance *unit = wad_sheet_block(s, names[i]);
        assert_non_null(unit);
        assert_ptr_equal(unit->home, wad_sheet_block(s, "TIM"));
    }
    assert_ptr_equal(wad_sheet_irq_owner(s, 10), wad_sheet_block(s, "TIM.S[2]"));
    assert_null(wad_sheet_irq_owner(s, 8));
    wad_sheet_free(s);
}

/* ---- lines by flag, and who masks them ---- */

#define LINES(chip, timer, irq)                                                                    \
    "chip T {\n bus little 32\n memory ram at 0x2000_0000 size 4 KiB\n clock core 8 MHz\n" chip    \
    "block TIM at 0x4000_0000 like timer {\n " irq                                                 \
    "\n }\n block B at 0x4000_0100 like timer {\n irq "                                            \
    "7\n }\n block INT at 0x4000_2000 like ints\n}\n"                                              \
    "layout timer {\n reg CTRL at 0 rw { 0 EN rw\n 1 IE rw\n 3 MIE[2] rw\n }\n"                    \
    "reg FLAGS at 4 w1c { 0 W w1c " timer "\n 1 M[2] w1c " timer " }\n reg TOP at 0x10 rw\n"       \
    "reg CC[2] at 0x20 rw\n"                                                                       \
    "acts as counter { enable CTRL.EN, reload TOP.VALUE, wrap FLAGS.W, wrap_irq CTRL.IE, "         \
    "compare[n] CC[n].VALUE, match[n] FLAGS.M[n], match_irq[n] CTRL.MIE[n] }\n }\n"                \
    "layout ints {\n reg EN at 0 rw { 0 L[16] rw }\n reg PRI at 4 rw { 1:0 L[16] rw }\n reg G at " \
    "8 rw "                                                                                        \
    "{ 0 ON rw }\n reg ASK at 12 ro { 0 L[16] ro }\n }\n"

static unsigned order[32], n_order;

static void note(unsigned line)
{
    if (n_order < 32)
        order[n_order++] = line;
}

static void on_wrap_line(void)
{
    note(1);
    out(BASE + 4, 1);
}

static void on_match_line(void)
{
    note(2);
    out(BASE + 4, 6);
}

static void on_other(void)
{
    note(7);
    out(BASE + 0x104, 7);
}

static const wad_handler by_flag[16] = {[1] = on_wrap_line, [2] = on_match_line, [7] = on_other};

/* Both flags of TIM with their enables; the period is over at count 99, channel 1 meets 50. */
static void start_timer(uint32_t base)
{
    out(base + 0x10, 99);
    out(base + 0x20, 0xFFFF);
    out(base + 0x24, 50);
    out(base, 1 | 2 | 16);
}

static int lines_by_flag(void)
{
    n_order = 0;
    wad_port_irq_on();
    start_timer(BASE);
    while (n_order < 4)
        in(BASE);
    CHECK(order[0] == 2 && order[1] == 1 && order[2] == 2 && order[3] == 1);
    return 0;
}

/* No controller, and nothing masks the lines. */
static void a_line_serves_the_flags_that_the_sheet_gives_it(void **state)
{
    (void)state;
    run_with(LINES("", "", "irq { 1 wrap, 2 match[1] }"), lines_by_flag, by_flag, 16, false);
    run_with(LINES("", "", "irq { 1 wrap, 2 }"), lines_by_flag, by_flag, 16, false); /* the rest */
}

/* A line with enables of its own: those of the controller's register, not the timer's. */
static int lines_by_own_enable(void)
{
    n_order = 0;
    wad_port_irq_on();
    start_timer(BASE);
    out(INT, 2); /* L[1] lets the wrap through, L[0] the channel */
    for (unsigned i = 0; i < 300; i++)
        in(BASE);
    CHECK(n_order > 2);
    for (unsigned i = 0; i < n_order; i++)
        CHECK(order[i] == 1);
    return 0;
}

static void a_line_may_have_enables_of_its_own(void **state)
{
    (void)state;
    run_with(LINES("", "", "irq { 1 wrap by INT.EN.L[1], 2 match[0 .. 1] by INT.EN.L[4 .. 5] }"),
             lines_by_own_enable, by_flag, 16, false);
}

static int by_alone(void)
{
    n_order = 0;
    wad_port_irq_on();
    out(BASE + 0x10, 99);
    out(BASE, 1);
    while (!(in(BASE + 4) & 1))
        ;
    CHECK(!n_order);
    out(BASE, 3);
    in(BASE);
    CHECK(n_order == 1);
    return 0;
}

static void a_flag_may_have_no_enable_but_the_lines(void **state)
{
    (void)state;
    run_with(HEAD "block A at 0x4000_0000 like l {\n irq { 1 wrap by CTRL.IE }\n }\n}\nlayout l {\n"
                  "reg CTRL at 0 rw { 0 EN rw\n 1 IE rw\n }\n reg FLAGS at 4 w1c { 0 F w1c }\n"
                  "reg TOP at 0x10 rw\n"
                  "acts as counter { enable CTRL.EN, reload TOP.VALUE, wrap FLAGS.F }\n}\n",
             by_alone, by_flag, 16, true);
}

/* Two lines ask while the mask is closed; who goes first is in order[0]. */
static int ask_both(void)
{
    n_order = 0;
    start_timer(BASE);
    start_timer(BASE + 0x100);
    out(INT, 0xFFFF);
    out(INT + 4, 1u << 2 * 1 | 2u << 2 * 7); /* line 1 has 1, line 7 has 2 */
    while (!(in(BASE + 4) & 1) || !(in(BASE + 0x104) & 1))
        ;
    CHECK(!n_order);
    wad_port_irq_on();
    in(BASE);
    in(BASE);
    return 0;
}

static int first_is(unsigned line)
{
    ask_both();
    CHECK(n_order >= 2 && order[0] == line);
    return 0;
}

static int one_first(void)
{
    return first_is(1);
}

/* The least urgent number is served as well. */
static int none_first(void)
{
    n_order = 0;
    start_timer(BASE);
    out(INT, 0xFFFF);
    out(INT + 4, 0);
    while (!(in(BASE + 4) & 1))
        ;
    wad_port_irq_on();
    in(BASE);
    CHECK(n_order == 1 && order[0] == 1);
    return 0;
}

static int seven_first(void)
{
    return first_is(7);
}

#define BY_LINE(first)                                                                             \
    "line 1 \"timer\" { enabled INT.EN.L[1], priority INT.PRI.L[1] first " first " }\n"            \
    "line 7 { enabled INT.EN.L[7], priority INT.PRI.L[7] first " first " }\n"

static void priorities_have_a_polarity(void **state)
{
    (void)state;
    run_with(LINES(BY_LINE("low"), "", "irq { 1 wrap }"), one_first, by_flag, 16, false);
    run_with(LINES(BY_LINE("high"), "", "irq { 1 wrap }"), seven_first, by_flag, 16, false);
    run_with(LINES("", "", "irq { 1 wrap }"), one_first, by_flag, 16, false); /* by number */
    run_with(LINES(BY_LINE("high"), "", "irq { 1 wrap }"), none_first, by_flag, 16, false);
#define UNIT(first)                                                                                \
    "unit IRQ as interrupts { enable[n] INT.EN.L[n], priority[n] INT.PRI.L[n] first " first        \
    ", pending[n] INT.ASK.L[n] }\n"
    run_with(LINES(UNIT("low"), "", "irq { 1 wrap }"), one_first, by_flag, 16, false);
    run_with(LINES(UNIT("high"), "", "irq { 1 wrap }"), seven_first, by_flag, 16, false);
}

/* The line's own place masks it, and another one shows that it asks. */
static int masked_line(void)
{
    n_order = 0;
    wad_port_irq_on();
    CHECK(in(INT + 12) == 0);
    start_timer(BASE);
    while (!(in(BASE + 4) & 1))
        ;
    CHECK(in(INT + 12) == 2 && !n_order);
    out(INT, 2);
    in(BASE);
    CHECK(n_order == 1 && in(INT + 12) == 0);
    return 0;
}

static void a_line_is_masked_where_the_sheet_says(void **state)
{
    (void)state;
    run_with(LINES("line 1 { enabled INT.EN.L[1], pending INT.ASK.L[1] }\n", "", "irq { 1 wrap }"),
             masked_line, by_flag, 16, false);
}

/* The core's mask is a bit of a register: the firmware's write and the port's call move the same.
 */
static int global_bit(void)
{
    n_order = 0;
    start_timer(BASE);
    while (!(in(BASE + 4) & 1))
        ;
    in(BASE);
    CHECK(!n_order);
    out(INT + 8, 1);
    in(BASE);
    CHECK(n_order == 1);
    uint32_t before = wad_port_irq_save();
    CHECK(in(INT + 8) == 0);
    while (!(in(BASE + 4) & 1))
        ;
    in(BASE);
    CHECK(n_order == 1);
    wad_port_irq_restore(before);
    CHECK(in(INT + 8) == 1 && n_order == 2);
    return 0;
}

static void the_global_mask_may_be_a_bit(void **state)
{
    (void)state;
    run_with(LINES("cpu own global INT.G.ON\n", "", "irq { 1 wrap }"), global_bit, by_flag, 16,
             false);
}

static unsigned depth, deepest;

/* Line 7's handler is long: does line 1, which asks meanwhile, come into it? */
static void on_long(void)
{
    if (++depth > deepest)
        deepest = depth;
    note(7);
    out(BASE + 0x104, 7);
    while (!(in(BASE + 4) & 1) && depth == 1 && n_order < 2)
        ;
    for (unsigned i = 0; i < 8; i++)
        in(BASE);
    depth--;
}

static void on_short(void)
{
    if (++depth > deepest)
        deepest = depth;
    note(1);
    out(BASE + 4, 7);
    depth--;
}

static int nest(void)
{
    n_order = depth = deepest = 0;
    out(INT, 0xFFFF);
    out(INT + 4, 1u << 2 * 1 | 2u << 2 * 7);
    wad_port_irq_on();
    out(BASE + 0x110, 20);
    out(BASE + 0x100, 3);
    start_timer(BASE);
    while (n_order < 2)
        in(BASE);
    wad_port_irq_save();
    return 0;
}

static unsigned nested(const char *text)
{
    static const wad_handler handlers[16] = {[1] = on_short, [7] = on_long};
    run_with(text, nest, handlers, 16, true);
    return deepest;
}

/* The core closes the mask at the entry and opens it at the exit: a handler that opens it itself is
 * interrupted by any line, even by its own, whose flag it has not cleared yet. */
#define CLOSING                                                                                    \
    "cpu own global INT.G.ON nests always\n on entry { INT.G.ON = 0 }\n on exit { INT.G.ON = 1 "   \
    "}\n"

static void on_open(void)
{
    CHECK(in(INT + 8) == 0);
    if (++depth > deepest)
        deepest = depth;
    note(1);
    if (depth < 3)
        out(INT + 8, 1);
    out(BASE + 4, 7);
    in(BASE);
    depth--;
}

static int open_in_handler(void)
{
    n_order = depth = deepest = 0;
    out(INT + 8, 1);
    start_timer(BASE);
    while (!n_order)
        in(BASE);
    CHECK(in(INT + 8) == 1);
    wad_port_irq_save();
    return 0;
}

static void a_handler_may_open_what_its_entry_closed(void **state)
{
    static const wad_handler handlers[16] = {[1] = on_open};
    (void)state;
    run_with(LINES(CLOSING, "", "irq { 1 wrap }"), open_in_handler, handlers, 16, true);
    assert_int_equal(deepest, 3); /* at each opening the flag stood still */
}

static void handlers_nest_as_the_core_does(void **state)
{
    (void)state;
    assert_int_equal(nested(LINES(BY_LINE("low"), "", "irq { 1 wrap }")), 2);
    assert_int_equal(nested(LINES(BY_LINE("high"), "", "irq { 1 wrap }")), 1);
    assert_int_equal(nested(LINES("cpu own nests never\n" BY_LINE("low"), "", "irq { 1 wrap }")),
                     1);
    assert_int_equal(nested(LINES(CLOSING BY_LINE("low"), "", "irq { 1 wrap }")), 1);
    assert_int_equal(nested(LINES("", "", "irq { 1 wrap }")), 1); /* no priorities */
}

/* At the entry of line 1 its own flag goes, not the channel's, which line 2 has; nor one that is
 * not enabled. */
static void on_entry(void)
{
    note(in(BASE + 4));
}

static int entry(void)
{
    n_order = 0;
    out(BASE + 0x24, 50);
    out(BASE + 0x20, 0xFFFF);
    out(BASE + 0x10, 99);
    out(BASE, 1 | 2); /* the channel asks nobody */
    while (!(in(BASE + 4) & 4))
        ;
    wad_port_irq_on();
    while (!n_order)
        in(BASE);
    CHECK(order[0] == 4);
    return 0;
}

static void at_entry_the_flags_of_the_line_go(void **state)
{
    static const wad_handler handlers[16] = {[1] = on_entry};
    (void)state;
    run_with(LINES("", "cleared at entry", "irq { 1 wrap, 2 match }"), entry, handlers, 16, false);
    run_with(LINES("", "cleared at entry", "irq 1"), entry, handlers, 16, false);
}

static void handlers_are_named_after_flags_and_lines(void **state)
{
    static const struct {
        const char *text, *name;
    } cases[] = {
        {LINES("", "", "irq { 1 wrap, 2 match[1] }"), "DEFAULT(handle_TIM_wrap, 1)"},
        {LINES("", "", "irq { 1 wrap, 2 match[1] }"), "DEFAULT(handle_TIM_match1, 2)"},
        {LINES("", "", "irq { 1 wrap, 2 match }"), "DEFAULT(handle_TIM_match, 2)"},
        {LINES("line 7 BOTH\n", "", "irq 7"), "DEFAULT(handle_BOTH, 7)"},
        {TIMERS, "DEFAULT(handle_TIM_S2, 10)"},
    };
    (void)state;
    for (unsigned i = 0; i < G_N_ELEMENTS(cases); i++) {
        char *text = NULL;
        size_t size;
        wad_sheet *s = small_parse(cases[i].text);
        FILE *f = open_memstream(&text, &size);
        wad_emit_vectors(s, f);
        fclose(f);
        if (!strstr(text, cases[i].name))
            fail_msg("wanted %s in\n%s", cases[i].name, text);
        free(text);
        wad_sheet_free(s);
    }
}

/* ---- how flags go ---- */

/* Raw flags that only a register beside them clears; the same register sets nothing. */
static int clear_register(void)
{
    out(BASE + 0x10, 99);
    out(BASE, 1);
    while (!(in(BASE + 4) & 1))
        ;
    out(BASE + 4, 1); /* nothing: they are read-only there */
    CHECK(in(BASE + 4) & 1);
    out(BASE + 8, 2);
    CHECK(in(BASE + 4) & 1);
    out(BASE + 8, 1);
    CHECK(!(in(BASE + 4) & 1));
    return 0;
}

static void a_register_beside_them_clears_raw_flags(void **state)
{
    (void)state;
    run_with(HEAD
             "block A at 0x4000_0000 like l\n}\nlayout l {\n"
             "reg CTRL at 0 rw { 0 EN rw }\n reg RAW at 4 ro { 0 F ro\n 1 G ro }\n"
             "reg CLEAR at 8 clears RAW\n reg TOP at 0x10 rw\n"
             "acts as counter { enable CTRL.EN, reload TOP.VALUE, wrap RAW.F, wrap_irq always 0 "
             "}\n}\n",
             clear_register, NULL, 0, true);
}

/* A flag that reads 0 while it is set. */
static int inverted_flag(void)
{
    out(BASE + 0x10, 99);
    CHECK(in(BASE) == 4); /* nothing has happened */
    out(BASE, 1 | 2 | 4);
    n_order = 0;
    wad_port_irq_on();
    while (!n_order)
        in(BASE);
    CHECK(order[0] == 1);
    return 0;
}

static void on_inverted(void)
{
    note((in(BASE)&4) == 0);
    out(BASE, 1 | 4);
}

static void a_flag_may_be_inverted(void **state)
{
    static const wad_handler handlers[16] = {[1] = on_inverted};
    (void)state;
    run_with(HEAD
             "block A at 0x4000_0000 like l {\n irq 1\n }\n}\nlayout l {\n"
             "reg CTRL at 0 rw reset 4 { 0 EN rw\n 1 IE rw\n 2 DONE rw }\n reg TOP at 0x10 rw\n"
             "acts as counter { enable CTRL.EN, reload TOP.VALUE, wrap not CTRL.DONE, wrap_irq "
             "CTRL.IE }\n}\n",
             inverted_flag, handlers, 16, true);
}

/* ---- a unit whose roles lie in several blocks ---- */

static int spread(void)
{
    out(SYS, 1);
    uint32_t first = in(BASE + 0x14), second = in(BASE + 0x14);
    CHECK(second - first == 2);
    out(SYS, 0);
    CHECK(in(BASE + 0x14) == in(BASE + 0x14));
    return 0;
}

static void a_unit_of_the_chip_lies_in_several_blocks(void **state)
{
    (void)state;
    run(HEAD "block A at 0x4000_0000 like l\n block SYS at 0x4000_1000 like s\n"
             "unit TICK as timebase { clock core, count A.COUNT.V, enable SYS.RUN.ON }\n}\n"
             "layout l {\n reg COUNT at 0x14 ro volatile { 31:0 V ro }\n }\n"
             "layout s {\n reg RUN at 0 rw { 0 ON rw } }\n",
        spread);
}

/* ---- a unit rests while its block is shut ---- */

static int gated(void)
{
    out(BASE + 0x10, 999);
    out(BASE, 1);
    CHECK(in(BASE + 0x18) != in(BASE + 0x18));
    out(SYS, 0);
    out(SYS, 1);
    uint32_t before = in(BASE + 0x18);
    out(SYS, 0);
    for (unsigned i = 0; i < 50; i++)
        in(SYS);
    out(SYS, 1);
    CHECK(in(BASE + 0x18) - before < 20); /* 100 cycles passed meanwhile */
    return 0;
}

static void units_rest_while_their_block_is_shut(void **state)
{
    (void)state;
    run(HEAD "block TIM at 0x4000_0000 like t {\n needs SYS.ON.TIM = 1\n }\n block SYS at "
             "0x4000_1000 like s\n}\nlayout t {\n reg CTRL at 0 rw { 0 RUN0 rw\n 2 F w1c }\n"
             "reg TOP at 0x10 rw { 15:0 V rw }\n reg COUNT at 0x18 ro { 15:0 V ro }\n"
             "acts as counter T0 { enable CTRL.RUN0, reload TOP.V, count COUNT.V, wrap CTRL.F, "
             "wrap_irq always 0 }\n }\nlayout s {\n reg ON at 0 rw reset 1 { 0 TIM rw } }\n",
        gated);
}

/* ---- the command, as one uses it ---- */

#define HOLM SOURCE_DIR "/tests/chips/holm32/"

/* Plain C built for a chip that no driver serves, and judged by units and their lines. */
static void a_bench_names_units(void **state)
{
    char *out, *err, *folder = g_dir_make_tmp("wadium-units-XXXXXX", NULL);
    char *firmware = g_build_filename(folder, "timers.wfw", NULL);
    (void)state;
    if (WADIUM(&out, &err, "build", HOLM "holm32.sheet", HOLM "timers.c", "-o", firmware))
        fail_msg("%s", err);
    g_free(out);
    g_free(err);
    if (WADIUM(&out, &err, "run", HOLM "timers.bench", "-d", folder) ||
        !strstr(out, "4 of 4 expectations met, 0 findings") ||
        !strstr(out, "TIM.T0.match[0] interrupt"))
        fail_msg("%s%s", out, err);
    g_free(out);
    g_free(err);
    g_remove(firmware);
    g_rmdir(folder);
    g_free(firmware);
    g_free(folder);
}

/* The compiler says what is missing where the unit is used, and not where it is not. */
static void no_driver_is_told_at_its_use(void **state)
{
    char *folder = g_dir_make_tmp("wadium-units-XXXXXX", NULL), *out, *err;
    static const struct {
        const char *use;
        bool good;
    } cases[] = {{"const wad_block *p = &holm32_tim_t0;\n", false},
                 {"const wad_block *p = &holm32_tim_s2;\n", false},
                 {"const wad_block *p = &holm32_sys;\n", true}};
    char *header = g_build_filename(folder, "holm32.h", NULL);
    char *roles = g_build_filename(folder, "holm32_roles.h", NULL);
    char *use = g_build_filename(folder, "use.c", NULL), *here = g_strconcat("-I", folder, NULL);
    (void)state;
    assert_int_equal(WADIUM(&out, &err, "emit", "header", HOLM "holm32.sheet", "-o", header), 0);
    g_free(out);
    g_free(err);
    assert_int_equal(WADIUM(&out, &err, "emit", "roles", HOLM "holm32.sheet", "-o", roles), 0);
    g_free(out);
    g_free(err);
    for (unsigned i = 0; i < G_N_ELEMENTS(cases); i++) {
        char *text = g_strconcat("#include \"holm32_roles.h\"\n", cases[i].use, NULL);
        assert_true(g_file_set_contents(use, text, -1, NULL));
        int status =
            test_spawn(&out, &err, "/usr/bin/gcc", "-fsyntax-only", here,
                       "-I" SOURCE_DIR "/include", "-I" SOURCE_DIR "/ports/sim", use, NULL);
        if ((status == 0) != cases[i].good ||
            (!cases[i].good && !strstr(err, "no driver serves this form yet: TIM.")))
            fail_msg("%s%s", text, err);
        g_free(text);
        g_free(out);
        g_free(err);
    }
    g_remove(header);
    g_remove(roles);
    g_remove(use);
    g_rmdir(folder);
    g_free(header);
    g_free(roles);
    g_free(use);
    g_free(here);
    g_free(folder);
}

/* ---- what is wrong with them ---- */

#define ONE(layout, body)                                                                          \
    HEAD "block TIM at 0x4000_0000 like t {\n" body "\n}\n block B at 0x4000_1000 like b\n}\n"     \
         "layout b {\n reg R at 0 rw { 0 E rw }\n reg TOP at 4 rw }\n"                             \
         "layout t {\n reg R at 0 rw { 0 E rw\n 1 W w1c\n 2 I rw }\n reg TOP at 4 rw\n reg CC[2] " \
         "at 8 rw\n" layout "\n}\n"
#define GOOD "enable R.E, reload TOP.VALUE, wrap R.W, wrap_irq R.I"

static void what_is_wrong_is_told(void **state)
{
    static const struct {
        const char *text, *message;
    } cases[] = {
        {ONE("acts as counter T0 { " GOOD " }", "unit T1 { irq 1 }"),
         "block TIM has no unit 'T1' (did you mean 'T0'?)"},
        {ONE("acts as counter T0 { " GOOD " }", "unit T0 when { irq 1 }"),
         "expected '{' and what belongs to the unit"},
        {ONE("acts as counter { compare[n] CC[n].VALUE, match[n] CC[n].VALUE, " GOOD " }",
             "irq { 3 match[x] }"),
         "'x' is no number and no index here"},
        {HEAD "line 3 { pending not A.R.VALUE }\n block A at 0 like l\n}\nlayout l {\n reg R at 0 "
              "rw\n}\n",
         "a line shows that it is pending in one field"},
        {ONE("acts as counter T0 { " GOOD " }", "irq 3"), "'irq' belongs to one of them"},
        {ONE("acts as counter T0 { " GOOD " }\n acts as counter T0 { " GOOD " }", ""),
         "unit 'TIM.T0' is there already"},
        {ONE("acts as counter { " GOOD " }\n acts as counter { " GOOD " }", ""),
         "acts as counter already: name the further units"},
        {ONE("acts as counter { enable B.R.X, reload TOP.VALUE }", ""),
         "register 'R' has no field 'X'"},
        {ONE("acts as counter { enable C.R.E, reload TOP.VALUE }", ""),
         "the chip has no block 'C'"},
        {ONE("acts as counter { enable R.E.E, reload TOP.VALUE }", ""), "goes on behind a field"},
        {ONE("acts as counter { compare[n] CC[n + 2].VALUE }", ""), "'CC' has no element 2"},
        {ONE("acts as counter { compare[n] CC[m].VALUE }", ""),
         "'m' is no number and no index here"},
        {ONE("acts as counter { compare[n] CC[1].VALUE }", ""),
         "the index of role 'compare' must stand in its path"},
        {ONE("acts as counter { enable { R.E, R.I } }", ""),
         "role 'enable' lists several places: write NAME[n] { ... }"},
        {ONE("acts as counter { compare[n] { CC[0 .. 2].VALUE } }", ""), "'CC' has no element 2"},
        {ONE("acts as counter { enable R.E and pins X }", ""), "layout 't' has no register 'pins'"},
        {ONE("acts as counter { " GOOD " }", "irq { 3 wrap, 4 match }"),
         "'match' is no flag of TIM that asks for an interrupt"},
        {ONE("acts as counter { " GOOD " }", "irq { 3 wrap[1] }"), "'wrap' has 1 element"},
        {ONE("acts as counter { " GOOD " }", "irq 3\n irq 4"),
         "the lines of TIM stand above already"},
        {ONE("acts as counter { " GOOD " }\n}\nlayout u {\n reg R at 0 rw",
             "irq { 3 wrap by R.X }"),
         "register 'R' has no field 'X'"},
        {HEAD "line 3 { enabled A.R.X }\n block A at 0 like l\n}\nlayout l {\n reg R at 0 rw\n}\n",
         "register 'R' has no field 'X'"},
        {HEAD "line 3\n line 3\n block A at 0 like l\n}\nlayout l {\n reg R at 0 rw\n}\n",
         "line 3 stands twice"},
        {HEAD "line 3 { priority A.R.VALUE }\n block A at 0 like l\n}\nlayout l {\n reg R at 0 "
              "rw\n}\n",
         "expected 'first'"},
        {HEAD
         "line 3 { enabled A.R.E[0] }\n block A at 0 like l\n}\nlayout l {\n reg R at 0 rw { 0 "
         "E[16] rw }\n acts as interrupts { enable[n] R.E[n] }\n}\n",
         "line 3 belongs to A, whose roles say when it is enabled"},
        {HEAD "cpu own nests always\n block A at 0 like l\n}\nlayout l {\n reg R at 0 rw\n}\n",
         "'nests always' goes with a mask that the core closes at the entry"},
        {HEAD "on entry { A.R.X = 1 }\n block A at 0 like l\n}\nlayout l {\n reg R at 0 rw\n}\n",
         "register 'R' has no field 'X'"},
        {HEAD "on reset { A.R.X = 1 }\n block A at 0 like l\n}\nlayout l {\n reg R at 0 rw\n}\n",
         "expected 'entry', 'exit'"},
        {HEAD "cpu own global A.R.VALUE\n block A at 0 like l\n}\nlayout l {\n reg R at 0 rw\n}\n",
         "the global enable is one bit"},
        {HEAD "block A at 0 like l\n unit A as counter { count A.R.VALUE }\n}\nlayout l {\n reg R "
              "at 0 rw\n}\n",
         "a block or unit 'A' is there already"},
        {HEAD "block A at 0 like l\n unit U as counter { wrap_irq always }\n}\nlayout l {\n reg R "
              "at 0 rw\n}\n",
         "unit 'U' has no role in a register"},
    };
    (void)state;
    for (unsigned i = 0; i < G_N_ELEMENTS(cases); i++) {
        char *errors = test_sheet_errors(cases[i].text);
        if (!strstr(errors, cases[i].message))
            fail_msg("%s\nwanted %s\ngot %s", cases[i].text, cases[i].message, errors);
        g_free(errors);
    }
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(a_hold_bit_is_an_inverted_enable),
        cmocka_unit_test(roles_may_lie_in_other_blocks_by_row),
        cmocka_unit_test(two_bits_may_have_to_be_set),
        cmocka_unit_test(a_number_may_be_joined_from_registers),
        cmocka_unit_test(elements_may_begin_further_on),
        cmocka_unit_test(how_many_elements_a_role_has),
        cmocka_unit_test(two_timers_share_their_registers),
        cmocka_unit_test(each_unit_asks_by_its_own_line),
        cmocka_unit_test(units_have_names),
        cmocka_unit_test(a_line_serves_the_flags_that_the_sheet_gives_it),
        cmocka_unit_test(a_line_may_have_enables_of_its_own),
        cmocka_unit_test(a_flag_may_have_no_enable_but_the_lines),
        cmocka_unit_test(priorities_have_a_polarity),
        cmocka_unit_test(a_line_is_masked_where_the_sheet_says),
        cmocka_unit_test(the_global_mask_may_be_a_bit),
        cmocka_unit_test(handlers_nest_as_the_core_does),
        cmocka_unit_test(a_handler_may_open_what_its_entry_closed),
        cmocka_unit_test(at_entry_the_flags_of_the_line_go),
        cmocka_unit_test(handlers_are_named_after_flags_and_lines),
        cmocka_unit_test(a_register_beside_them_clears_raw_flags),
        cmocka_unit_test(a_flag_may_be_inverted),
        cmocka_unit_test(a_unit_of_the_chip_lies_in_several_blocks),
        cmocka_unit_test(units_rest_while_their_block_is_shut),
        cmocka_unit_test(a_bench_names_units),
        cmocka_unit_test(no_driver_is_told_at_its_use),
        cmocka_unit_test(what_is_wrong_is_told),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
