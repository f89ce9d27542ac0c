/* SPDX-License-Identifier: MIT */
/*
 * Rates that a kind gives by its roles, wherever those lie: settings at random are written to the
 * chip, and what its models then do is timed. Wrong settings of one count would be off by more.
 */
#include <math.h>
#include <string.h>

#include "small_chip.h"
#include "wadium/host/rate.h"

#define COUNTER_ROLES "enable CTRL.EN, count COUNT.V, wrap CTRL.F, wrap_irq CTRL.IE"
#define COUNTER_REGS                                                                               \
    "reg CTRL at 0 rw { 0 EN rw\n 1 IE rw\n 2 F w1c\n 5:4 PRE rw\n 8 WIDE rw }\n"                  \
    "reg COUNT at 4 ro volatile { 31:0 V ro }\n"                                                   \
    "reg HI at 8 rw { 3:0 V rw }\n reg LO at 0xC rw { 7:0 V rw }\n"
#define COUNTER(roles) ONE_BLOCK(COUNTER_REGS "acts as counter { " roles "\n" COUNTER_ROLES " }")
#define PINS                                                                                       \
    "block P at 0x4001_0000 like p { carries G[4] }\n"                                             \
    "block A at 0x4000_0000 like l {\n pins OUT out { G0 fn 1 }\n pins IN in { G1 fn 1 }\n pins "  \
    "CK { G2 fn 1 }\n }\n}\n"                                                                      \
    "layout p { reg I at 0 ro { 0 P[4] ro }\n reg O at 4 rw { 0 P[4] rw }\n"                       \
    "reg D at 8 rw { 0 P[4] rw }\n reg F at 0xC rw { 0 P[4] rw }\n"                                \
    "acts as gpio { in[n] I.P[n], out[n] O.P[n], dir[n] D.P[n], function[n] F.P[n] } }\n"
#define SERIAL(regs, roles)                                                                        \
    HEAD PINS "layout l { reg CTRL at 0 rw { 0 EN rw\n 5:4 O rw }\n reg D at 4 rw { 7:0 V rw }\n"  \
              "reg ST at 8 ro { 0 FULL ro\n 1 DONE ro\n 2 CAME ro }\n" regs                        \
              "\nacts as uart { enable CTRL.EN, tx_data D.V depth 8, rx_data D.V, tx_ready not "   \
              "ST.FULL, tx_done ST.DONE, rx_ready ST.CAME, tx pins OUT, rx pins IN\n" roles        \
              " } }\n"
#define SHIFT(regs, roles)                                                                         \
    HEAD PINS                                                                                      \
        "layout l { reg CTRL at 0 rw { 0 EN rw\n 5:4 O rw }\n reg D at 4 rw { 7:0 V rw }\n"        \
        "reg ST at 8 ro { 0 FULL ro\n 1 DONE ro\n 2 CAME ro }\n" regs                              \
        "\nacts as spi { enable CTRL.EN, tx_data D.V depth 8, rx_data D.V depth 8, tx_ready "      \
        "not ST.FULL, done ST.DONE, rx_ready ST.CAME, clock pins CK, mosi pins OUT, miso "         \
        "pins IN\n" roles " } }\n"

typedef struct kase {
    const char *what, *text, *law;
    const char *setting; /* "CTRL.WIDE": 1 for it, or NULL */
    int (*body)(void);   /* its firmware: times what the law tells */
    double fast;         /* what it can time, to within half a percent */
} kase;

/* What is written, in order, then `start` to CTRL besides. */
static struct {
    uint32_t at[16], value[16];
    unsigned n;
    uint32_t ctrl;
    double seconds; /* measured, of a period */
} now;

static void set_up(void)
{
    for (unsigned i = 0; i < now.n; i++)
        out(now.at[i], now.value[i]);
}

static uint64_t next_wrap(void)
{
    out(BASE, now.ctrl | 5);
    while (!(in(BASE)&4))
        continue;
    return wad_sim_now(small_sim);
}

static int time_wraps(void)
{
    const unsigned n = 20;
    set_up();
    out(BASE, now.ctrl | 1);
    next_wrap();
    uint64_t from = next_wrap();
    for (unsigned i = 0; i < n; i++)
        next_wrap();
    now.seconds = (double)(next_wrap() - from) / (n + 1) / WAD_PS_PER_S;
    return 0;
}

static int time_counts(void)
{
    set_up();
    out(BASE, now.ctrl | 1);
    uint32_t first = in(BASE + 4), n;
    uint64_t from = wad_sim_now(small_sim);
    do
        n = in(BASE + 4) - first;
    while (n < 200);
    now.seconds = (double)(wad_sim_now(small_sim) - from) / n / WAD_PS_PER_S;
    return 0;
}

/* Eight bytes: of a bit by `bits` of each. */
static int time_bytes(unsigned bits)
{
    set_up();
    out(0x4001000C, 0xF);
    out(BASE, now.ctrl | 1);
    uint64_t from = wad_sim_now(small_sim);
    for (unsigned i = 0; i < 8; i++)
        out(BASE + 4, 0x5A);
    while (!(in(BASE + 8) & 2))
        continue;
    now.seconds = (double)(wad_sim_now(small_sim) - from) / (8 * bits) / WAD_PS_PER_S;
    return 0;
}

