/* SPDX-License-Identifier: MIT */
/* The rate solver against every setting there is, by formulas written out in C. */
#include <math.h>
#include <string.h>

#include "support.h"
#include "wadium/host/rate.h"

__extension__ typedef __int128 i128;

#define CHIP(layout)                                                                               \
    "chip T {\n bus little 32\n clock core 8 MHz\n block A at 0 like l\n}\nlayout l {\n" layout    \
    "\n}"

/* rate = clock * up / down for a setting; down 0: not offered. */
typedef void (*formula)(const uint64_t *v, int64_t *up, int64_t *down);

typedef struct kase {
    const char *name, *layout;
    uint64_t max[3]; /* of each field, in the order of the law; 0 ends */
    formula of;
    double slow, fast; /* wanted rates lie between */
} kase;

static void prescale_reload(const uint64_t *v, int64_t *up, int64_t *down)
{
    *up = 1;
    *down = (int64_t)((v[0] + 1) * (v[1] + 1));
}

static void fixed_set(const uint64_t *v, int64_t *up, int64_t *down)
{
    static const int64_t divider[] = {1, 2, 8, 64, 256, 1024};
    *up = 1;
    *down = v[0] < 6 ? divider[v[0]] * (int64_t)(v[1] + 1) : 0;
}

static void from_start(const uint64_t *v, int64_t *up, int64_t *down)
{
    *up = 1;
    *down = (INT64_C(1) << 3 * v[0]) * (int64_t)(4096 - v[1]);
}

/* clock / (samples * (INT + FRAC / 16)), samples 16 or 8 */
static void baud(const uint64_t *v, int64_t *up, int64_t *down)
{
    *up = 16;
    *down = v[1] ? (v[0] ? 8 : 16) * (int64_t)(v[1] * 16 + v[2]) : 0;
}

/* one register, 6 bits after the point */
static void fixed_point(const uint64_t *v, int64_t *up, int64_t *down)
{
    *up = 64;
    *down = v[0] ? 16 * (int64_t)v[0] : 0;
}

static void power_of_two(const uint64_t *v, int64_t *up, int64_t *down)
{
    *up = 1;
    *down = INT64_C(1) << (v[0] + 1);
}

static void even(const uint64_t *v, int64_t *up, int64_t *down)
{
    *up = 1;
    *down = 2 * (int64_t)(v[0] + 1);
}

/* sampling and resolution cycles of a divided clock */
static void conversion(const uint64_t *v, int64_t *up, int64_t *down)
{
    static const int64_t sampling[] = {2, 8, 16, 64};
    static const int64_t resolution[] = {8, 10, 12};
    *up = 1;
    *down = v[2] < 3 ? (INT64_C(1) << v[0]) * (sampling[v[1]] + resolution[v[2]]) : 0;
}

/* a multiplier: the rate rises with the field */
static void multiplied(const uint64_t *v, int64_t *up, int64_t *down)
{
    *up = (int64_t)(v[0] + 2);
    *down = (int64_t)(v[1] + 1) * 4;
}

