/* SPDX-License-Identifier: MIT */
/* Files of before: read as they are with a note, and written anew in today's words by `wadium emit
 * sheet`. tests/old has them as they were. */
#include <string.h>

#include "support.h"

#define OLD SOURCE_DIR "/tests/old/"

static char *emitted(const char *what, const char *file)
{
    char *out, *err;
    int status = WADIUM(&out, &err, "emit", what, file);
    if (status)
        fail_msg("emit %s %s: %s", what, file, err);
    g_free(err);
    return out;
}

static unsigned notes_of(const char *path)
{
    wad_diags *diags = wad_diags_new();
    wad_sheet *sheet = wad_sheet_read(path, diags);
    assert_non_null(sheet);
    assert_int_equal(wad_diags_errors(diags), 0);
    unsigned notes = 0;
    for (unsigned i = 0; i < wad_diags_count(diags); i++)
        notes += wad_diags_at(diags, i)->severity == WAD_NOTE;
    wad_sheet_free(sheet);
    wad_diags_free(diags);
    return notes;
}

/* Without the line that says which sheet it was made from. */
static char *body(char *text)
{
    GRegex *hash = g_regex_new("[0-9a-f]{16}", 0, 0, NULL);
    char *same = g_regex_replace(hash, text, -1, 0, "HASH", 0, NULL);
    g_regex_unref(hash);
    g_free(text);
    return same;
}

static char *replaced(const char *text, const char *from, const char *to)
{
    char **pieces = g_strsplit(text, from, -1), *now = g_strjoinv(to, pieces);
    g_strfreev(pieces);
    return now;
}

/* What is said otherwise now is refused with its cure; here as a replacement of text writes it. */
static char *readable(const char *old, const char *folder)
{
    char *text, *name = g_path_get_basename(old);
    char *beside = g_build_filename(folder, "before", NULL);
    char *path = g_build_filename(beside, name, NULL);
    g_mkdir_with_parents(beside, 0700);
    g_free(beside);
    g_free(name);
    assert_true(g_file_get_contents(old, &text, NULL, NULL));
    if (strstr(text, "cleared by CAP")) {
        char *errors = test_sheet_errors(text);
        assert_non_null(strstr(errors, "cleared by read CAP"));
        g_free(errors);
    }
    char *now = replaced(text, "cleared by CAP", "cleared by read CAP");
    assert_true(g_file_set_contents(path, now, -1, NULL));
    g_free(now);
    g_free(text);
    return path;
}

static void sheets_of_before_mean_what_they_did(void **state)
{
    static const char *const chips[] = {"corran32", "corran16", "corran8"};
    static const char *const what[] = {"header", "roles", "vectors", "linker", "gdb"};
    char *folder = test_folder();
    (void)state;
    for (unsigned i = 0; i < G_N_ELEMENTS(chips); i++) {
        char *old = g_strconcat(OLD, chips[i], ".sheet", NULL);
        char *file = g_strconcat(chips[i], ".sheet", NULL);
        char *now = g_build_filename(folder, file, NULL), *text = emitted("sheet", old);
        assert_true(g_file_set_contents(now, text, -1, NULL));
        char *path = readable(old, folder);
        g_free(old);
        old = path;
        assert_int_equal(notes_of(old), 2);
        assert_int_equal(notes_of(now), 0);
        for (unsigned k = 0; k < G_N_ELEMENTS(what); k++) {
            char *a = body(emitted(what[k], old)), *b = body(emitted(what[k], now));
            assert_string_equal(a, b);
            g_free(a);
            g_free(b);
        }
        char *again = emitted("sheet", now);
        assert_string_equal(again, text);
        g_free(again);
        g_free(text);
        g_free(now);
        g_free(file);
        g_free(old);
    }
    test_remove(folder);
}

/* By a replacement of text that knows nothing of the language. */
static void nothing_else_changes(void **state)
{
    static const char *const files[] = {"corran32.sheet",       "corran16.sheet", "corran8.sheet",
                                        "corran32-rev-a.sheet", "skerry.board",   "lamp.bench",
                                        "errata.sheet"};
    (void)state;
    for (unsigned i = 0; i < G_N_ELEMENTS(files); i++) {
        char *path = g_strconcat(OLD, files[i], NULL), *text;
        assert_true(g_file_get_contents(path, &text, NULL, NULL));
        char **pieces = g_strsplit(text, "acts as irqc", -1);
        char *once = g_strjoinv("acts as interrupts", pieces);
        char *twice = replaced(once, "acts as pins", "acts as gpio");
        char *want = replaced(twice, "cleared by CAP", "cleared by read CAP");
        char *got = emitted("sheet", path);
        assert_string_equal(got, want);
        g_free(got);
        g_free(want);
        g_free(twice);
        g_free(once);
        g_strfreev(pieces);
        g_free(text);
        g_free(path);
    }
}

/* A word of before is one only where it stands for that. */
static void words_elsewhere_stay(void **state)
{
    static const char text[] =
        "# acts as irqc\nchip T {\n  summary \"acts as pins\"\n  bus little 32\n  clock core 8 "
        "MHz\n"
        "  block irqc at 0 like pins { pins irqc out { P0 fn 1 } }   # acts as pins\n}\n"
        "layout pins {\n  reg irqc at 0 rw {\n    0 pins rw\n  }\n\tacts   as  irqc { enable[n] "
        "irqc.pins }\n}\n";
    char *folder = test_folder(), *path = g_build_filename(folder, "t.sheet", NULL);
    (void)state;
    assert_true(g_file_set_contents(path, text, -1, NULL));
    char *got = emitted("sheet", path);
    char **halves = g_strsplit(text, "acts   as  irqc", 2);
    char *want = g_strjoinv("acts   as  interrupts", halves);
    assert_string_equal(got, want);
    g_free(want);
    g_strfreev(halves);
    g_free(got);
    g_free(path);
    test_remove(folder);
}

static void what_is_no_text_of_ours_is_refused_whole(void **state)
{
    char *folder = test_folder(), *path = g_build_filename(folder, "t.sheet", NULL);
    char *to = g_build_filename(folder, "out.sheet", NULL), *out, *err;
    (void)state;
    assert_true(g_file_set_contents(path, "chip T {\n  summary \"open\n", -1, NULL));
    assert_true(g_file_set_contents(to, "as it was", -1, NULL));
    assert_int_equal(WADIUM(&out, &err, "emit", "sheet", path, "-o", to), 3);
    assert_non_null(strstr(err, "t.sheet:2:11: error: this text has no closing"));
    g_free(out);
    g_free(err);
    assert_true(g_file_get_contents(to, &out, NULL, NULL));
    assert_string_equal(out, "as it was");
    g_free(out);
    g_free(to);
    g_free(path);
    test_remove(folder);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(sheets_of_before_mean_what_they_did),
        cmocka_unit_test(nothing_else_changes),
        cmocka_unit_test(words_elsewhere_stay),
        cmocka_unit_test(what_is_no_text_of_ours_is_refused_whole),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
