/* SPDX-License-Identifier: MIT */
/* The simulated chip: interrupts, sleep, ends of runs, models of one's own. */
#include <string.h>

#include "corran32_sheet.h"
#include "wadium/clock.h"
#include "wadium/host/model.h"
#include "wadium/irq.h"
#include "wadium/kinds.h"

#include "corran32_roles.h"

#define MS (WAD_PS_PER_S / 1000)

static wad_sim *new_sim(int (*main_fn)(void), const wad_handler *handlers)
{
    char *why = NULL;
    wad_sim *sim = wad_sim_new(sheet, &why);
    assert_non_null(sim);
    wad_sim_attach(sim, main_fn, handlers, handlers ? 12 : 0);
    return sim;
}

static wad_sim *loaded(const char *firmware)
{
    char *why = NULL, *path = g_strdup_printf(FIRMWARE_DIR "/%s.wfw", firmware);
    wad_sim *sim = wad_sim_new(sheet, &why);
    if (!wad_sim_load(sim, path, &why))
        fail_msg("%s", why);
    g_free(path);
    return sim;
}

/* ---- ends of a run ---- */

static void check_end(const char *odd, wad_run_end end, const char *story)
{
    char *firmware = g_strdup_printf("odd_%s", odd);
    wad_sim *sim = loaded(firmware);
    wad_sim_set_host_limit(sim, 1);
    wad_run_result r = wad_sim_run(sim, 20 * MS);
    if (r.end != end || !strstr(r.story, story))
        fail_msg("%s: ended %d, %s", odd, (int)r.end, r.story);
    unsigned line = test_marked_line("odd.c", odd);
    if (line)
        assert_in_range(r.place.line, line - 1, line + 4); /* a loop may count to its head */
    if (line)
        assert_true(g_str_has_suffix(r.place.file, "tests/firmware/odd.c"));
    wad_sim_free(sim);
    g_free(firmware);
}

static void firmware_that_ends_tells_its_story(void **state)
{
    (void)state;
    check_end("RETURNS", WAD_RUN_RETURNED, "main returned");
    check_end("NULL_POINTER", WAD_RUN_CRASHED, "null pointer");
    check_end("RECURSES", WAD_RUN_CRASHED, "stack overflow");
    check_end("DIVIDES", WAD_RUN_CRASHED, "division by zero");
    check_end("HANGS", WAD_RUN_HUNG, "without touching a register");
}

static void check_plain_end(const char *odd, const char *chip, const char *story, unsigned finding)
{
    char *why = NULL, *path = g_strdup_printf(FIRMWARE_DIR "/odd_plain_%s.wfw", odd);
    wad_sheet *own = test_chip(chip);
    wad_sim *sim = wad_sim_new(own, &why);
    if (!wad_sim_load(sim, path, &why))
        fail_msg("%s", why);
    wad_run_result r = wad_sim_run(sim, 20 * MS);
    unsigned line = test_marked_line("odd_plain.c", odd);
    if (r.end == WAD_RUN_TIME || !strstr(r.story, story) || r.place.line < line ||
        r.place.line > line + 4)
        fail_msg("%s: ended %d at line %u, not %u: %s", odd, (int)r.end, r.place.line, line,
                 r.story);
    assert_int_equal(wad_sim_finding_count(sim), finding != 0);
    if (finding) {
        assert_int_equal(wad_sim_finding(sim, 0)->kind, finding);
        assert_int_equal(wad_sim_finding(sim, 0)->places[0].line, line);
    }
    wad_sim_free(sim);
    wad_sheet_free(own);
    g_free(path);
}

static void plain_firmware_that_ends_tells_its_story(void **state)
{
    (void)state;
    check_plain_end("EXITS", "corran32", "called exit(3)", 0);
    check_plain_end("ABORTS", "corran32", "called abort()", 0);
    check_plain_end("NOTHING_THERE", "corran32",
                    "bus fault: read of 0x50000000, where nothing is; the firmware has no "
                    "handle_bus_fault",
                    103);
    check_plain_end("MISALIGNED", "corran32", "misaligned 32-bit access at 0x2000", 203);
    check_plain_end("LOW_ADDRESS", "corran16", "let the generated header's WAD_ADDRESS() make it",
                    0);
    check_plain_end("RECURSION", "corran32", "stack overflow", 0);
    check_plain_end("NULL_READ", "corran32", "null pointer", 0);
}

