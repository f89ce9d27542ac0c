/* SPDX-License-Identifier: MIT */
#include "ebnf.h"

#include <string.h>

#include "support.h"

GHashTable *rules;
GPtrArray *choices;

typedef struct tokens {
    GPtrArray *list;
    guint at;
} tokens;

static const char *peek(tokens *t)
{
    return t->at < t->list->len ? t->list->pdata[t->at] : "";
}

static bool take(tokens *t, const char *word)
{
    bool is = !strcmp(peek(t), word);
    t->at += is;
    return is;
}

node *new_node(form what, const char *text)
{
    node *n = g_new0(node, 1);
    n->form = what;
    n->text = g_strdup(text);
    n->in = g_ptr_array_new();
    if (what == CHOICE || what == OPTION || what == REPEATED)
        g_ptr_array_add(choices, n);
    return n;
}

static node *parse_choice(tokens *t);

static node *bracketed(tokens *t, form what, const char *close)
{
    node *n = new_node(what, NULL);
    g_ptr_array_add(n->in, parse_choice(t));
    assert_true(take(t, close));
    n->taken = g_new0(unsigned, 2);
    return n;
}

static node *parse_one(tokens *t)
{
    if (take(t, "["))
        return bracketed(t, OPTION, "]");
    if (take(t, "{"))
        return bracketed(t, REPEATED, "}");
    if (take(t, "(")) {
        node *n = parse_choice(t);
        assert_true(take(t, ")"));
        return n;
    }
    const char *word = t->list->pdata[t->at++];
    if (*word == '"') {
        char *bare = g_strndup(word + 1, strlen(word) - 2);
        node *n = new_node(WORD, bare);
        g_free(bare);
        return n;
    }
    return new_node(g_ascii_isupper(*word) ? TERMINAL : RULE, word);
}

static bool ends(tokens *t)
{
    static const char *const marks[] = {"", "]", "}", ")", "|", ";"};
    for (unsigned i = 0; i < G_N_ELEMENTS(marks); i++)
        if (!strcmp(peek(t), marks[i]))
            return true;
    return false;
}

static node *parse_sequence(tokens *t)
{
    node *n = new_node(SEQUENCE, NULL);
    while (!ends(t))
        g_ptr_array_add(n->in, parse_one(t));
    return n;
}

static node *parse_choice(tokens *t)
{
    node *first = parse_sequence(t);
    if (strcmp(peek(t), "|"))
        return first;
    node *n = new_node(CHOICE, NULL);
    g_ptr_array_add(n->in, first);
    while (take(t, "|"))
        g_ptr_array_add(n->in, parse_sequence(t));
    n->taken = g_new0(unsigned, n->in->len);
    return n;
}

void read_grammar(void)
{
    char *text = NULL;
    tokens t = {g_ptr_array_new_with_free_func(g_free), 0};
    assert_true(g_file_get_contents(SOURCE_DIR "/docs/sheet.ebnf", &text, NULL, NULL));
    GRegex *comment = g_regex_new("\\(\\*.*?\\*\\)", G_REGEX_DOTALL, 0, NULL);
    char *bare = g_regex_replace(comment, text, -1, 0, " ", 0, NULL);
    GRegex *token = g_regex_new("\"[^\"]*\"|[A-Za-z]+|[\\[\\]{}()|;=]", 0, 0, NULL);
    GMatchInfo *match;
    for (g_regex_match(token, bare, 0, &match); g_match_info_matches(match);
         g_match_info_next(match, NULL))
        g_ptr_array_add(t.list, g_match_info_fetch(match, 0));
    rules = g_hash_table_new(g_str_hash, g_str_equal);
    choices = g_ptr_array_new();
    while (t.at < t.list->len) {
        char *name = g_strdup(t.list->pdata[t.at++]);
        assert_true(take(&t, "="));
        g_hash_table_insert(rules, name, parse_choice(&t));
        assert_true(take(&t, ";"));
    }
    g_match_info_free(match);
    g_regex_unref(token);
    g_regex_unref(comment);
    g_free(bare);
    g_free(text);
}
