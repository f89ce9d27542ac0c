/* SPDX-License-Identifier: MIT */
/*
 * docs/sheet.ebnf against the reader: each word of the one is a word of the other. What a rule
 * names is a rule, and each rule is named.
 */
#include <string.h>

#include "support.h"

#define SHEETS             SOURCE_DIR "/sheet/read"
#define OPEN_PECULIARITIES 56

static GHashTable *words_of_grammar(void)
{
    GHashTable *words = g_hash_table_new_full(g_str_hash, g_str_equal, g_free, NULL);
    GRegex *quoted = g_regex_new("\"([a-z][a-z0-9_]*)\"", 0, 0, NULL);
    GMatchInfo *match;
    char *text = NULL;
    assert_true(g_file_get_contents(SOURCE_DIR "/docs/sheet.ebnf", &text, NULL, NULL));
    for (g_regex_match(quoted, text, 0, &match); g_match_info_matches(match);
         g_match_info_next(match, NULL))
        g_hash_table_add(words, g_match_info_fetch(match, 1));
    g_match_info_free(match);
    g_regex_unref(quoted);
    g_free(text);
    return words;
}

static void add_matches(GHashTable *words, const char *text, const char *pattern)
{
    GRegex *regex = g_regex_new(pattern, 0, 0, NULL);
    GMatchInfo *match;
    for (g_regex_match(regex, text, 0, &match); g_match_info_matches(match);
         g_match_info_next(match, NULL))
        g_hash_table_add(words, g_match_info_fetch(match, 1));
    g_match_info_free(match);
    g_regex_unref(regex);
}

/* Words that the reader takes, looks at or needs. */
static GHashTable *words_of_reader(void)
{
    GHashTable *words = g_hash_table_new_full(g_str_hash, g_str_equal, g_free, NULL);
    GDir *dir = g_dir_open(SHEETS, 0, NULL);
    const char *name;
    assert_non_null(dir);
    while ((name = g_dir_read_name(dir))) {
        /* boards and old words have grammars of their own */
        if (!g_str_has_suffix(name, ".c") || !strcmp(name, "board.c") || !strcmp(name, "renames.c"))
            continue;
        char *path = g_build_filename(SHEETS, name, NULL), *text = NULL;
        assert_true(g_file_get_contents(path, &text, NULL, NULL));
        add_matches(words, text, "_word\\([^;\"]*\"([a-z][a-z0-9_]*)\"");
        add_matches(words, text, "_word\\([^;]*: \"([a-z][a-z0-9_]*)\"\\)");
        g_free(text);
        g_free(path);
    }
    g_dir_close(dir);
    return words;
}

/* Words that stand in tables of the reader, or that the kinds list. */
static bool is_in_table(const char *word)
{
    static const char *const words[] = {"rw",
                                        "ro",
                                        "wo",
                                        "w1c",
                                        "w1s",
                                        "w1t",
                                        "w0c",
                                        "w0s",
                                        "w0t",
                                        "rc",
                                        "rs",
                                        "wc",
                                        "ws",
                                        "once",
                                        "pulse",
                                        "floor",
                                        "min",
                                        "max",
                                        "ones",
                                        "is",
                                        "sets",
                                        "clears",
                                        "toggles",
                                        "access",
                                        "interrupt_entry",
                                        "interrupt_exit",
                                        "interrupt_chain",
                                        "draws",
                                        "per_mhz",
                                        "active"};
    for (unsigned i = 0; i < G_N_ELEMENTS(words); i++)
        if (!strcmp(words[i], word))
            return true;
    return false;
}

static void every_word_of_the_grammar_is_read_and_the_other_way_round(void **state)
{
    (void)state;
    GHashTable *grammar = words_of_grammar(), *reader = words_of_reader();
    GString *wrong = g_string_new(NULL);
    GHashTableIter at;
    gpointer word;
    assert_true(g_hash_table_size(grammar) > 100 && g_hash_table_size(reader) > 80);
    g_hash_table_iter_init(&at, grammar);
    while (g_hash_table_iter_next(&at, &word, NULL))
        if (!g_hash_table_contains(reader, word) && !is_in_table(word))
            g_string_append_printf(wrong, "\n'%s' is in the grammar, and the reader knows it not",
                                   (char *)word);
    g_hash_table_iter_init(&at, reader);
    while (g_hash_table_iter_next(&at, &word, NULL))
        if (!g_hash_table_contains(grammar, word))
            g_string_append_printf(wrong, "\n'%s' is read, and the grammar has it not",
                                   (char *)word);
    if (wrong->len)
        fail_msg("%s", wrong->str);
    g_string_free(wrong, TRUE);
    g_hash_table_destroy(grammar);
    g_hash_table_destroy(reader);
}

