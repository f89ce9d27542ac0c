/* SPDX-License-Identifier: MIT */
/* Statements about volts: `analog`, `supply`, `converter`, and what is captured of them. */
#include "volt_say.h"

#include <string.h>

#include "bench/language/probe.h"
#include "bench/language/statement.h"
#include "bench/language/value.h"
#include "lang/cursor.h"
#include "lang/rational.h"
#include "sheet/read/number.h"

static bool amount(wadi_cursor *c, wad_unit unit, double *value)
{
    wad_rational r = {0, 1};
    bool negative = wadi_take_punct(c, "-");
    if (!wadi_take_quantity(c, unit, &r))
        return false;
    *value = negative ? -wadi_rat_double(r) : wadi_rat_double(r);
    return true;
}

/* ---- shapes ---- */

/* `sine 200 mV 5 Hz offset 1.65 V`: the amplitude is half from top to bottom. */
static void say_wave(wadi_cursor *c, wadi_analog_def *d)
{
    wad_where where = c->tok->where;
    if (amount(c, WAD_UNIT_V, &d->size) && amount(c, WAD_UNIT_HZ, &d->hz) &&
        wadi_need_word(c, "offset"))
        amount(c, WAD_UNIT_V, &d->level);
    if (!c->failed && d->hz <= 0) {
        wadi_error(c->src, &where, "a wave has a frequency above 0 Hz");
        c->failed = true;
    }
}

/* `ramp 0 V to 3.3 V in 2 s [repeat]` */
static void say_ramp(wadi_cursor *c, wadi_analog_def *d)
{
    double to = 0;
    wad_where where = c->tok->where;
    if (!amount(c, WAD_UNIT_V, &d->level) || !wadi_need_word(c, "to") ||
        !amount(c, WAD_UNIT_V, &to) || !wadi_need_word(c, "in") ||
        !amount(c, WAD_UNIT_S, &d->seconds))
        return;
    d->size = to - d->level;
    d->repeats = wadi_take_word(c, "repeat");
    if (d->seconds <= 0) {
        wadi_error(c->src, &where, "a ramp takes some time");
        c->failed = true;
    }
}

/* Lines of seconds and volts; others, such as a head, are passed over. */
static bool read_points(const char *text, GArray *points, unsigned *bad)
{
    char **lines = g_strsplit(text, "\n", -1);
    *bad = 0;
    for (unsigned i = 0; lines[i] && !*bad; i++) {
        char *end, *line = g_strstrip(lines[i]);
        if (!*line || *line == '#')
            continue;
        double t = g_ascii_strtod(line, &end);
        bool number = end != line && (*end == ',' || *end == ';' || *end == '\t');
        char *second = number ? end + 1 : line;
        double v = g_ascii_strtod(second, &end);
        if (!number && !points->len) /* the head */
            continue;
        wad_sample p = {(uint64_t)(t * 1e12 + 0.5), v};
        if (!number || end == second || t < 0 || t > 1e7 ||
            (points->len && p.ps <= g_array_index(points, wad_sample, points->len - 1).ps))
            *bad = i + 1;
        else
            g_array_append_val(points, p);
    }
    g_strfreev(lines);
    return !*bad && points->len > 0;
}

static void say_file(wad_bench *b, wadi_cursor *c, wadi_analog_def *d)
{
    wad_where where = c->tok->where;
    const char *name = wadi_need_string(c, "a CSV file's name in quotes");
    unsigned bad = 0;
    if (!name)
        return;
    char *path = wadi_bench_path(b, name), *text = NULL;
    d->points = g_array_new(FALSE, FALSE, sizeof(wad_sample));
    g_ptr_array_add(b->point_lists, d->points);
    if (!g_file_get_contents(path, &text, NULL, NULL))
        wadi_error(c->src, &where, "cannot read '%s'", path);
    else if (!read_points(text, d->points, &bad) && bad)
        wadi_error(c->src, &where, "%s:%u: expected seconds, then volts, the seconds rising", path,
                   bad);
    else if (!d->points->len)
        wadi_error(c->src, &where, "%s holds no line of seconds and volts", path);
    c->failed = c->failed || !text || !d->points->len || bad;
    g_free(text);
    g_free(path);
}

