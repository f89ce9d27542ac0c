/* SPDX-License-Identifier: MIT */
/*
 * How late handlers are, on the simulated chip and on the stand-in's core: the same firmware,
 * raised from outside at the same times of the chip, and one law for both. Corran32: 16 cycles in,
 * 12 out, 6 from one handler to the next.
 */
#include "sim/core/cpu.h"
#include "sim/core/line.h"
#include "sim/core/sim.h"
#include "standin/core.h"
#include "support.h"

#define URGENT 1u
#define MIDDLE 2u
#define LATE   3u

typedef struct step {
    unsigned line;
    int entered,
        left;        /* what has to have happened before: a line's entry, a line's end; -1: time */
    uint64_t cycles; /* and so much later */
} step;

typedef struct scene {
    wad_sim *sim;
    const step *steps;
    unsigned n;
    GArray *records; /* wad_irq_record, at their ends */
} scene;

typedef struct raising {
    wad_event event;
    wad_sim *sim;
    unsigned line;
} raising;

static void raise_line(wad_event *e)
{
    raising *r = (raising *)e;
    wadi_line_force(r->sim, r->line, true);
    wadi_cpu_recheck(r->sim);
    g_free(r);
}

static void plan(scene *s, const step *st, uint64_t from)
{
    raising *r = g_new0(raising, 1);
    r->event.fn = raise_line;
    r->sim = s->sim;
    r->line = st->line;
    wad_sim_schedule(s->sim, &r->event, from + st->cycles * s->sim->cost.cycle_ps);
}

static void on_irq(void *ctx, const wad_irq_record *r)
{
    scene *s = ctx;
    for (unsigned i = 0; i < s->n; i++) {
        const step *st = &s->steps[i];
        if (r->left_ps ? st->left == (int)r->line : st->entered == (int)r->line)
            plan(s, st, r->left_ps ? r->left_ps : r->entered_ps);
    }
    if (r->left_ps)
        g_array_append_val(s->records, *r);
}

static void at_start(wad_sim *sim, void *ctx)
{
    scene *s = ctx;
    (void)sim;
    for (unsigned i = 0; i < s->n; i++)
        if (s->steps[i].entered < 0 && s->steps[i].left < 0)
            plan(s, &s->steps[i], WAD_PS_PER_S / 100);
}

/* In order of their ends. */
static GArray *play(const step *steps, unsigned n, bool on_core)
{
    wad_sheet *sheet = test_chip("corran32");
    char *why = NULL;
    wad_sim *sim = wad_sim_new(sheet, &why);
    scene s = {sim, steps, n, g_array_new(FALSE, FALSE, sizeof(wad_irq_record))};
    wadi_core *core = NULL;
    assert_non_null(sim);
    if (on_core) {
        core = wadi_core_new(sim, &why);
        assert_true(wadi_core_load(core, BUILD_DIR "/images/latency.elf", &why));
    } else if (!wad_sim_load(sim, FIRMWARE_DIR "/latency.wfw", &why)) {
        fail_msg("%s", why);
    }
    wad_sim_watch_irq(sim, on_irq, &s);
    wad_sim_at(sim, WAD_PS_PER_S / 200, at_start, &s);
    wad_run_result r = wad_sim_run(sim, WAD_PS_PER_S / 50);
    if (r.end != WAD_RUN_TIME)
        fail_msg("%s", r.story);
    wad_sim_free(sim);
    wadi_core_free(core);
    wad_sheet_free(sheet);
    return s.records;
}

static const wad_irq_record *of_line(const GArray *records, unsigned line)
{
    for (guint i = 0; i < records->len; i++)
        if (g_array_index(records, wad_irq_record, i).line == line)
            return &g_array_index(records, wad_irq_record, i);
    fail_msg("line %u was not served", line);
    return NULL;
}

/* Cycles of 125 ns: the chip starts at 8 MHz. */
static double cycles(uint64_t from, uint64_t to)
{
    return ((double)to - (double)from) / 125000;
}

typedef void (*judge)(const GArray *records, bool on_core);

static void both(const step *steps, unsigned n, judge look)
{
    for (int on_core = 0; on_core < 2; on_core++) {
        GArray *records = play(steps, n, on_core);
        look(records, on_core);
        g_array_free(records, TRUE);
    }
}

static void differ(const char *what, bool on_core, double is, double low, double high)
{
    if (is < low - 0.01 || is > high + 0.01)
        fail_msg("%s, %s: %g cycles, wanted %g to %g", on_core ? "the core" : "the simulator", what,
                 is, low, high);
}

static void look_entry(const GArray *records, bool on_core)
{
    const wad_irq_record *r = of_line(records, MIDDLE);
    differ("from idle", on_core, cycles(r->raised_ps, r->entered_ps), 16, 17);
}

static void from_idle_to_the_first_instruction(void **state)
{
    static const step steps[] = {{MIDDLE, -1, -1, 0}};
    (void)state;
    both(steps, 1, look_entry);
}

