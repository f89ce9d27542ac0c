/* SPDX-License-Identifier: MIT */
#include "cursor.h"

#include <string.h>

wadi_cursor wadi_cursor_at(const wadi_source *src, const wadi_stmt *stmt)
{
    return (wadi_cursor){src, stmt->toks, false};
}

bool wadi_at_end(const wadi_cursor *c)
{
    return c->failed || c->tok->type == WADI_T_END;
}

bool wadi_at_word(const wadi_cursor *c, const char *word)
{
    return !c->failed && c->tok->type == WADI_T_NAME && !strcmp(c->tok->text, word);
}

bool wadi_at_punct(const wadi_cursor *c, const char *punct)
{
    return !c->failed && wadi_is_mark(c->tok, punct);
}

bool wadi_take_word(wadi_cursor *c, const char *word)
{
    if (!wadi_at_word(c, word))
        return false;
    c->tok++;
    return true;
}

void wadi_skip_token(wadi_cursor *c)
{
    if (!wadi_at_end(c))
        c->tok++;
}

bool wadi_take_punct(wadi_cursor *c, const char *punct)
{
    if (!wadi_at_punct(c, punct))
        return false;
    c->tok++;
    return true;
}

const char *wadi_tok_describe(const wadi_source *src, const wadi_tok *tok)
{
    switch (tok->type) {
    case WADI_T_END:
        return "the end of the statement";
    case WADI_T_GROUP:
        return "'{'";
    case WADI_T_NUMBER:
        return "a number";
    case WADI_T_STRING:
        return "a text in quotes";
    default:
        return wadi_arena_printf(src->arena, "'%s'", tok->text);
    }
}

void wadi_expected(wadi_cursor *c, const char *what)
{
    if (!c->failed)
        wadi_error(c->src, &c->tok->where, "expected %s, found %s", what,
                   wadi_tok_describe(c->src, c->tok));
    c->failed = true;
}

bool wadi_need_word(wadi_cursor *c, const char *word)
{
    if (wadi_take_word(c, word))
        return true;
    wadi_expected(c, wadi_arena_printf(c->src->arena, "'%s'", word));
    return false;
}

bool wadi_need_punct(wadi_cursor *c, const char *punct)
{
    if (wadi_take_punct(c, punct))
        return true;
    wadi_expected(c, wadi_arena_printf(c->src->arena, "'%s'", punct));
    return false;
}

const char *wadi_need_name(wadi_cursor *c, const char *what)
{
    if (!c->failed && c->tok->type == WADI_T_NAME)
        return (c->tok++)->text;
    wadi_expected(c, what);
    return NULL;
}

const char *wadi_need_string(wadi_cursor *c, const char *what)
{
    if (!c->failed && c->tok->type == WADI_T_STRING)
        return (c->tok++)->text;
    wadi_expected(c, what);
    return NULL;
}

const wadi_group *wadi_take_group(wadi_cursor *c)
{
    if (c->failed || c->tok->type != WADI_T_GROUP)
        return NULL;
    return (c->tok++)->group;
}

const wadi_group *wadi_need_group(wadi_cursor *c, const char *what)
{
    const wadi_group *group = wadi_take_group(c);
    if (!group)
        wadi_expected(c, what);
    return group;
}

bool wadi_need_end(wadi_cursor *c)
{
    if (c->failed)
        return false;
    if (c->tok->type == WADI_T_END)
        return true;
    wadi_expected(c, "the end of the statement");
    return false;
}
