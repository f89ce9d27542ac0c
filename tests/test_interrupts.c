/* SPDX-License-Identifier: MIT */
/* The interrupt system: what is served when, what software asks for, how requests are forgotten. */
#include <string.h>

#include "corran32_sheet.h"
#include "wadium/clock.h"
#include "wadium/irq.h"

#include "corran32_roles.h"

#define MS (WAD_PS_PER_S / 1000)
#define R  corran32_counter_roles

static wad_sim *sim;

/* ---- the story of a run: who was entered and left, and when, in core cycles of 125 ns ---- */

typedef struct moment {
    char who; /* of CNT0 'a', CNT1 'b', CNT2 'c', TICK 't'; in capitals when left */
    uint64_t raised, at;
} moment;

static moment story[64];
static unsigned told;

static void on_irq(void *ctx, const wad_irq_record *r)
{
    (void)ctx;
    char who = r->line == CORRAN32_TICK_IRQ ? 't' : (char)('a' + r->line - CORRAN32_CNT0_IRQ);
    if (told < G_N_ELEMENTS(story))
        story[told++] = (moment){r->left_ps ? (char)(who - 32) : who, r->raised_ps / 125000,
                                 (r->left_ps ? r->left_ps : r->entered_ps) / 125000};
}

static const char *run(int (*main_fn)(void), const wad_handler *handlers, uint64_t ps)
{
    static char names[65];
    char *why;
    told = 0;
    sim = wad_sim_new(sheet, &why);
    wad_sim_attach(sim, main_fn, handlers, 17);
    wad_sim_watch_irq(sim, on_irq, NULL);
    wad_run_result r = wad_sim_run(sim, ps);
    if (r.end != WAD_RUN_TIME)
        fail_msg("%s", r.story);
    for (unsigned i = 0; i < told; i++)
        names[i] = story[i].who;
    names[told] = 0;
    return names;
}

static void end_run(void)
{
    assert_int_equal(wad_sim_finding_count(sim), 0);
    wad_sim_free(sim);
}

/* One shot of a counter after `clocks`, at a priority. */
static void shoot(const wad_block *block, uint32_t clocks, unsigned priority)
{
    wad_block_up(block, 1000);
    wad_put(block->base, R.reload, clocks - 1);
    wad_put(block->base, R.one_shot, 1);
    wad_put(block->base, R.load, 1);
    wad_clear(block->base, R.wrap);
    wad_put(block->base, R.wrap_irq, 1);
    (void)!wad_irq_enable(block->irq, priority);
}

static void go(const wad_block *block)
{
    wad_put(block->base, R.enable, 1);
}

static uint32_t work = 100;

static void handle(uintptr_t base)
{
    wad_clear(base, R.wrap);
    wad_port_cycles(work);
}

static void handle_a(void)
{
    handle(CORRAN32_CNT0_BASE);
}

static void handle_b(void)
{
    handle(CORRAN32_CNT1_BASE);
}

static void handle_c(void)
{
    handle(CORRAN32_CNT2_BASE);
}

static const wad_handler handlers[17] = {[8] = handle_a, [9] = handle_b, [10] = handle_c};

static int sleep_for_ever(void)
{
    for (;;)
        wad_port_sleep();
    return 0;
}

/* ---- late arrival, back to back, nesting ---- */

static uint32_t second_after; /* clocks from CNT0's request to CNT1's */
static unsigned priorities[3];

static int two_main(void)
{
    shoot(&corran32_cnt0.block, 2000, priorities[0]);
    shoot(&corran32_cnt1.block, 2000 + second_after, priorities[1]);
    wad_irq_global_on();
    go(&corran32_cnt0.block);
    go(&corran32_cnt1.block); /* a read, a write: 4 cycles later */
    return sleep_for_ever();
}

static const char *two(unsigned first, unsigned second, uint32_t after)
{
    priorities[0] = first;
    priorities[1] = second;
    second_after = after;
    return run(two_main, handlers, 2 * MS);
}

/* The sheet: entry 16 cycles, exit 12, from one to the next 6. */
static void a_more_urgent_one_overtakes_during_the_entry(void **state)
{
    (void)state;
    assert_string_equal(two(2, 1, 5), "bBaA");           /* comes 9 cycles after, within the 16 */
    assert_int_equal(story[0].at - story[2].raised, 16); /* one entry for both */
    assert_int_equal(story[2].at - story[1].at, 6);      /* back to back */
    end_run();
}

static void a_more_urgent_one_nests_after_the_entry(void **state)
{
    (void)state;
    assert_string_equal(two(2, 1, 40), "abBA");
    assert_int_equal(story[0].at - story[0].raised, 16);
    assert_in_range(story[1].at - story[1].raised, 16,
                    18); /* an access or cycle may be under way */
    end_run();
}

static void an_equal_one_follows_back_to_back(void **state)
{
    (void)state;
    assert_string_equal(two(1, 1, 40), "aAbB");
    assert_int_equal(story[2].at - story[1].at, 6);
    end_run();
}