static const kase cases[] = {
    {"prescaler and reload",
     "reg P at 0 rw {\n 6:0 D rw\n}\nreg R at 4 rw {\n 11:0 V rw\n}\n"
     "rate r law clock / ((P.D + 1) * (R.V + 1))",
     {127, 4095},
     prescale_reload,
     20,
     4e6},
    {"fixed prescalers",
     "reg C at 0 rw {\n 2:0 P rw { 0 a is 1, 1 b is 2, 2 c is 8, 3 d is 64, 4 e is 256, 5 f is "
     "1024 "
     "}\n}\nreg R at 4 rw {\n 7:0 V rw\n}\nrate r law clock / (C.P * (R.V + 1))",
     {7, 255},
     fixed_set,
     40,
     4e6},
    {"start to overflow",
     "reg C at 0 rw {\n 1:0 D rw\n}\nreg H at 4 rw {\n 3:0 V rw\n}\nreg L at 8 rw width 8\n"
     "value S = H.V : L.VALUE\nrate r law clock / (8 ** C.D * (4096 - S))",
     {3, 4095},
     from_start,
     5,
     4e6},
    {"integer and fraction, 16 or 8 samples",
     "reg C at 0 rw {\n 0 O rw\n}\nreg B at 4 rw {\n 3:0 F rw\n 12:4 I rw not 0\n}\n"
     "rate r law clock / (pick C.O { 0 16, 1 8 } * (B.I + B.F / 16))",
     {1, 511, 15},
     baud,
     1000,
     900000},
    {"fixed point",
     "reg B at 0 rw {\n 15:0 D rw not 0\n}\nrate r law clock / (16 * (B.D / 64))",
     {65535},
     fixed_point,
     500,
     900000},
    {"power of two",
     "reg C at 0 rw {\n 2:0 B rw\n}\nrate r law clock / 2 ** (C.B + 1)",
     {7},
     power_of_two,
     20000,
     5e6},
    {"even dividers",
     "reg C at 0 rw {\n 7:0 B rw\n}\nrate r law clock / (2 * (C.B + 1))",
     {255},
     even,
     10000,
     5e6},
    {"conversion time",
     "reg C at 0 rw {\n 2:0 D rw\n 4:3 S rw { 0 a is 2, 1 b is 8, 2 c is 16, 3 d is 64 }\n"
     " 6:5 R rw { 0 low is 8, 1 mid is 10, 2 high is 12 }\n}\n"
     "rate r law clock / 2 ** C.D / (C.S + C.R)",
     {7, 3, 3},
     conversion,
     500,
     900000},
    {"multiplied",
     "reg C at 0 rw {\n 5:0 M rw\n 9:6 D rw\n}\nrate r law clock * (C.M + 2) / ((C.D + 1) "
     "* 4)",
     {63, 15},
     multiplied,
     1e5,
     1e8},
};

static wad_sheet *test_parse(const char *text)
{
    wad_diags *diags = wad_diags_new();
    wad_sheet *sheet = wad_sheet_parse(text, strlen(text), "t.sheet", diags);
    wad_diags_print(diags, stderr);
    wad_diags_free(diags);
    assert_non_null(sheet);
    return sheet;
}

typedef struct best {
    uint64_t v[3];
    i128 off, down; /* |rate - wanted| = off / (down * wanted.den) */
    bool any;
} best;

static bool nearer(i128 off, i128 down, const best *b)
{
    return !b->any || off * b->down < b->off * down;
}

/* Every setting, in the order of preference: the first of the nearest stays. */
static best brute(const kase *k, wad_rational clock, wad_rational wanted)
{
    best b = {.any = false};
    for (uint64_t x = 0; x <= k->max[0]; x++)
        for (uint64_t y = 0; y <= k->max[1]; y++)
            for (uint64_t z = 0; z <= k->max[2]; z++) {
                uint64_t v[3] = {x, y, z};
                int64_t up, down;
                k->of(v, &up, &down);
                if (!down)
                    continue;
                i128 n = (i128)clock.num * up * wanted.den, d = (i128)clock.den * down;
                i128 off = n - d * wanted.num;
                off = off < 0 ? -off : off;
                if (nearer(off, d, &b)) {
                    b = (best){.off = off, .down = d, .any = true};
                    memcpy(b.v, v, sizeof v);
                }
            }
    return b;
}

static wad_rational random_rate(GRand *rand, const kase *k)
{
    double hz = exp(g_rand_double_range(rand, log(k->slow), log(k->fast)));
    int64_t den = g_rand_int_range(rand, 1, 4) == 1 ? 7 : 1;
    return (wad_rational){(int64_t)(hz * (double)den) + 1, den};
}