/* The chip's own handler runs, and may go on for ever. */
static void a_bus_fault_enters_its_handler(void **state)
{
    (void)state;
    wad_sim *sim = loaded("odd_plain_FAULT_HANDLED");
    wad_run_result r = wad_sim_run(sim, MS);
    assert_int_equal(r.end, WAD_RUN_TIME);
    assert_int_equal(wad_sim_level(sim, wad_sheet_pin(sheet, "PC3")), WAD_HIGH);
    assert_int_equal(wad_sim_finding(sim, 0)->kind, WAD_FINDING_UNMAPPED);
    wad_sim_free(sim);
}

/* for (;;); is a fine main loop: time passes in it, handlers run. */
static void empty_main_loop_lets_time_pass(void **state)
{
    (void)state;
    wad_sim *sim = loaded("odd_EMPTY_LOOP");
    wad_meter m;
    wad_meter_init(&m, 0, UINT64_MAX);
    wad_sim_watch_pin(sim, wad_sheet_pin(sheet, "PC3"), (wad_pin_fn)(void (*)(void))wad_meter_edge,
                      &m);
    wad_run_result r = wad_sim_run(sim, 100 * MS);
    assert_int_equal(r.end, WAD_RUN_TIME);
    assert_in_range(m.rises, 49, 50);
    assert_true(r.awake_ps == r.end_ps); /* an empty loop does not sleep */
    wad_sim_free(sim);
}

static uint64_t pulses(wad_sim *sim)
{
    wad_meter m;
    wad_meter_init(&m, 0, UINT64_MAX);
    wad_sim_watch_pin(sim, wad_sheet_pin(sheet, "PC3"), (wad_pin_fn)(void (*)(void))wad_meter_edge,
                      &m);
    wad_sim_run(sim, MS);
    uint64_t first = m.rises;
    wad_sim_run(sim, MS);
    return first * 100 + (m.rises - first);
}

/* The firmware counts a variable up and shows it as pulses: 7 in every run, never 8. */
static void variables_are_put_back_at_reset(void **state)
{
    (void)state;
    wad_sim *sim = loaded("odd_STATICS");
    assert_int_equal(pulses(sim), 707);
    wad_sim_free(sim);
}

static void same_firmware_loads_twice_with_its_own_variables(void **state)
{
    (void)state;
    wad_sim *a = loaded("odd_STATICS"), *b = loaded("odd_STATICS");
    assert_int_equal(pulses(a), 707);
    assert_int_equal(pulses(b), 707);
    wad_sim_free(b);
    wad_sim_free(a);
}

static void unfit_firmware_is_refused(void **state)
{
    (void)state;
    char *why = NULL, *folder = test_folder(), *path = g_build_filename(folder, "x.wfw", NULL);
    wad_sim *sim = wad_sim_new(sheet, &why);
    assert_false(wad_sim_load(sim, path, &why));
    assert_non_null(strstr(why, "there is no firmware"));
    g_free(why);
    g_file_set_contents(path, "no object at all", -1, NULL);
    assert_false(wad_sim_load(sim, path, &why));
    assert_non_null(strstr(why, "cannot load the firmware"));
    g_free(why);
    wad_sim_free(sim);
    /* a sheet with one word changed has another hash */
    char *text, *file = g_strdup(SOURCE_DIR "/chips/corran32.sheet");
    assert_true(g_file_get_contents(file, &text, NULL, NULL));
    memcpy(strstr(text, "made-up"), "new-one", 7);
    wad_diags *diags = wad_diags_new();
    wad_sheet *changed = wad_sheet_parse(text, strlen(text), "c.sheet", diags);
    sim = wad_sim_new(changed, &why);
    assert_false(wad_sim_load(sim, FIRMWARE_DIR "/odd_STATICS.wfw", &why));
    assert_non_null(strstr(why, "another version of Corran32's sheet"));
    g_free(why);
    wad_sim_free(sim);
    wad_sheet_free(changed);
    wad_diags_free(diags);
    g_free(text);
    g_free(file);
    g_free(path);
    test_remove(folder);
}

/* ---- interrupts ---- */

static struct {
    uint64_t at[16];
    char name[16];
    unsigned n;
} story;

static wad_sim *current;

static void tell(char what)
{
    if (story.n < 15) {
        story.at[story.n] = wad_sim_now(current);
        story.name[story.n++] = what;
    }
}

static void clear(uintptr_t base)
{
    wad_clear(base, corran32_counter_roles.wrap);
}

static void slow_handler(void)
{
    tell('s');
    clear(CORRAN32_CNT0_BASE);
    wad_port_cycles(8000); /* 1 ms at 8 MHz: the urgent one comes in the middle */
    tell('S');
}

