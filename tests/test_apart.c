/* SPDX-License-Identifier: MIT */
/*
 * Firmware that takes its process down: the command lives on, says what happened and where, writes
 * its reports and ends with status 1. Nothing of the firmware's is left running.
 */
#include <signal.h>
#include <string.h>
#include <sys/wait.h>
#include <unistd.h>

#include "support.h"

#define COMMAND BUILD_DIR "/bin/wadium"

static char *bench_of(const char *folder, const char *firmware, const char *run)
{
    char *path = g_strdup_printf("%s/%s.bench", folder, firmware);
    char *text =
        g_strdup_printf("bench \"%s\" {\n board Skerry\n firmware %s\n capture WARN as lamp\n"
                        " run %s\n expect lamp frequency 1 Hz within 1 %%\n}\n"
                        "bench \"and another one\" {\n board Skerry\n firmware lamp\n"
                        " capture WARN as lamp\n run 2 s\n"
                        " expect lamp frequency 1 Hz within 1 %%\n}\n",
                        firmware, firmware, run);
    assert_true(g_file_set_contents(path, text, -1, NULL));
    g_free(text);
    return path;
}

static void has(const char *text, const char *wanted, const char *of)
{
    if (!strstr(text, wanted))
        fail_msg("%s: no '%s' in: %s", of, wanted, text);
}

/* Processes that have this text in their command line. */
static unsigned running(const char *text)
{
    GDir *proc = g_dir_open("/proc", 0, NULL);
    unsigned n = 0;
    for (const char *name; (name = g_dir_read_name(proc));) {
        char *path = g_build_filename("/proc", name, "cmdline", NULL), *line;
        gsize size;
        if (g_ascii_isdigit(*name) && atoi(name) != getpid() &&
            g_file_get_contents(path, &line, &size, NULL)) {
            for (gsize i = 0; i + 1 < size; i++)
                line[i] = line[i] ? line[i] : ' ';
            n += strstr(line, text) != NULL;
            g_free(line);
        }
        g_free(path);
    }
    g_dir_close(proc);
    return n;
}

static void each_ends_the_run_with_its_story(void **state)
{
    static const struct {
        unsigned number;
        const char *story; /* NULL: it only must not end well */
    } cases[] = {
        {1, "signal 11, Segmentation fault"},      /* longjmp without setjmp */
        {2, "a thread that the firmware made"},    /* a thread that touches registers */
        {3, "the firmware took its process down"}, /* a heap that is written over */
        {4, "signal 14, Alarm clock"},             /* a timer of the host's */
        {5, "installs a handler for a signal of the host"},
        {7, "calls fork"},
        {8, "it ended itself with status 0"}, /* which looks like success */
        {9, "while it was loaded"},
    };
    char *folder = test_folder(), *junit = g_build_filename(folder, "j.xml", NULL);
    char *page = g_build_filename(folder, "p.html", NULL);
    (void)state;
    for (unsigned i = 0; i < G_N_ELEMENTS(cases); i++) {
        char *name = g_strdup_printf("runaway_%u", cases[i].number), *out, *err, *text;
        char *bench = bench_of(folder, name, "100 ms");
        int status = WADIUM(&out, &err, "run", bench, "-d", FIRMWARE_DIR, "--junit", junit,
                            "--report", page);
        if (status != 1)
            fail_msg("%s: status %d\n%s%s", name, status, out, err);
        has(out, cases[i].story, name);
        has(out, "and another one", name); /* the benches behind it are run */
        has(out, "1 of 1 expectations met", name);
        assert_true(g_file_get_contents(junit, &text, NULL, NULL));
        has(text, "the run reaches its time", name);
        has(text, "<failure", name);
        g_free(text);
        assert_true(g_file_get_contents(page, &text, NULL, NULL));
        has(text, "and another one", name);
        g_free(text);
        if (running(bench))
            fail_msg("%s: a process of it lives on", name);
        unlink(junit);
        unlink(page);
        g_free(bench);
        g_free(out);
        g_free(err);
        g_free(name);
    }
    g_free(page);
    g_free(junit);
    test_remove(folder);
}

/* Where it says nothing any more it is ended; the other verbs that run firmware say the same. */
static void one_that_is_stuck_is_ended(void **state)
{
    char *folder = test_folder(), *out, *err, *bench = bench_of(folder, "runaway_6", "100 ms");
    (void)state;
    assert_int_equal(WADIUM(&out, &err, "run", bench, "-d", FIRMWARE_DIR, "--bench", "1"), 1);
    has(out, "did nothing for", "stuck");
    g_free(out);
    g_free(err);
    g_free(bench);
    test_remove(folder);
}

