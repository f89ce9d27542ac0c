/* SPDX-License-Identifier: MIT */
/* Timers against arithmetic done another way: rates by search, edges by counting clocks. */
#include <math.h>
#include <string.h>

#include "support.h"
#include "wadium/clock.h"
#include "wadium/irq.h"

#include "corran32_roles.h"

__extension__ typedef __int128 i128;

/* ---- arithmetic of the drivers ---- */

static void muldiv_rounds_as_128_bits_do(void **state)
{
    (void)state;
    GRand *rand = g_rand_new_with_seed(11);
    for (int i = 0; i < 200000; i++) {
        uint32_t a = g_rand_int(rand) >> g_rand_int_range(rand, 0, 32);
        uint32_t b = g_rand_int(rand) >> g_rand_int_range(rand, 0, 32);
        uint32_t c = g_rand_int(rand) >> g_rand_int_range(rand, 0, 32);
        if (!c)
            continue;
        i128 exact = ((i128)a * b + c / 2) / c;
        uint32_t want = exact > UINT32_MAX ? UINT32_MAX : (uint32_t)exact;
        assert_int_equal(wad_muldiv(a, b, c), want);
    }
    g_rand_free(rand);
}

/* ---- edges of the simulated counter against clocks counted one by one ---- */

#define MAX_EDGES 4000

typedef struct trace {
    uint64_t ps[MAX_EDGES];
    wad_level level[MAX_EDGES];
    unsigned n;
} trace;

static void on_edge(void *ctx, uint64_t ps, wad_level level)
{
    trace *t = ctx;
    if (t->n < MAX_EDGES && level != WAD_FLOATING) {
        t->ps[t->n] = ps;
        t->level[t->n++] = level;
    }
}

typedef struct setting {
    uint32_t mode, prescale, reload, compare, drive;
} setting;

static setting now; /* what the firmware below sets */

#define R    corran32_counter_roles
#define BASE CORRAN32_CNT1_BASE

static int pwm_main(void)
{
    wad_block_up(&corran32_cnt1.block, 1000);
    (void)!wad_pin_route(CORRAN32_ROUTE_CNT1_CH0_PA0);
    wad_put(BASE, R.mode, now.mode);
    wad_put(BASE, R.prescale, now.prescale);
    wad_put(BASE, R.reload, now.reload);
    wad_put(BASE, wad_at(R.compare, 0), now.compare);
    wad_put(BASE, R.load, 1);
    wad_put(BASE, wad_at(R.drive, 0), now.drive);
    wad_put(BASE, wad_at(R.output_on, 0), 1);
    wad_put(BASE, R.enable, 1);
    for (;;)
        wad_port_sleep();
    return 0;
}

/* The counter as a datasheet draws it: one step a prescaled clock. */
typedef struct stepper {
    uint32_t count;
    bool up;
} stepper;

static void step(stepper *s, const setting *set)
{
    if (set->mode == 0) {
        s->count = s->count == set->reload ? 0 : s->count + 1;
    } else if (set->mode == 1) {
        s->count = s->count == 0 ? set->reload : s->count - 1;
    } else {
        if (s->count >= set->reload)
            s->up = false;
        if (s->count == 0)
            s->up = true;
        if (set->reload)
            s->count = s->up ? s->count + 1 : s->count - 1;
    }
}

static bool level_of(const setting *set, const stepper *s, bool before, bool stepped)
{
    if (set->drive == R.drive_pwm)
        return s->count < set->compare;
    if (set->drive == R.drive_pwm_low)
        return s->count >= set->compare;
    if (stepped && s->count == set->compare)
        return set->drive == R.drive_toggle ? !before : set->drive == R.drive_set;
    return before;
}

/* Time of the k-th 8 MHz edge after the one the counter began with. */
static void check_against_steps(const setting *set, const trace *t)
{
    stepper s = {set->mode == 1 ? set->reload : 0, true};
    bool level = level_of(set, &s, false, false);
    unsigned i = 0;
    while (i < t->n && t->level[i] != WAD_HIGH)
        i++; /* low from routing on; the first rise tells when counting began */
    if (i == t->n) {
        assert_true(set->drive != R.drive_toggle || set->compare > set->reload);
        return;
    }
    uint64_t k = 0;
    while (!level && k < 1000000) { /* from the beginning to the first rise */
        step(&s, set);
        k++;
        level = level_of(set, &s, level, true);
    }
    uint64_t begin = t->ps[i] - k * (set->prescale + 1) * 125000;
    for (i++; i < t->n; i++) {
        bool before = level;
        while (level == before) {
            step(&s, set);
            k++;
            level = level_of(set, &s, level, true);
        }
        assert_int_equal(t->ps[i], begin + k * (set->prescale + 1) * 125000);
        assert_int_equal(t->level[i], level ? WAD_HIGH : WAD_LOW);
    }
}