static void urgent_handler(void)
{
    tell('u');
    clear(CORRAN32_CNT1_BASE);
    wad_port_cycles(800);
    tell('U');
}

static void start_timer(const wad_block *block, uint32_t reload, unsigned priority)
{
    const wad_counter_roles *r = &corran32_counter_roles;
    wad_block_up(block, 1000);
    wad_put(block->base, r->reload, reload);
    wad_put(block->base, r->load, 1);
    wad_put(block->base, r->one_shot, 1);
    wad_clear(block->base, r->wrap);
    wad_put(block->base, r->wrap_irq, 1);
    (void)!wad_irq_enable(block->irq, priority);
    wad_put(block->base, r->enable, 1);
}

static unsigned urgent_priority;

static int nesting_main(void)
{
    start_timer(&corran32_cnt0.block, 8000, 2);
    start_timer(&corran32_cnt1.block, 12000, urgent_priority);
    wad_irq_global_on();
    for (;;)
        wad_port_sleep();
    return 0;
}

static const char *run_nesting(unsigned priority)
{
    static const wad_handler handlers[12] = {[8] = slow_handler, [9] = urgent_handler};
    memset(&story, 0, sizeof story);
    urgent_priority = priority;
    current = new_sim(nesting_main, handlers);
    wad_sim_run(current, 5 * MS);
    wad_sim_free(current);
    return story.name;
}

static void more_urgent_interrupts_nest(void **state)
{
    (void)state;
    assert_string_equal(run_nesting(1), "suUS");
    /* entry cost of the sheet: 16 cycles of 125 ns at least between event and first access */
    assert_true(story.at[1] - story.at[0] > MS / 3);
}

static void equally_urgent_interrupts_wait(void **state)
{
    (void)state;
    assert_string_equal(run_nesting(2), "sSuU");
}

static int masked_main(void)
{
    start_timer(&corran32_cnt0.block, 100, 0);
    wad_irq_global_on();
    uint32_t outer = wad_irq_save();
    uint32_t inner = wad_irq_save();
    wad_port_cycles(1000);
    tell('a');
    wad_irq_restore(inner);
    wad_port_cycles(100);
    tell('b');
    wad_irq_restore(outer);
    tell('c');
    for (;;)
        wad_port_sleep();
    return 0;
}

static void lock_nests_and_delays_the_handler(void **state)
{
    static const wad_handler handlers[12] = {[8] = slow_handler};
    (void)state;
    memset(&story, 0, sizeof story);
    current = new_sim(masked_main, handlers);
    wad_sim_run(current, 5 * MS);
    wad_sim_free(current);
    assert_string_equal(story.name, "absSc");
}

static int stale_sleep_main(void)
{
    start_timer(&corran32_cnt0.block, 4000, 0);
    tell('1');
    wad_port_sleep(); /* masked: ends on pending and enabled, the handler does not run */
    tell('2');
    wad_irq_global_on();
    tell('3');
    for (;;)
        wad_port_sleep();
    return 0;
}

static void sleep_ends_on_a_masked_interrupt(void **state)
{
    static const wad_handler handlers[12] = {[8] = slow_handler};
    (void)state;
    memset(&story, 0, sizeof story);
    current = new_sim(stale_sleep_main, handlers);
    wad_run_result r = wad_sim_run(current, 5 * MS);
    wad_sim_free(current);
    assert_string_equal(story.name, "12sS3");
    assert_in_range(story.at[1] - story.at[0], MS / 2 - MS / 50, MS / 2 + MS / 50);
    assert_true(r.awake_ps < r.end_ps / 2);
}

static struct {
    bool before, after, off;
    int current, served;
    wad_status bad_line, bad_priority;
} controller;

static void current_handler(void)
{
    clear(CORRAN32_CNT0_BASE);
    controller.served = wad_irq_current();
}

static int controller_main(void)
{
    controller.bad_line = wad_irq_enable(-1, 0);
    controller.bad_priority = wad_irq_enable(8, 4);
    start_timer(&corran32_cnt0.block, 100, 3);
    controller.before = wad_irq_pending(8);
    wad_port_cycles(1000);
    controller.after = wad_irq_pending(8);
    controller.current = wad_irq_current();
    wad_irq_disable(8);
    wad_irq_global_on(); /* disabled: the handler must not come */
    controller.off = controller.served == 0;
    (void)!wad_irq_enable(8, 3);
    for (;;)
        wad_port_sleep();
    return 0;
}

