/* SPDX-License-Identifier: MIT */
/* `expect`: read, measured, judged. */
#include <math.h>
#include <string.h>

#include "bench/language/bench.h"
#include "bench/language/finding_number.h"
#include "bench/language/probe.h"
#include "bench/language/said.h"
#include "bench/language/value.h"
#include "bench/measure/grid.h"
#include "bench/measure/text.h"
#include "bench/world/serial_peer.h"
#include "bench/world/spi_bus.h"
#include "expect.h"
#include "lang/cursor.h"
#include "lang/rational.h"
#include "lang/suggest.h"

/* ---- reading ---- */

typedef struct quantity_word {
    const char *word;
    wadi_expect_type type;
    wad_unit unit;
} quantity_word;

static const quantity_word pin_words[] = {
    {"frequency", WADI_EXPECT_FREQUENCY, WAD_UNIT_HZ},
    {"duty", WADI_EXPECT_DUTY, WAD_UNIT_PART},
    {"high", WADI_EXPECT_HIGH, WAD_UNIT_S},
    {"low", WADI_EXPECT_LOW, WAD_UNIT_S},
    {"period", WADI_EXPECT_PERIOD, WAD_UNIT_S},
    {"edges", WADI_EXPECT_EDGES, WAD_UNIT_NONE},
    {"grid", WADI_EXPECT_GRID, WAD_UNIT_S},
};

/* A text in its quotes, so that what does not print is seen. */
static void append_word(GString *text, const wadi_tok *t)
{
    char *shown = t->type == WADI_T_STRING ? g_strescape(t->text, NULL) : NULL;
    if (shown)
        g_string_append_printf(text, "\"%s\"", shown);
    else
        g_string_append(text, t->text ? t->text : "");
    g_free(shown);
}

static const char *text_between(wad_bench *b, const wadi_tok *from, const wadi_tok *to)
{
    GString *text = g_string_new(NULL);
    for (const wadi_tok *t = from; t < to; t++) {
        bool glue = t == from || (t->glued && t->type != WADI_T_NAME);
        g_string_append(text, glue ? "" : " ");
        if (t->type == WADI_T_NUMBER)
            g_string_append_printf(text, "%.12g", wadi_rat_double(t->number));
        else
            append_word(text, t);
    }
    char *copy = wadi_arena_strndup(b->arena, text->str, text->len);
    g_string_free(text, TRUE);
    return copy;
}

bool wadi_expect_wanted(wadi_cursor *c, wadi_expect *e, wad_unit unit)
{
    static const char *const examples[] = {"a plain number",
                                           "a frequency such as 1 Hz",
                                           "a time such as 500 ms",
                                           "a share such as 25 %",
                                           "points",
                                           "bytes",
                                           "a voltage such as 1.2 V",
                                           "cycles",
                                           "a resistance such as 1 kohm",
                                           "a capacity",
                                           "a current such as 12 uA"};
    wad_where where = c->tok->where;
    wad_unit got;
    if (!wadi_parse_amount(c, &e->wanted, &got))
        return false;
    if (got != unit) {
        wadi_error(c->src, &where, "expected %s", examples[unit]);
        c->failed = true;
    }
    return !c->failed;
}

bool wadi_expect_within(wadi_cursor *c, wadi_expect *e, wad_unit unit)
{
    wad_where where = c->tok->where;
    if (!wadi_need_word(c, "within") || !wadi_parse_amount(c, &e->within, &e->within_unit))
        return false;
    bool points = unit == WAD_UNIT_PART;
    bool fits = points ? e->within_unit == WAD_UNIT_POINT
                       : e->within_unit == unit || e->within_unit == WAD_UNIT_PART;
    if (!fits) {
        wadi_error(c->src, &where,
                   points ? "a duty's tolerance is given in points: within 0.1 points"
                          : "the tolerance is given in the same unit, in %% or in ppm");
        c->failed = true;
    }
    return !c->failed;
}

/* `grid 3 Hz within 62 us`, `grid 500 ms within 10 us`: the wanted value is kept as a period. */
static void parse_grid(wadi_cursor *c, wadi_expect *e)
{
    wad_where where = c->tok->where;
    wad_unit unit;
    if (!wadi_parse_amount(c, &e->wanted, &unit))
        return;
    bool ok = e->wanted.num > 0 && (unit == WAD_UNIT_S || unit == WAD_UNIT_HZ);
    if (ok && unit == WAD_UNIT_HZ)
        e->wanted = (wad_rational){e->wanted.den, e->wanted.num};
    where = ok ? c->tok->where : where;
    if (!ok || !wadi_need_word(c, "within") || !wadi_parse_amount(c, &e->within, &e->within_unit) ||
        e->within_unit != WAD_UNIT_S) {
        if (!c->failed)
            wadi_error(c->src, &where, "a grid is a rate and a time: grid 3 Hz within 62 us");
        c->failed = true;
    }
}

