/* SPDX-License-Identifier: MIT */
#include "renames.h"

#include <string.h>

typedef struct rename_row {
    const char *behind; /* the words before it, from its statement's first on */
    const char *old, *now;
} rename_row;

static const rename_row rows[] = {
    {"acts as", "pins", "gpio"},
    {"acts as", "irqc", "interrupts"},
};

/* The statement's first words are these, and the token follows. */
static bool stands_behind(const wadi_stmt *stmt, unsigned token, const char *behind)
{
    char **words = g_strsplit(behind, " ", -1);
    unsigned n = g_strv_length(words);
    bool good = token == n;
    for (unsigned i = 0; i < n && good; i++)
        good = stmt->toks[i].type == WADI_T_NAME && !strcmp(stmt->toks[i].text, words[i]);
    g_strfreev(words);
    return good;
}

static bool is_word(const wadi_tok *t, const char *word)
{
    return t->type == WADI_T_NAME && !strcmp(t->text, word);
}

const char *wadi_renamed(const wadi_stmt *stmt, unsigned token)
{
    const wadi_tok *t = &stmt->toks[token];
    for (unsigned i = 0; t->type == WADI_T_NAME && i < G_N_ELEMENTS(rows); i++)
        if (!strcmp(rows[i].old, t->text) && stands_behind(stmt, token, rows[i].behind))
            return rows[i].now;
    if (t->type == WADI_T_NAME && token >= 2 && is_word(&stmt->toks[token - 1], "by") &&
        is_word(&stmt->toks[token - 2], "cleared") && !is_word(t, "read") && !is_word(t, "write")) {
        char *now = g_strconcat("read ", t->text, NULL); /* `cleared by CAP` */
        const char *kept = g_intern_string(now);
        g_free(now);
        return kept;
    }
    return NULL;
}

const char *wadi_renamed_kind(const char *kind)
{
    for (unsigned i = 0; i < G_N_ELEMENTS(rows); i++)
        if (!strcmp(rows[i].behind, "acts as") && !strcmp(rows[i].old, kind))
            return rows[i].now;
    return NULL;
}
