/* SPDX-License-Identifier: MIT */
/* `wadium emit sheet`: a sheet, board or bench of before in today's words; all else, comments and
 * blanks too, stays as it was typed. */
#include <string.h>

#include "emit.h"
#include "lang/complain.h"
#include "sheet/read/renames.h"

/* A word that changes. */
typedef struct edit {
    size_t at, length;
    const char *now;
} edit;

typedef struct anew {
    const wadi_source *src;
    GArray *lines; /* size_t: where each begins */
    GArray *edits; /* by place, as the text is walked */
} anew;

static void find_lines(anew *a)
{
    size_t at = 0;
    a->lines = g_array_new(FALSE, FALSE, sizeof(size_t));
    g_array_append_val(a->lines, at);
    for (at = 0; at < a->src->size; at++)
        if (a->src->text[at] == '\n') {
            size_t next = at + 1;
            g_array_append_val(a->lines, next);
        }
}

static void replace(anew *a, const wadi_tok *t, const char *now)
{
    size_t length = strlen(t->text);
    if (!t->where.line || t->where.line > a->lines->len)
        return;
    edit e = {g_array_index(a->lines, size_t, t->where.line - 1) + t->where.col - 1, length, now};
    if (e.at + length <= a->src->size && !memcmp(a->src->text + e.at, t->text, length))
        g_array_append_val(a->edits, e);
}

static void walk(anew *a, const wadi_group *group)
{
    for (unsigned i = 0; i < group->n; i++) {
        const wadi_stmt *s = &group->stmts[i];
        for (unsigned k = 0; k < s->n && s->toks[k].type != WADI_T_END; k++) {
            const char *now = wadi_renamed(s, k);
            if (now)
                replace(a, &s->toks[k], now);
            if (s->toks[k].type == WADI_T_GROUP)
                walk(a, s->toks[k].group);
        }
    }
}

static int by_place(const void *x, const void *y)
{
    const edit *a = x, *b = y;
    return (a->at > b->at) - (a->at < b->at);
}

static void write_out(const anew *a, FILE *out)
{
    size_t at = 0;
    g_array_sort(a->edits, by_place);
    for (guint i = 0; i < a->edits->len; i++) {
        const edit *e = &g_array_index(a->edits, edit, i);
        fwrite(a->src->text + at, 1, e->at - at, out);
        fputs(e->now, out);
        at = e->at + e->length;
    }
    fwrite(a->src->text + at, 1, a->src->size - at, out);
}

bool wad_emit_anew(const char *path, FILE *out, wad_diags *diags)
{
    size_t size;
    char *text = wadi_read_file(path, "file", &size, diags);
    if (!text)
        return false;
    wadi_source src = {
        .name = path, .text = text, .size = size, .arena = wadi_arena_new(), .diags = diags};
    bool good = wadi_tree_read(&src);
    if (good) {
        anew a = {.src = &src, .edits = g_array_new(FALSE, FALSE, sizeof(edit))};
        find_lines(&a);
        walk(&a, src.top);
        write_out(&a, out);
        g_array_free(a.lines, TRUE);
        g_array_free(a.edits, TRUE);
    }
    wadi_arena_free(src.arena);
    g_free(text);
    return good;
}
