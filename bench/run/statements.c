/* SPDX-License-Identifier: MIT */
/* Benches as text: each statement goes to its class. */
#include "statements.h"

#include <dlfcn.h>
#include <string.h>

#include "bench/language/bench.h"
#include "bench/language/said.h"
#include "bench/language/statement.h"
#include "bench/world/part_say.h"
#include "bench/world/volt_say.h"

struct wad_bench_list {
    GPtrArray *benches;
};

/* ---- which class ---- */

static const wadi_statement_class *const classes[] = {
#define WADI_STATEMENT(name) &wadi_say_##name,
#include "bench/language/statements.h"
#undef WADI_STATEMENT
};

static bool has_word(const wad_bench *b, const wadi_statement_class *cls, const char *word)
{
    if (cls->takes)
        return b->sheet && cls->takes(b, word);
    size_t n = strlen(word);
    for (const char *at = cls->words; at && n && (at = strstr(at, word)); at += n)
        if ((at == cls->words || at[-1] == ' ') && (!at[n] || at[n] == ' '))
            return true;
    return false;
}

/* Of several with the same word: the one that fits, or the last, which then says what it misses. */
static const wadi_statement_class *class_of(const wad_bench *b, const wadi_cursor *behind,
                                            const char *word)
{
    const wadi_statement_class *found = NULL;
    for (unsigned i = 0; i < G_N_ELEMENTS(classes); i++) {
        if (!has_word(b, classes[i], word))
            continue;
        found = classes[i];
        if (!found->boardless && !b->sheet)
            return found;
        if (!found->fits || found->fits(b, behind))
            return found;
    }
    return found;
}

/* "'board', 'chip', ..., or a serial line's 'uart', ..." */
static char *all_words(void)
{
    GString *text = g_string_new(NULL);
    const char *of = NULL;
    for (unsigned i = 0; i < G_N_ELEMENTS(classes); i++) {
        bool other = g_strcmp0(classes[i]->of, of) != 0;
        char **words = g_strsplit(classes[i]->words ? classes[i]->words : "", " ", -1);
        of = words[0] ? classes[i]->of : of;
        for (unsigned k = 0; words[k]; k++) {
            bool first = other && !k && of;
            g_string_append_printf(text, "%s%s%s%s'%s'", text->len ? ", " : "", first ? "or " : "",
                                   first ? of : "", first ? " " : "", words[k]);
        }
        g_strfreev(words);
    }
    return g_string_free(text, FALSE);
}

/* A statement of a part's own would never be reached where the language has the word. */
static void check_acts(const wad_bench *b, wadi_cursor *c, const wad_where *where, guint before)
{
    for (guint p = before; p < b->parts->len && !c->failed; p++) {
        const wadi_part_said *said = b->parts->pdata[p];
        const wad_part_act *acts = said->cls->acts;
        bool own = wadi_part_class_of(said->cls->kind) != said->cls;
        for (unsigned i = 0; own && acts && acts[i].word && !c->failed; i++)
            for (unsigned k = 0; k < G_N_ELEMENTS(classes) && !c->failed; k++)
                if (!classes[k]->takes && has_word(b, classes[k], acts[i].word)) {
                    wadi_error(c->src, where,
                               "part '%s' calls a statement '%s', which is a word of benches",
                               said->name, acts[i].word);
                    c->failed = true;
                }
    }
}

bool wadi_bench_statement(wad_bench *b, const wadi_source *src, const wadi_stmt *stmt)
{
    wadi_cursor c = wadi_cursor_at(src, stmt);
    wadi_cursor behind = c;
    const char *word = c.tok->type == WADI_T_NAME ? c.tok->text : "";
    behind.tok += *word != 0;
    const wadi_statement_class *cls = class_of(b, &behind, word);
    if (!b->sheet && !(cls && cls->boardless)) {
        wadi_error(src, &c.tok->where, "name the board first: board NAME (or chip NAME)");
        return false;
    }
    if (cls) {
        guint before = b->parts->len;
        cls->parse(b, &behind, word);
        check_acts(b, &behind, &c.tok->where, before);
        return !behind.failed;
    }
    char *words = all_words();
    wadi_expected(&c, words);
    g_free(words);
    return false;
}

/* ---- what was said ---- */

bool wadi_bench_begin(const wadi_setting *s, wadi_phase phase, char **why)
{
    for (unsigned i = 0; i < G_N_ELEMENTS(classes); i++) {
        for (guint k = 0;
             classes[i]->begin && classes[i]->phase == phase && k < s->bench->said->len; k++) {
            const wadi_said *said = &g_array_index(s->bench->said, wadi_said, k);
            if (said->cls == classes[i] && !classes[i]->begin(s, said->what, why))
                return false;
        }
    }
    return true;
}

void wadi_bench_notes(const wadi_setting *s, GPtrArray *notes)
{
    for (unsigned i = 0; i < G_N_ELEMENTS(classes); i++) {
        const void *said;
        for (unsigned k = 0; classes[i]->note && (said = wadi_bench_said(s->bench, classes[i], k));
             k++) {
            char *note = classes[i]->note(s, said, k);
            if (note)
                g_ptr_array_add(notes, note);
        }
    }
}

/* ---- benches ---- */

static void close_library(gpointer library)
{
    dlclose(library);
}

static wad_bench *new_bench(const char *title, const char *file)
{
    wad_bench *b = g_new0(wad_bench, 1);
    b->arena = wadi_arena_new();
    b->title = wadi_arena_strndup(b->arena, title, strlen(title));
    b->file = file ? wadi_arena_strndup(b->arena, file, strlen(file)) : NULL;
    b->seed = 1;
    b->said = g_array_new(FALSE, FALSE, sizeof(wadi_said));
    b->parts = g_ptr_array_new();
    b->libraries = g_ptr_array_new_with_free_func(close_library);
    b->irq_probes = g_array_new(FALSE, FALSE, sizeof(wadi_irq_probe));
    b->probes = g_array_new(FALSE, FALSE, sizeof(wadi_probe));
    b->memories = g_array_new(FALSE, FALSE, sizeof(wadi_memory_def));
    b->recorded = g_array_new(FALSE, FALSE, sizeof(wadi_recorded));
    b->expects = g_array_new(FALSE, FALSE, sizeof(wadi_expectation));
    wadi_volts_init(b);
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
    g_array_free(b->said, TRUE);
    g_ptr_array_free(b->parts, TRUE);
    g_ptr_array_free(b->libraries, TRUE);
    g_array_free(b->irq_probes, TRUE);
    g_array_free(b->probes, TRUE);
    g_array_free(b->memories, TRUE);
    g_array_free(b->recorded, TRUE);
    g_array_free(b->expects, TRUE);
    wadi_volts_clear(b);
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