static void counter_edges_equal_counted_clocks(void **state)
{
    (void)state;
    static trace t;
    wad_sheet *sheet = test_chip("corran32");
    GRand *rand = g_rand_new_with_seed(13);
    const uint32_t drives[] = {R.drive_pwm, R.drive_pwm_low, R.drive_toggle};
    char *why = NULL;
    wad_sim *sim = wad_sim_new(sheet, &why);
    wad_sim_watch_pin(sim, wad_sheet_pin(sheet, "PA0"), on_edge, &t);
    wad_sim_attach(sim, pwm_main, NULL, 0);
    unsigned seen = 0;
    for (int i = 0; i < 150; i++) {
        now.mode = (uint32_t)g_rand_int_range(rand, 0, 3);
        now.prescale = (uint32_t)g_rand_int_range(rand, 0, 5);
        now.reload = (uint32_t)g_rand_int_range(rand, 1, 60);
        now.compare = (uint32_t)g_rand_int_range(rand, 0, 64);
        now.drive = drives[g_rand_int_range(rand, 0, 3)];
        t.n = 0;
        wad_sim_run(sim, WAD_PS_PER_S / 2000);
        check_against_steps(&now, &t);
        seen += t.n;
    }
    assert_true(seen > 5000);
    g_rand_free(rand);
    wad_sim_free(sim);
    wad_sheet_free(sheet);
}

/* ---- exact for an hour, on clocks whose period is no whole number of picoseconds ---- */

typedef struct grid_check {
    uint64_t hz, period; /* clock and edges of it in half a period of the output */
    uint64_t last;       /* clock edge of the last change */
    uint64_t changes, wrong;
} grid_check;

/* The change must stand at ceil(j * 10^12 / hz) for a whole j, `period` after the one before. */
static void on_grid(void *ctx, uint64_t ps, wad_level level)
{
    grid_check *g = ctx;
    uint64_t j = (uint64_t)((i128)ps * (i128)g->hz / 1000000000000);
    uint64_t edge = (uint64_t)(((i128)j * 1000000000000 + (i128)g->hz - 1) / (i128)g->hz);
    if (level == WAD_FLOATING || (level == WAD_LOW && !g->changes))
        return;
    if (edge != ps || (g->changes && j - g->last != g->period))
        g->wrong++;
    g->last = j;
    g->changes++;
}

static wad_sheet *chip_with_clock(const char *hz)
{
    char *text, *end;
    assert_true(g_file_get_contents(SOURCE_DIR "/chips/corran32.sheet", &text, NULL, NULL));
    char *at = strstr(text, "8 MHz ");
    GString *changed = g_string_new_len(text, at - text);
    end = at + strlen("8 MHz ");
    g_string_append_printf(changed, "%s %s", hz, end);
    wad_diags *diags = wad_diags_new();
    wad_sheet *sheet = wad_sheet_parse(changed->str, changed->len, "changed.sheet", diags);
    wad_diags_print(diags, stderr);
    assert_non_null(sheet);
    wad_diags_free(diags);
    g_string_free(changed, TRUE);
    g_free(text);
    return sheet;
}

