/* SPDX-License-Identifier: MIT */
/* Walks one statement; after the first error everything fails quietly. */
#ifndef WADI_CURSOR_H
#define WADI_CURSOR_H

#include "complain.h"
#include "statement.h"

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
/** Over one token, but not beyond the end. */
void wadi_skip_token(wadi_cursor *c);
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

#endif
