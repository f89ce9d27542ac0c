/* SPDX-License-Identifier: MIT */
/* What a bench runs, and for how long: `board`, `chip`, `firmware`, `run`, `seed`, `load`,
 * `require`. */
#include <string.h>

#include "bench/language/block_name.h"
#include "bench/language/statement.h"
#include "bench/language/value.h"
#include "bench/world/model_say.h"
#include "lang/rational.h"
#include "sheet/read/number.h"

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

static void load_models(wad_bench *b, wadi_cursor *c)
{
    char *why;
    const wad_model_file *m = wadi_models_of_board(b, &why);
    if (!m)
        return;
    wadi_error(c->src, &m->where, "%s is no model: %s", m->file, g_strchomp(why));
    c->failed = true;
    g_free(why);
}

static void say_setting(wad_bench *b, wadi_cursor *c, const char *word)
{
    bool board = !strcmp(word, "board");
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
    if (b->sheet)
        load_models(b, c);
    wadi_need_end(c);
}

static void say_run(wad_bench *b, wadi_cursor *c, const char *word)
{
    (void)word;
    wad_where where = c->tok->where;
    if (wadi_parse_ps(c, &b->run_ps) && b->run_ps == 0) {
        wadi_error(c->src, &where, "a run must take some time");
        c->failed = true;
    }
    wadi_need_end(c);
}

static void say_seed(wad_bench *b, wadi_cursor *c, const char *word)
{
    int64_t seed;
    (void)word;
    if (wadi_take_number(c, "the seed", 0, UINT32_MAX, &seed) && wadi_need_end(c))
        b->seed = (uint32_t)seed;
}

static void say_load(wad_bench *b, wadi_cursor *c, const char *word)
{
    wad_where where = c->tok->where;
    wad_rational share;
    (void)word;
    if (!wadi_take_quantity(c, WAD_UNIT_PART, &share) || !wadi_need_end(c))
        return;
    double percent = (double)share.num * 100.0 / (double)share.den;
    b->load = percent >= 0 && percent <= 95 ? (unsigned)(percent + 0.5) : 0;
    if (b->load != percent) {
        wadi_error(c->src, &where, "the load is 0 to 95 whole percent");
        c->failed = true;
    }
}

static void say_firmware(wad_bench *b, wadi_cursor *c, const char *word)
{
    (void)word;
    const char *name = c->tok->type == WADI_T_STRING ? wadi_need_string(c, "a firmware")
                                                     : wadi_need_name(c, "a firmware");
    if (name && wadi_need_end(c))
        b->firmware = wadi_arena_strndup(b->arena, name, strlen(name));
}

#define BASIC(name, its_words, its_parse, before_board)                                            \
    const wadi_statement_class wadi_say_##name = {                                                 \
        .words = its_words, .boardless = before_board, .parse = its_parse}

BASIC(setting, "board chip", say_setting, true);
BASIC(firmware, "firmware", say_firmware, true);
BASIC(run, "run", say_run, true);
BASIC(seed, "seed", say_seed, true);
BASIC(load, "load", say_load, true);

/* ---- a line that must be served in time ---- */

typedef struct requirement {
    unsigned line;
    uint64_t within_ps;
} requirement;

/* `require CNT1 interrupt within 20 us` */
static void say_require(wad_bench *b, wadi_cursor *c, const char *word)
{
    requirement q = {0};
    const char *name;
    (void)word;
    if (!wadi_take_line(c, b->sheet, &q.line, &name)) {
        wad_where where = c->tok->where;
        const wad_instance *unit = wadi_take_unit(c, b->sheet);
        name = unit ? unit->name : wadi_need_name(c, "a block with an interrupt");
        if (name && !unit)
            wadi_error(c->src, &where, "there is no block %s", name);
        c->failed = c->failed || !unit;
        wadi_need_word(c, "interrupt");
    }
    wadi_need_word(c, "within");
    if (!wadi_parse_ps(c, &q.within_ps) || !wadi_need_end(c))
        return;
    wadi_bench_keep(b, &wadi_say_require, &q);
}

static bool begin_require(const wadi_setting *s, const void *said, char **why)
{
    const requirement *q = said;
    (void)why;
    wad_sim_require_latency(s->sim, q->line, q->within_ps);
    return true;
}

const wadi_statement_class wadi_say_require = {.words = "require",
                                               .parse = say_require,
                                               .said_size = sizeof(requirement),
                                               .phase = WADI_WITH_CHIP,
                                               .begin = begin_require};