static void check(const kase *k, const wad_rate_law *law, wad_rational clock, wad_rational wanted)
{
    wad_rate_answer a;
    best b = brute(k, clock, wanted);
    if (wad_rate_solve(law, clock, wanted, NULL, &a, 1) != 1)
        fail_msg("%s: no answer for %lld/%lld Hz of %lld/%lld Hz", k->name, (long long)wanted.num,
                 (long long)wanted.den, (long long)clock.num, (long long)clock.den);
    for (unsigned i = 0; i < wad_rate_vars(law); i++)
        if (a.values[i] != b.v[i])
            fail_msg("%s: %lld/%lld Hz of %lld Hz: field %u is %llu, best is %llu", k->name,
                     (long long)wanted.num, (long long)wanted.den, (long long)clock.num, i,
                     (unsigned long long)a.values[i], (unsigned long long)b.v[i]);
    int64_t up, down;
    wad_rational back;
    k->of(b.v, &up, &down);
    assert_true((i128)a.actual.num * clock.den * down == (i128)a.actual.den * clock.num * up);
    assert_true(wad_rate_of(law, clock, a.values, &back));
    assert_int_equal(back.num, a.actual.num);
    assert_int_equal(back.den, a.actual.den);
    assert_int_equal(a.ppm == 0, b.off == 0);
}

static void the_answer_is_the_best_of_all_settings(void **state)
{
    static const wad_rational clocks[] = {{8000000, 1}, {32768, 1}, {100000000, 3}};
    GRand *rand = g_rand_new_with_seed(4);
    (void)state;
    for (unsigned i = 0; i < G_N_ELEMENTS(cases); i++) {
        char *text = g_strdup_printf("%s%s%s",
                                     "chip T {\n bus little 32\n clock core 8 MHz\n block A at "
                                     "0 like l\n}\nlayout l {\n",
                                     cases[i].layout, "\n}");
        char *why;
        wad_sheet *sheet = test_parse(text);
        wad_rate_law *law = wad_rate_open(sheet, wad_sheet_block(sheet, "A"), "r", &why);
        if (!law)
            fail_msg("%s: %s", cases[i].name, why);
        unsigned rounds = cases[i].max[1] > 1000 ? 4 : 40;
        for (unsigned n = 0; n < rounds; n++)
            check(&cases[i], law, clocks[n % 3], random_rate(rand, &cases[i]));
        wad_rate_close(law);
        wad_sheet_free(sheet);
        g_free(text);
    }
    g_rand_free(rand);
}

/* Where rounding decides: 1200 baud from 32 768 Hz, and the highest rate there is. */
static void slow_clocks_round_to_the_nearest(void **state)
{
    (void)state;
    char *why;
    wad_sheet *sheet = test_parse(CHIP("reg B at 0 rw {\n 7:0 F rw\n 15:8 I rw not 0\n}\n"
                                       "rate baud law clock / (B.I + B.F / 256)"));
    wad_rate_law *law = wad_rate_open(sheet, wad_sheet_block(sheet, "A"), "baud", &why);
    wad_rational clock = {32768, 1}, wanted = {1200, 1}, fastest = {32768, 1};
    wad_rate_answer a[2], slow, fast;
    assert_int_equal(wad_rate_solve(law, clock, wanted, NULL, a, 2), 2);
    assert_int_equal(a[0].values[0] * 256 + a[0].values[1], 6991); /* 27.3066..: 27 and 79 / 256 */
    assert_true(a[0].ppm != 0 && a[0].ppm > -100 && a[0].ppm < 100);
    assert_true((a[1].ppm > 0) != (a[0].ppm > 0)); /* the neighbour on the other side */
    assert_int_equal(wad_rate_solve(law, clock, fastest, NULL, a, 1), 1);
    assert_true(a[0].ppm == 0);
    assert_true(wad_rate_range(law, clock, NULL, &slow, &fast));
    assert_int_equal(fast.actual.num, 32768);
    assert_int_equal(slow.values[0], 255);
    assert_int_equal(slow.values[1], 255);
    wad_rate_close(law);
    wad_sheet_free(sheet);
}

