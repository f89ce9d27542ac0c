/* SPDX-License-Identifier: MIT */
/* The target's solver: as the host's for every form of law, and as plain search. */
#include <math.h>
#include <string.h>
#include <wadium/rate.h>

#include "support.h"
#include "wadium/host/rate.h"

__extension__ typedef __int128 i128;

/* ---- forms of laws, small enough for the host to search a million times ---- */

typedef struct form {
    const char *name, *layout;
    double slow, fast; /* wanted rates of an 8 MHz clock lie between */
} form;

static const form forms[] = {
    {"prescaler and reload",
     "reg P at 0 rw {\n 3:0 D rw\n}\nreg R at 4 rw {\n 6:0 V rw\n}\n"
     "rate r law clock / ((P.D + 1) * (R.V + 1))",
     3000, 9e6},
    {"a prescaler wider than the reload",
     "reg P at 0 rw {\n 6:0 D rw\n}\nreg R at 4 rw {\n 3:0 V rw not 0\n}\n"
     "rate r law clock / ((P.D + 1) * R.V)",
     3000, 9e6},
    {"the reload named first",
     "reg P at 0 rw {\n 3:0 D rw not 0\n}\nreg R at 4 rw {\n 5:0 V rw\n}\n"
     "rate r law clock / ((R.V + 1) * 2 * P.D)",
     3000, 9e6},
    {"powers of 8 and a start value",
     "reg C at 0 rw {\n 1:0 D rw\n}\nreg S at 4 rw {\n 7:0 V rw\n}\n"
     "rate r law clock / (8 ** C.D * (256 - S.V))",
     50, 9e6},
    {"a set of prescalers, codes with gaps",
     "reg C at 0 rw {\n 2:0 P rw { 1 a is 1, 2 b is 8, 3 c is 64, 5 d is 1024 }\n}\n"
     "reg R at 4 rw {\n 7:0 V rw\n}\nrate r law clock / (C.P * (R.V + 1))",
     20, 9e6},
    {"a set in another order than its size",
     "reg C at 0 rw {\n 0 O rw\n}\nreg R at 4 rw {\n 7:0 V rw not 0\n}\n"
     "rate r law clock / (pick C.O { 0 16, 1 8 } * R.V)",
     1000, 2e6},
    {"integer and fraction, 16 or 8 samples",
     "reg C at 0 rw {\n 0 O rw { 0 x16 is 16, 1 x8 is 8 }\n}\nreg B at 4 rw {\n 2:0 F rw\n"
     " 8:3 I rw not 0\n}\nrate r law clock / (C.O * (B.I + B.F / 8))",
     4000, 2e6},
    {"fixed point in one register",
     "reg B at 0 rw {\n 9:0 D rw not 0\n}\nrate r law clock / (16 * (B.D / 64))", 10000, 9e6},
    {"power of two", "reg C at 0 rw {\n 2:0 B rw\n}\nrate r law clock / 2 ** (C.B + 1)", 20000,
     9e6},
    {"even dividers", "reg C at 0 rw {\n 7:0 B rw\n}\nrate r law clock / (2 * (C.B + 1))", 9000,
     9e6},
};

static wad_sheet *sheet_of(const char *layout)
{
    char *text = g_strdup_printf("chip T {\n bus little 32\n clock core 8 MHz\n block A at 0 like "
                                 "l\n}\nlayout l {\n%s\n}\n",
                                 layout);
    wad_diags *diags = wad_diags_new();
    wad_sheet *sheet = wad_sheet_parse(text, strlen(text), "t.sheet", diags);
    wad_diags_print(diags, stderr);
    wad_diags_free(diags);
    g_free(text);
    assert_non_null(sheet);
    return sheet;
}

/* The host's answer in the target's terms. */
static uint64_t field_of(const wad_rate_target *t, const wad_rate_answer *a, int var, bool count)
{
    uint64_t value = var < 0 ? 0 : a->values[var];
    if (count && t->fraction_var >= 0)
        value = value << t->fraction_bits | a->values[t->fraction_var];
    return value;
}