static void edges_are_exact_for_an_hour(void **state)
{
    static const struct {
        const char *text;
        uint64_t hz, reload, prescale;
    } clocks[] = {{"11_059_200 Hz", 11059200, 59999, 6},
                  {"32_768 Hz", 32768, 3276, 0},
                  {"7_372_801 Hz", 7372801, 65535, 10},
                  {"48 MHz", 48000000, 65535, 99}};
    (void)state;
    for (unsigned i = 0; i < G_N_ELEMENTS(clocks); i++) {
        char *why = NULL;
        wad_sheet *sheet = chip_with_clock(clocks[i].text);
        wad_sim *sim = wad_sim_new(sheet, &why);
        grid_check g = {.hz = clocks[i].hz,
                        .period = (clocks[i].reload + 1) * (clocks[i].prescale + 1)};
        now = (setting){.prescale = (uint32_t)clocks[i].prescale,
                        .reload = (uint32_t)clocks[i].reload,
                        .compare = 5,
                        .drive = R.drive_toggle};
        wad_sim_watch_pin(sim, wad_sheet_pin(sheet, "PA0"), on_grid, &g);
        wad_sim_attach(sim, pwm_main, NULL, 0);
        wad_sim_run(sim, 3600 * WAD_PS_PER_S);
        assert_int_equal(g.wrong, 0);
        assert_in_range(g.changes, 3600 * g.hz / g.period - 1, 3600 * g.hz / g.period + 1);
        wad_sim_free(sim);
        wad_sheet_free(sheet);
    }
}

/* ---- the transfer tier ---- */

static wad_timer timer;
static struct {
    wad_status st[6];
    uint32_t mode, wraps, count_max, prescale, period;
} got;

static void on_wrap(void *context)
{
    got.wraps++;
    if (got.wraps == 10 && context)
        got.st[3] = wad_timer_set_rate(&timer, WAD_HZ(2000));
}

static void handle(void)
{
    wad_timer_handle(&timer);
}

static int service_main(void)
{
    timer = (wad_timer){&corran32_cnt0, .rate = WAD_RATE_HZ(1000),
                        .pwm = {{CORRAN32_ROUTE_CNT0_CH0_PC0, WAD_PERCENT(25)}}, .on_wrap = on_wrap,
                        .context = &timer};
    got.st[0] = wad_timer_open(&timer);
    got.prescale = wad_get(CORRAN32_CNT0_BASE, R.prescale) + 1u;
    got.period = wad_timer_period(&timer);
    wad_timer_start(&timer);
    wad_irq_global_on();
    for (;;) {
        uint32_t count = wad_timer_count(&timer);
        got.count_max = MAX(got.count_max, count);
        wad_port_cycles(50);
    }
    return 0;
}

static void rate_changes_at_a_period_and_without_a_glitch(void **state)
{
    (void)state;
    static trace t;
    wad_handler handlers[12] = {[8] = handle};
    wad_sheet *sheet = test_chip("corran32");
    char *why = NULL;
    wad_sim *sim = wad_sim_new(sheet, &why);
    t.n = 0;
    memset(&got, 0, sizeof got);
    wad_sim_watch_pin(sim, wad_sheet_pin(sheet, "PC0"), on_edge, &t);
    wad_sim_attach(sim, service_main, handlers, 12);
    wad_run_result r = wad_sim_run(sim, 21 * WAD_PS_PER_S / 1000);
    assert_int_equal(r.end, WAD_RUN_TIME);
    for (unsigned i = 0; i < 4; i++)
        assert_int_equal(got.st[i], WAD_OK);
    assert_int_equal(got.prescale * got.period, 8000);
    assert_in_range(got.count_max, got.period * 9 / 10, got.period - 1);
    uint64_t rises[64];
    unsigned n = 0;
    for (unsigned i = 0; i < t.n && n < 64; i++)
        if (t.level[i] == WAD_HIGH)
            rises[n++] = t.ps[i];
    /* the tenth wrap asks for 2 kHz, which the eleventh period's end brings */
    for (unsigned i = 1; i < n; i++)
        assert_int_equal(rises[i] - rises[i - 1],
                         i <= 11 ? WAD_PS_PER_S / 1000 : WAD_PS_PER_S / 2000);
    assert_true(n > 25);
    assert_int_equal(wad_sim_finding_count(sim), 0);
    wad_sim_free(sim);
    wad_sheet_free(sheet);
}

static int refused_main(void)
{
    timer = (wad_timer){&corran32_cnt0, .rate = WAD_RATE_HZ(7999999)};
    got.st[0] = wad_timer_open(&timer);
    got.mode = wad_get(CORRAN32_CLK_BASE, corran32_clocks_gate_cnt0);
    timer = (wad_timer){&corran32_cnt0, .rate = WAD_RATE_HZ(1000), .pwm = {{0, 10001}}};
    got.st[2] = wad_timer_open(&timer);
    timer.pwm[0].duty_bp = 0;
    got.st[1] = wad_timer_open(&timer);
    got.st[3] = wad_timer_pwm(&timer, 4, CORRAN32_ROUTE_CNT0_CH0_PC0, 0);
    got.st[4] = wad_timer_set_duty(&timer, 0, 10001);
    got.st[5] = wad_pin_route(WAD_ROUTE(0x700, 1));
    wad_timer_stop(&timer);
    for (;;)
        wad_port_sleep();
    return 0;
}