static void counters_have_their_rates_by_their_roles(void **state)
{
    static const struct {
        const char *chip, *text;
    } want[] = {{"corran32", "clock / ((PRESC.DIV + 1) * (RELOAD.VALUE + 1))"},
                {"corran16", "clock / (2 ** CTRL.DIV * (PERIOD.VALUE + 1))"},
                {"corran8", "clock / (8 ** CTRL.DIV * (65536 - START))"}};
    (void)state;
    for (unsigned i = 0; i < 3; i++) {
        char *why;
        wad_sheet *sheet = test_chip(want[i].chip);
        const wad_instance *cnt = wad_sheet_block(sheet, "CNT0");
        wad_rate_law *wrap = wad_rate_open(sheet, cnt, "wrap", &why);
        wad_rate_law *toggle = wad_rate_open(sheet, cnt, "toggle", &why);
        wad_rational clock = {8000000, 1}, hz, half;
        wad_rate_answer a;
        assert_string_equal(wad_rate_text(wrap), want[i].text);
        assert_int_equal(wad_rate_solve(wrap, clock, (wad_rational){1000, 1}, NULL, &a, 1), 1);
        assert_true(a.ppm == 0);
        assert_true(wad_rate_of(wrap, clock, a.values, &hz));
        assert_true(wad_rate_of(toggle, clock, a.values, &half));
        assert_int_equal(hz.num, 1000);
        assert_int_equal(half.num, 500);
        assert_null(wad_rate_open(sheet, cnt, "baud", &why));
        assert_non_null(strstr(why, "CNT0 has no rate 'baud': it has wrap, toggle"));
        g_free(why);
        wad_rate_close(wrap);
        wad_rate_close(toggle);
        wad_sheet_free(sheet);
    }
}

static void fields_can_be_held_and_ties_turned(void **state)
{
    (void)state;
    char *why;
    wad_sheet *sheet = test_chip("corran32");
    wad_rate_law *law = wad_rate_open(sheet, wad_sheet_block(sheet, "CNT0"), "wrap", &why);
    wad_rational clock = {48000000, 1}, wanted = {2, 1};
    wad_rate_options hold = {.fixed = 1, .values = {479}}, large = {.prefer_large = 1};
    wad_rate_answer a;
    assert_int_equal(wad_rate_solve(law, clock, wanted, &hold, &a, 1), 1);
    assert_int_equal(a.values[0], 479);
    assert_int_equal(a.values[1], 49999);
    assert_int_equal(wad_rate_solve(law, clock, wanted, &large, &a, 1), 1);
    assert_int_equal(a.values[0], 63999); /* 64 000 * 375, the largest prescaler that is exact */
    assert_int_equal(a.values[1], 374);
    wad_rate_close(law);
    wad_sheet_free(sheet);
}

static void rates_are_read_as_people_write_them(void **state)
{
    static const struct {
        const char *text;
        int64_t num, den;
    } good[] = {{"2", 2, 1},
                {"2Hz", 2, 1},
                {"1.5 kHz", 1500, 1},
                {"500ms", 2, 1},
                {"20.8333us", 10000000000, 208333},
                {"115_200", 115200, 1},
                {"32768 Hz", 32768, 1}};
    static const char *const bad[] = {"", "0", "Hz", "1.2.3", "5 V", "-1", "2 Hz or so"};
    (void)state;
    for (unsigned i = 0; i < G_N_ELEMENTS(good); i++) {
        wad_rational hz;
        assert_true(wad_parse_rate(good[i].text, &hz));
        assert_int_equal(hz.num, good[i].num);
        assert_int_equal(hz.den, good[i].den);
    }
    for (unsigned i = 0; i < G_N_ELEMENTS(bad); i++) {
        wad_rational hz;
        if (wad_parse_rate(bad[i], &hz))
            fail_msg("'%s' was taken", bad[i]);
    }
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(the_answer_is_the_best_of_all_settings),
        cmocka_unit_test(slow_clocks_round_to_the_nearest),
        cmocka_unit_test(counters_have_their_rates_by_their_roles),
        cmocka_unit_test(fields_can_be_held_and_ties_turned),
        cmocka_unit_test(rates_are_read_as_people_write_them),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