static void controller_tells_and_obeys(void **state)
{
    static const wad_handler handlers[12] = {[8] = current_handler};
    (void)state;
    memset(&controller, 0, sizeof controller);
    current = new_sim(controller_main, handlers);
    wad_sim_run(current, MS);
    wad_sim_free(current);
    assert_int_equal(controller.bad_line, WAD_E_ARG);
    assert_int_equal(controller.bad_priority, WAD_E_RANGE);
    assert_false(controller.before);
    assert_true(controller.after);
    assert_int_equal(controller.current, 8);
    assert_true(controller.off);
    assert_int_equal(controller.served, 8);
}

/* ---- clocks ---- */

static wad_sim *clock_sim;
static uint64_t ready_after;

static int clock_main(void)
{
    wad_rational hz;
    uint64_t from = wad_sim_now(clock_sim);
    (void)!wad_clock_start(&corran32_clock_xtal, 100000);
    ready_after = wad_sim_now(clock_sim) - from;
    wad_put(CORRAN32_CLK_BASE, corran32_clocks_sel_core, CORRAN32_CLOCKS_SEL_CORE_XTAL);
    wad_put(CORRAN32_CLK_BASE, corran32_clocks_sel_pdiv, 2);
    assert_true(wad_sim_clock_hz(clock_sim, wad_sheet_clock(sheet, "per"), &hz));
    assert_int_equal(hz.num, 3000000);
    assert_int_equal(corran32_clock_per.hz(), 3000000);
    for (;;)
        wad_port_sleep();
    return 0;
}

static void clocks_take_their_time_and_divide(void **state)
{
    (void)state;
    clock_sim = new_sim(clock_main, NULL);
    wad_sim_run(clock_sim, 10 * MS);
    assert_in_range(ready_after, 2 * MS, 2 * MS + MS / 1000);
    wad_sim_free(clock_sim);
}

#define BASE CORRAN32_CNT0_BASE

/* Halves the timer's clock in the middle of a period: no tick is lost or won. */
static int divider_main(void)
{
    wad_block_up(&corran32_cnt0.block, 1000);
    wad_put(BASE, corran32_counter_roles.reload, 65535);
    wad_put(BASE, corran32_counter_roles.load, 1);
    wad_put(BASE, corran32_counter_roles.enable, 1);
    uint32_t from = wad_get(BASE, corran32_counter_roles.count);
    for (unsigned i = 0; i < 100; i++) {
        wad_put(CORRAN32_CLK_BASE, corran32_clocks_sel_pdiv, i & 1);
        wad_port_cycles(160);
    }
    story.at[0] = wad_get(BASE, corran32_counter_roles.count) - from;
    wad_put(BASE, corran32_counter_roles.enable, 0);
    for (;;)
        wad_port_sleep();
    return 0;
}

static void divider_changes_lose_no_tick(void **state)
{
    (void)state;
    wad_sim *sim = new_sim(divider_main, NULL);
    wad_sim_run(sim, 10 * MS);
    /* 164 cycles at full and at half rate in turn; accesses of one full step stand around */
    assert_in_range(story.at[0], 50 * 164 * 3 / 2 - 5, 50 * 164 * 3 / 2 + 5);
    wad_sim_free(sim);
}

/* ---- what the access kinds mean ---- */

static const char kinds_sheet[] =
    "chip K {\n bus little 32\n clock core 8 MHz\n block A at 0x1000 like l\n"
    " block T at 0x2000 like timer {\n irq 0\n }\n block I at 0x3000 like lines\n}\n"
    "layout l {\n"
    " reg R at 0x00 rw reset 0xF0 {\n 3:0 RW rw\n 7:4 RO ro\n 11:8 C w1c\n 15:12 S w1s\n"
    "  19:16 WO wo\n }\n"
    " reg SET at 0x04 sets R\n reg CLR at 0x08 clears R\n reg TGL at 0x0C toggles R\n"
    " reg RX at 0x10 ro reset 0x55\n reg TX at 0x10 wo\n"
    " reg RC at 0x14 rc reset 0x7 {\n 2:0 F rc\n }\n"
    " reg B at 0x18 rw width 8\n reg H at 0x1A rw width 16\n"
    " reg Z at 0x1C rw reset 0x0303 {\n 1:0 LOWER w0c\n 9:8 UPPER w0c\n }\n"
    " reg W at 0x20 w1c reset 0xF {\n 3:0 F w1c\n }\n reg WCLR at 0x24 clears W\n}\n"
    "layout timer {\n reg CTRL at 0 rw {\n 0 EN rw\n 1 IRQ rw\n }\n"
    " reg HI at 4 rw {\n 7:0 V rw\n }\n reg LO at 8 rw {\n 7:0 V rw\n }\n"
    " reg STAT at 12 w1c {\n 0 WRAP w1c\n }\n"
    " reg CNT at 16 rw {\n 15:0 V rw\n }\n"
    " value RELOAD = HI.V : LO.V write high first\n"
    " acts as counter { enable CTRL.EN, wrap STAT.WRAP, wrap_irq CTRL.IRQ, count CNT.V,"
    " reload RELOAD plus 1 }\n}\n"
    "layout lines {\n reg EN at 0 rw {\n 0 LINE[8] rw\n }\n acts as interrupts { enable[n] "
    "EN.LINE[n] "
    "}\n}\n";