static void a_later_one_enters_anew(void **state)
{
    (void)state;
    assert_string_equal(two(1, 1, 400), "aAbB");
    assert_int_equal(story[2].at - story[2].raised, 16);
    end_run();
}

/* ---- the threshold ---- */

static int hold_main(void)
{
    shoot(&corran32_cnt0.block, 2000, 1);
    shoot(&corran32_cnt1.block, 2400, 2);
    shoot(&corran32_cnt2.block, 2800, 3);
    wad_irq_global_on();
    go(&corran32_cnt0.block);
    go(&corran32_cnt1.block);
    go(&corran32_cnt2.block);
    uint32_t outer = wad_irq_hold(2);
    wad_port_cycles(5000);            /* only priority 1 comes */
    uint32_t inner = wad_irq_hold(3); /* lets nothing more through */
    wad_port_cycles(1000);
    wad_irq_let(inner);
    wad_port_cycles(1000);
    wad_irq_let(outer); /* both, the more urgent one first */
    return sleep_for_ever();
}

static void a_threshold_holds_the_less_urgent(void **state)
{
    (void)state;
    assert_string_equal(run(hold_main, handlers, 2 * MS), "aAbBcC");
    assert_true(story[1].at < 3000 && story[2].at > 7000);
    end_run();
}

/* ---- by software ---- */

static bool seen_pending, seen_dismissed;

static int raise_main(void)
{
    wad_status st = wad_irq_enable(CORRAN32_CNT2_IRQ, 3);
    if (st == WAD_OK)
        st = wad_irq_raise(CORRAN32_CNT2_IRQ);
    seen_pending = wad_irq_pending(CORRAN32_CNT2_IRQ);
    if (st == WAD_OK)
        st = wad_irq_dismiss(CORRAN32_CNT2_IRQ);
    seen_dismissed = !wad_irq_pending(CORRAN32_CNT2_IRQ);
    wad_irq_global_on();
    wad_port_cycles(1000); /* nothing comes */
    if (st == WAD_OK)
        st = wad_irq_raise(CORRAN32_CNT2_IRQ);
    if (st != WAD_OK || wad_irq_raise(-1) != WAD_E_ARG || wad_irq_dismiss(-1) != WAD_E_ARG)
        return 1;
    return sleep_for_ever();
}

static void handle_raised(void)
{
    wad_port_cycles(10); /* there is no flag to clear: entering has taken the request */
}

static void software_asks_and_takes_back(void **state)
{
    static const wad_handler own[17] = {[10] = handle_raised};
    (void)state;
    assert_string_equal(run(raise_main, own, MS), "cC");
    assert_true(story[0].at > 1000);
    assert_true(seen_pending && seen_dismissed);
    end_run();
}

/* ---- edges that the controller notes ---- */

static unsigned ticks;

static void handle_tick(void)
{
    if (ticks++ == 1)
        wad_port_cycles(20000); /* two and a half periods: only one of them is noted */
}

static int tick_main(void)
{
    uintptr_t base = CORRAN32_TICK_BASE;
    const wad_tick_roles *t = &corran32_tick_roles;
    wad_put(base, t->reload, 7999);
    wad_put(base, t->count, 0);
    wad_put(base, t->wrap_irq, 1);
    (void)!wad_irq_enable(CORRAN32_TICK_IRQ, 1);
    wad_irq_global_on();
    wad_put(base, t->enable, 1);
    return sleep_for_ever();
}

/* Ticks at 1, 2, ... 10 ms; the second handler lasts until 4.5 ms and finds one of two noted. */
static void an_edge_is_noted_once(void **state)
{
    static const wad_handler own[17] = {[4] = handle_tick};
    (void)state;
    ticks = 0;
    assert_string_equal(run(tick_main, own, 10 * MS + MS / 2), "tTtTtTtTtTtTtTtTtT");
    assert_int_equal(ticks, 9);
    end_run();
}

/* Taken back while it is noted: it does not come. */
static int dismissed_main(void)
{
    uint32_t state = wad_port_irq_save();
    uintptr_t base = CORRAN32_TICK_BASE;
    wad_put(base, corran32_tick_roles.reload, 7999);
    wad_put(base, corran32_tick_roles.count, 0);
    wad_put(base, corran32_tick_roles.wrap_irq, 1);
    (void)!wad_irq_enable(CORRAN32_TICK_IRQ, 1);
    wad_put(base, corran32_tick_roles.enable, 1);
    wad_port_cycles(9000);
    wad_put(base, corran32_tick_roles.enable, 0);
    (void)!wad_irq_dismiss(CORRAN32_TICK_IRQ);
    (void)state;
    wad_irq_global_on();
    return sleep_for_ever();
}

static void a_noted_edge_can_be_taken_back(void **state)
{
    static const wad_handler own[17] = {[4] = handle_tick};
    (void)state;
    assert_string_equal(run(dismissed_main, own, 5 * MS), "");
    wad_sim_free(sim);
}

/* ---- many flags on one line ---- */

static unsigned seen_flags[16], n_seen;

static void note(unsigned flag, void *context)
{
    (void)context;
    seen_flags[n_seen++ % 16] = flag;
}