static void parse_pin_quantity(wadi_cursor *c, wadi_expect *e)
{
    for (unsigned i = 0; i < G_N_ELEMENTS(pin_words); i++) {
        if (!wadi_take_word(c, pin_words[i].word))
            continue;
        e->type = pin_words[i].type;
        if (e->type == WADI_EXPECT_GRID) {
            parse_grid(c, e);
            return;
        }
        if (!wadi_expect_wanted(c, e, pin_words[i].unit))
            return;
        if (e->type != WADI_EXPECT_EDGES)
            wadi_expect_within(c, e, pin_words[i].unit);
        return;
    }
    wadi_expected(c, "'frequency', 'duty', 'high', 'low', 'period', 'edges', 'grid' or 'is'");
}

static void parse_level(wadi_cursor *c, wadi_expect *e)
{
    e->type = WADI_EXPECT_LEVEL;
    e->level = wadi_at_word(c, "high") ? WAD_HIGH : wadi_at_word(c, "low") ? WAD_LOW : WAD_FLOATING;
    if (!wadi_take_word(c, "high") && !wadi_take_word(c, "low") && !wadi_take_word(c, "floating"))
        wadi_expected(c, "'high', 'low' or 'floating'");
    if (wadi_need_word(c, "at"))
        wadi_parse_ps(c, &e->at_ps);
}

static void parse_window(wadi_cursor *c, wadi_expect *e)
{
    e->to_ps = UINT64_MAX;
    wad_where where = c->tok->where;
    bool there = wadi_at_word(c, "from") || wadi_at_word(c, "to");
    if (there && e->type == WADI_EXPECT_LEVEL) {
        wadi_error(c->src, &where, "a level is looked at once, at its time: it takes no window");
        c->failed = true;
    } else if (there && e->type >= WADI_EXPECT_SPI_FRAMES && e->type <= WADI_EXPECT_SPI_REFUSALS) {
        wadi_error(c->src, &where,
                   "what a device counts it counts over the whole run: it takes no window");
        c->failed = true;
    } else if (there && e->type == WADI_EXPECT_SAYS && e->at_ps != UINT64_MAX) {
        wadi_error(c->src, &where, "'by' is the end of the window: say 'from T to T' instead");
        c->failed = true;
    }
    if (wadi_take_word(c, "from"))
        wadi_parse_ps(c, &e->from_ps);
    if (wadi_take_word(c, "to"))
        wadi_parse_ps(c, &e->to_ps);
    if (!c->failed && e->to_ps <= e->from_ps) {
        wadi_error(c->src, &where, "the window ends before it begins");
        c->failed = true;
    }
}

static void parse_irq(wadi_cursor *c, wadi_expect *e)
{
    if (wadi_take_word(c, "every")) {
        e->type = WADI_EXPECT_IRQ_PERIOD;
        if (wadi_expect_wanted(c, e, WAD_UNIT_S))
            wadi_expect_within(c, e, WAD_UNIT_S);
    } else if (wadi_take_word(c, "grid")) {
        e->type = WADI_EXPECT_IRQ_GRID;
        parse_grid(c, e);
    } else if (wadi_take_word(c, "latency")) {
        e->type = WADI_EXPECT_IRQ_LATENCY;
        if (wadi_need_word(c, "below"))
            wadi_expect_wanted(c, e, WAD_UNIT_S);
    } else if (wadi_take_word(c, "count")) {
        e->type = WADI_EXPECT_IRQ_COUNT;
        wadi_expect_wanted(c, e, WAD_UNIT_NONE);
    } else {
        wadi_expected(c, "'every', 'grid', 'latency below' or 'count'");
    }
}

static void parse_finding(wadi_cursor *c, wadi_expect *e)
{
    e->type = WADI_EXPECT_FINDING;
    if (!wadi_parse_finding_number(c, &e->line))
        return;
    if (wadi_take_word(c, "at")) {
        e->file = wadi_need_string(c, "\"FILE:LINE\"");
        if (!e->file)
            return;
        const char *colon = strrchr(e->file, ':');
        size_t n = colon ? (size_t)(colon - e->file) : strlen(e->file);
        e->file_line = colon ? (unsigned)g_ascii_strtoull(colon + 1, NULL, 10) : 0;
        e->file = wadi_arena_strndup(c->src->arena, e->file, n);
    }
}