static uint32_t got[16];

static int kinds_main(void)
{
    const uintptr_t a = 0x1000;
    unsigned n = 0;
    got[n++] = wad_port_read32(a, 0);
    wad_port_write32(a, 0, 0xF000A); /* rw and wo taken; w1s none */
    got[n++] = wad_port_read32(a, 0);
    wad_port_write32(a, 0x04, 0x4005); /* sets: rw bits, and write-1-to-set through the alias */
    got[n++] = wad_port_read32(a, 0);
    wad_port_write32(a, 0x08, 0x3);
    got[n++] = wad_port_read32(a, 0);
    wad_port_write32(a, 0x0C, 0xF);
    got[n++] = wad_port_read32(a, 0);
    wad_port_write32(a, 0x10, 0x99); /* goes to TX; RX reads on */
    got[n++] = wad_port_read32(a, 0x10);
    got[n++] = wad_port_read32(a, 0x14);
    got[n++] = wad_port_read32(a, 0x14); /* cleared by the first read */
    wad_port_write8(a, 0x18, 0xAB);
    wad_port_write16(a, 0x1A, 0x1234);
    got[n++] = wad_port_read8(a, 0x18);
    got[n++] = wad_port_read16(a, 0x1A);
    wad_port_write8(a, 0x1C, 0xFE); /* bit 0 alone: the other byte's flags stay */
    got[n++] = wad_port_read32(a, 0x1C);
    wad_port_write8(a, 0x1D, 0xFD);
    got[n++] = wad_port_read32(a, 0x1C);
    wad_port_write32(a, 0x24, 0x4); /* through the alias: the bits written, and no others */
    got[n++] = wad_port_read32(a, 0x20);
    const wad_field two = {.off = 0x1A, .lsb = 4, .width = 4, .size = 2},
                    other = {.off = 0x1A, .lsb = 12, .width = 2, .size = 2};
    wad_only2(a, two, 9, other, 3); /* the rest becomes 0 */
    got[n++] = wad_port_read16(a, 0x1A);
    for (;;)
        wad_port_sleep();
    return 0;
}

static wad_sheet *kinds(void)
{
    wad_diags *diags = wad_diags_new();
    wad_sheet *s = wad_sheet_parse(kinds_sheet, strlen(kinds_sheet), "kinds.sheet", diags);
    wad_diags_print(diags, stderr);
    wad_diags_free(diags);
    assert_non_null(s);
    return s;
}

static void access_kinds_do_what_they_say(void **state)
{
    (void)state;
    char *why = NULL;
    wad_sheet *s = kinds();
    wad_sim *sim = wad_sim_new(s, &why);
    wad_sim_attach(sim, kinds_main, NULL, 0);
    wad_sim_run(sim, MS);
    static const uint32_t want[] = {0xF0, 0xFA, 0x40FF, 0x40FC, 0x40F3, 0x55, 7,
                                    0,    0xAB, 0x1234, 0x302,  0x102,  0xB,  0x3090};
    for (unsigned i = 0; i < G_N_ELEMENTS(want); i++)
        if (got[i] != want[i])
            fail_msg("access %u: 0x%x, not 0x%x", i, got[i], want[i]);
    wad_sim_free(sim);
    wad_sheet_free(s);
}

/* ---- a start and all it starts with, in one write ---- */

