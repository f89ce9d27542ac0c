/* SPDX-License-Identifier: MIT */
/* The bench language: statements, and files of benches. */
#include "statements.h"

#include <string.h>

#include "bench/expect/expectation.h"
#include "bench/language/bench.h"
#include "bench/language/dma.h"
#include "bench/language/memory.h"
#include "bench/language/probe.h"
#include "bench/language/recorded.h"
#include "bench/language/said.h"
#include "bench/language/silence.h"
#include "bench/language/value.h"
#include "bench/world/pin_defect.h"
#include "bench/world/serial_say.h"
#include "bench/world/spi_say.h"
#include "bench/world/volt_say.h"
#include "lang/cursor.h"
#include "lang/rational.h"
#include "sheet/read/number.h"

struct wad_bench_list {
    GPtrArray *benches;
};

/* `capture CNT0 interrupt [as NAME]` */
static bool say_capture_irq(wad_bench *b, wadi_cursor *c)
{
    const wad_instance *block =
        c->tok->type == WADI_T_NAME ? wad_sheet_block(b->sheet, c->tok->text) : NULL;
    if (!block || c->tok[1].type != WADI_T_NAME || strcmp(c->tok[1].text, "interrupt"))
        return false;
    wad_where where = c->tok->where;
    c->tok += 2;
    const char *name = wadi_arena_printf(b->arena, "%s_irq", block->name);
    if (wadi_take_word(c, "as"))
        name = wadi_need_name(c, "a name for the captured interrupt");
    if (!wadi_need_end(c))
        return true;
    if (block->n_irqs) {
        wadi_bench_capture_irq(b, (unsigned)block->irqs[0], name);
    } else {
        wadi_error(c->src, &where, "block %s has no interrupt line", block->name);
        c->failed = true;
    }
    return true;
}

static void say_capture(wad_bench *b, wadi_cursor *c)
{
    if (say_capture_irq(b, c) || wadi_say_capture_dma(b, c) ||
        (wadi_take_word(c, "current") && wadi_capture_volts(b, c, NULL, "current")))
        return;
    wad_where where = c->tok->where;
    const char *written = c->tok->type == WADI_T_NAME ? c->tok->text : "";
    wadi_probe probe = {0};
    probe.pin = wadi_parse_pin_of(b, c, NULL);
    char *lower = g_ascii_strdown(written, -1);
    probe.name = wadi_arena_strndup(b->arena, lower, strlen(lower));
    g_free(lower);
    if (c->failed || wadi_capture_volts(b, c, probe.pin, probe.name))
        return;
    if (wadi_take_word(c, "as")) {
        const char *name = wadi_need_name(c, "a name for the captured pin");
        if (name)
            probe.name = wadi_arena_strndup(b->arena, name, strlen(name));
    }
    if (!wadi_need_end(c))
        return;
    if (wadi_bench_probe(b, probe.name) >= 0) {
        wadi_error(c->src, &where, "'%s' is captured already", probe.name);
        c->failed = true;
        return;
    }
    g_array_append_val(b->probes, probe);
}

static void say_press(wad_bench *b, wadi_cursor *c)
{
    wad_where where = c->tok->where;
    wadi_stimulus s = {0};
    s.pin = wadi_parse_pin_of(b, c, &s.button);
    if (s.pin && (!s.button || strcmp(s.button->kind, "button"))) {
        wadi_error(c->src, &where, "'press' takes a button of the board; 'drive' takes any pin");
        c->failed = true;
        return;
    }
    if (s.button)
        s.bounce_ps = (uint64_t)(wadi_rat_double(s.button->bounce_s) * 1e12 + 0.5);
    wadi_need_word(c, "at");
    wadi_parse_ps(c, &s.at_ps);
    wadi_need_word(c, "for");
    wadi_parse_ps(c, &s.for_ps);
    if (wadi_take_word(c, "bounce"))
        wadi_parse_ps(c, &s.bounce_ps);
    if (wadi_need_end(c))
        g_array_append_val(b->stimuli, s);
}