static void check(const form *f, const wad_rate_law *law, const wad_rate_target *t, uint32_t clock,
                  wad_rate rate)
{
    wad_divider_setting s;
    wad_rate_answer a;
    wad_rational hz = {clock, 1}, wanted = {rate.hz, rate.per};
    int64_t g = rate.hz, h = rate.per;
    while (h) {
        int64_t r = g % h;
        g = h;
        h = r;
    }
    wanted.num /= g;
    wanted.den /= g;
    memset(&s, 0xEE, sizeof s);
    wad_status st = wad_divider_solve(&t->divider, clock, rate, &s);
    if (st != WAD_OK && st != WAD_E_RANGE)
        fail_msg("%s: %u Hz, %u / %u: %d", f->name, clock, rate.hz, rate.per, (int)st);
    assert_int_equal(wad_rate_solve(law, hz, wanted, NULL, &a, 1), 1);
    uint64_t prescale = field_of(t, &a, t->prescale_var, false),
             count = field_of(t, &a, t->count_var, true);
    if (s.prescale_value != prescale || s.count_value != count)
        fail_msg("%s: %u Hz, %u / %u: target %u, %u; host %llu, %llu", f->name, clock, rate.hz,
                 rate.per, s.prescale_value, s.count_value, (unsigned long long)prescale,
                 (unsigned long long)count);
    if (fabs(a.ppm) < 1e9 && fabs(s.error_ppm - a.ppm) > 0.50001 + fabs(a.ppm) * 1e-9)
        fail_msg("%s: %u Hz, %u / %u: target %d ppm, host %g", f->name, clock, rate.hz, rate.per,
                 s.error_ppm, a.ppm);
}

/* A million cases with WADIUM_MANY set; as many as tests should take without. */
static void target_and_host_agree(void **state)
{
    GRand *rand = g_rand_new_with_seed(31);
    unsigned rounds = g_getenv("WADIUM_MANY") ? 200000 : 4000;
    (void)state;
    for (unsigned i = 0; i < G_N_ELEMENTS(forms); i++) {
        wad_sheet *sheet = sheet_of(forms[i].layout);
        char *why;
        wad_rate_law *law = wad_rate_open(sheet, wad_sheet_block(sheet, "A"), "r", &why);
        wad_rate_target t;
        if (!law || !wad_rate_for_target(law, &t))
            fail_msg("%s: not of the target's form", forms[i].name);
        for (unsigned n = 0; n < rounds; n++) {
            uint32_t clock = n % 3 ? (uint32_t)g_rand_int_range(rand, 1000, 100000000) : 8000000;
            double hz = exp(g_rand_double_range(rand, log(forms[i].slow / 4), log(forms[i].fast)));
            hz *= clock / 8e6;
            uint32_t per = n % 5 ? 1 : (uint32_t)g_rand_int_range(rand, 1, 1000);
            wad_rate rate = {(uint32_t)CLAMP(hz * per, 1, (double)UINT32_MAX), per};
            check(&forms[i], law, &t, clock, rate);
        }
        wad_rate_close(law);
        wad_sheet_free(sheet);
    }
    g_rand_free(rand);
}

/* Ties are where the two could part: rates that lie just between two settings. */
static void target_and_host_agree_on_ties(void **state)
{
    (void)state;
    for (unsigned i = 0; i < G_N_ELEMENTS(forms); i++) {
        wad_sheet *sheet = sheet_of(forms[i].layout);
        char *why;
        wad_rate_law *law = wad_rate_open(sheet, wad_sheet_block(sheet, "A"), "r", &why);
        wad_rate_target t;
        assert_true(wad_rate_for_target(law, &t));
        for (uint32_t n = 2; n < 400; n++) { /* (1 / n + 1 / (n + 1)) / 2 of the clock */
            wad_rate rate = {2 * n + 1, 1};
            check(&forms[i], law, &t, 2 * n * (n + 1), rate);
            rate = (wad_rate){(2 * n + 1) * 1000, 16};
            check(&forms[i], law, &t, 2 * n * (n + 1) * 1000, rate);
        }
        wad_rate_close(law);
        wad_sheet_free(sheet);
    }
}

