/* SPDX-License-Identifier: MIT */
/* The clock tree shown, and its solver against every setting of the made-up chip's fields. */
#include <math.h>
#include <string.h>

#include "corran32_sheet.h"
#include "sheet/words/values.h"
#include "wadium/host/clocktree.h"

static char *tree(const wad_regs *regs, unsigned *broken)
{
    char *text;
    size_t size;
    FILE *f = open_memstream(&text, &size);
    *broken = wad_show_clocks(sheet, regs, f);
    fclose(f);
    return text;
}

static void expect(const char *text, const char *part)
{
    if (!strstr(text, part))
        fail_msg("wanted '%s' in:\n%s", part, text);
}

static void the_tree_follows_the_registers(void **state)
{
    unsigned broken;
    char *why;
    wad_regs *regs = wad_regs_new(sheet);
    (void)state;
    char *text = tree(regs, &broken);
    assert_int_equal(broken, 0);
    expect(text, "internal     8 MHz        +-10000 ppm\n");
    expect(text, "  core       8 MHz        +-10000 ppm\n    by CLK.SEL.CORE = 0 internal, "
                 "CLK.SEL.CDIV = 0\n");
    expect(text, "      gated: PINA, PINB, PINC, CNT0, CNT1, CNT2, CNT3, UART0, UART1, BASE,\n     "
                 "        ENC, SPI0, SPI1, FRM0, ADC0, DAC0\n");
    expect(text, "off: CLK.CTRL.XTALEN = 0\n");
    free(text);
    assert_true(wad_regs_set(regs, "CLK.SEL.CORE=xtal", &why));
    assert_true(wad_regs_set(regs, "CLK.CTRL=1", &why));
    assert_true(wad_regs_set(regs, "CLK.SEL.PDIV=2", &why));
    assert_true(wad_regs_set(regs, "CLK.GATE.CNT0=1", &why));
    assert_true(wad_regs_set(regs, "CLK.RESET.CNT0=0", &why));
    assert_true(wad_regs_set(regs, "CLK.RDONE=0x100", &why));
    text = tree(regs, &broken);
    expect(text, "xtal         12 MHz       +-30 ppm\n  core       12 MHz       +-30 ppm\n");
    expect(text, "    per      3 MHz        +-30 ppm\n");
    expect(text, "      feeds CNT0\n      gated: PINA");
    free(text);
    assert_true(wad_regs_set(regs, "CLK.CTRL.PLLEN=1", &why));
    assert_true(wad_regs_set(regs, "CLK.SEL.CORE=2", &why));
    text = tree(regs, &broken);
    assert_int_equal(broken, 1);
    expect(text, "wrong: 64 MHz is outside 1 Hz to 48 MHz\n");
    free(text);
    assert_false(wad_regs_set(regs, "CLK.SEL.CORE=pl", &why));
    assert_non_null(strstr(why, "it has 0 internal, 1 xtal, 2 pll, 3 slow"));
    g_free(why);
    wad_regs_free(regs);
}

/* The laws of chips/corran32.sheet once more, in C. */
static double brute(double core_hz, double per_hz, int src_held)
{
    double best = 1e9;
    for (int src = 0; src < 2; src++)
        for (int mul = 1; mul < 64; mul++)
            for (int div = 0; div < 16; div++)
                for (int sel = 0; sel < 4; sel++)
                    for (int cdiv = 0; cdiv < 8; cdiv++)
                        for (int pdiv = 0; pdiv < 8; pdiv++) {
                            double pll = (src ? 12e6 : 8e6) * (mul + 2) / (div + 1);
                            const double from[] = {8e6, 12e6, pll, 32768};
                            double core = from[sel] / (1 << cdiv), per = core / (1 << pdiv);
                            if ((sel == 2 && (pll < 16e6 || pll > 96e6 ||
                                              (src_held >= 0 && src != src_held))) ||
                                core > 48e6)
                                continue;
                            double off = fabs(core / core_hz - 1);
                            off = per_hz > 0 ? fmax(off, fabs(per / per_hz - 1)) : off;
                            best = fmin(best, off);
                        }
    return best * 1e6;
}

static double solved(double core_hz, double per_hz, int src_held)
{
    wad_clock_wish wishes[] = {
        {wad_sheet_clock(sheet, "core"), {(int64_t)core_hz, 1}},
        {wad_sheet_clock(sheet, "per"), {(int64_t)per_hz, 1}},
    };
    wad_clock_setting held = {.value = (uint64_t)src_held};
    wad_clock_plan plan;
    char *why;
    assert_true(wad_sheet_resolve(sheet, "CLK.PLL.SRC", &held.field, &why));
    if (!wad_clock_solve(sheet, wishes, per_hz > 0 ? 2 : 1, &held, src_held >= 0, &plan, &why))
        fail_msg("%s", why);
    double ppm = plan.worst_ppm;
    /* what is proposed gives what is promised */
    wad_regs *regs = wad_regs_new(sheet);
    for (unsigned i = 0; i < plan.n_settings; i++) {
        char *name = wad_fieldref_name(&plan.settings[i].field);
        char *set = g_strdup_printf("%s=%llu", name, (unsigned long long)plan.settings[i].value);
        assert_true(wad_regs_set(regs, set, &why));
        g_free(set);
        g_free(name);
    }
    wad_rational core, per;
    assert_true(wad_clock_rate(sheet, wishes[0].clock, wad_regs_read, regs, &core, NULL));
    assert_true(wad_clock_rate(sheet, wishes[1].clock, wad_regs_read, regs, &per, NULL));
    double off = fabs((double)core.num / (double)core.den / core_hz - 1);
    if (per_hz > 0)
        off = fmax(off, fabs((double)per.num / (double)per.den / per_hz - 1));
    assert_true(fabs(off * 1e6 - ppm) < 1e-6 * (1 + ppm));
    unsigned broken;
    free(tree(regs, &broken));
    assert_int_equal(broken, 0);
    wad_regs_free(regs);
    wad_clock_plan_clear(&plan);
    return ppm;
}