static bool parse_irq_subject(wad_bench *b, wadi_cursor *c, const char *name, wadi_expect *e)
{
    const wad_instance *block = wad_sheet_block(b->sheet, name);
    if (!block || !wadi_take_word(c, "interrupt"))
        return false;
    if (!block->n_irqs) {
        wadi_error(c->src, &c->tok->where, "block %s has no interrupt line", name);
        c->failed = true;
        return true;
    }
    e->line = (unsigned)block->irqs[0];
    wadi_bench_capture_irq(b, e->line, wadi_arena_printf(b->arena, "%s_irq", block->name));
    parse_irq(c, e);
    return true;
}

/* `says "text" by 2 s`, `bytes 12`, `errors 0` */
static bool parse_peer(wad_bench *b, wadi_cursor *c, const char *name, wadi_expect *e)
{
    int peer = wadi_bench_peer(b, name);
    if (peer < 0)
        return false;
    e->line = (unsigned)peer;
    if (wadi_take_word(c, "says")) {
        e->type = WADI_EXPECT_SAYS;
        const char *text = wadi_need_string(c, "the text in quotes");
        e->says = text ? wadi_arena_strndup(b->arena, text, strlen(text)) : "";
        e->at_ps = UINT64_MAX;
        if (wadi_take_word(c, "by"))
            wadi_parse_ps(c, &e->at_ps);
        return true;
    }
    e->type = wadi_at_word(c, "bytes") ? WADI_EXPECT_BYTES : WADI_EXPECT_PEER_ERRORS;
    if (wadi_take_word(c, "bytes") || wadi_take_word(c, "errors"))
        wadi_expect_wanted(c, e, WAD_UNIT_NONE);
    else
        wadi_expected(c, "'says', 'bytes' or 'errors'");
    return true;
}

/* `frames 12`, `selects 3`, `refusals 0` */
static bool parse_device(const wad_bench *b, wadi_cursor *c, const char *name, wadi_expect *e)
{
    static const struct {
        const char *word;
        wadi_expect_type type;
    } words[] = {{"frames", WADI_EXPECT_SPI_FRAMES},
                 {"selects", WADI_EXPECT_SPI_SELECTS},
                 {"refusals", WADI_EXPECT_SPI_REFUSALS}};
    int device = wadi_bench_device(b, name);
    if (device < 0)
        return false;
    e->line = (unsigned)device;
    for (unsigned i = 0; i < G_N_ELEMENTS(words); i++)
        if (wadi_take_word(c, words[i].word)) {
            e->type = words[i].type;
            wadi_expect_wanted(c, e, WAD_UNIT_NONE);
            return true;
        }
    wadi_expected(c, "'frames', 'selects' or 'refusals'");
    return true;
}

static void parse_subject(wad_bench *b, wadi_cursor *c, wadi_expect *e)
{
    wad_where where = c->tok->where;
    const char *name = wadi_need_name(c, "what is expected");
    if (!name || parse_irq_subject(b, c, name, e) || parse_peer(b, c, name, e) ||
        parse_device(b, c, name, e))
        return;
    int probe = wadi_bench_probe(b, name), volts = wadi_bench_volts(b, name);
    if (volts >= 0) {
        e->probe = (unsigned)volts;
        wadi_parse_volts(c, e);
        return;
    }
    if (probe < 0) {
        GPtrArray *names = g_ptr_array_new();
        for (guint i = 0; i < b->probes->len; i++)
            g_ptr_array_add(names, (gpointer)g_array_index(b->probes, wadi_probe, i).name);
        wadi_error(c->src, &where, "nothing is captured as '%s'%s: capture PIN as %s", name,
                   wadi_suggest(b->arena, name, (const char *const *)names->pdata, names->len),
                   name);
        g_ptr_array_free(names, TRUE);
        c->failed = true;
        return;
    }
    e->probe = (unsigned)probe;
    if (wadi_take_word(c, "is"))
        parse_level(c, e);
    else
        parse_pin_quantity(c, e);
}