static void other_verbs_survive_as_well(void **state)
{
    char *folder = test_folder(), *out, *err, *bench = bench_of(folder, "runaway_8", "100 ms");
    (void)state;
    assert_int_equal(WADIUM(&out, &err, "steps", bench, "-d", FIRMWARE_DIR), 1);
    has(out, "took its process down", "steps");
    g_free(out);
    g_free(err);
    assert_int_equal(
        WADIUM(&out, &err, "watch", bench, "--bench", "1", "--text", "-d", FIRMWARE_DIR), 1);
    has(out, "took its process down", "watch");
    g_free(out);
    g_free(err);
    assert_int_equal(
        WADIUM(&out, &err, "run", bench, "-d", FIRMWARE_DIR, "--bench", "1", "--explore", "2"), 1);
    has(out, "took its process down", "explore");
    g_free(out);
    g_free(err);
    g_free(bench);
    test_remove(folder);
}

/* A signal to the command ends what works for it. */
static void a_signal_ends_all_of_it(void **state)
{
    static const int signals[] = {SIGINT, SIGTERM, SIGHUP};
    char *folder = test_folder(), *bench = bench_of(folder, "runaway_10", "100 s");
    char *argv[] = {COMMAND, "run", bench, "-d", FIRMWARE_DIR, NULL};
    (void)state;
    for (unsigned i = 0; i < G_N_ELEMENTS(signals); i++) {
        GPid pid;
        int status;
        assert_true(g_spawn_async(NULL, argv, NULL,
                                  G_SPAWN_DO_NOT_REAP_CHILD | G_SPAWN_STDOUT_TO_DEV_NULL, NULL,
                                  NULL, &pid, NULL));
        while (running(bench) < 3) /* the watcher, the command, the run */
            g_usleep(1000);
        kill(pid, signals[i]);
        waitpid(pid, &status, 0);
        if (!WIFSIGNALED(status) || WTERMSIG(status) != signals[i])
            fail_msg("%s: ended with status 0x%04x", strsignal(signals[i]), (unsigned)status);
        assert_int_equal(running(bench), 0);
    }
    g_free(bench);
    test_remove(folder);
}

/* A press shorter than its contact bounces ends all the same. */
static void a_short_press_is_over_whatever_it_bounces(void **state)
{
    (void)state;
    for (unsigned seed = 1; seed <= 40; seed++) {
        wad_board *board = test_board("skerry");
        wad_bench *bench;
        char *say = g_strdup_printf("seed %u", seed);
        const char *const statements[] = {
            say,         "press TEST at 10 ms for 1 ms", "capture TEST as key",
            "run 50 ms", "expect key is high at 40 ms",  NULL};
        wad_bench_result *r = test_run(board, &bench, "drive_32", statements);
        if (!r->passed)
            fail_msg("seed %u: it stays pressed", seed);
        wad_bench_result_free(r);
        wad_bench_free(bench);
        wad_board_free(board);
        g_free(say);
    }
}

/* A train of a million pulses takes no memory but its capture's. */
static void pulses_come_as_they_are_due(void **state)
{
    (void)state;
    wad_board *board = test_board("skerry");
    wad_bench *bench;
    const char *const statements[] = {
        "drive PC8 pulses 1 MHz duty 30 % at 1 ms for 10 ms",
        "capture PC8 as train",
        "run 20 ms",
        "expect train frequency 1 MHz within 1 ppm from 2 ms to 10 ms",
        "expect train high 300 ns within 1 ns from 2 ms to 10 ms",
        NULL};
    wad_bench_result *r = test_run(board, &bench, "drive_32", statements);
    for (unsigned i = 0; i < r->n_verdicts; i++)
        if (!r->verdicts[i].passed)
            fail_msg("%s: %s", r->verdicts[i].subject, r->verdicts[i].measured);
    wad_bench_result_free(r);
    wad_bench_free(bench);
    wad_board_free(board);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(each_ends_the_run_with_its_story),
        cmocka_unit_test(one_that_is_stuck_is_ended),
        cmocka_unit_test(other_verbs_survive_as_well),
        cmocka_unit_test(a_signal_ends_all_of_it),
        cmocka_unit_test(a_short_press_is_over_whatever_it_bounces),
        cmocka_unit_test(pulses_come_as_they_are_due),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