/* ---- full width, against every prescaler by 128-bit arithmetic ---- */

static void full_width_equals_a_search(void **state)
{
    GRand *rand = g_rand_new_with_seed(12);
    const wad_divider any = {.up = 1,
                             .down = 1,
                             .min = 1,
                             .max = 65536,
                             .prescale_min = 1,
                             .prescale_max = 65536,
                             .prescale_plus = 1,
                             .count_plus = 1};
    (void)state;
    for (unsigned i = 0; i < 300; i++) {
        uint32_t clock = (uint32_t)g_rand_int_range(rand, 32768, 96000000);
        wad_rate rate = {(uint32_t)g_rand_int_range(rand, 1, 20000),
                         (uint32_t)g_rand_int_range(rand, 1, 50)};
        wad_divider_setting s;
        wad_status st = wad_divider_solve(&any, clock, rate, &s);
        i128 a = (i128)clock * rate.per, b = rate.hz, best_off = -1, best_t = 1;
        uint32_t best_p = 0, best_n = 0;
        for (uint32_t p = 1; p <= 65536; p++)
            for (unsigned up = 0; up < 2; up++) {
                i128 n = a / (b * p) + up;
                n = n < 1 ? 1 : n > 65536 ? 65536 : n;
                i128 t = n * p, off = a > b * t ? a - b * t : b * t - a;
                if (best_off < 0 || off * best_t < best_off * t) {
                    best_off = off, best_t = t;
                    best_p = p, best_n = (uint32_t)n;
                }
            }
        if (s.prescale != best_p || s.count != best_n)
            fail_msg("%u Hz, %u / %u: %u * %u, best %u * %u", clock, rate.hz, rate.per, s.prescale,
                     s.count, best_p, best_n);
        assert_int_equal(st, (double)clock * rate.per / rate.hz < 0.5 ? WAD_E_RANGE : WAD_OK);
    }
    g_rand_free(rand);
}

static void what_cannot_be_is_refused(void **state)
{
    static const uint32_t set[] = {8, 1};
    wad_divider d = {
        .up = 1, .down = 1, .min = 1, .max = 256, .prescale_min = 1, .prescale_max = 256};
    wad_divider_setting s = {.prescale = 77};
    (void)state;
    assert_int_equal(wad_divider_solve(&d, 96000000, WAD_PERIOD_S(100), &s), WAD_E_RANGE);
    assert_int_equal(s.prescale, 256); /* the slowest there is */
    assert_int_equal(s.count, 256);
    s.prescale = 77;
    assert_int_equal(wad_divider_solve(&d, 8000000, (wad_rate){0, 1}, &s), WAD_E_ARG);
    assert_int_equal(wad_divider_solve(&d, 8000000, (wad_rate){1, 0}, &s), WAD_E_ARG);
    assert_int_equal(wad_divider_solve(&d, 0, WAD_HZ(1), &s), WAD_E_ARG);
    assert_int_equal(wad_divider_solve(&d, 4000000000u, (wad_rate){1, 4000000000u}, &s),
                     WAD_E_ARG); /* 64 bits */
    d.min = 300;
    assert_int_equal(wad_divider_solve(&d, 8000000, WAD_HZ(1), &s), WAD_E_ARG);
    assert_int_equal(s.prescale, 77);
    d = (wad_divider){.up = 1, .down = 1, .min = 10, .max = 20, .set = set, .n_set = 2};
    assert_int_equal(wad_divider_solve(&d, 8000000, WAD_HZ(800000), &s), WAD_OK);
    assert_int_equal(s.prescale, 1);
    assert_int_equal(wad_divider_solve(&d, 8000000, WAD_HZ(900000), &s), WAD_E_RANGE);
    assert_int_equal(wad_divider_solve(&d, 8000000, WAD_HZ(49000), &s), WAD_E_RANGE);
    assert_int_equal(s.prescale_value, 0); /* 8 is the first of the set */
}

/* ---- by the compiler ---- */

