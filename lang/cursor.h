/* SPDX-License-Identifier: MIT */
/*
 * First reading of a sheet, board or bench: tokens, and statements with bodies.
 *
 * A statement is a run of tokens and brace groups that ends at a new line or a
 * comma of its own depth; a group holds statements. What a statement means is
 * decided later, by whoever walks it with a cursor.
 */
#ifndef WADI_TREE_H
#define WADI_TREE_H

#include <glib.h>

#include "arena.h"
#include "wadium/host/sheet.h"

typedef enum wadi_tok_type {
    WADI_T_END, /* of the statement */
    WADI_T_NAME,
    WADI_T_NUMBER,
    WADI_T_STRING,
    WADI_T_PUNCT,
    WADI_T_GROUP
} wadi_tok_type;

typedef struct wadi_group wadi_group;

typedef struct wadi_tok {
    wadi_tok_type type;
    wad_where where;
    const char *text; /* NAME and PUNCT: interned in the arena; STRING: unescaped */
    wad_rational number;
    bool decimal; /* written with a point */
    bool glued;   /* no space between it and the token before */
    wadi_group *group;
} wadi_tok;

typedef struct wadi_stmt {
    const wadi_tok *toks; /* ends with a WADI_T_END */
    unsigned n;
} wadi_stmt;

struct wadi_group {
    wad_where where;
    const wadi_stmt *stmts;
    unsigned n;
};

/** One text under reading; errors at places of a text that it corrects are quoted from there. */
typedef struct wadi_source {
    const char *name;
    const char *text;
    size_t size;
    wadi_arena *arena;
    wad_diags *diags;
    wadi_group *top;
    const struct wadi_source *over; /* the text that this one corrects, or NULL */
} wadi_source;

/** Splits `src->text` into `src->top`; false when there were errors (the tree is usable still). */
bool wadi_tree_read(wadi_source *src);

/** A file's text (g_free); NULL: `diags` says why `what` cannot be read. */
char *wadi_read_file(const char *path, const char *what, size_t *size, wad_diags *diags);

/** An error at a place of `src`, with its line quoted. */
void wadi_error(const wadi_source *src, const wad_where *where, const char *format, ...)
    __attribute__((format(printf, 3, 4)));
void wadi_warn(const wadi_source *src, const wad_where *where, const char *format, ...)
    __attribute__((format(printf, 3, 4)));

/* ---- cursor: walks one statement; after the first error everything fails quietly ---- */

typedef struct wadi_cursor {
    const wadi_source *src;
    const wadi_tok *tok;
    bool failed;
} wadi_cursor;

wadi_cursor wadi_cursor_at(const wadi_source *src, const wadi_stmt *stmt);
bool wadi_at_end(const wadi_cursor *c);
bool wadi_at_word(const wadi_cursor *c, const char *word);
bool wadi_at_punct(const wadi_cursor *c, const char *punct);
/** Takes the word or mark if it is next. */
bool wadi_take_word(wadi_cursor *c, const char *word);
bool wadi_take_punct(wadi_cursor *c, const char *punct);
/** Takes it or reports what was expected. */
bool wadi_need_word(wadi_cursor *c, const char *word);
bool wadi_need_punct(wadi_cursor *c, const char *punct);
const char *wadi_need_name(wadi_cursor *c, const char *what);
const char *wadi_need_string(wadi_cursor *c, const char *what);
const wadi_group *wadi_need_group(wadi_cursor *c, const char *what);
const wadi_group *wadi_take_group(wadi_cursor *c);
bool wadi_need_end(wadi_cursor *c);
/** Reports "expected WHAT, found ..." at the next token, once. */
void wadi_expected(wadi_cursor *c, const char *what);
/** "'x'", "the end of the line": for messages. */
const char *wadi_tok_describe(const wadi_source *src, const wadi_tok *tok);

/** One field of one register of one block. */
bool wadi_same_field(const wad_fieldref *a, const wad_fieldref *b);
/** Fills in register, lsb and width of a field array's element from its index. */
void wadi_place_element(wad_fieldref *ref);

/** " (did you mean 'X'?)" for the closest of `n` names, or "". Lives in the arena. */
const char *wadi_suggest(wadi_arena *arena, const char *name, const char *const *names, unsigned n);

#endif