static void look_late(const GArray *records, bool on_core)
{
    const wad_irq_record *urgent = of_line(records, URGENT), *middle = of_line(records, MIDDLE);
    /* it takes the place of the one whose entry it came into */
    differ("the late one", on_core, cycles(middle->raised_ps, urgent->entered_ps), 16, 17);
    differ("the other one", on_core, cycles(urgent->left_ps, middle->entered_ps), 6, 6);
}

static void a_more_urgent_one_comes_during_the_entry(void **state)
{
    static const step steps[] = {{MIDDLE, -1, -1, 0}, {URGENT, -1, -1, 8}};
    (void)state;
    both(steps, 2, look_late);
}

static void look_chain(const GArray *records, bool on_core)
{
    const wad_irq_record *middle = of_line(records, MIDDLE), *late = of_line(records, LATE);
    differ("the chain", on_core, cycles(middle->left_ps, late->entered_ps), 6, 6);
}

static void the_next_one_waits_already(void **state)
{
    static const step steps[] = {{MIDDLE, -1, -1, 0}, {LATE, (int)MIDDLE, -1, 3}};
    (void)state;
    both(steps, 2, look_chain);
}

static void look_into_chain(const GArray *records, bool on_core)
{
    const wad_irq_record *middle = of_line(records, MIDDLE), *late = of_line(records, LATE);
    const wad_irq_record *urgent = of_line(records, URGENT);
    differ("into the chain", on_core, cycles(middle->left_ps, urgent->entered_ps), 6, 6);
    differ("and the one that waited", on_core, cycles(urgent->left_ps, late->entered_ps), 6, 6);
}

static void a_more_urgent_one_comes_into_the_chain(void **state)
{
    static const step steps[] = {
        {MIDDLE, -1, -1, 0}, {LATE, (int)MIDDLE, -1, 3}, {URGENT, -1, (int)MIDDLE, 3}};
    (void)state;
    both(steps, 3, look_into_chain);
}

static void look_nest(const GArray *records, bool on_core)
{
    const wad_irq_record *middle = of_line(records, MIDDLE), *urgent = of_line(records, URGENT);
    /* an access or an instruction that is under way ends first */
    differ("inside of another", on_core, cycles(urgent->raised_ps, urgent->entered_ps), 16, 20);
    assert_true(urgent->entered_ps > middle->entered_ps && urgent->left_ps < middle->left_ps);
}

static void a_more_urgent_one_interrupts_a_handler(void **state)
{
    static const step steps[] = {{MIDDLE, -1, -1, 0}, {URGENT, (int)MIDDLE, -1, 9}};
    (void)state;
    both(steps, 2, look_nest);
}

static void look_exit(const GArray *records, bool on_core)
{
    const wad_irq_record *middle = of_line(records, MIDDLE), *late = of_line(records, LATE);
    differ("during the way out", on_core, cycles(middle->left_ps, late->entered_ps), 12 + 16,
           12 + 16);
}

static void the_way_out_is_not_broken_off(void **state)
{
    static const step steps[] = {{MIDDLE, -1, -1, 0}, {LATE, -1, (int)MIDDLE, 5}};
    (void)state;
    both(steps, 2, look_exit);
}

/* The lines in the order of their ends; between one that ends and the next that begins it is a
 * chain, or at least the way out and in. */
static char *order_of(const GArray *records, bool on_core)
{
    GString *order = g_string_new(NULL);
    for (guint i = 0; i < records->len; i++) {
        const wad_irq_record *a = &g_array_index(records, wad_irq_record, i), *b = a + 1;
        g_string_append_printf(order, "%u ", a->line);
        if (i + 1 == records->len || b->entered_ps < a->left_ps)
            continue;
        double between = cycles(a->left_ps, b->entered_ps);
        if (between > 6.01)
            differ("between two", on_core, between, 28, 1e9);
        else
            differ("between two", on_core, between, 6, 6);
    }
    return g_string_free(order, FALSE);
}

static void many_at_once(void **state)
{
    static const step steps[] = {{LATE, -1, -1, 0},     {MIDDLE, -1, -1, 2},
                                 {URGENT, -1, -1, 4},   {LATE, -1, -1, 900},
                                 {URGENT, -1, -1, 901}, {MIDDLE, -1, -1, 2000}};
    char *orders[2];
    (void)state;
    for (int on_core = 0; on_core < 2; on_core++) {
        GArray *records = play(steps, G_N_ELEMENTS(steps), on_core);
        orders[on_core] = order_of(records, on_core);
        g_array_free(records, TRUE);
    }
    assert_string_equal(orders[0], "1 2 3 1 3 2 ");
    assert_string_equal(orders[1], orders[0]);
    g_free(orders[0]);
    g_free(orders[1]);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(from_idle_to_the_first_instruction),
        cmocka_unit_test(a_more_urgent_one_comes_during_the_entry),
        cmocka_unit_test(the_next_one_waits_already),
        cmocka_unit_test(a_more_urgent_one_comes_into_the_chain),
        cmocka_unit_test(a_more_urgent_one_interrupts_a_handler),
        cmocka_unit_test(the_way_out_is_not_broken_off),
        cmocka_unit_test(many_at_once),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