static void wrong_arguments_are_refused_and_nothing_written(void **state)
{
    (void)state;
    wad_sheet *sheet = test_chip("corran32");
    char *why = NULL;
    wad_sim *sim = wad_sim_new(sheet, &why);
    wad_sim_attach(sim, refused_main, NULL, 0);
    wad_sim_run(sim, WAD_PS_PER_S / 1000);
    const wad_status want[] = {WAD_E_RANGE, WAD_OK, WAD_E_ARG, WAD_E_ABSENT, WAD_E_ARG, WAD_E_ARG};
    for (unsigned i = 0; i < 6; i++)
        assert_int_equal(got.st[i], want[i]);
    assert_int_equal(got.mode, 0); /* the gate was not even opened */
    assert_string_equal(wad_status_text(WAD_E_ABSENT), "this chip has no such thing");
    wad_sim_free(sim);
    wad_sheet_free(sheet);
}

static uint32_t duty_bp;

static int duty_main(void)
{
    timer = (wad_timer){&corran32_cnt0, .rate = WAD_RATE_HZ(50),
                        .pwm = {{CORRAN32_ROUTE_CNT0_CH0_PC0, duty_bp}}};
    (void)!wad_timer_open(&timer);
    wad_timer_start(&timer);
    for (;;)
        wad_port_sleep();
    return 0;
}

/* Nothing, everything, and one step from each: where a duty's arithmetic goes wrong. */
static void duty_is_right_at_its_ends(void **state)
{
    (void)state;
    static const uint32_t duties[] = {0, 1, 5000, 9999, 10000};
    wad_sheet *sheet = test_chip("corran32");
    for (unsigned i = 0; i < G_N_ELEMENTS(duties); i++) {
        char *why = NULL;
        wad_meter m;
        wad_sim *sim = wad_sim_new(sheet, &why);
        duty_bp = duties[i];
        wad_meter_init(&m, WAD_PS_PER_S / 100, UINT64_MAX);
        wad_sim_watch_pin(sim, wad_sheet_pin(sheet, "PC0"),
                          (wad_pin_fn)(void (*)(void))wad_meter_edge, &m);
        wad_sim_attach(sim, duty_main, NULL, 0);
        wad_run_result r = wad_sim_run(sim, WAD_PS_PER_S);
        wad_meter_end(&m, r.end_ps);
        assert_true(fabs(wad_meter_duty(&m) - duties[i] / 10000.0) < 0.00002);
        wad_sim_free(sim);
    }
    wad_sheet_free(sheet);
}

/* ---- one period, by itself ---- */

static wad_timer shot;
static unsigned shots;
static uint64_t shot_ps[8];
static wad_sim *shot_sim;

static void handle_shot(void)
{
    wad_timer_handle(&shot);
}

static void on_shot(void *context)
{
    (void)context;
    shot_ps[shots++ % 8] = wad_sim_now(shot_sim);
}

static int shot_main(void)
{
    uint64_t started;
    shot =
        (wad_timer){&corran32_cnt0, .rate = WAD_EVERY_MS(2), .one_shot = true, .on_wrap = on_shot};
    if (wad_timer_open(&shot) != WAD_OK)
        return 1;
    wad_irq_global_on();
    for (unsigned i = 0; i < 3; i++) {
        wad_timer_start(&shot);
        started = wad_sim_now(shot_sim);
        wad_port_cycles(80000); /* 10 ms at 8 MHz: five periods, were it not for the stop */
        if (shots != i + 1 || shot_ps[i] - started > WAD_PS_PER_S / 1000 * 21 / 10 ||
            shot_ps[i] - started < WAD_PS_PER_S / 1000 * 19 / 10)
            return 2;
    }
    shot.one_shot = false;
    if (wad_timer_open(&shot) != WAD_OK)
        return 3;
    wad_timer_start(&shot);
    wad_port_cycles(80000);
    while (shots >= 7) /* it goes on: 2, 4, 6, 8 ms */
        wad_port_sleep();
    return 4;
}

