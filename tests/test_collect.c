/* SPDX-License-Identifier: MIT */
/* Checks of a board as they come over a line: whole, in pieces, with noise, with resets. */
#include <string.h>

#include "support.h"

#include "wadium/host/report.h"
#include "wadium/verify.h"

/* ---- a stream, made by the target's own library ---- */

static void put(char c, void *context)
{
    g_string_append_c(context, c);
}

static char *stream(bool good)
{
    GString *text = g_string_new(NULL);
    uint8_t seen[4];
    static const uint8_t wanted[] = {1, 2};
    wad_verify_events events = {seen, sizeof seen, 0};
    wad_verify v;
    wad_verify_begin(&v, put, text, "Skerry");
    wad_verify_note(&v, "wiring: none");
    assert_true(wad_verify_that(&v, "that", true));
    assert_int_equal(wad_verify_equal(&v, "equal", good ? 0x20 : 0x1F, 0x20), good);
    assert_true(wad_verify_near(&v, "near, mV", 1199, 1200, 25));
    assert_false(!wad_verify_near(&v, "far", INT32_MIN, INT32_MIN, 0));
    assert_true(wad_verify_range(&v, "range", -5, -10, 0));
    assert_true(wad_verify_status(&v, "status", WAD_OK));
    wad_verify_saw(&events, 1);
    wad_verify_saw(&events, 2);
    assert_true(wad_verify_order(&v, "order", &events, wanted, 2));
    wad_verify_skip(&v, "sleep", "no crystal");
    assert_int_equal(wad_verify_end(&v), good);
    return g_string_free(text, FALSE);
}

static void each_check_holds_when_it_should(void **state)
{
    GString *text = g_string_new(NULL);
    static const uint8_t wanted[] = {1, 2};
    uint8_t seen[2];
    wad_verify_events late = {seen, sizeof seen, 0};
    wad_verify v;
    (void)state;
    wad_verify_begin(&v, put, text, "x");
    assert_false(wad_verify_near(&v, "a", 10, 20, 9));
    assert_true(wad_verify_near(&v, "b", 10, 20, 10));
    assert_false(wad_verify_near(&v, "c", INT32_MIN, INT32_MAX, 0xFFFFFFFE));
    assert_false(wad_verify_range(&v, "d", 11, 0, 10));
    assert_false(wad_verify_status(&v, "e", WAD_E_TIMEOUT));
    wad_verify_saw(&late, 2);
    assert_false(wad_verify_order(&v, "f", &late, wanted, 2)); /* another one first */
    wad_verify_saw(&late, 1);
    wad_verify_saw(&late, 1); /* and one too many, beyond the room */
    assert_false(wad_verify_order(&v, "g", &late, wanted, 2));
    assert_int_equal(v.failed, 6);
    assert_non_null(strstr(text->str, "not ok 1 - a"));
    assert_non_null(strstr(text->str, "# a: is 10, wanted 20 within 9"));
    assert_non_null(strstr(text->str, "# e: a ready flag did not come in time"));
    g_string_free(text, TRUE);
}

static wad_collect *collected(const char *text, size_t n)
{
    wad_collect *c = wad_collect_new();
    wad_collect_feed(c, text, n, 5);
    wad_collect_end(c);
    return c;
}

static char *told(const wad_collect *c)
{
    char *text;
    size_t size;
    FILE *f = open_memstream(&text, &size);
    wad_collect_text(c, f);
    fclose(f);
    return text;
}

static void a_whole_stream_is_taken(void **state)
{
    (void)state;
    for (unsigned good = 0; good < 2; good++) {
        char *text = stream(good);
        wad_collect *c = wad_collect_new();
        for (size_t i = 0; text[i]; i++) /* in pieces of one */
            wad_collect_feed(c, text + i, 1, i);
        assert_true(wad_collect_over(c));
        wad_collect_end(c);
        assert_int_equal(wad_collect_passed(c), good);
        assert_string_equal(wad_collect_board(c), "Skerry");
        assert_int_equal(wad_collect_count(c), 8);
        assert_string_equal(wad_collect_at(c, 2)->comment, "is 1199, wanted 1200 within 25");
        assert_true(wad_collect_at(c, 7)->skipped);
        assert_string_equal(wad_collect_at(c, 7)->comment, "no crystal");
        char *said = told(c);
        if (!good)
            assert_non_null(strstr(said, "FAIL  2 equal: is 0x1f, wanted 0x20"));
        free(said);
        wad_collect_free(c);
        g_free(text);
    }
}

/* However a stream with a failure is damaged, it does not pass. */
static void noise_makes_no_failure_pass(void **state)
{
    GRand *rand = g_rand_new_with_seed(3);
    char *text = stream(false);
    size_t n = strlen(text);
    (void)state;
    for (unsigned round = 0; round < 20000; round++) {
        GByteArray *line = g_byte_array_new();
        unsigned hits = (unsigned)g_rand_int_range(rand, 1, 12);
        g_byte_array_append(line, (const guint8 *)text, (guint)n);
        for (unsigned i = 0; i < hits && line->len; i++) {
            guint at = (guint)g_rand_int_range(rand, 0, (gint32)line->len);
            switch (g_rand_int_range(rand, 0, 3)) {
            case 0: /* a bit */
                line->data[at] ^= (guint8)(1 << g_rand_int_range(rand, 0, 8));
                break;
            case 1: /* bytes that are lost */
            {
                guint lost = (guint)g_rand_int_range(rand, 1, 9);
                g_byte_array_remove_range(line, at, MIN(lost, line->len - at));
            } break;
            default:
                line->data[at] = (guint8)g_rand_int_range(rand, 0, 256);
            }
        }
        wad_collect *c = collected((char *)line->data, line->len);
        if (wad_collect_passed(c))
            fail_msg("round %u passes: %.*s", round, (int)line->len, line->data);
        wad_collect_free(c);
        g_byte_array_free(line, TRUE);
    }
    g_free(text);
    g_rand_free(rand);
}