static void the_plan_is_the_best_of_all_settings(void **state)
{
    static const struct {
        double core, per;
        int src;
    } wishes[] = {{48e6, 24e6, -1}, {48e6, 24e6, 1}, {50e6, 0, -1},       {7372800, 0, -1},
                  {32768, 0, -1},   {1e6, 0, -1},    {33e6, 8250000, -1}, {11059200, 1382400, 1}};
    (void)state;
    for (unsigned i = 0; i < G_N_ELEMENTS(wishes); i++) {
        double want = brute(wishes[i].core, wishes[i].per, wishes[i].src);
        double got = solved(wishes[i].core, wishes[i].per, wishes[i].src);
        if (fabs(want - got) > 1e-3)
            fail_msg("core %g, per %g: %.6g ppm, best is %.6g", wishes[i].core, wishes[i].per, got,
                     want);
    }
}

static void what_is_exact_after_reset_changes_nothing(void **state)
{
    wad_clock_wish wish = {wad_sheet_clock(sheet, "core"), {8000000, 1}};
    wad_clock_plan plan;
    char *why;
    (void)state;
    assert_true(wad_clock_solve(sheet, &wish, 1, NULL, 0, &plan, &why));
    assert_int_equal(plan.n_settings, 0);
    assert_true(plan.worst_ppm == 0);
    wad_clock_plan_clear(&plan);
}

/* ---- a clock at a pin ---- */

typedef struct edges {
    uint64_t ps[4096];
    unsigned n;
} edges;

static void on_edge(void *ctx, uint64_t ps, wad_level level)
{
    edges *e = ctx;
    if (level != WAD_FLOATING && ps && e->n < G_N_ELEMENTS(e->ps))
        e->ps[e->n++] = ps;
}

static void watch(wad_sim *sim, void *ctx)
{
    wad_sim_watch_pin(sim, wad_sheet_pin(wad_sim_sheet(sim), "PC8"), on_edge, ctx);
}

/* examples/clock-out: each edge of the internal oscillator / 8 on its grid, with the bench's error,
 * high for half of each period. */
static void a_clock_comes_out_as_it_is(void **state)
{
    (void)state;
    wad_diags *diags = wad_diags_new();
    wad_bench_list *list = wad_bench_read(SOURCE_DIR "/examples/clock-out/clock_out.bench", diags);
    assert_non_null(list);
    edges *e = g_new0(edges, 1);
    wad_bench_options o = {.firmware_dir = FIRMWARE_DIR, .prepare = watch, .ctx = e};
    char *why;
    wad_bench_result *r = wad_bench_run(wad_bench_list_at(list, 0), &o, &why);
    assert_non_null(r);
    assert_true(r->passed);
    unsigned compared = 0;
    uint64_t first = e->ps[10]; /* a rising edge or a falling one: halves are equal */
    for (unsigned i = 11; i < e->n && e->ps[i] < UINT64_C(1900000000); i++, compared++) {
        /* i - 10 half periods of 8 MHz * 1.008 / 8 */
        uint64_t want = first + (uint64_t)((double)(i - 10) * 1e12 / (2 * 8e6 * 1.008 / 8) + 0.5);
        assert_true(e->ps[i] - want <= 1 || want - e->ps[i] <= 1);
    }
    assert_true(compared > 3000);
    g_free(e);
    wad_bench_result_free(r);
    wad_bench_list_free(list);
    wad_diags_free(diags);
}

static void errors_of_oscillators_are_checked(void **state)
{
    static const struct {
        const char *say, *want;
    } wrong[] = {{"clock inner off 1 %", "'inner' is no oscillator of the board's chip"},
                 {"clock core off 1 %", "'core' is no oscillator of the board's chip"},
                 {"clock internal off 51 %", "an oscillator is at most 50 % off"},
                 {"clock internal off 3", "expected a share"},
                 {"clock internal 1 %", "'off'"}};
    (void)state;
    wad_board *board = test_board("skerry");
    wad_bench *bench = wad_bench_new("clocks", board);
    for (unsigned i = 0; i < G_N_ELEMENTS(wrong); i++) {
        wad_diags *diags = wad_diags_new();
        assert_false(wad_bench_say(bench, wrong[i].say, diags));
        char *text = test_diags_text(diags);
        if (!strstr(text, wrong[i].want))
            fail_msg("%s: %s", wrong[i].say, text);
        g_free(text);
        wad_diags_free(diags);
    }
    wad_bench_free(bench);
    wad_board_free(board);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(the_tree_follows_the_registers),
        cmocka_unit_test(the_plan_is_the_best_of_all_settings),
        cmocka_unit_test(what_is_exact_after_reset_changes_nothing),
        cmocka_unit_test(a_clock_comes_out_as_it_is),
        cmocka_unit_test(errors_of_oscillators_are_checked),
    };
    return cmocka_run_group_tests(tests, set_up, tear_down);
}