static void one_shot_gives_one_period_a_start(void **state)
{
    (void)state;
    char *why;
    wad_sheet *sheet = test_chip("corran32");
    wad_handler handlers[16] = {[8] = handle_shot};
    shot_sim = wad_sim_new(sheet, &why);
    wad_sim_attach(shot_sim, shot_main, handlers, 16);
    wad_run_result r = wad_sim_run(shot_sim, WAD_PS_PER_S / 20);
    if (r.end != WAD_RUN_TIME)
        fail_msg("%s", r.story);
    assert_true(shots >= 7);
    assert_int_equal(wad_sim_finding_count(shot_sim), 0);
    wad_sim_free(shot_sim);
    wad_sheet_free(sheet);
}

/* ---- closed, and opened for something else ---- */

static unsigned wraps;
static uint32_t closed[4];

static void on_any_wrap(void *context)
{
    (void)context;
    wraps++;
}

static int close_main(void)
{
    enum { CTL = 0, ASKS = 0x18, OUT = 0x1C };
    shot = (wad_timer){&corran32_cnt0,
                       .rate = WAD_EVERY_MS(1),
                       .on_wrap = on_any_wrap,
                       .pwm = {{CORRAN32_ROUTE_CNT0_CH0_PC0, WAD_PERCENT(50)}},
                       .trigger = CORRAN32_TRIGGER_CNT0_CNT1_WRAP,
                       .action = WAD_FOLLOW_RESET};
    if (wad_timer_open(&shot) != WAD_OK)
        return 1;
    wad_irq_global_on();
    wad_timer_start(&shot);
    wad_port_cycles(20000);
    if (wraps < 2 || wraps > 3)
        return 2;
    wad_timer_close(&shot);
    closed[0] = (wad_port_read32(CORRAN32_CNT0_BASE, CTL) & 1u) |
                wad_port_read32(CORRAN32_CNT0_BASE, ASKS) |
                wad_port_read32(CORRAN32_CNT0_BASE, OUT) | wad_get(CORRAN32_CNT0_BASE, R.action);
    wraps = 0;
    wad_port_cycles(20000);
    closed[1] = wraps;
    /* nobody is told, nothing is listened to: what the first opening set must be gone */
    shot = (wad_timer){&corran32_cnt0, .rate = WAD_EVERY_MS(1)};
    if (wad_timer_open(&shot) != WAD_OK)
        return 3;
    wad_timer_start(&shot);
    wad_port_cycles(20000);
    closed[2] =
        wad_port_read32(CORRAN32_CNT0_BASE, ASKS) | wad_get(CORRAN32_CNT0_BASE, R.action) | wraps;
    closed[3] = wad_get(CORRAN32_CNT0_BASE, R.wrap);
    wad_timer_close(&shot);
    for (;;)
        wad_port_sleep();
    return 0;
}

static void a_timer_is_closed_and_opened_otherwise(void **state)
{
    (void)state;
    char *why;
    wad_sheet *sheet = test_chip("corran32");
    wad_handler handlers[16] = {[8] = handle_shot};
    shot_sim = wad_sim_new(sheet, &why);
    wad_sim_attach(shot_sim, close_main, handlers, 16);
    wad_run_result r = wad_sim_run(shot_sim, WAD_PS_PER_S / 20);
    if (r.end != WAD_RUN_TIME)
        fail_msg("%s", r.story);
    for (unsigned i = 0; i < 3; i++)
        assert_int_equal(closed[i], 0);
    assert_int_equal(closed[3], 1); /* it ran */
    assert_int_equal(wad_sim_finding_count(shot_sim), 0);
    wad_sim_free(shot_sim);
    wad_sheet_free(sheet);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(muldiv_rounds_as_128_bits_do),
        cmocka_unit_test(counter_edges_equal_counted_clocks),
        cmocka_unit_test(edges_are_exact_for_an_hour),
        cmocka_unit_test(rate_changes_at_a_period_and_without_a_glitch),
        cmocka_unit_test(wrong_arguments_are_refused_and_nothing_written),
        cmocka_unit_test(duty_is_right_at_its_ends),
        cmocka_unit_test(one_shot_gives_one_period_a_start),
        cmocka_unit_test(a_timer_is_closed_and_opened_otherwise),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