static int time_frames(void)
{
    return time_bytes(10);
}

static int time_words(void)
{
    return time_bytes(8);
}

static const kase kases[] = {
    {"codes, one stops; reload in two registers",
     COUNTER(
         "prescale CTRL.PRE { 0 stopped, 1 is 1, 2 is 8, 3 is 64 }\n reload HI.V : LO.V plus 1"),
     "wrap", NULL, time_wraps, 9e4},
    {"half of it",
     COUNTER(
         "prescale CTRL.PRE { 0 stopped, 1 is 1, 2 is 8, 3 is 64 }\n reload HI.V : LO.V plus 1"),
     "toggle", NULL, time_wraps, 9e4},
    {"a law", COUNTER("prescale law 3 * (CTRL.PRE + 1)\n reload LO.V plus 2"), "wrap", NULL,
     time_wraps, 9e4},
    {"inverted bits", COUNTER("prescale CTRL.PRE plus 1\n reload not LO.V plus 1"), "wrap", NULL,
     time_wraps, 9e4},
    {"powers", COUNTER("prescale CTRL.PRE power 4\n reload HI.V : LO.V plus 1"), "wrap", NULL,
     time_wraps, 9e4},
    {"narrow, after reset",
     COUNTER("prescale CTRL.PRE plus 1\n reload HI.V : LO.V plus 1 when CTRL.WIDE = 1\n reload "
             "LO.V plus 1"),
     "wrap", NULL, time_wraps, 9e4},
    {"wide, by a setting",
     COUNTER("prescale CTRL.PRE plus 1\n reload HI.V : LO.V plus 1 when CTRL.WIDE = 1\n reload "
             "LO.V plus 1"),
     "wrap", "CTRL.WIDE", time_wraps, 9e4},
    {"up from a start value",
     ONE_BLOCK("reg CTRL at 0 rw { 0 EN rw\n 1 IE rw\n 2 F w1c\n 4 PRE rw }\n"
               "reg COUNT at 4 ro volatile { 11:0 V ro }\n"
               "reg HI at 8 rw { 3:0 V rw }\n reg LO at 0xC rw { 7:0 V rw }\n"
               "acts as counter { prescale CTRL.PRE plus 1\n start HI.V : LO.V\n" COUNTER_ROLES
               " }"),
     "wrap", NULL, time_wraps, 9e4},
    {"up and down",
     ONE_BLOCK(COUNTER_REGS "acts as counter { prescale CTRL.PRE plus 1\n reload LO.V plus 1\n "
                            "mode always 0 { 0 updown }\n" COUNTER_ROLES " }"),
     "updown", NULL, time_wraps, 9e4},
    {"a tick",
     ONE_BLOCK(
         "reg CTRL at 0 rw { 0 EN rw\n 1 IE rw\n 2 F w1c }\n reg LO at 0xC rw { 11:0 V rw }\n"
         "acts as tick { enable CTRL.EN, reload LO.V plus 1, wrap CTRL.F, wrap_irq CTRL.IE }"),
     "wrap", NULL, time_wraps, 9e4},
    {"a timebase",
     ONE_BLOCK(
         "reg CTRL at 0 rw { 0 EN rw\n 4:1 PRE rw }\n reg COUNT at 4 ro volatile { 31:0 V ro "
         "}\n acts as timebase { enable CTRL.EN, count COUNT.V, prescale CTRL.PRE { 0 .. 3 is "
         "12, 4 is 20, 7 is 48 } }"),
     "count", NULL, time_counts, 2e6},
    {"bits of a line, with eighths",
     SERIAL("reg DIV at 0xC rw { 6:3 W rw\n 2:0 P rw }\n",
            "divider DIV.W plus 1\n divider_fraction DIV.P\n over CTRL.O { 1 x8, 2 x16 }"),
     "baud", NULL, time_frames, 5e5},
    {"bits of a line by a law",
     SERIAL("reg DIV at 0xC rw { 5:0 W rw }\n", "divider law DIV.W + 3 / 4"), "baud", NULL,
     time_frames, 5e5},
    {"frames, whole dividers", SHIFT("reg DIV at 0xC rw { 5:0 W rw }\n", "divider DIV.W plus 2"),
     "bitrate", NULL, time_words, 5e5},
    {"frames, dividers in codes",
     SHIFT("reg DIV at 0xC rw { 2:0 W rw }\n", "divider DIV.W { 1 is 16, 3 .. 5 is 33, 6 is 128 }"),
     "bitrate", NULL, time_words, 5e5},
};

static void put(const wad_fieldref *ref, uint64_t bits)
{
    uint32_t at = (uint32_t)wad_fieldref_address(ref);
    unsigned i = 0;
    if (at == BASE) {
        now.ctrl |= (uint32_t)bits;
        return;
    }
    while (i < now.n && now.at[i] != at)
        i++;
    if (i == now.n)
        now.at[now.n++] = at;
    now.value[i] |= (uint32_t)bits;
}