static const char starts_sheet[] =
    "chip O {\n bus little 32\n cpu armv6m access 2\n clock core 8 MHz\n clock slow 1 MHz\n"
    " clock cnt law pick T.CTRL.SRC { 0 slow, 1 core }\n"
    " block T at 0x2000 like timer {\n clock cnt\n irq 0\n }\n"
    " block INT at 0x3000 like lines\n}\n"
    "layout timer {\n reg CTRL at 0 rw reset 0 {\n 0 EN rw\n 1 SRC rw\n"
    " 2 IRQ rw\n 6:4 DIV rw stable CTRL.EN = 1\n }\n reg TOP at 4 rw reset 0 {\n 15:0 V rw\n }\n"
    " reg STAT at 8 w1c reset 0 {\n 0 WRAP w1c\n }\n"
    " acts as counter { enable CTRL.EN, prescale CTRL.DIV power 2, reload TOP.V plus 1,"
    " wrap STAT.WRAP, wrap_irq CTRL.IRQ }\n}\n"
    "layout lines {\n reg EN at 0 rw {\n 0 LINE[8] rw\n }\n acts as interrupts { enable[n] "
    "EN.LINE[n] "
    "}\n}\n";

static struct {
    wad_sim *sim;
    uint32_t words[2]; /* of CTRL, one after the other; 0: only the second */
    uint64_t begun, ends[3];
    unsigned n;
} start;

static int start_main(void)
{
    wad_port_write32(0x2000, 4, 99);
    wad_port_write32(0x3000, 0, 1);
    wad_port_irq_on();
    wad_port_cycles(1237); /* at no edge of anybody's prescaler */
    if (start.words[0])
        wad_port_write32(0x2000, 0, start.words[0]);
    wad_port_write32(0x2000, 0, start.words[1]);
    start.begun = wad_sim_now(start.sim);
    for (;;)
        wad_port_sleep();
    return 0;
}

static void on_start_wrap(void)
{
    if (start.n < 3)
        start.ends[start.n++] = wad_sim_now(start.sim);
    wad_port_write32(0x2000, 8, 1);
    if (start.n == 3) /* stopped, and on its other source, by one write as well */
        wad_port_write32(0x2000, 0, (start.words[1] ^ 2) & ~UINT32_C(1));
}

static void a_start_may_come_with_all_its_settings(void **state)
{
    static const wad_handler handlers[1] = {on_start_wrap};
    wad_diags *diags = wad_diags_new();
    wad_sheet *s = wad_sheet_parse(starts_sheet, strlen(starts_sheet), "o.sheet", diags);
    (void)state;
    wad_diags_print(diags, stderr);
    wad_diags_free(diags);
    assert_non_null(s);
    for (uint32_t source = 0; source < 2; source++)
        for (uint32_t div = 0; div < 8; div++)
            for (unsigned apart = 0; apart < 2; apart++) {
                uint32_t settings = source << 1 | 4 | div << 4;
                uint64_t count = (source ? 125000u : 1000000u) << div, whole = 100 * count;
                char *why = NULL;
                start.sim = wad_sim_new(s, &why);
                start.words[0] = apart ? settings : 0;
                start.words[1] = settings | 1;
                start.n = 0;
                wad_sim_attach(start.sim, start_main, handlers, 1);
                wad_sim_run(start.sim, MS + 4 * whole);
                for (unsigned i = 0; i < wad_sim_finding_count(start.sim); i++)
                    fail_msg("W%u: %s", wad_sim_finding(start.sim, i)->kind,
                             wad_sim_finding(start.sim, i)->what);
                assert_int_equal(start.n, 3);
                /* the way into the handler takes 16 cycles and some */
                uint64_t first = start.ends[0] - start.begun, next = start.ends[1] - start.ends[0];
                assert_in_range(next, whole - 500000, whole + 500000);
                if (first + 500000 < whole || first > whole + count + 3000000)
                    fail_msg("source %u, divider %u: %.3f us, not %.3f", source, 1u << div,
                             (double)first / 1e6, (double)whole / 1e6);
                wad_sim_free(start.sim);
            }
    wad_sheet_free(s);
}

static int split_main(void)
{
    const uintptr_t t = 0x2000;
    wad_port_write32(t, 4, 1); /* 0x1F3 + 1 = 500 counts */
    wad_port_write32(t, 8, 0xF3);
    wad_port_write32(t, 0, 3);
    wad_port_write32(0x3000, 0, 1);
    wad_port_irq_on();
    for (;;)
        wad_port_sleep();
    return 0;
}

static void split_handler(void)
{
    wad_port_write32(0x2000, 12, 1);
    story.at[story.n++ & 7] = wad_sim_now(current);
}

/* A reload in two byte registers: 500 counts of 8 MHz. */
static void split_value_is_one_number_to_the_model(void **state)
{
    static const wad_handler handlers[] = {split_handler};
    (void)state;
    char *why = NULL;
    wad_sheet *s = kinds();
    memset(&story, 0, sizeof story);
    current = wad_sim_new(s, &why);
    wad_sim_attach(current, split_main, handlers, 1);
    wad_sim_run(current, MS);
    assert_int_equal(story.n, 15);
    assert_int_equal(story.at[5] - story.at[4], 500 * 125000);
    wad_sim_free(current);
    wad_sheet_free(s);
}

