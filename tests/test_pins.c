/* SPDX-License-Identifier: MIT */
/* Pins for signals: the plan against every assignment there is, and what the simulator makes of
 * them. */
#include <string.h>

#include "support.h"
#include "wadium/host/pinplan.h"
#include "wadium/port.h"

typedef struct signals {
    const wad_signal *of[64];
    unsigned n;
} signals;

static signals all_signals(const wad_sheet *s)
{
    signals list = {.n = 0};
    for (unsigned i = 0; i < s->n_blocks; i++)
        for (unsigned k = 0; k < s->blocks[i]->n_signals && list.n < 64; k++)
            list.of[list.n++] = &s->blocks[i]->signals[k];
    return list;
}

/* ---- brute force: every option of every wanted signal ---- */

typedef struct brute {
    const wad_sheet *sheet;
    const wad_signal *want[8];
    const wad_pin_def *now[8];
    bool fixed[8];
    unsigned option[8], n;
    const wad_pin_def *taken;
    unsigned least; /* moves; UINT_MAX: none works */
} brute;

/* All that stands on pins under the options chosen: with a group, the block's other signals too. */
static bool collides(const brute *b)
{
    const wad_pin_def *used[64];
    unsigned n = 0;
    if (b->taken)
        used[n++] = b->taken;
    for (unsigned i = 0; i < b->n; i++) {
        const wad_signal *s = b->want[i];
        const wad_pin_option *o = &s->options[b->option[i]];
        if (!s->block->route.reg) {
            used[n++] = o->pin;
            continue;
        }
        bool first = true;
        for (unsigned k = 0; k < i; k++)
            if (b->want[k]->block == s->block) {
                first = false;
                if (b->want[k]->options[b->option[k]].fn != o->fn)
                    return true; /* two groups at once */
            }
        for (unsigned k = 0; first && k < s->block->n_signals; k++)
            for (unsigned m = 0; m < s->block->signals[k].n_options; m++)
                if (s->block->signals[k].options[m].fn == o->fn)
                    used[n++] = s->block->signals[k].options[m].pin;
    }
    for (unsigned i = 0; i < n; i++)
        for (unsigned k = i + 1; k < n; k++)
            if (used[i] == used[k])
                return true;
    return false;
}

static void try_all(brute *b, unsigned at)
{
    if (at == b->n) {
        unsigned moves = 0;
        for (unsigned i = 0; i < b->n; i++) {
            const wad_pin_def *pin = b->want[i]->options[b->option[i]].pin;
            if (b->fixed[i] && pin != b->now[i])
                return;
            moves += b->now[i] && pin != b->now[i];
        }
        if (moves < b->least && !collides(b))
            b->least = moves;
        return;
    }
    for (unsigned k = 0; k < b->want[at]->n_options; k++) {
        b->option[at] = k;
        try_all(b, at + 1);
    }
}

static void one_random(const wad_sheet *sheet, GRand *rand)
{
    signals all = all_signals(sheet);
    brute b = {.sheet = sheet, .least = UINT_MAX};
    GPtrArray *wants = g_ptr_array_new_with_free_func(g_free);
    b.n = (unsigned)g_rand_int_range(rand, 1, 8);
    for (unsigned i = 0; i < b.n; i++) {
        const wad_signal *s = all.of[g_rand_int_range(rand, 0, (gint32)all.n)];
        bool twice = false;
        for (unsigned k = 0; k < i; k++)
            twice |= b.want[k] == s;
        if (twice) {
            b.n = i;
            break;
        }
        int how = g_rand_int_range(rand, 0, 4);
        b.want[i] = s;
        b.now[i] = how ? s->options[g_rand_int_range(rand, 0, (gint32)s->n_options)].pin : NULL;
        b.fixed[i] = how == 3;
        g_ptr_array_add(wants, g_strdup_printf("%s.%s%s%s", s->block->name, s->name,
                                               how == 3 ? "="
                                               : how    ? "@"
                                                        : "",
                                               how ? b.now[i]->name : ""));
    }
    if (g_rand_boolean(rand)) {
        b.taken = &sheet->pins[g_rand_int_range(rand, 0, (gint32)sheet->n_pins)];
        g_ptr_array_add(wants, g_strdup_printf("%s=horn", b.taken->name));
    }
    g_ptr_array_add(wants, NULL);
    try_all(&b, 0);
    char *why, *said = g_strjoinv(" ", (char **)wants->pdata);
    wad_pin_plan *plan = wad_pin_plan_make(sheet, NULL, (const char *const *)wants->pdata, &why);
    if (!plan)
        fail_msg("%s: %s", said, why);
    if (wad_pin_plan_works(plan) != (b.least != UINT_MAX))
        fail_msg("%s: %s", said, b.least != UINT_MAX ? "there is a plan" : "there is none");
    if (wad_pin_plan_works(plan) && wad_pin_plan_moves(plan) != b.least)
        fail_msg("%s: %u moves, %u would do", said, wad_pin_plan_moves(plan), b.least);
    brute given = b; /* what was planned must itself hold */
    for (unsigned i = 0; wad_pin_plan_works(plan) && i < b.n; i++)
        for (unsigned k = 0; k < wad_pin_plan_count(plan); k++) {
            const wad_pin_choice *c = wad_pin_plan_choice(plan, k);
            if (c->signal == b.want[i])
                given.option[i] = (unsigned)(c->given - c->signal->options);
        }
    if (wad_pin_plan_works(plan) && collides(&given))
        fail_msg("%s: the plan collides", said);
    g_free(said);
    wad_pin_plan_free(plan);
    g_ptr_array_free(wants, TRUE);
}

