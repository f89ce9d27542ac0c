/* SPDX-License-Identifier: MIT */
/*
 * First reading of a sheet, board or bench: tokens, and statements with bodies.
 *
 * A statement is a run of tokens and brace groups that ends at a new line or a
 * comma of its own depth; a group holds statements. What a statement means is
 * decided later, by whoever walks it with a cursor.
 */
#ifndef WADI_STATEMENT_H
#define WADI_STATEMENT_H

#include "arena.h"
#include "wadium/host/sheet.h"
#include <glib.h>

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

/** Is it this mark? */
bool wadi_is_mark(const wadi_tok *tok, const char *text);

/** Splits `src->text` into `src->top`; false when there were errors (the tree is usable still). */
bool wadi_tree_read(wadi_source *src);

#endif