enum {
    BAUD_DIVISOR = WAD_DIVISOR(24000000, 115200 * 16, 5),
    TICK_PRESCALER = WAD_PRESCALER(48000000, 2, 65536),
    TICK_COUNT = WAD_DIVISOR(48000000, 2 * TICK_PRESCALER, 0)
};
WAD_ASSERT_DIVISOR(24000000, 115200 * 16, 5, BAUD_DIVISOR, 1000);
WAD_ASSERT_DIVISOR(48000000, 2 * TICK_PRESCALER, 0, TICK_COUNT, 10);

static void the_compiler_s_divisors_are_the_solver_s(void **state)
{
    GRand *rand = g_rand_new_with_seed(41);
    (void)state;
    assert_int_equal(BAUD_DIVISOR, 417); /* 13 and 1 / 32 */
    assert_int_equal(TICK_PRESCALER, 367);
    for (unsigned i = 0; i < 200000; i++) {
        uint32_t clock = (uint32_t)g_rand_int_range(rand, 32768, 96000000);
        uint32_t rate = (uint32_t)exp(g_rand_double_range(rand, log(300), log(2e6)));
        unsigned bits = (unsigned)g_rand_int_range(rand, 0, 9);
        wad_divider d = {.up = 1u << bits,
                         .down = 1,
                         .min = 1,
                         .max = UINT32_MAX,
                         .prescale_min = 1,
                         .prescale_max = 1};
        wad_divider_setting s;
        if (clock < rate)
            continue;
        assert_int_equal(wad_divider_solve(&d, clock, WAD_HZ(rate), &s), WAD_OK);
        uint64_t divisor = WAD_DIVISOR(clock, rate, bits);
        if (divisor != s.count)
            fail_msg("%u / %u, %u bits: %llu, solver %u", clock, rate, bits,
                     (unsigned long long)divisor, s.count);
        int64_t ppm = WAD_DIVISOR_PPM(clock, rate, bits, divisor);
        assert_true(ppm - s.error_ppm <= 1 && s.error_ppm - ppm <= 1);
        uint32_t max = 1u << (bits + 8), p = (uint32_t)WAD_PRESCALER(clock, rate, max);
        assert_true((uint64_t)clock / rate <= (uint64_t)p * max); /* it reaches ... */
        assert_true(p == 1 ||
                    (uint64_t)clock > (uint64_t)rate * (p - 1) * max); /* ... and no less */
    }
    g_rand_free(rand);
}

/* ---- laws of another form ---- */

static void other_forms_are_left_to_the_host(void **state)
{
    static const char *const layouts[] = {
        "reg P at 0 rw {\n 3:0 M rw\n}\nrate r law clock * (P.M + 2)",
        "reg P at 0 rw {\n 3:0 A rw\n 7:4 B rw\n}\nrate r law clock / (2 ** P.A * 3 ** P.B)",
        "reg P at 0 rw {\n 3:0 A rw\n 7:4 B rw\n}\nrate r law clock / (P.A + P.B + 1)",
        "reg P at 0 rw {\n 7:0 A rw\n}\nrate r law floor(clock / (P.A + 1))",
        "reg P at 0 rw {\n 7:0 A rw\n}\nrate r law clock / (P.A + 1 / 3)",
    };
    (void)state;
    for (unsigned i = 0; i < G_N_ELEMENTS(layouts); i++) {
        wad_sheet *sheet = sheet_of(layouts[i]);
        char *why;
        wad_rate_law *law = wad_rate_open(sheet, wad_sheet_block(sheet, "A"), "r", &why);
        wad_rate_target t;
        if (wad_rate_for_target(law, &t))
            fail_msg("%s: taken", layouts[i]);
        wad_rate_close(law);
        wad_sheet_free(sheet);
    }
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(target_and_host_agree),
        cmocka_unit_test(target_and_host_agree_on_ties),
        cmocka_unit_test(full_width_equals_a_search),
        cmocka_unit_test(what_cannot_be_is_refused),
        cmocka_unit_test(the_compiler_s_divisors_are_the_solver_s),
        cmocka_unit_test(other_forms_are_left_to_the_host),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
