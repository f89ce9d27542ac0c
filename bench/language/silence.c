/* SPDX-License-Identifier: MIT */
/* `silence`: findings that are known and not to be told, in a bench or in a file of their own. */
#include <string.h>

#include "finding_number.h"
#include "lang/cursor.h"
#include "statement.h"
#include "value.h"

/* A finding that is not to be told. */
typedef struct silence {
    wad_silence rule;
    wad_where where;
    const char *text; /* as written */
} silence;

static const char *keep(wad_bench *b, const char *text)
{
    return text ? wadi_arena_strndup(b->arena, text, strlen(text)) : NULL;
}

static void parse_place(wad_bench *b, wadi_cursor *c, wad_silence *rule)
{
    const char *place = wadi_need_string(c, "\"FILE:LINE\" or \"FILE\"");
    const char *colon = place ? strrchr(place, ':') : NULL;
    if (!place)
        return;
    rule->line = colon ? (unsigned)g_ascii_strtoull(colon + 1, NULL, 10) : 0;
    rule->file =
        wadi_arena_strndup(b->arena, place, colon ? (size_t)(colon - place) : strlen(place));
}

static void parse_rule(wad_bench *b, wadi_cursor *c)
{
    silence r = {.where = c->tok->where};
    unsigned number;
    if (!wadi_parse_finding_number(c, &number))
        return;
    r.rule.kind = (wad_finding_kind)number;
    if (wadi_take_word(c, "at"))
        parse_place(b, c, &r.rule);
    if (wadi_take_word(c, "in"))
        r.rule.function = keep(b, wadi_need_name(c, "a function"));
    wadi_need_string(c, "the reason in quotes");
    if (!wadi_need_end(c))
        return;
    r.where.file = keep(b, r.where.file);
    const char *line = r.rule.line ? wadi_arena_printf(b->arena, ":%u", r.rule.line) : "";
    r.text = wadi_arena_printf(b->arena, "W%u%s%s%s%s%s", number, r.rule.file ? " at " : "",
                               r.rule.file ? r.rule.file : "", line, r.rule.function ? " in " : "",
                               r.rule.function ? r.rule.function : "");
    wadi_bench_keep(b, &wadi_say_silence, &r);
}

static void read_rules(wad_bench *b, wadi_cursor *c, const char *path)
{
    size_t size;
    char *text = wadi_read_file(path, "silencing", &size, c->src->diags);
    if (!text) {
        c->failed = true;
        return;
    }
    wadi_source src = {.name = keep(b, path),
                       .text = wadi_arena_strndup(b->arena, text, size),
                       .size = size,
                       .arena = b->arena,
                       .diags = c->src->diags};
    g_free(text);
    c->failed = !wadi_tree_read(&src);
    for (unsigned i = 0; !c->failed && i < src.top->n; i++) {
        wadi_cursor line = wadi_cursor_at(&src, &src.top->stmts[i]);
        parse_rule(b, &line);
        c->failed = line.failed;
    }
}

static void say_silence(wad_bench *b, wadi_cursor *c, const char *word)
{
    (void)word;
    if (c->tok->type != WADI_T_STRING) {
        parse_rule(b, c);
        return;
    }
    const char *name = wadi_need_string(c, "a file");
    if (!wadi_need_end(c))
        return;
    char *path = b->file ? wadi_bench_path(b, name) : g_strdup(name);
    read_rules(b, c, path);
    g_free(path);
}

static bool begin(const wadi_setting *s, const void *said, char **why)
{
    (void)why;
    wad_sim_silence(s->sim, &((const silence *)said)->rule);
    return true;
}

/* A rule that took nothing is out of date, or has a slip in it. */
static char *note(const wadi_setting *s, const void *said, unsigned i)
{
    const silence *r = said;
    if (wad_sim_silence_hits(s->sim, i))
        return NULL;
    return g_strdup_printf("%s:%u: silence %s: no such finding",
                           r->where.file ? r->where.file : "(said in C)", r->where.line, r->text);
}

const wadi_statement_class wadi_say_silence = {.words = "silence",
                                               .boardless = true,
                                               .parse = say_silence,
                                               .said_size = sizeof(silence),
                                               .phase = WADI_WITH_CHIP,
                                               .begin = begin,
                                               .note = note};