/* `drive PB8 pulses 137 Hz duty 30 % at 10 ms for 2 s`: from high, the share `duty` of each period.
 */
static void parse_pulses(wadi_cursor *c, wadi_stimulus *s)
{
    wad_where where = c->tok->where;
    wadi_take_quantity(c, WAD_UNIT_HZ, &s->pulses_hz);
    if (wadi_take_word(c, "duty"))
        wadi_take_quantity(c, WAD_UNIT_PART, &s->duty);
    double hz = wadi_rat_double(s->pulses_hz), duty = wadi_rat_double(s->duty);
    if (!c->failed && (hz <= 0 || hz > 1e6 || duty <= 0 || duty >= 1)) {
        wadi_error(c->src, &where, "pulses are up to 1 MHz, with a duty between 0 %% and 100 %%");
        c->failed = true;
    }
}

static void say_drive(wad_bench *b, wadi_cursor *c)
{
    wadi_stimulus s = {.pulses_hz = {0, 1}, .duty = {1, 2}};
    s.pin = wadi_parse_pin_of(b, c, NULL);
    if (wadi_take_word(c, "pulses"))
        parse_pulses(c, &s);
    else
        wadi_parse_level(c, &s.level);
    if (wadi_take_word(c, "at"))
        wadi_parse_ps(c, &s.at_ps);
    if (s.pulses_hz.num && wadi_take_word(c, "for"))
        wadi_parse_ps(c, &s.for_ps);
    if (wadi_need_end(c))
        g_array_append_val(b->stimuli, s);
}

static char *locate(const wad_bench *b, wadi_cursor *c, const char *what, const char *extension)
{
    wad_where where = c->tok->where;
    const char *name =
        c->tok->type == WADI_T_STRING ? wadi_need_string(c, what) : wadi_need_name(c, what);
    if (!name)
        return NULL;
    char *path = wad_locate(name, extension, b->file);
    if (!path) {
        wadi_error(c->src, &where,
                   "no file '%s%s' beside the bench, in WADIUM_PATH or in Wadium's "
                   "own folders",
                   name, g_str_has_suffix(name, extension) ? "" : extension);
        c->failed = true;
    }
    return path;
}

static void say_setting(wad_bench *b, wadi_cursor *c, bool board)
{
    if (b->sheet) {
        wadi_error(c->src, &c->tok->where, "the bench has its board or chip already");
        c->failed = true;
        return;
    }
    char *path = locate(b, c, board ? "a board" : "a chip", board ? ".board" : ".sheet");
    if (path && board) {
        b->board = b->own_board = wad_board_read(path, c->src->diags);
        b->sheet = b->board ? b->board->sheet : NULL;
    } else if (path) {
        b->sheet = b->own_sheet = wad_sheet_read(path, c->src->diags);
    }
    g_free(path);
    c->failed = c->failed || !b->sheet;
    wadi_need_end(c);
}

static void say_run(wad_bench *b, wadi_cursor *c)
{
    wad_where where = c->tok->where;
    if (wadi_parse_ps(c, &b->run_ps) && b->run_ps == 0) {
        wadi_error(c->src, &where, "a run must take some time");
        c->failed = true;
    }
    wadi_need_end(c);
}

static void say_seed(wad_bench *b, wadi_cursor *c)
{
    int64_t seed;
    if (wadi_take_number(c, "the seed", 0, UINT32_MAX, &seed) && wadi_need_end(c))
        b->seed = (uint32_t)seed;
}

/* `clock xtal fails at 2 s until 3 s` */
static void say_failure(wad_bench *b, wadi_cursor *c, const wad_clock *clock)
{
    wadi_clock_failure f = {.clock = clock};
    wadi_need_word(c, "at");
    wadi_parse_ps(c, &f.at_ps);
    wad_where where = c->tok->where;
    if (wadi_take_word(c, "until") && wadi_parse_ps(c, &f.until_ps) && f.until_ps <= f.at_ps) {
        wadi_error(c->src, &where, "the failure ends before it begins");
        c->failed = true;
    }
    if (wadi_need_end(c))
        g_array_append_val(b->failures, f);
}