static void pin_level_handler(void)
{
    tell('h');
    if (story.n > 3) /* served three times, then masked at the port */
        wad_put(CORRAN32_PINB_BASE, wad_at(corran32_gpio_roles.irq, 4), 0);
    wad_clear(CORRAN32_PINB_BASE, wad_at(corran32_gpio_roles.flag, 4));
}

static int pin_level_main(void)
{
    (void)!wad_pin_input(CORRAN32_PB4, WAD_PULL_UP);
    (void)!wad_pin_on_edge(CORRAN32_PB4, WAD_LEVEL_LOW, 0);
    tell('m');
    wad_irq_global_on();
    for (;;)
        wad_port_sleep();
    return 0;
}

static void press(wad_sim *sim, void *ctx)
{
    (void)ctx;
    wad_sim_drive(sim, wad_sheet_pin(sheet, "PB4"), WAD_LOW);
}

/* A level interrupt comes again as long as the level lasts, however often its flag is cleared. */
static void level_interrupt_lasts_as_long_as_the_level(void **state)
{
    static const wad_handler handlers[12] = {[2] = pin_level_handler};
    (void)state;
    memset(&story, 0, sizeof story);
    current = new_sim(pin_level_main, handlers);
    wad_sim_at(current, MS, press, NULL);
    wad_sim_run(current, 3 * MS);
    assert_string_equal(story.name, "mhhh");
    assert_true(story.at[1] >= MS);
    wad_sim_free(current);
}

/* ---- two chips, models of one's own ---- */

static int lamp_like_main(void)
{
    static const wad_route route = CORRAN32_ROUTE_CNT1_CH0_PA0;
    wad_block_up(&corran32_cnt1.block, 1000);
    (void)!wad_pin_route(route);
    start_timer(&corran32_cnt0.block, 4000, 0);
    for (;;)
        wad_port_sleep();
    return 0;
}

static gpointer run_in_thread(gpointer data)
{
    wad_run_result r = wad_sim_run(data, WAD_PS_PER_S);
    return GINT_TO_POINTER(r.end == WAD_RUN_TIME);
}

static void two_chips_in_two_threads(void **state)
{
    static const wad_handler handlers[12] = {[8] = slow_handler};
    (void)state;
    memset(&story, 0, sizeof story);
    story.n = 15; /* the handlers of both must not tell */
    wad_sim *a = new_sim(lamp_like_main, handlers), *b = new_sim(lamp_like_main, handlers);
    GThread *ta = g_thread_new("a", run_in_thread, a), *tb = g_thread_new("b", run_in_thread, b);
    assert_true(GPOINTER_TO_INT(g_thread_join(ta)));
    assert_true(GPOINTER_TO_INT(g_thread_join(tb)));
    assert_int_equal(wad_sim_now(a), wad_sim_now(b));
    wad_sim_free(a);
    wad_sim_free(b);
}

/* One chip's run ends while another's firmware crashes: the handlers are still in place. */
static void end_of_one_run_leaves_the_other_guarded(void **state)
{
    (void)state;
    wad_sim *shortest = new_sim(lamp_like_main, NULL);
    wad_sim *crashing = loaded("odd_HANGS");
    wad_sim_set_host_limit(crashing, 1);
    GThread *thread = g_thread_new("hangs", run_in_thread, crashing);
    wad_sim_run(shortest, MS);
    assert_false(GPOINTER_TO_INT(g_thread_join(thread))); /* given up, not hung for ever */
    wad_sim_free(shortest);
    wad_sim_free(crashing);
}

enum {
#define ROLE(name, sort, need, text) ROLE_##name,
    WAD_ROLES_COUNTER(ROLE)
#undef ROLE
};

/* A counter of one's own: every read of the count gives the next square. */
static void squares(wad_model *m, wad_role_set roles)
{
    uint32_t *n = wad_model_state(m);
    (void)roles;
    ++*n;
    wad_model_put(m, ROLE_count, 0, *n * *n);
}

static int squares_main(void)
{
    wad_block_up(&corran32_cnt2.block, 1000);
    for (unsigned i = 0; i < 3; i++)
        story.at[i] = wad_get(CORRAN32_CNT2_BASE, corran32_counter_roles.count);
    for (;;)
        wad_port_sleep();
    return 0;
}