static void handle_port(void)
{
    wad_irq_each(CORRAN32_PINB_BASE, corran32_gpio_roles.flag, corran32_gpio_roles.irq, note, NULL);
}

/* PB2 and PB9 are wanted; PB5's flag stands too, but nobody asked for it. */
static int port_main(void)
{
    uintptr_t base = CORRAN32_PINB_BASE;
    (void)!wad_pin_input(CORRAN32_PB2, WAD_PULL_DOWN);
    (void)!wad_pin_on_edge(CORRAN32_PB9, WAD_EDGE_RISE, 1);
    (void)!wad_pin_on_edge(CORRAN32_PB2, WAD_EDGE_RISE, 1);
    wad_put(base, wad_at(corran32_gpio_roles.sense, 5), corran32_gpio_roles.sense_rise);
    wad_irq_global_on();
    return sleep_for_ever();
}

static void raise_three(wad_sim *s, void *ctx)
{
    static const char *const pins[] = {"PB9", "PB5", "PB2"};
    (void)ctx;
    for (unsigned i = 0; i < 3; i++)
        wad_sim_drive(s, wad_sheet_pin(sheet, pins[i]), WAD_HIGH);
}

static void lower_three(wad_sim *s, void *ctx)
{
    static const char *const pins[] = {"PB9", "PB5", "PB2"};
    (void)ctx;
    for (unsigned i = 0; i < 3; i++)
        wad_sim_drive(s, wad_sheet_pin(sheet, pins[i]), WAD_LOW);
}

static void a_word_of_flags_is_taken_apart(void **state)
{
    static const wad_handler own[17] = {[CORRAN32_PINB_IRQ] = handle_port};
    char *why;
    (void)state;
    n_seen = 0;
    sim = wad_sim_new(sheet, &why);
    wad_sim_attach(sim, port_main, own, 17);
    wad_sim_at(sim, 0, lower_three, NULL);
    wad_sim_at(sim, MS, raise_three, NULL);
    wad_sim_at(sim, 2 * MS, lower_three, NULL);
    wad_sim_at(sim, 3 * MS, raise_three, NULL);
    assert_int_equal(wad_sim_run(sim, 4 * MS).end, WAD_RUN_TIME);
    assert_in_range(n_seen, 4, 4);
    assert_int_equal(seen_flags[0] + 100 * seen_flags[1], 902); /* whichever asked first */
    assert_int_equal(seen_flags[2] + 100 * seen_flags[3], 902);
    end_run();
}

/* ---- every way a flag is cleared: the same beat on three chips ---- */

static void check_beat(const char *board_name, const char *firmware, const char *expect)
{
    const char *const say[] = {"capture WARN", "run 11 s", expect, "expect no findings", NULL};
    test_must_pass(board_name, firmware, say);
}

/* By writing 1 (Corran32), by writing 0 (Corran16), by entering the handler (Corran8); reading the
 * status is the lamp of Corran8. */
static void flags_go_in_each_chips_way(void **state)
{
    (void)state;
    check_beat("skerry", "alarms_32", "expect warn frequency 3 Hz within 5 ppm from 1 s to 11 s");
    check_beat("skerry16", "alarms_16", "expect warn frequency 3 Hz within 5 ppm from 1 s to 11 s");
    check_beat("skerry8", "alarms_8", "expect warn frequency 3 Hz within 10 ppm from 1 s to 11 s");
    check_beat("skerry8", "lamp8", "expect warn frequency 1 Hz within 1 ppm from 1 s to 11 s");
}

/* By reading the data: Corran16 captures edges, and each is read once. */
static void reading_the_data_clears_its_flag(void **state)
{
    const char *const say[] = {"capture WARN",
                               "drive P00 pulses 50 Hz at 100 ms for 2 s",
                               "run 3 s",
                               "expect TIME interrupt count 100",
                               "expect warn edges 100",
                               "expect no findings",
                               NULL};
    (void)state;
    wad_board *board = test_board("skerry16");
    wad_bench *bench;
    wad_bench_result *r = test_run(board, &bench, "capture_16", say);
    test_passed(r);
    wad_bench_result_free(r);
    wad_bench_free(bench);
    wad_board_free(board);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(a_more_urgent_one_overtakes_during_the_entry),
        cmocka_unit_test(a_more_urgent_one_nests_after_the_entry),
        cmocka_unit_test(an_equal_one_follows_back_to_back),
        cmocka_unit_test(a_later_one_enters_anew),
        cmocka_unit_test(a_threshold_holds_the_less_urgent),
        cmocka_unit_test(software_asks_and_takes_back),
        cmocka_unit_test(an_edge_is_noted_once),
        cmocka_unit_test(a_noted_edge_can_be_taken_back),
        cmocka_unit_test(a_word_of_flags_is_taken_apart),
        cmocka_unit_test(flags_go_in_each_chips_way),
        cmocka_unit_test(reading_the_data_clears_its_flag),
    };
    return cmocka_run_group_tests(tests, set_up, tear_down);
}