static void what_is_wrong_with_the_stream_is_told(void **state)
{
    char *good = stream(true), *half = g_strndup(good, strlen(good) / 2);
    char *twice = g_strconcat(half, good, NULL), *lost = g_strdup(good);
    struct {
        const char *text, *wanted;
    } cases[] = {{half, "the end was not heard"},
                 {twice, "the board began anew 1 time in the middle"},
                 {"", "no check was heard: is the line"},
                 {"@@@@\n@@@\n", "only lines that are none: is the baud right?"},
                 {"TAP version 13\n1..3\nok 1\nok 3\n", "1 of 3 checks did not come: 2"},
                 {"TAP version 13\n1..2\nok 1\nok 2\nnot ok 2 - later\n", "1 of 2 checks passed"},
                 {lost, "1 line was damaged"}};
    (void)state;
    strstr(lost, "ok 3")[0] = 'x';
    for (unsigned i = 0; i < G_N_ELEMENTS(cases); i++) {
        wad_collect *c = collected(cases[i].text, strlen(cases[i].text));
        char *said = told(c);
        if (wad_collect_passed(c) || !strstr(said, cases[i].wanted))
            fail_msg("%u: %s", i, said);
        free(said);
        wad_collect_free(c);
    }
    /* others' streams, without sums */
    static const char plain[] = "TAP version 13\n1..2\nok 1 - a\nok 2 - b # SKIP no wire\n";
    wad_collect *c = collected(plain, strlen(plain));
    assert_true(wad_collect_passed(c));
    assert_true(wad_collect_at(c, 1)->skipped);
    wad_collect_free(c);
    g_free(good);
    g_free(half);
    g_free(twice);
    g_free(lost);
}

/* ---- the command, and reports ---- */

static void the_command_reports(void **state)
{
    char *folder = test_folder(), *file = g_build_filename(folder, "a.tap", NULL), *out, *err;
    char *page = g_build_filename(folder, "a.html", NULL),
         *xml = g_build_filename(folder, "a.xml", NULL);
    char *text = stream(false), *html, *junit;
    (void)state;
    assert_true(g_file_set_contents(file, text, -1, NULL));
    assert_int_equal(
        WADIUM(&out, &err, "collect", file, "--report", page, "--junit", xml, "--chip", "skerry"),
        1);
    assert_non_null(strstr(out, "Skerry: 7 of 8 checks passed"));
    assert_true(g_file_get_contents(page, &html, NULL, NULL));
    assert_non_null(strstr(html, "<tr class=\"bad\"><td>FAIL</td><td>2</td><td>equal</td>"));
    assert_non_null(strstr(html, "Corran32"));
    assert_null(strstr(html, "http")); /* needs nothing from elsewhere */
    assert_true(g_file_get_contents(xml, &junit, NULL, NULL));
    assert_non_null(strstr(junit, "tests=\"8\" failures=\"1\" skipped=\"1\""));
    assert_non_null(strstr(junit, "<failure message=\"is 0x1f, wanted 0x20\"/>"));
    g_free(out);
    g_free(err);
    assert_int_equal(WADIUM(&out, &err, "collect", "/nowhere/tty"), 2);
    assert_non_null(strstr(err, "cannot open '/nowhere/tty'"));
    g_free(out);
    g_free(err);
    g_free(text);
    g_free(html);
    g_free(junit);
    g_free(file);
    g_free(page);
    g_free(xml);
    test_remove(folder);
}

static void a_run_is_reported_as_a_page(void **state)
{
    char *folder = test_folder(), *page = g_build_filename(folder, "r.html", NULL);
    char *xml = g_build_filename(folder, "r.xml", NULL), *out, *err, *html, *junit;
    (void)state;
    assert_int_equal(WADIUM(&out, &err, "run", SOURCE_DIR "/examples/forgetful/forgetful.bench",
                            "-d", FIRMWARE_DIR, "--report", page, "--junit", xml),
                     1);
    assert_true(g_file_get_contents(page, &html, NULL, NULL));
    assert_true(g_file_get_contents(xml, &junit, NULL, NULL));
    static const char *const wanted[] = {"<svg",         "<pre>W",
                                         "forgetful.c:", "SHA-256",
                                         "FAIL",         "Registers that are not as after reset",
                                         "measured"};
    for (unsigned i = 0; i < G_N_ELEMENTS(wanted); i++)
        if (!strstr(html, wanted[i]))
            fail_msg("no %s in the page", wanted[i]);
    assert_null(strstr(html, "<script"));
    assert_null(strstr(html, "<link"));
    assert_non_null(strstr(junit, "<testsuite name="));
    assert_non_null(strstr(junit, "<failure message="));
    g_free(out);
    g_free(err);
    assert_int_equal(WADIUM(&out, &err, "run", SOURCE_DIR "/examples/forgetful/forgetful.bench",
                            "-d", FIRMWARE_DIR, "--report", "/nowhere/r.html"),
                     3);
    assert_non_null(strstr(err, "cannot write '/nowhere/r.html'"));
    g_free(out);
    g_free(err);
    g_free(html);
    g_free(junit);
    g_free(page);
    g_free(xml);
    test_remove(folder);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(each_check_holds_when_it_should),
        cmocka_unit_test(a_whole_stream_is_taken),
        cmocka_unit_test(noise_makes_no_failure_pass),
        cmocka_unit_test(what_is_wrong_with_the_stream_is_told),
        cmocka_unit_test(the_command_reports),
        cmocka_unit_test(a_run_is_reported_as_a_page),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