static void own_model_takes_a_blocks_place(void **state)
{
    static const wad_model_class cls = {.kind = "counter",
                                        .state_size = sizeof(uint32_t),
                                        .live = WAD_ROLE_BIT(ROLE_count),
                                        .refresh = squares};
    (void)state;
    char *why;
    wad_sim *sim = new_sim(squares_main, NULL);
    assert_true(wad_sim_register(sim, &cls, "CNT2", &why));
    assert_false(wad_sim_register(sim, &cls, "PINA", &why));
    assert_string_equal(why, "PINA is of kind 'gpio', and the model of kind 'counter'");
    g_free(why);
    assert_false(wad_sim_register(sim, &cls, "CNT9", &why));
    assert_string_equal(why, "Corran32 has no block or unit 'CNT9'");
    g_free(why);
    wad_sim_run(sim, MS);
    assert_int_equal(story.at[0], 1);
    assert_int_equal(story.at[1], 4);
    assert_int_equal(story.at[2], 9);
    wad_sim_free(sim);
}

static unsigned events;

static void count_event(wad_sim *sim, void *ctx)
{
    (void)sim;
    (void)ctx;
    events++;
}

static void cleared_events_do_not_come(void **state)
{
    (void)state;
    wad_sim *sim = new_sim(lamp_like_main, NULL);
    wad_sim_at(sim, MS / 2, count_event, NULL);
    events = 0;
    wad_sim_run(sim, MS);
    wad_sim_run(sim, MS);
    assert_int_equal(events, 2); /* kept for later runs */
    wad_sim_clear_events(sim);
    wad_sim_run(sim, MS);
    assert_int_equal(events, 2);
    wad_sim_free(sim);
}

/* The controller of interrupts may be one's own, too: nothing points to the one that was there. */
static void own_model_of_the_interrupt_controller(void **state)
{
    static const wad_model_class cls = {.kind = "interrupts", .state_size = 8};
    char *why;
    (void)state;
    wad_sim *sim = new_sim(lamp_like_main, NULL);
    assert_true(wad_sim_register(sim, &cls, "INT", &why));
    const wad_run_result r = wad_sim_run(sim, 10 * MS);
    assert_int_equal(r.end, WAD_RUN_TIME);
    wad_sim_free(sim);
}

/* A pin 0 with function 0 is a pin, and not none. */
static void pin_0_is_a_pin(void **state)
{
    (void)state;
    assert_true(WAD_ROUTE(0, 0) != 0);
}

static void peek_has_no_side_effects(void **state)
{
    (void)state;
    uint32_t value;
    wad_sim *sim = new_sim(lamp_like_main, NULL);
    wad_sim_run(sim, MS);
    assert_true(wad_sim_peek(sim, 0x40000010, &value));
    assert_int_equal(value, 0x301);
    assert_false(wad_sim_peek(sim, 0x50000000, &value));
    wad_sim_free(sim);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(firmware_that_ends_tells_its_story),
        cmocka_unit_test(plain_firmware_that_ends_tells_its_story),
        cmocka_unit_test(a_bus_fault_enters_its_handler),
        cmocka_unit_test(empty_main_loop_lets_time_pass),
        cmocka_unit_test(variables_are_put_back_at_reset),
        cmocka_unit_test(same_firmware_loads_twice_with_its_own_variables),
        cmocka_unit_test(unfit_firmware_is_refused),
        cmocka_unit_test(more_urgent_interrupts_nest),
        cmocka_unit_test(equally_urgent_interrupts_wait),
        cmocka_unit_test(lock_nests_and_delays_the_handler),
        cmocka_unit_test(sleep_ends_on_a_masked_interrupt),
        cmocka_unit_test(controller_tells_and_obeys),
        cmocka_unit_test(clocks_take_their_time_and_divide),
        cmocka_unit_test(divider_changes_lose_no_tick),
        cmocka_unit_test(access_kinds_do_what_they_say),
        cmocka_unit_test(a_start_may_come_with_all_its_settings),
        cmocka_unit_test(split_value_is_one_number_to_the_model),
        cmocka_unit_test(level_interrupt_lasts_as_long_as_the_level),
        cmocka_unit_test(two_chips_in_two_threads),
        cmocka_unit_test(end_of_one_run_leaves_the_other_guarded),
        cmocka_unit_test(own_model_takes_a_blocks_place),
        cmocka_unit_test(cleared_events_do_not_come),
        cmocka_unit_test(own_model_of_the_interrupt_controller),
        cmocka_unit_test(pin_0_is_a_pin),
        cmocka_unit_test(peek_has_no_side_effects),
    };
    return cmocka_run_group_tests(tests, set_up, tear_down);
}