/* How many words of the statement name what is measured; the rest is what is wanted. */
static unsigned subject_words(wadi_expect_type type)
{
    switch (type) {
    case WADI_EXPECT_NO_FINDINGS:
        return 0;
    case WADI_EXPECT_AWAKE:
    case WADI_EXPECT_BUS:
    case WADI_EXPECT_CURRENT:
    case WADI_EXPECT_CURRENT_BELOW:
    case WADI_EXPECT_FINDING:
        return 1;
    case WADI_EXPECT_IRQ_LATENCY:
    case WADI_EXPECT_IRQ_GRID:
    case WADI_EXPECT_IRQ_COUNT:
        return 3;
    case WADI_EXPECT_ELEMENTS:
    case WADI_EXPECT_ELEMENT_LATENCY:
        return 4;
    default:
        return 2;
    }
}

bool wadi_parse_expect(wad_bench *b, wadi_cursor *c)
{
    const wadi_tok *start = c->tok;
    wadi_expect e = {.where = start->where, .to_ps = UINT64_MAX};
    e.where.file = b->file ? b->file : "(said in C)"; /* lives as long as the bench */
    if (wadi_take_word(c, "no")) {
        wadi_need_word(c, "findings");
        e.type = WADI_EXPECT_NO_FINDINGS;
    } else if (wadi_take_word(c, "finding")) {
        parse_finding(c, &e);
    } else if (wadi_take_word(c, "current")) {
        wadi_parse_current(c, &e);
        if (wadi_take_word(c, "from"))
            wadi_parse_ps(c, &e.from_ps);
    } else if (wadi_take_word(c, "awake")) {
        e.type = WADI_EXPECT_AWAKE;
        if (wadi_need_word(c, "below"))
            wadi_expect_wanted(c, &e, WAD_UNIT_PART);
    } else if (wadi_take_word(c, "bus")) {
        e.type = WADI_EXPECT_BUS;
        if (wadi_need_word(c, "below"))
            wadi_expect_wanted(c, &e, WAD_UNIT_PART);
    } else if (!wadi_parse_mover(b, c, &e)) {
        parse_subject(b, c, &e);
        parse_window(c, &e);
    }
    if (!wadi_need_end(c))
        return false;
    unsigned words = subject_words(e.type);
    e.subject = words ? text_between(b, start, start + words) : "findings";
    e.text = words ? text_between(b, start + words, c->tok) : "none";
    if (e.type == WADI_EXPECT_FINDING) {
        e.subject = wadi_arena_printf(b->arena, "finding W%u", e.line);
        e.text =
            e.file ? wadi_arena_printf(b->arena, "at %s:%u", e.file, e.file_line) : "once or more";
    }
    g_array_append_val(b->expects, e);
    return true;
}

/* ---- judging ---- */

bool wadi_expect_close(const wadi_expect *e, double value)
{
    double wanted = wadi_rat_double(e->wanted), tol = wadi_rat_double(e->within);
    if (e->within_unit == WAD_UNIT_PART)
        tol *= fabs(wanted);
    /* the tolerance itself still passes, whatever its last binary digit */
    return fabs(value - wanted) <= tol * (1 + 1e-9);
}

/* Every single width or period must hold, not only the mean. */
static wadi_judged judge_spread(const wadi_expect *e, const wad_stats *s, const char *none)
{
    if (!s->n)
        return (wadi_judged){g_strdup(none), false};
    bool ok =
        wadi_expect_close(e, (double)s->min / 1e12) && wadi_expect_close(e, (double)s->max / 1e12);
    return (wadi_judged){wadi_spread(s), ok};
}

/* "all 120 within -1.2 us and +3.4 us of it, drift 0.02 ppm" */
static wadi_judged judge_grid(const wadi_expect *e, const wadi_grid_meter *g)
{
    if (g->n < 2)
        return (wadi_judged){g_strdup_printf("%llu edges: no grid", (unsigned long long)g->n),
                             false};
    double most = wadi_rat_double(e->within) * 1e12 * (1 + 1e-9);
    bool ok =
        !g->missing && !g->doubled && (double)g->latest <= most && (double)-g->earliest <= most;
    char *early = wadi_seconds((double)-g->earliest / 1e12),
         *late = wadi_seconds((double)g->latest / 1e12);
    GString *text = g_string_new(NULL);
    g_string_append_printf(text, g->earliest || g->latest ? "%llu, up to " : "all %llu on it",
                           (unsigned long long)g->n);
    if (g->earliest)
        g_string_append_printf(text, "%s early%s", early, g->latest ? " to " : "");
    if (g->latest)
        g_string_append_printf(text, "%s late", late);
    if (g->earliest || g->latest) {
        char *rms = wadi_seconds(floor(wadi_grid_rms(g) + 0.5) / 1e12);
        g_string_append_printf(text, ", rms %s, drift %.3g ppm", rms, wadi_grid_drift(g) * 1e6);
        g_free(rms);
    }
    if (g->missing)
        g_string_append_printf(text, ", %llu missing", (unsigned long long)g->missing);
    if (g->doubled)
        g_string_append_printf(text, ", %llu too many", (unsigned long long)g->doubled);
    g_free(early);
    g_free(late);
    return (wadi_judged){g_string_free(text, FALSE), ok};
}

