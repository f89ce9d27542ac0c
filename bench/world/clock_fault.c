/* SPDX-License-Identifier: MIT */
/* Oscillators that are off their frequency, or fail. */
#include "bench/language/statement.h"
#include "bench/language/value.h"
#include "lang/rational.h"
#include "sheet/read/number.h"

/* An oscillator that is off its frequency by a share. */
typedef struct clock_error {
    const wad_clock *clock;
    wad_rational share;
} clock_error;

/* One that stops, and perhaps runs again. */
typedef struct clock_failure {
    const wad_clock *clock;
    uint64_t at_ps, until_ps; /* until 0: for good */
} clock_failure;

/* `clock xtal fails at 2 s until 3 s` */
static void say_failure(wad_bench *b, wadi_cursor *c, const wad_clock *clock)
{
    clock_failure f = {.clock = clock};
    wadi_need_word(c, "at");
    wadi_parse_ps(c, &f.at_ps);
    wad_where where = c->tok->where;
    if (wadi_take_word(c, "until") && wadi_parse_ps(c, &f.until_ps) && f.until_ps <= f.at_ps) {
        wadi_error(c->src, &where, "the failure ends before it begins");
        c->failed = true;
    }
    if (wadi_need_end(c))
        wadi_bench_keep(b, &wadi_say_clock_failure, &f);
}

/* `clock internal off 0.8 %`: this oscillator is that much fast, or slow with a minus. */
static void say_clock(wad_bench *b, wadi_cursor *c, const char *word)
{
    wad_where where = c->tok->where;
    (void)word;
    const char *name = wadi_need_name(c, "an oscillator's name");
    clock_error e = {.clock = name && b->sheet ? wad_sheet_clock(b->sheet, name) : NULL};
    if (name && (!e.clock || e.clock->law)) {
        wadi_error(c->src, &where, "'%s' is no oscillator of the board's chip", name);
        c->failed = true;
    }
    if (!c->failed && wadi_take_word(c, "fails")) {
        say_failure(b, c, e.clock);
        return;
    }
    if (!wadi_need_word(c, "off"))
        return;
    bool slow = wadi_take_punct(c, "-");
    wad_where number = c->tok->where;
    if (!wadi_take_quantity(c, WAD_UNIT_PART, &e.share) || !wadi_need_end(c))
        return;
    if (wadi_rat_double(e.share) > 0.5) {
        wadi_error(c->src, &number, "an oscillator is at most 50 %% off");
        c->failed = true;
        return;
    }
    e.share.num = slow ? -e.share.num : e.share.num;
    wadi_bench_keep(b, &wadi_say_clock, &e);
}

/* ---- in a run ---- */

static bool begin_error(const wadi_setting *s, const void *said, char **why)
{
    const clock_error *e = said;
    if (wad_sim_set_clock_error(s->sim, e->clock, e->share))
        return true;
    *why = g_strdup_printf("clock %s: its error has too many digits", e->clock->name);
    return false;
}

/* Clocks that are off by intent. */
static char *note_error(const wadi_setting *s, const void *said, unsigned i)
{
    const clock_error *e = said;
    (void)s;
    (void)i;
    return g_strdup_printf("clock %s runs %+.6g ppm off, as the bench says", e->clock->name,
                           wadi_rat_double(e->share) * 1e6);
}

const wadi_statement_class wadi_say_clock = {.words = "clock",
                                             .parse = say_clock,
                                             .said_size = sizeof(clock_error),
                                             .phase = WADI_WITH_CHIP,
                                             .begin = begin_error,
                                             .note = note_error};

typedef struct failing {
    const wad_clock *clock;
    bool fails;
} failing;

static void do_fail(wad_sim *sim, void *ctx)
{
    const failing *f = ctx;
    wad_sim_fail_clock(sim, f->clock, f->fails);
}

static void fail_at(const wadi_setting *s, uint64_t ps, const wad_clock *clock, bool fails)
{
    const failing f = {clock, fails};
    wadi_plan(s, ps, do_fail, &f, sizeof f);
}

static bool begin_failure(const wadi_setting *s, const void *said, char **why)
{
    const clock_failure *f = said;
    (void)why;
    fail_at(s, f->at_ps, f->clock, true);
    if (f->until_ps)
        fail_at(s, f->until_ps, f->clock, false);
    return true;
}

/* `clock NAME fails` is read by the class above. */
const wadi_statement_class wadi_say_clock_failure = {
    .said_size = sizeof(clock_failure), .phase = WADI_WITH_WORLD, .begin = begin_failure};
