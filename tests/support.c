/* SPDX-License-Identifier: MIT */
#include "support.h"

#include <string.h>

#include "wadium/host/output.h"

char *test_diags_text(const wad_diags *diags)
{
    char *text;
    size_t size;
    FILE *f = open_memstream(&text, &size);
    wad_diags_print(diags, f);
    fclose(f);
    char *copy = g_strdup(text);
    free(text);
    return copy;
}

wad_sheet *test_chip(const char *name)
{
    wad_diags *diags = wad_diags_new();
    char *path = g_strdup_printf(SOURCE_DIR "/chips/%s.sheet", name);
    wad_sheet *sheet = wad_sheet_read(path, diags);
    wad_diags_print(diags, stderr);
    wad_diags_free(diags);
    g_free(path);
    assert_non_null(sheet);
    return sheet;
}

wad_board *test_board(const char *name)
{
    wad_diags *diags = wad_diags_new();
    char *path = g_strdup_printf(SOURCE_DIR "/boards/%s.board", name);
    wad_board *board = wad_board_read(path, diags);
    wad_diags_print(diags, stderr);
    wad_diags_free(diags);
    g_free(path);
    assert_non_null(board);
    return board;
}

char *test_sheet_errors(const char *text)
{
    wad_diags *diags = wad_diags_new();
    wad_sheet *sheet = wad_sheet_parse(text, strlen(text), "t.sheet", diags);
    char *printed = test_diags_text(diags);
    assert_null(sheet);
    assert_true(wad_diags_errors(diags) > 0);
    wad_diags_free(diags);
    return printed;
}

int test_spawn(char **out, char **err, const char *program, ...)
{
    GPtrArray *argv = g_ptr_array_new();
    va_list args;
    int status = -1;
    GError *error = NULL;
    g_ptr_array_add(argv, (gpointer)program);
    va_start(args, program);
    for (const char *arg; (arg = va_arg(args, const char *));)
        g_ptr_array_add(argv, (gpointer)arg);
    va_end(args);
    g_ptr_array_add(argv, NULL);
    if (!g_spawn_sync(SOURCE_DIR, (char **)argv->pdata, NULL, G_SPAWN_SEARCH_PATH, NULL, NULL, out,
                      err, &status, &error))
        fail_msg("%s: %s", program, error->message);
    g_ptr_array_free(argv, TRUE);
    return WIFEXITED(status) ? WEXITSTATUS(status) : 128 + WTERMSIG(status);
}

unsigned test_marked_line(const char *file, const char *mark)
{
    char *path = g_strdup_printf(SOURCE_DIR "/tests/firmware/%s", file), *text;
    unsigned found = 0;
    if (!g_file_get_contents(path, &text, NULL, NULL))
        fail_msg("cannot read %s", path);
    char **lines = g_strsplit(text, "\n", -1);
    for (unsigned i = 0; lines[i] && !found; i++) {
        const char *here = strstr(lines[i], "here ");
        char **marks = g_strsplit_set(here ? here : "", " */", -1);
        if (g_strv_contains((const char *const *)marks, mark))
            found = i + 1;
        g_strfreev(marks);
    }
    g_strfreev(lines);
    g_free(text);
    g_free(path);
    return found;
}

char *test_folder(void)
{
    char *folder = g_dir_make_tmp("wadium-test-XXXXXX", NULL);
    assert_non_null(folder);
    return folder;
}

void test_remove(char *folder)
{
    wad_output_remove_folder(folder);
    g_free(folder);
}

wad_bench_result *test_run(wad_board *board, wad_bench **bench, const char *firmware,
                           const char *const *statements)
{
    return test_run_prepared(board, bench, firmware, statements, NULL, NULL);
}

wad_bench_result *test_run_prepared(wad_board *board, wad_bench **bench, const char *firmware,
                                    const char *const *statements,
                                    void (*prepare)(wad_sim *sim, void *ctx), void *ctx)
{
    wad_diags *diags = wad_diags_new();
    char *say = g_strdup_printf("firmware %s", firmware), *why;
    *bench = wad_bench_new(firmware, board);
    bool ok = wad_bench_say(*bench, say, diags);
    for (unsigned i = 0; statements[i]; i++)
        ok = wad_bench_say(*bench, statements[i], diags) && ok;
    wad_diags_print(diags, stderr);
    wad_diags_free(diags);
    g_free(say);
    assert_true(ok);
    wad_bench_options options = {.firmware_dir = FIRMWARE_DIR, .prepare = prepare, .ctx = ctx};
    wad_bench_result *r = wad_bench_run(*bench, &options, &why);
    if (!r)
        fail_msg("%s", why);
    return r;
}

void test_slips(const wad_board *board, const char *first, const test_slip *slips, unsigned n)
{
    for (unsigned i = 0; i < n; i++) {
        wad_diags *diags = wad_diags_new();
        wad_bench *b = wad_bench_new("slip", board);
        assert_true(!first || wad_bench_say(b, first, diags));
        assert_false(wad_bench_say(b, slips[i].say, diags));
        char *text = test_diags_text(diags);
        if (!strstr(text, slips[i].want))
            fail_msg("%s: wanted '%s' in: %s", slips[i].say, slips[i].want, text);
        assert_int_equal(wad_diags_errors(diags), 1);
        g_free(text);
        wad_bench_free(b);
        wad_diags_free(diags);
    }
}

void test_passed(const wad_bench_result *r)
{
    if (r->passed)
        return;
    wad_report_text(r, stderr);
    fail_msg("%s", r->title);
}

void test_must_pass(const char *board_name, const char *firmware, const char *const *statements)
{
    wad_board *board = test_board(board_name);
    wad_bench *bench;
    wad_bench_result *r = test_run(board, &bench, firmware, statements);
    test_passed(r);
    wad_bench_result_free(r);
    wad_bench_free(bench);
    wad_board_free(board);
}

void test_findings(wad_sim *sim, unsigned n)
{
    if (wad_sim_finding_count(sim) != n)
        for (unsigned i = 0; i < wad_sim_finding_count(sim); i++)
            wad_finding_print(wad_sim_finding(sim, i), stderr);
    assert_int_equal(wad_sim_finding_count(sim), n);
}
