/* SPDX-License-Identifier: MIT */
/* examples/mistakes: each is found at its line, by every compiler at every level. */
#include <string.h>

#include "plain_support.h"

#define FOLDER SOURCE_DIR "/examples/mistakes/"

static int set_up(void **state)
{
    (void)state;
    plain_set_up();
    return 0;
}

static int tear_down(void **state)
{
    (void)state;
    plain_tear_down();
    return 0;
}

static unsigned mistake_line(const char *path)
{
    char *text;
    unsigned found = 0;
    assert_true(g_file_get_contents(path, &text, NULL, NULL));
    char **lines = g_strsplit(text, "\n", -1);
    for (unsigned i = 0; lines[i] && !found; i++)
        if (strstr(lines[i], "/* mistake"))
            found = i + 1;
    g_strfreev(lines);
    g_free(text);
    return found;
}

/* One row of the README: | [gate.c](gate.c), Corran16 | ... | W101 ... | */
static bool parse_row(const char *row, char **file, const char **chip, unsigned *number)
{
    const char *end = strstr(row, ".c](");
    const char *w = strstr(row, "| W");
    if (!g_str_has_prefix(row, "| [") || !end || !w)
        return false;
    *file = g_strndup(row + 3, (gsize)(end - row - 1));
    *chip = strstr(row, ", Corran16")  ? "corran16"
            : strstr(row, ", Corran8") ? "corran8"
                                       : "corran32";
    *number = (unsigned)g_ascii_strtoull(w + 3, NULL, 10);
    return true;
}

static void each_is_found_at_its_line_in_every_build(void **state)
{
    char *text;
    unsigned n = 0;
    const char *const say[] = {"run 300 ms", NULL};
    (void)state;
    assert_true(g_file_get_contents(FOLDER "README.md", &text, NULL, NULL));
    char **rows = g_strsplit(text, "\n", -1);
    for (unsigned i = 0; rows[i]; i++) {
        char *file;
        const char *chip;
        plain_wanted w = {0};
        if (!parse_row(rows[i], &file, &chip, &w.finding))
            continue;
        char *path = g_strconcat(FOLDER, file, NULL);
        w.name = file;
        w.line = mistake_line(path);
        assert_true(w.line > 0);
        plain_everywhere(chip, path, "-DPLAIN", say, plain_must_find, &w);
        g_free(path);
        g_free(file);
        n++;
    }
    assert_int_equal(n, 20);
    g_strfreev(rows);
    g_free(text);
}

static void the_race_breaks_only_when_interrupts_are_moved(void **state)
{
    (void)state;
    char *out, *err;
    int status = WADIUM(&out, &err, "run", SOURCE_DIR "/examples/race/race.bench", "-d",
                        BUILD_DIR "/firmware");
    assert_int_equal(status, 0);
    g_free(out);
    g_free(err);
    status = WADIUM(&out, &err, "run", SOURCE_DIR "/examples/race/race.bench", "-d",
                    BUILD_DIR "/firmware", "--explore", "20");
    assert_int_equal(status, 1);
    const char *replay = strstr(out, "wanted 100 (again with --replay ");
    assert_non_null(replay);
    char *schedule = g_strndup(replay + 32, strcspn(replay + 32, ")"));
    g_free(out);
    g_free(err);
    for (unsigned again = 0; again < 2; again++) {
        status = WADIUM(&out, &err, "run", SOURCE_DIR "/examples/race/race.bench", "-d",
                        BUILD_DIR "/firmware", "--replay", schedule);
        assert_int_equal(status, 1);
        assert_non_null(strstr(out, "FAIL  warn edges  99"));
        assert_non_null(strstr(out, "wrote it in between: its change is lost"));
        g_free(out);
        g_free(err);
    }
    g_free(schedule);
    status = WADIUM(&out, &err, "run", SOURCE_DIR "/examples/race/fixed.bench", "-d",
                    BUILD_DIR "/firmware", "--explore", "20");
    assert_int_equal(status, 0);
    assert_non_null(strstr(out, "all meet the expectations"));
    g_free(out);
    g_free(err);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(each_is_found_at_its_line_in_every_build),
        cmocka_unit_test(the_race_breaks_only_when_interrupts_are_moved),
    };
    return cmocka_run_group_tests(tests, set_up, tear_down);
}