/* The text without comments and quoted words. */
static char *bare_grammar(void)
{
    char *text = NULL;
    assert_true(g_file_get_contents(SOURCE_DIR "/docs/sheet.ebnf", &text, NULL, NULL));
    GRegex *noise = g_regex_new("\\(\\*.*?\\*\\)|\"[^\"]*\"", G_REGEX_DOTALL, 0, NULL);
    char *bare = g_regex_replace(noise, text, -1, 0, " ", 0, NULL);
    g_regex_unref(noise);
    g_free(text);
    return bare;
}

static void every_rule_is_there_and_used(void **state)
{
    (void)state;
    GHashTable *rules = g_hash_table_new_full(g_str_hash, g_str_equal, g_free, NULL);
    GHashTable *named = g_hash_table_new_full(g_str_hash, g_str_equal, g_free, NULL);
    char *text = bare_grammar();
    add_matches(rules, text, "(?m)^([a-z]+) +=");
    char **parts =
        g_strsplit(text, "=", -1); /* what stands behind each, up to the next rule's name */
    for (char **p = parts + 1; p[0]; p++) {
        char *end = strrchr(*p, ';');
        if (end)
            *end = '\0';
        add_matches(named, *p, "\\b([a-z]+)\\b");
    }
    GHashTableIter at;
    gpointer name;
    g_hash_table_iter_init(&at, named);
    while (g_hash_table_iter_next(&at, &name, NULL))
        if (!g_hash_table_contains(rules, name))
            fail_msg("there is no rule '%s'", (char *)name);
    g_hash_table_iter_init(&at, rules);
    while (g_hash_table_iter_next(&at, &name, NULL))
        if (!g_hash_table_contains(named, name) && strcmp(name, "sheet"))
            fail_msg("nothing names rule '%s'", (char *)name);
    g_strfreev(parts);
    g_free(text);
    g_hash_table_destroy(rules);
    g_hash_table_destroy(named);
}

/* ---- peculiarities of register maps ---- */

/* All tests of all programs, as one text. */
static char *all_tests(void)
{
    GString *all = g_string_new(NULL);
    GDir *dir = g_dir_open(SOURCE_DIR "/tests", 0, NULL);
    const char *name;
    while ((name = g_dir_read_name(dir))) {
        char *path = g_build_filename(SOURCE_DIR "/tests", name, NULL), *text = NULL;
        if (g_str_has_suffix(name, ".c") && g_file_get_contents(path, &text, NULL, NULL))
            g_string_append(all, text);
        g_free(text);
        g_free(path);
    }
    g_dir_close(dir);
    return g_string_free(all, FALSE);
}

/* Each line names a test that is there; those that are open may only become fewer. */
static void each_peculiarity_names_its_test(void **state)
{
    char *text = NULL, *tests = all_tests();
    unsigned lines = 0, open = 0;
    (void)state;
    assert_true(g_file_get_contents(SOURCE_DIR "/tests/peculiarities.md", &text, NULL, NULL));
    char **rows = g_strsplit(text, "\n", -1);
    for (char **row = rows; *row; row++) {
        char *bar = g_str_has_prefix(*row, "- ") ? strrchr(*row, '|') : NULL;
        if (!bar)
            continue;
        lines++;
        const char *name = g_strstrip(bar + 1);
        char *listed = g_strdup_printf("cmocka_unit_test(%s)", name);
        if (!strcmp(name, "open"))
            open++;
        else if (!strstr(tests, listed))
            fail_msg("no test is called '%s': %s", name, *row);
        g_free(listed);
    }
    assert_int_equal(lines, 178);
    assert_true(open <= OPEN_PECULIARITIES);
    g_strfreev(rows);
    g_free(tests);
    g_free(text);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(every_word_of_the_grammar_is_read_and_the_other_way_round),
        cmocka_unit_test(every_rule_is_there_and_used),
        cmocka_unit_test(each_peculiarity_names_its_test),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