static wadi_judged judge_peer(const wadi_expect *e, const wadi_peer *peer)
{
    if (e->type == WADI_EXPECT_SAYS) {
        uint64_t ps = wadi_peer_heard(peer, e->says, e->from_ps, e->to_ps);
        if (ps) {
            char *when = wadi_seconds((double)ps / 1e12);
            wadi_judged j = {g_strdup_printf("at %s", when), ps <= e->at_ps};
            g_free(when);
            return j;
        }
        char *tail = wadi_peer_tail(peer);
        wadi_judged j = {g_strdup_printf(*tail ? "not heard, but \"%s\"" : "nothing heard", tail),
                         false};
        g_free(tail);
        return j;
    }
    unsigned n = e->type == WADI_EXPECT_BYTES ? wadi_peer_bytes(peer, e->from_ps, e->to_ps)
                                              : wadi_peer_errors(peer, e->from_ps, e->to_ps);
    return (wadi_judged){g_strdup_printf("%u", n), (double)n == wadi_rat_double(e->wanted)};
}

void wadi_gauge_edge(wadi_gauge *g, uint64_t ps, wad_level level)
{
    const wadi_expect *e = g->expect;
    wad_meter_edge(&g->meter, ps, level);
    if (e->type == WADI_EXPECT_GRID && level == WAD_HIGH && ps >= e->from_ps && ps <= e->to_ps)
        wadi_grid_edge(&g->grid, ps);
    if (ps <= e->at_ps)
        g->level_then = level;
}

static wadi_judged judge_device(const wadi_gauge *g)
{
    const wadi_expect *e = g->expect;
    unsigned n = e->type == WADI_EXPECT_SPI_FRAMES    ? wadi_spi_frames(g->buses, e->line)
                 : e->type == WADI_EXPECT_SPI_SELECTS ? wadi_spi_selects(g->buses, e->line)
                                                      : wadi_spi_refusals(g->buses, e->line);
    return (wadi_judged){g_strdup_printf("%u", n), (double)n == wadi_rat_double(e->wanted)};
}

static wadi_judged judge_awake(const wadi_expect *e, const wad_run_result *run)
{
    double share = run->end_ps ? (double)run->awake_ps / (double)run->end_ps : 1;
    return (wadi_judged){g_strdup_printf("%.4g %%", share * 100),
                         share < wadi_rat_double(e->wanted)};
}

static wadi_judged judge_pin(const wadi_gauge *g)
{
    static const char *const levels[] = {"low", "high", "floating"};
    const wadi_expect *e = g->expect;
    const wad_meter *m = &g->meter;
    double value;
    switch (e->type) {
    case WADI_EXPECT_FREQUENCY:
        value = wad_meter_hz(m);
        if (m->rises < 2)
            return (wadi_judged){
                g_strdup_printf("%llu rising edges: no period", (unsigned long long)m->rises),
                false};
        return (wadi_judged){g_strdup_printf("%.9g Hz", value), wadi_expect_close(e, value)};
    case WADI_EXPECT_DUTY:
        value = wad_meter_duty(m);
        return (wadi_judged){g_strdup_printf("%.4f %%", value * 100), wadi_expect_close(e, value)};
    case WADI_EXPECT_HIGH:
        return judge_spread(e, &m->high, "no high pulse");
    case WADI_EXPECT_LOW:
        return judge_spread(e, &m->low, "no low pulse");
    case WADI_EXPECT_PERIOD:
        return judge_spread(e, &m->period, "no whole period");
    case WADI_EXPECT_GRID:
        return judge_grid(e, &g->grid);
    case WADI_EXPECT_EDGES:
        return (wadi_judged){g_strdup_printf("%llu", (unsigned long long)m->edges),
                             (double)m->edges == wadi_rat_double(e->wanted)};
    default:
        return (wadi_judged){g_strdup(levels[g->level_then]), g->level_then == e->level};
    }
}