static void say_shape(wad_bench *b, wadi_cursor *c, wadi_analog_def *d)
{
    if (wadi_take_word(c, "level")) {
        amount(c, WAD_UNIT_V, &d->level);
    } else if (wadi_take_word(c, "sine")) {
        d->shape = WADI_SINE;
        say_wave(c, d);
    } else if (wadi_take_word(c, "square")) {
        d->shape = WADI_SQUARE;
        say_wave(c, d);
    } else if (wadi_take_word(c, "ramp")) {
        d->shape = WADI_RAMP;
        say_ramp(c, d);
    } else if (wadi_take_word(c, "file")) {
        d->shape = WADI_FILE;
        say_file(b, c, d);
    } else if (wadi_take_word(c, "pin")) {
        d->shape = WADI_PIN;
        d->from = wadi_parse_pin(b, c);
    } else if (wadi_take_word(c, "supply")) {
        d->supply = true;
    } else if (wadi_take_word(c, "open")) {
        d->shape = WADI_OPEN;
    } else if (!wadi_take_word(c, "ground")) {
        wadi_expected(c, "'level', 'sine', 'square', 'ramp', 'file', 'pin', 'supply', 'ground' or "
                         "'open'");
    }
}

void wadi_parse_source(wad_bench *b, wadi_cursor *c, wadi_analog_def *d)
{
    d->pin = wadi_parse_pin(b, c);
    say_shape(b, c, d);
    while (!c->failed && !wadi_at_end(c)) {
        if (wadi_take_word(c, "behind"))
            amount(c, WAD_UNIT_OHM, &d->ohms);
        else if (wadi_take_word(c, "noise"))
            amount(c, WAD_UNIT_V, &d->noise);
        else if (wadi_take_word(c, "at"))
            wadi_parse_ps(c, &d->at_ps);
        else
            wadi_expected(c, "'behind 10 kohm', 'noise 2 mV' or 'at 3 s'");
    }
}

bool wadi_parse_volts_amount(wadi_cursor *c, double *volts)
{
    return amount(c, WAD_UNIT_V, volts);
}

static void say_analog(wad_bench *b, wadi_cursor *c, const char *word)
{
    wadi_analog_def d = {0};
    (void)word;
    wadi_parse_source(b, c, &d);
    if (wadi_need_end(c))
        g_array_append_val(b->analog.sources, d);
}

static void say_supply(wad_bench *b, wadi_cursor *c, const char *word)
{
    wad_where where = c->tok->where;
    double volts = 0;
    (void)word;
    if (!amount(c, WAD_UNIT_V, &volts) || !wadi_need_end(c))
        return;
    double min = wadi_rat_double(b->sheet->supply_min), max = wadi_rat_double(b->sheet->supply_max);
    if (b->sheet->supply.num && (volts < min || volts > max)) {
        wadi_error(c->src, &where, "%s runs from %.4g V to %.4g V", b->sheet->name, min, max);
        c->failed = true;
    }
    b->analog.supply = volts;
}

/* `converter ADC0 noise off`, `converter ADC0 internal 2.48 V` */
static void say_converter(wad_bench *b, wadi_cursor *c, const char *word)
{
    wad_where where = c->tok->where;
    const char *name = wadi_need_name(c, "a converter's block");
    const wad_instance *block = name ? wad_sheet_block(b->sheet, name) : NULL;
    wadi_trim_def t = {.block = block};
    (void)word;
    if (name && (!block || !wad_acts_as(block->layout, "adc"))) {
        wadi_error(c->src, &where, "'%s' is no analog to digital converter of the chip", name);
        c->failed = true;
    }
    for (guint i = 0; i < b->analog.trims->len; i++)
        if (g_array_index(b->analog.trims, wadi_trim_def, i).block == block)
            t = g_array_index(b->analog.trims, wadi_trim_def, i);
    while (!c->failed && !wadi_at_end(c)) {
        if (wadi_take_word(c, "noise"))
            t.trim.no_noise = wadi_need_word(c, "off");
        else if (wadi_take_word(c, "internal"))
            amount(c, WAD_UNIT_V, &t.trim.internal);
        else if (wadi_take_word(c, "external"))
            amount(c, WAD_UNIT_V, &t.trim.external);
        else
            wadi_expected(c, "'noise off', 'internal 2.48 V' or 'external 2.5 V'");
    }
    if (wadi_need_end(c))
        g_array_append_val(b->analog.trims, t);
}