/* `require CNT1 interrupt within 20 us` */
static void say_require(wad_bench *b, wadi_cursor *c)
{
    wad_where where = c->tok->where;
    const char *name = wadi_need_name(c, "a block with an interrupt");
    const wad_instance *block = name ? wad_sheet_block(b->sheet, name) : NULL;
    wadi_requirement q = {0};
    if (name && (!block || !block->n_irqs)) {
        wadi_error(c->src, &where,
                   block ? "block %s has no interrupt line" : "there is no block %s", name);
        c->failed = true;
    }
    wadi_need_word(c, "interrupt");
    wadi_need_word(c, "within");
    if (!wadi_parse_ps(c, &q.within_ps) || !wadi_need_end(c) || !block)
        return;
    q.line = (unsigned)block->irqs[0];
    g_array_append_val(b->requirements, q);
}

/* `clock internal off 0.8 %`: this oscillator is that much fast, or slow with a minus. */
static void say_clock(wad_bench *b, wadi_cursor *c)
{
    wad_where where = c->tok->where;
    const char *name = wadi_need_name(c, "an oscillator's name");
    wadi_clock_error e = {.clock = name && b->sheet ? wad_sheet_clock(b->sheet, name) : NULL};
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
    g_array_append_val(b->clock_errors, e);
}

static void say_load(wad_bench *b, wadi_cursor *c)
{
    wad_where where = c->tok->where;
    wad_rational share;
    if (!wadi_take_quantity(c, WAD_UNIT_PART, &share) || !wadi_need_end(c))
        return;
    double percent = (double)share.num * 100.0 / (double)share.den;
    b->load = percent >= 0 && percent <= 95 ? (unsigned)(percent + 0.5) : 0;
    if (b->load != percent) {
        wadi_error(c->src, &where, "the load is 0 to 95 whole percent");
        c->failed = true;
    }
}

static void say_firmware(wad_bench *b, wadi_cursor *c)
{
    const char *name = c->tok->type == WADI_T_STRING ? wadi_need_string(c, "a firmware")
                                                     : wadi_need_name(c, "a firmware");
    if (name && wadi_need_end(c))
        b->firmware = wadi_arena_strndup(b->arena, name, strlen(name));
}

bool wadi_bench_statement(wad_bench *b, const wadi_source *src, const wadi_stmt *stmt)
{
    wadi_cursor c = wadi_cursor_at(src, stmt);
    wad_where where = c.tok->where;
    if (wadi_take_word(&c, "board"))
        say_setting(b, &c, true);
    else if (wadi_take_word(&c, "chip"))
        say_setting(b, &c, false);
    else if (wadi_take_word(&c, "firmware"))
        say_firmware(b, &c);
    else if (wadi_take_word(&c, "run"))
        say_run(b, &c);
    else if (wadi_take_word(&c, "seed"))
        say_seed(b, &c);
    else if (wadi_take_word(&c, "load"))
        say_load(b, &c);
    else if (wadi_take_word(&c, "silence"))
        wadi_say_silence(b, &c);
    else if (!b->sheet) {
        wadi_error(src, &where, "name the board first: board NAME (or chip NAME)");
        return false;
    } else if (wadi_take_word(&c, "capture"))
        say_capture(b, &c);
    else if (wadi_take_word(&c, "press"))
        say_press(b, &c);
    else if (wadi_take_word(&c, "drive"))
        say_drive(b, &c);
    else if (wadi_take_word(&c, "expect"))
        wadi_parse_expect(b, &c);
    else if (wadi_take_word(&c, "clock"))
        say_clock(b, &c);
    else if (wadi_take_word(&c, "require"))
        say_require(b, &c);
    else if (!wadi_say_defect(b, &c) && !wadi_say_recorded(b, &c) && !wadi_say_bus(b, &c) &&
             !wadi_say_serial(b, &c) && !wadi_say_volts(b, &c) && !wadi_say_memory(b, &c))
        wadi_expected(
            &c,
            "'board', 'chip', 'firmware', 'capture', 'press', 'drive', 'seed', "
            "'clock', 'require', 'load', 'silence', 'run', 'memory', 'recorded', 'expect', or a "
            "serial line's 'uart', 'send', 'reply', 'keep', 'noise', 'loop', 'swap', 'cut', "
            "'stick', 'pull', 'glitch', 'hold', or a bus's 'spi', 'temperature', 'image', "
            "'jumper', 'power', or volts' 'analog', 'supply', 'converter'");
    return !c.failed;
}