static wadi_judged judge_irq(const wadi_gauge *g)
{
    const wadi_expect *e = g->expect;
    if (e->type == WADI_EXPECT_IRQ_PERIOD)
        return judge_spread(e, &g->period, g->count ? "served once only" : "never served");
    if (e->type == WADI_EXPECT_IRQ_GRID)
        return judge_grid(e, &g->grid);
    if (e->type == WADI_EXPECT_IRQ_COUNT)
        return (wadi_judged){g_strdup_printf("%llu", (unsigned long long)g->count),
                             (double)g->count == wadi_rat_double(e->wanted)};
    if (!g->count)
        return (wadi_judged){g_strdup("never served"), false};
    char *max = wadi_seconds((double)g->latency.max / 1e12);
    char *mean = wadi_seconds(wad_stats_mean(&g->latency) / 1e12);
    wadi_judged j = {g_strdup_printf("%s at most, mean %s", max, mean),
                     (double)g->latency.max / 1e12 < wadi_rat_double(e->wanted)};
    g_free(max);
    g_free(mean);
    return j;
}

static bool finding_matches(const wadi_expect *e, const wad_finding *f)
{
    if ((unsigned)f->kind != e->line)
        return false;
    if (!e->file)
        return true;
    for (unsigned i = 0; i < f->n_places; i++)
        if (f->places[i].file && wad_place_is_in(f->places[i].file, e->file) &&
            (!e->file_line || f->places[i].line == e->file_line))
            return true;
    return false;
}

static wadi_judged judge_findings(const wadi_expect *e, const wad_sim *sim)
{
    unsigned n = wad_sim_finding_count(sim), hits = 0;
    if (e->type == WADI_EXPECT_NO_FINDINGS)
        return (wadi_judged){n ? g_strdup_printf("%u", n) : g_strdup("none"), n == 0};
    for (unsigned i = 0; i < n; i++)
        hits += finding_matches(e, wad_sim_finding(sim, i));
    return (wadi_judged){g_strdup_printf(hits ? "%u" : "not found", hits), hits > 0};
}

/* Nothing was measured where an expectation asks: neither met nor broken, and so not met. */
static char *not_there(const wadi_expect *e, const wad_run_result *run)
{
    bool at_time = e->type == WADI_EXPECT_LEVEL && e->at_ps > run->end_ps;
    bool behind = (e->from_ps && e->from_ps >= run->end_ps) ||
                  (e->to_ps != UINT64_MAX && e->to_ps > run->end_ps);
    if (!at_time && !behind)
        return NULL;
    char *end = wadi_seconds((double)run->end_ps / 1e12);
    char *text = g_strdup_printf("not measured: the end is at %s already", end);
    g_free(end);
    return text;
}

static wadi_judged judge_one(const wadi_gauge *g, wad_sim *sim, const wad_capture *capture,
                             const wad_run_result *run);

wadi_judged wadi_judge(const wadi_gauge *g, wad_sim *sim, const wad_capture *capture,
                       const wad_run_result *run)
{
    char *why = not_there(g->expect, run);
    return why ? (wadi_judged){why, false} : judge_one(g, sim, capture, run);
}

static wadi_judged judge_one(const wadi_gauge *g, wad_sim *sim, const wad_capture *capture,
                             const wad_run_result *run)
{
    if (g->expect->type == WADI_EXPECT_AWAKE)
        return judge_awake(g->expect, run);
    if (g->expect->type >= WADI_EXPECT_SAYS && g->expect->type <= WADI_EXPECT_PEER_ERRORS)
        return judge_peer(g->expect, g->peer);
    if (g->expect->type >= WADI_EXPECT_SPI_FRAMES && g->expect->type <= WADI_EXPECT_SPI_REFUSALS)
        return judge_device(g);
    if (g->expect->type == WADI_EXPECT_CURRENT || g->expect->type == WADI_EXPECT_CURRENT_BELOW)
        return wadi_judge_current(g, sim, run);
    if (g->expect->type >= WADI_EXPECT_TONE && g->expect->type <= WADI_EXPECT_STAYS)
        return wadi_judge_volts(g, capture, run);
    if (g->expect->type >= WADI_EXPECT_ELEMENTS && g->expect->type <= WADI_EXPECT_BUS)
        return wadi_judge_mover(g, sim, run);
    if (g->expect->type <= WADI_EXPECT_LEVEL)
        return judge_pin(g);
    if (g->expect->type <= WADI_EXPECT_IRQ_COUNT)
        return judge_irq(g);
    return judge_findings(g->expect, sim);
}