static void plans_have_the_fewest_moves(void **state)
{
    static const char *const chips[] = {"corran32", "corran16", "corran8"};
    GRand *rand = g_rand_new_with_seed(5);
    (void)state;
    for (unsigned i = 0; i < G_N_ELEMENTS(chips); i++) {
        wad_sheet *sheet = test_chip(chips[i]);
        for (unsigned n = 0; n < 3000; n++)
            one_random(sheet, rand);
        wad_sheet_free(sheet);
    }
    g_rand_free(rand);
}

/* ---- what is told ---- */

static char *told(const wad_sheet *sheet, const wad_board *board, const char *const *wants)
{
    char *why, *text;
    size_t size;
    wad_pin_plan *plan = wad_pin_plan_make(sheet, board, wants, &why);
    if (!plan)
        return why;
    FILE *f = open_memstream(&text, &size);
    wad_show_pin_plan(plan, f);
    fclose(f);
    wad_pin_plan_free(plan);
    char *copy = g_strdup(text);
    free(text);
    return copy;
}

static void expect(const wad_sheet *sheet, const wad_board *board, const char *wants,
                   const char *want)
{
    char **list = g_strsplit(wants, " ", -1);
    char *text = told(sheet, board, (const char *const *)list);
    if (!strstr(text, want))
        fail_msg("%s: wanted '%s' in:\n%s", wants, want, text);
    g_free(text);
    g_strfreev(list);
}

static void conflicts_are_named(void **state)
{
    static const char analog[] =
        "chip T {\n bus little 32\n clock core 8 MHz\n block P at 0 like port {\n carries PA[4]\n "
        "}\n"
        " block ADC at 0x100 like l {\n pins IN0 analog { PA0 fn 3 }\n }\n"
        " block U at 0x200 like l {\n pins TX out { PA0 fn 1, PA1 fn 1 }\n }\n}\n"
        "layout port {\n reg R at 0 rw\n}\nlayout l {\n reg R at 0 rw\n}\n";
    (void)state;
    wad_sheet *c32 = test_chip("corran32"), *c16 = test_chip("corran16"),
              *c8 = test_chip("corran8");
    wad_board *board = test_board("skerry");
    wad_diags *diags = wad_diags_new();
    wad_sheet *mixed = wad_sheet_parse(analog, strlen(analog), "t.sheet", diags);
    assert_non_null(mixed);
    expect(mixed, NULL, "ADC.IN0=PA0 U.TX@PA0",
           "conflict: PA0 is wanted by analog ADC.IN0 and by digital U.TX\n");
    expect(mixed, NULL, "ADC.IN0=PA0 U.TX@PA0",
           "U.TX           out    PA1    fn 1      moved from "
           "PA0\n1 move, the fewest there are\n");
    expect(c32, NULL, "UART0.TX@PA9 UART0.TX@PB6",
           "conflict: UART0.TX is wanted on PA9 and on PB6\n");
    expect(c32, NULL, "UART0.TX@PA9 PA9=button",
           "conflict: PA9 is wanted by UART0.TX and taken for button\n");
    expect(c32, NULL, "PA9=lamp PA9=button", "conflict: PA9 is taken for lamp and for button\n");
    expect(c32, NULL, "UART0.TX=PC3",
           "conflict: UART0.TX does not reach PC3: it reaches PA9, PB6\n");
    expect(c32, NULL, "UART0.TX=PC3",
           "no assignment meets these at once:\n  UART0.TX       fixed on "
           "PC3\n");
    expect(c16, NULL, "CNT1.CH0@P04 CNT1.CH1@P11",
           "conflict: CNT1 moves as a whole: CH0 on P04 and CH1 on P11 are of different groups\n");
    expect(c16, NULL, "CNT1.CH0=P04",
           "MAP.ROUTE        0x0004  CNT0 0 off, CNT1 1 group1, TIME 0 off, UART0 0 off, SPI0 0 "
           "off\n");
    expect(c8, NULL, "CNT0.CH0",
           "PORT1.FUNC is locked: open after 0x93, 0x6C to KEY, for 1 write\n");
    expect(c32, NULL, "UART0.RX=PA10", "PINA.FUNC[1]     0x00000200  PIN[10] 2\n");
    expect(c32, board, "CNT1.CH0", "CNT1.CH0       out    PB0    fn 3\n"); /* PA0 is LEVEL1's */
    expect(c32, board, "CNT1.CH0=PA0", "CNT1.CH0       out    PA0    fn 1      fixed\n");
    expect(c32, NULL, "UART0.TX=PA99", "Corran32 has no pin 'PA99'");
    expect(c32, NULL, "UART0@PA9", "'UART0@PA9' is no want: write BLOCK, ");
    wad_sheet_free(c32);
    wad_sheet_free(c16);
    wad_sheet_free(c8);
    wad_sheet_free(mixed);
    wad_board_free(board);
    wad_diags_free(diags);
}