static wad_bench *new_bench(const char *title, const char *file)
{
    wad_bench *b = g_new0(wad_bench, 1);
    b->arena = wadi_arena_new();
    b->title = wadi_arena_strndup(b->arena, title, strlen(title));
    b->file = file ? wadi_arena_strndup(b->arena, file, strlen(file)) : NULL;
    b->seed = 1;
    b->irq_probes = g_array_new(FALSE, FALSE, sizeof(wadi_irq_probe));
    b->probes = g_array_new(FALSE, FALSE, sizeof(wadi_probe));
    b->memories = g_array_new(FALSE, FALSE, sizeof(wadi_memory_def));
    b->stimuli = g_array_new(FALSE, FALSE, sizeof(wadi_stimulus));
    b->clock_errors = g_array_new(FALSE, FALSE, sizeof(wadi_clock_error));
    b->peers = g_array_new(FALSE, FALSE, sizeof(wadi_peer_def));
    wadi_buses_init(b);
    wadi_volts_init(b);
    b->says = g_array_new(FALSE, FALSE, sizeof(wadi_peer_say));
    b->troubles = g_array_new(FALSE, FALSE, sizeof(wadi_trouble));
    b->failures = g_array_new(FALSE, FALSE, sizeof(wadi_clock_failure));
    b->recorded = g_array_new(FALSE, FALSE, sizeof(wadi_recorded));
    b->pin_defects = g_array_new(FALSE, FALSE, sizeof(wadi_pin_defect));
    b->requirements = g_array_new(FALSE, FALSE, sizeof(wadi_requirement));
    b->silences = g_array_new(FALSE, FALSE, sizeof(wadi_silence_rule));
    b->expects = g_array_new(FALSE, FALSE, sizeof(wadi_expectation));
    return b;
}

wad_bench *wad_bench_new(const char *title, const wad_board *board)
{
    wad_bench *b = new_bench(title, NULL);
    b->board = board;
    b->sheet = board->sheet;
    return b;
}

wad_bench *wad_bench_new_chip(const char *title, const wad_sheet *sheet)
{
    wad_bench *b = new_bench(title, NULL);
    b->sheet = sheet;
    return b;
}

void wad_bench_free(wad_bench *b)
{
    if (!b)
        return;
    g_array_free(b->irq_probes, TRUE);
    g_array_free(b->probes, TRUE);
    g_array_free(b->memories, TRUE);
    g_array_free(b->stimuli, TRUE);
    g_array_free(b->expects, TRUE);
    g_array_free(b->clock_errors, TRUE);
    g_array_free(b->peers, TRUE);
    wadi_buses_clear(b);
    wadi_volts_clear(b);
    g_array_free(b->says, TRUE);
    g_array_free(b->troubles, TRUE);
    g_array_free(b->failures, TRUE);
    g_array_free(b->pin_defects, TRUE);
    g_array_free(b->recorded, TRUE);
    g_array_free(b->requirements, TRUE);
    g_array_free(b->silences, TRUE);
    wad_board_free(b->own_board);
    wad_sheet_free(b->own_sheet);
    wadi_arena_free(b->arena);
    g_free(b);
}