/* A setting at random that is offered, within what can be timed; its rate. */
static double any_setting(const wad_rate_law *law, wad_rational clock, double fast,
                          uint32_t *random)
{
    for (;;) {
        wad_rate_answer one;
        wad_rate_options options = {.fixed = ~0u};
        memset(&now, 0, sizeof now);
        for (unsigned i = 0; i < wad_rate_vars(law); i++) {
            *random = *random * 1664525u + 1013904223u;
            options.values[i] = (*random >> 8) % (wad_rate_var_max(law, i) + 1);
        }
        if (wad_rate_solve(law, clock, (wad_rational){10000, 1}, &options, &one, 1) != 1)
            continue;
        double hz = (double)one.actual.num / (double)one.actual.den;
        if (hz < 9e3 || hz > fast)
            continue;
        for (unsigned i = 0; i < wad_rate_vars(law); i++) {
            wad_fieldref refs[4];
            uint64_t bits[4];
            unsigned n = wad_rate_var_words(law, i, one.values[i], refs, bits, 4);
            for (unsigned k = 0; k < n; k++)
                put(&refs[k], bits[k]);
        }
        return hz;
    }
}

static void the_models_do_what_the_laws_tell(void **state)
{
    uint32_t random = 1;
    (void)state;
    for (unsigned i = 0; i < sizeof kases / sizeof kases[0]; i++) {
        const kase *k = &kases[i];
        wad_sheet *sheet = small_parse(k->text);
        wad_rate_setting setting = {.value = 1};
        char *why = NULL, *path = g_strdup_printf("A.%s", k->setting ? k->setting : "CTRL");
        assert_true(wad_sheet_resolve(sheet, path, &setting.ref, &why));
        wad_rate_law *law = wad_rate_open_with(sheet, wad_sheet_block(sheet, "A"), k->law, &setting,
                                               k->setting != NULL, &why);
        wad_rational clock;
        if (!law)
            fail_msg("%s: %s", k->what, why);
        assert_true(wad_rate_clock(law, &clock));
        assert_int_equal(setting.used, k->setting != NULL);
        for (unsigned n = 0; n < 8; n++) {
            double hz = any_setting(law, clock, k->fast, &random);
            if (k->setting)
                put(&setting.ref, wad_fieldref_mask(&setting.ref));
            if (!strcmp(k->law, "toggle"))
                hz *= 2;
            small_run(k->text, k->body, ANY_FINDINGS);
            if (fabs(now.seconds * hz - 1) > 0.006)
                fail_msg("%s, %s: %g Hz by the law, the chip makes %g", k->what, wad_rate_text(law),
                         hz, 1 / now.seconds);
        }
        wad_rate_close(law);
        wad_sheet_free(sheet);
        g_free(path);
    }
}

/* A sheet that says its own law is believed; a block that has none says what its units have. */
static void what_is_asked_is_answered_or_named(void **state)
{
    static const char text[] =
        HEAD "block A at 0x4000_0000 like l {\n }\n block U at 0x4000_1000 like u\n}\n"
             "layout l { reg C at 0 rw { 0 E rw\n 1 F w1c }\n reg N at 4 ro volatile { 7:0 V ro }\n"
             "reg R at 8 rw { 7:0 V rw }\n"
             "acts as counter T0 { enable C.E, count N.V, reload R.V plus 1, wrap C.F } }\n"
             "layout u { reg C at 0 rw { 0 E rw\n 1 F w1c }\n reg N at 4 ro volatile { 7:0 V ro }\n"
             "reg R at 8 rw { 7:0 V rw }\n rate wrap law clock / 7\n"
             "acts as counter { enable C.E, count N.V, reload R.V plus 1, wrap C.F } }";
    wad_sheet *sheet = small_parse(text);
    char *why = NULL;
    (void)state;
    assert_null(wad_rate_open(sheet, wad_sheet_block(sheet, "A"), "wrap", &why));
    assert_non_null(strstr(why, "A has no rates; those of its units: A.T0 wrap, toggle"));
    g_free(why);
    assert_null(wad_rate_open(sheet, wad_sheet_block(sheet, "A.T0"), "baud", &why));
    assert_non_null(strstr(why, "A.T0 has no rate 'baud': it has wrap, toggle"));
    g_free(why);
    wad_rate_law *law = wad_rate_open(sheet, wad_sheet_block(sheet, "U"), "wrap", &why);
    assert_string_equal(wad_rate_text(law), "clock / 7");
    wad_rate_close(law);
    law = wad_rate_open(sheet, wad_sheet_block(sheet, "A.T0"), "wrap", &why);
    assert_string_equal(wad_rate_text(law), "clock / (R.V + 1)");
    wad_rate_close(law);
    wad_sheet_free(sheet);
}

int main(void)
{
    const struct CMUnitTest tests[] = {cmocka_unit_test(the_models_do_what_the_laws_tell),
                                       cmocka_unit_test(what_is_asked_is_answered_or_named)};
    return cmocka_run_group_tests(tests, NULL, NULL);
}