/* ---- pins that a block takes by itself ---- */

#define CNT1 0x40010400u

static void set(uint32_t offset, uint32_t value)
{
    wad_port_write32(CNT1, offset, value);
}

/* Channel 0 of CNT1 on and off again: PA0 is its own meanwhile. */
static int use_and_let_go(void)
{
    wad_port_write32(0x40000000u, 0x10, 0x201);   /* gates of PINA and CNT1 */
    wad_port_write32(0x40000000u, 0x14, 0xF0D06); /* resets */
    wad_port_cycles(20);
    wad_port_write32(0x40002000u, 0x00, 1); /* PA0 driven ... */
    wad_port_write32(0x40002000u, 0x04, 1); /* ... high by its port */
    set(0x20, 2);                           /* clear on match */
    set(0x1C, 1);                           /* output on: low, for now */
    wad_port_cycles(1000);
    set(0x1C, 0); /* off: the port's level again */
    wad_port_cycles(1000);
    set(0x00, 1);
    while (CNT1)
        wad_port_sleep();
    return 0;
}

static void note_level(void *ctx, uint64_t ps, wad_level level)
{
    (void)ps;
    if (level != WAD_FLOATING)
        g_string_append_c(ctx, level == WAD_HIGH ? 'H' : 'L');
}

static void a_block_takes_its_pin_by_itself(void **state)
{
    (void)state;
    char *text, *why;
    gsize size;
    assert_true(g_file_get_contents(SOURCE_DIR "/chips/corran32.sheet", &text, &size, NULL));
    char **parts = g_strsplit(text, "PA0 fn 1", 2), *changed = g_strjoinv("PA0", parts);
    wad_diags *diags = wad_diags_new();
    wad_sheet *sheet = wad_sheet_parse(changed, strlen(changed), "t.sheet", diags);
    assert_non_null(sheet);
    wad_sim *sim = wad_sim_new(sheet, &why);
    GString *levels = g_string_new(NULL);
    wad_sim_watch_pin(sim, wad_sheet_pin(sheet, "PA0"), note_level, levels);
    wad_sim_attach(sim, use_and_let_go, NULL, 0);
    wad_run_result r = wad_sim_run(sim, WAD_PS_PER_S / 1000);
    assert_int_equal(r.end, WAD_RUN_TIME);
    assert_string_equal(levels->str, "LHLH"); /* driven low, high, the block's low, high again */
    assert_int_equal(wad_sim_finding_count(sim), 0);
    g_string_free(levels, TRUE);
    wad_sim_free(sim);
    wad_sheet_free(sheet);
    wad_diags_free(diags);
    g_strfreev(parts);
    g_free(changed);
    g_free(text);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(plans_have_the_fewest_moves),
        cmocka_unit_test(conflicts_are_named),
        cmocka_unit_test(a_block_takes_its_pin_by_itself),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
