/* SPDX-License-Identifier: MIT */
/* `model "can.c" for CAN0`: a unit's model in a C file of the bench's own, or of the board's. */
#include "model_say.h"

#include <string.h>

#include "bench/language/block_name.h"
#include "bench/language/statement.h"
#include "bench/language/value.h"
#include "c_file.h"
#include "wadium/host/model.h"

typedef struct said_model {
    const wad_model_class *cls;
    const char *unit, *file; /* the bench's */
} said_model;

typedef const wad_model_class *(*class_fn)(void);

/* NULL: `why`. */
static const wad_model_class *load(wad_bench *b, const char *path, char **why)
{
    void *symbol = wadi_c_file_load(b, path, "wad_model_of_file", "WAD_MODEL", why);
    class_fn of_file;
    memcpy(&of_file, &symbol, sizeof of_file);
    const wad_model_class *cls = symbol ? of_file() : NULL;
    if (symbol && (!cls || !cls->kind))
        *why = g_strdup("its class has no kind");
    return *why ? NULL : cls;
}

static const said_model *of_unit(const wad_bench *b, const char *unit)
{
    const said_model *m;
    for (unsigned i = 0; (m = wadi_bench_said(b, &wadi_say_model, i)) != NULL; i++)
        if (!strcmp(m->unit, unit))
            return m;
    return NULL;
}

static void keep(wad_bench *b, const wad_model_class *cls, const char *unit, const char *file)
{
    said_model m = {cls, wadi_arena_strndup(b->arena, unit, strlen(unit)),
                    wadi_arena_strndup(b->arena, file, strlen(file))};
    wadi_bench_keep(b, &wadi_say_model, &m);
}

static const wad_instance *need_unit(wad_bench *b, wadi_cursor *c)
{
    wad_where where = c->tok->where;
    const wad_instance *unit = wadi_take_unit(c, b->sheet);
    if (!unit)
        wadi_expected(c, "a block or a unit of the chip");
    else if (of_unit(b, unit->name))
        wadi_error(c->src, &where, "%s has a model already", unit->name);
    c->failed = c->failed || !unit || of_unit(b, unit->name);
    return c->failed ? NULL : unit;
}

static void say_model(wad_bench *b, wadi_cursor *c, const char *word)
{
    wad_where where = c->tok->where;
    (void)word;
    const char *file = wadi_need_string(c, "a C file's name in quotes");
    if (!file || !wadi_need_word(c, "for"))
        return;
    char *path = wadi_bench_path(b, file), *why = NULL;
    const wad_model_class *cls = load(b, path, &why);
    if (!cls) {
        g_strchomp(why);
        wadi_error(c->src, &where, "%s is no model: %s", path, why);
        c->failed = true;
    }
    while (!c->failed) {
        const wad_instance *unit = need_unit(b, c);
        if (unit)
            keep(b, cls, unit->name, path);
        if (wadi_at_end(c))
            break;
    }
    g_free(path);
    g_free(why);
}

bool wad_bench_has_model(const wad_bench *b, const wad_instance *unit)
{
    for (unsigned i = 0; b->board && i < b->board->n_models; i++)
        if (b->board->models[i].unit == unit)
            return true;
    return of_unit(b, unit->name) != NULL;
}

const wad_model_file *wadi_models_of_board(wad_bench *b, char **why)
{
    *why = NULL;
    for (unsigned i = 0; b->board && i < b->board->n_models; i++) {
        const wad_model_file *m = &b->board->models[i];
        const wad_model_class *cls = of_unit(b, m->unit->name) ? NULL : load(b, m->file, why);
        if (*why)
            return m;
        if (cls)
            keep(b, cls, m->unit->name, m->file);
    }
    return NULL;
}

static bool begin(const wadi_setting *s, const void *said, char **why)
{
    const said_model *m = said;
    char *wrong = NULL;
    if (wad_sim_register(s->sim, m->cls, m->unit, &wrong))
        return true;
    *why = g_strdup_printf("%s for %s: %s", m->file, m->unit, wrong);
    g_free(wrong);
    return false;
}

const wadi_statement_class wadi_say_model = {.words = "model",
                                             .parse = say_model,
                                             .said_size = sizeof(said_model),
                                             .phase = WADI_WITH_CHIP,
                                             .begin = begin};