const wadi_statement_class wadi_say_analog = {
    .words = "analog", .of = "volts'", .parse = say_analog};
const wadi_statement_class wadi_say_supply = {
    .words = "supply", .of = "volts'", .parse = say_supply};
const wadi_statement_class wadi_say_converter = {
    .words = "converter", .of = "volts'", .parse = say_converter};

/* ---- `temperature chip 60 at 1 s` ---- */

typedef struct degrees {
    double celsius;
    uint64_t at_ps;
} degrees;

static bool is_of_chip(const wad_bench *b, const wadi_cursor *c)
{
    (void)b;
    return wadi_at_word(c, "chip");
}

static void say_temperature(wad_bench *b, wadi_cursor *c, const char *word)
{
    degrees d = {0};
    wad_rational number;
    wad_unit unit;
    (void)word;
    wadi_need_word(c, "chip");
    wad_where where = c->tok->where;
    bool below = wadi_take_punct(c, "-");
    if (!wadi_take_amount(c, &number, &unit))
        return;
    d.celsius = wadi_rat_double(number) * (below ? -1 : 1);
    if (unit != WAD_UNIT_NONE || d.celsius < -128 || d.celsius > 127.99)
        wadi_fail(c, &where, "a temperature is a number of degrees, -128 to 127.99");
    if (wadi_take_word(c, "at"))
        wadi_parse_ps(c, &d.at_ps);
    if (wadi_need_end(c))
        wadi_bench_keep(b, &wadi_say_temperature, &d);
}

static void warm(wad_sim *sim, void *ctx)
{
    wad_sim_set_temperature(sim, ((const degrees *)ctx)->celsius);
}

static bool begin_temperature(const wadi_setting *s, const void *said, char **why)
{
    const degrees *d = said;
    (void)why;
    if (d->at_ps)
        wad_sim_at(s->sim, d->at_ps, warm, (void *)d);
    else
        wad_sim_set_temperature(s->sim, d->celsius);
    return true;
}

const wadi_statement_class wadi_say_temperature = {.words = "temperature",
                                                   .fits = is_of_chip,
                                                   .parse = say_temperature,
                                                   .said_size = sizeof(degrees),
                                                   .phase = WADI_WITH_WORLD,
                                                   .begin = begin_temperature};

/* ---- captures ---- */

/* Behind `capture PIN`, or `capture current`: `volts [every T] [as NAME]`. */
bool wadi_capture_volts(wad_bench *b, wadi_cursor *c, const wad_pin_def *pin, const char *name)
{
    wadi_analog_probe p = {.name = name, .pin = pin};
    wad_where where = c->tok->where;
    if (pin && !wadi_take_word(c, "volts"))
        return false;
    if (pin && wadi_take_word(c, "every") && wadi_parse_ps(c, &p.every_ps) &&
        p.every_ps < 100000) { /* whatever the run's length, which may not be known yet */
        wadi_error(c->src, &where, "a capture looks every 100 ns at the most: every 1 us");
        c->failed = true;
    }
    if (wadi_take_word(c, "as"))
        p.name = wadi_need_name(c, "a name for what is captured");
    if (!wadi_need_end(c))
        return true;
    p.name = wadi_arena_strndup(b->arena, p.name, strlen(p.name));
    if (wadi_bench_volts(b, p.name) >= 0 || wadi_bench_probe(b, p.name) >= 0) {
        wadi_error(c->src, &where, "'%s' is captured already", p.name);
        c->failed = true;
        return true;
    }
    g_array_append_val(b->analog.probes, p);
    return true;
}

void wadi_volts_init(wad_bench *b)
{
    b->analog = (wadi_analog_said){g_array_new(FALSE, FALSE, sizeof(wadi_analog_def)),
                                   g_array_new(FALSE, FALSE, sizeof(wadi_analog_probe)),
                                   g_array_new(FALSE, FALSE, sizeof(wadi_trim_def)), 0};
    b->point_lists = g_ptr_array_new_with_free_func((GDestroyNotify)g_array_unref);
}

void wadi_volts_clear(wad_bench *b)
{
    g_array_free(b->analog.sources, TRUE);
    g_array_free(b->analog.probes, TRUE);
    g_array_free(b->analog.trims, TRUE);
    g_ptr_array_free(b->point_lists, TRUE);
}