bool wad_bench_say(wad_bench *b, const char *statement, wad_diags *diags)
{
    /* the text must live as long as the bench: names in it are kept */
    char *text = wadi_arena_strndup(b->arena, statement, strlen(statement));
    wadi_source src = {.name = "(said in C)",
                       .text = text,
                       .size = strlen(text),
                       .arena = b->arena,
                       .diags = diags};
    if (!wadi_tree_read(&src))
        return false;
    bool ok = true;
    for (unsigned i = 0; i < src.top->n; i++)
        ok = wadi_bench_statement(b, &src, &src.top->stmts[i]) && ok;
    return ok;
}

static bool check_bench(const wad_bench *b, const wadi_source *src, const wad_where *where)
{
    if (!b->sheet)
        wadi_error(src, where, "the bench names no board: board NAME");
    else if (!b->firmware)
        wadi_error(src, where, "the bench names no firmware: firmware NAME");
    else if (!b->run_ps)
        wadi_error(src, where, "the bench does not say how long to run: run 5 s");
    else
        return true;
    return false;
}

static void read_bench(wad_bench_list *list, wadi_source *src, const wadi_stmt *stmt)
{
    wadi_cursor c = wadi_cursor_at(src, stmt);
    wadi_need_word(&c, "bench");
    wad_where where = c.tok->where;
    const char *title = wadi_need_string(&c, "the bench's title in quotes");
    const wadi_group *body = wadi_need_group(&c, "'{' and what the bench says");
    if (!body || !wadi_need_end(&c))
        return;
    wad_bench *b = new_bench(title, src->name);
    g_ptr_array_add(list->benches, b);
    wadi_source own = *src;
    own.arena = b->arena;
    own.name = b->file;
    bool ok = true;
    for (unsigned i = 0; i < body->n; i++) {
        ok = wadi_bench_statement(b, &own, &body->stmts[i]) && ok;
        if (!ok && !b->sheet)
            return;
    }
    if (ok)
        check_bench(b, src, &where);
}

/* Where-s of a bench must outlive the text's own arena: the tree is built in the list's first. */
wad_bench_list *wad_bench_parse(const char *text, size_t size, const char *name, wad_diags *diags)
{
    wad_bench_list *list = g_new0(wad_bench_list, 1);
    unsigned before = wad_diags_errors(diags);
    wadi_arena *arena = wadi_arena_new();
    wadi_source src = {.name = name, .text = text, .size = size, .arena = arena, .diags = diags};
    list->benches = g_ptr_array_new_with_free_func((GDestroyNotify)wad_bench_free);
    if (wadi_tree_read(&src))
        for (unsigned i = 0; i < src.top->n; i++)
            read_bench(list, &src, &src.top->stmts[i]);
    if (wad_diags_errors(diags) == before && !list->benches->len)
        wadi_error(&src, &(wad_where){name, 0, 0}, "no 'bench \"TITLE\" { ... }' found");
    wadi_arena_free(arena);
    if (wad_diags_errors(diags) == before)
        return list;
    wad_bench_list_free(list);
    return NULL;
}

wad_bench_list *wad_bench_read(const char *path, wad_diags *diags)
{
    size_t size;
    char *text = wadi_read_file(path, "bench", &size, diags);
    if (!text)
        return NULL;
    wad_bench_list *list = wad_bench_parse(text, size, path, diags);
    g_free(text);
    return list;
}

void wad_bench_list_free(wad_bench_list *list)
{
    if (!list)
        return;
    g_ptr_array_free(list->benches, TRUE);
    g_free(list);
}

unsigned wad_bench_list_count(const wad_bench_list *list)
{
    return list->benches->len;
}

wad_bench *wad_bench_list_at(const wad_bench_list *list, unsigned i)
{
    return list->benches->pdata[i];
}
