/* SPDX-License-Identifier: MIT */
/*
 * What is written arrives, or the status says that it did not: full devices, files that may not be
 * larger, links, pipes, interrupted and concurrent runs; and no text of a user's is taken for more
 * than text by whoever reads it next.
 */
#include <errno.h>
#include <fcntl.h>
#include <json-glib/json-glib.h>
#include <libxml/parser.h>
#include <signal.h>
#include <string.h>
#include <sys/resource.h>
#include <sys/stat.h>
#include <sys/wait.h>
#include <unistd.h>

#include "support.h"
#include "wadium/host/output.h"
#include "wadium/host/recording.h"

#define COMMAND BUILD_DIR "/bin/wadium"
#define LAMP    SOURCE_DIR "/examples/lamp/lamp.bench"

static char *shell(int *status, const char *format, ...) G_GNUC_PRINTF(2, 3);
static char *shell(int *status, const char *format, ...)
{
    va_list args;
    char *out, *err;
    va_start(args, format);
    char *command = g_strdup_vprintf(format, args);
    va_end(args);
    *status = test_spawn(&out, &err, "bash", "-c", command, NULL);
    char *all = g_strconcat(out, err, NULL);
    g_free(command);
    g_free(out);
    g_free(err);
    return all;
}

static void holds(const char *text, const char *wanted)
{
    if (!strstr(text, wanted))
        fail_msg("no '%s' in: %s", wanted, text);
}

static char *lamp_capture(const char *folder)
{
    char *vcd = g_build_filename(folder, "lamp.vcd", NULL), *out, *err;
    assert_int_equal(
        WADIUM(&out, &err, "run", LAMP, "-d", FIRMWARE_DIR, "--bench", "1", "--vcd", vcd), 0);
    g_free(out);
    g_free(err);
    return vcd;
}

/* Files of a folder that are left of something. */
static unsigned files_in(const char *folder)
{
    GDir *dir = g_dir_open(folder, 0, NULL);
    unsigned n = 0;
    while (g_dir_read_name(dir))
        n++;
    g_dir_close(dir);
    return n;
}

/* ---- standard output ---- */

static void a_full_standard_output_is_status_3(void **state)
{
    static const char *const commands[] = {
        "run " LAMP " -d " FIRMWARE_DIR,
        "run " LAMP " -d " FIRMWARE_DIR " --json",
        "run " LAMP " -d " FIRMWARE_DIR " --tap",
        "show corran32",
        "show skerry",
        "findings",
        "lint corran32",
        "find corran32 CTRL",
        "encode corran32 CNT0.CTRL EN=1",
        "decode corran32 CNT0.CTRL 1",
        "clocks corran32",
        "rate corran32 CNT0 wrap=2Hz",
        "emit header corran32",
        "steps " LAMP " -d " FIRMWARE_DIR,
        "--help",
        "--version",
        "run --help",
    };
    int status;
    (void)state;
    for (unsigned i = 0; i < G_N_ELEMENTS(commands); i++) {
        char *said = shell(&status, "%s %s 2>&1 >/dev/full", COMMAND, commands[i]);
        if (status != 3 || !strstr(said, "No space left on device"))
            fail_msg("%s: status %d, '%s'", commands[i], status, said);
        g_free(said);
    }
    char *closed = shell(&status, "%s show corran32 2>&1 >&-", COMMAND);
    assert_int_equal(status, 3);
    holds(closed, "standard output");
    g_free(closed);
    char *left = shell(&status, "%s show corran32 | head -1 >/dev/null; echo ${PIPESTATUS[0]}",
                       COMMAND); /* a reader that goes away: silence */
    assert_null(strstr(left, "wadium:"));
    g_free(left);
}

static void captures_measured_into_a_full_device(void **state)
{
    char *folder = test_folder(), *vcd = lamp_capture(folder), *said;
    int status;
    (void)state;
    static const char *const verbs[] = {"measure", "plot --text", "compare %s"};
    for (unsigned i = 0; i < 2; i++) {
        said = shell(&status, "%s %s %s 2>&1 >/dev/full", COMMAND, verbs[i], vcd);
        if (status != 3)
            fail_msg("%s: %d %s", verbs[i], status, said);
        g_free(said);
    }
    said = shell(&status, "%s compare %s %s 2>&1 >/dev/full", COMMAND, vcd, vcd);
    assert_int_equal(status, 3);
    g_free(said);
    g_free(vcd);
    test_remove(folder);
}

/* ---- files ---- */

/* A disk that takes 4 KiB, for a child. */
static void small_files(gpointer unused)
{
    const struct rlimit most = {4096, 4096};
    (void)unused;
    signal(SIGXFSZ, SIG_IGN);
    setrlimit(RLIMIT_FSIZE, &most);
}

static int spawn_small(char **err, const char *const *argv)
{
    int status;
    if (!g_spawn_sync(NULL, (char **)argv, NULL, G_SPAWN_STDOUT_TO_DEV_NULL, small_files, NULL,
                      NULL, err, &status, NULL))
        fail();
    return WIFEXITED(status) ? WEXITSTATUS(status) : 128 + WTERMSIG(status);
}

static void a_picture_that_finds_no_room_leaves_the_old_one(void **state)
{
    char *folder = test_folder(), *vcd = lamp_capture(folder), *err, *text;
    char *png = g_build_filename(folder, "old.png", NULL);
    const char *const plot[] = {COMMAND, "plot", vcd, "-o", png, NULL};
    const char *const timeline[] = {COMMAND,      "run",        LAMP, "-d",
                                    FIRMWARE_DIR, "--timeline", png,  NULL};
    const char *const *const commands[] = {plot, timeline};
    (void)state;
    for (unsigned i = 0; i < G_N_ELEMENTS(commands); i++) {
        assert_true(g_file_set_contents(png, "old", -1, NULL));
        assert_int_equal(spawn_small(&err, commands[i]), 3);
        holds(err, "File too large");
        assert_true(g_file_get_contents(png, &text, NULL, NULL));
        assert_string_equal(text, "old");
        g_free(text);
        g_free(err);
    }
    assert_int_equal(files_in(folder), 2); /* nothing half-written */
    g_free(png);
    g_free(vcd);
    test_remove(folder);
}

static void a_board_whose_disk_is_full_says_so(void **state)
{
    char *folder = test_folder(), *vcd = g_build_filename(folder, "b.vcd", NULL), *err;
    const char *const argv[] = {COMMAND,    "board",      "skerry",
                                "--listen", "0",          "--pace",
                                "0",        "--firmware", BUILD_DIR "/images/lamp.elf",
                                "--vcd",    vcd,          "--for",
                                "2s",       NULL};
    (void)state;
    assert_int_equal(spawn_small(&err, argv), 3);
    holds(err, "File too large");
    g_free(err);
    g_free(vcd);
    test_remove(folder);
}

static void what_is_no_file_is_written_through(void **state)
{
    char *folder = test_folder(), *fifo = g_build_filename(folder, "fifo", NULL);
    char *link_path = g_build_filename(folder, "link.h", NULL), *text, *said;
    char *target = g_build_filename(folder, "target.h", NULL);
    struct stat s;
    int status;
    (void)state;
    /* as root it once replaced the device */
    said = shell(&status, "%s emit header corran8 -o /dev/stdout | tail -1", COMMAND);
    assert_string_equal(said, "#endif\n");
    g_free(said);
    assert_int_equal(lstat("/dev/stdout", &s), 0);
    assert_true(S_ISLNK(s.st_mode));
    said = shell(&status, "%s emit header corran8 -o /dev/full", COMMAND);
    assert_int_equal(status, 3);
    assert_int_equal(stat("/dev/full", &s), 0);
    assert_true(S_ISCHR(s.st_mode));
    g_free(said);
    /* a pipe that somebody reads */
    assert_int_equal(mkfifo(fifo, 0600), 0);
    said = shell(&status, "tail -1 %s & %s emit header corran8 -o %s && wait", fifo, COMMAND, fifo);
    assert_string_equal(said, "#endif\n");
    g_free(said);
    assert_int_equal(stat(fifo, &s), 0);
    assert_true(S_ISFIFO(s.st_mode));
    /* a link stays one; its file keeps its permissions */
    assert_true(g_file_set_contents(target, "old", -1, NULL));
    assert_int_equal(chmod(target, 0640), 0);
    assert_int_equal(symlink("target.h", link_path), 0);
    said = shell(&status, "%s emit header corran8 -o %s", COMMAND, link_path);
    assert_int_equal(status, 0);
    g_free(said);
    assert_int_equal(lstat(link_path, &s), 0);
    assert_true(S_ISLNK(s.st_mode));
    assert_int_equal(stat(target, &s), 0);
    assert_int_equal(s.st_mode & 07777, 0640);
    assert_true(g_file_get_contents(target, &text, NULL, NULL));
    holds(text, "CORRAN8_");
    g_free(text);
    g_free(target);
    g_free(link_path);
    g_free(fifo);
    test_remove(folder);
}

static void four_at_once_into_one_file(void **state)
{
    char *folder = test_folder(), *said, *text;
    int status;
    (void)state;
    said = shell(&status,
                 "cd %s; for i in 1 2 3 4; do %s run %s -d %s --bench 1 --vcd one.vcd >/dev/null & "
                 "pids=\"$pids $!\"; done; for p in $pids; do wait $p || exit 1; done",
                 folder, COMMAND, LAMP, FIRMWARE_DIR);
    if (status)
        fail_msg("%s", said);
    assert_int_equal(files_in(folder), 1);
    char *path = g_build_filename(folder, "one.vcd", NULL);
    assert_true(g_file_get_contents(path, &text, NULL, NULL));
    holds(text, "$enddefinitions");
    g_free(text);
    g_free(path);
    g_free(said);
    test_remove(folder);
}

/* Ends a build while its compilers run: their folder goes, too. */
static void an_interrupt_leaves_nothing(void **state)
{
    static const int signals[] = {SIGINT, SIGTERM, SIGHUP};
    char *folder = test_folder(), *temp = g_build_filename(folder, "tmp", NULL);
    char *wfw = g_build_filename(folder, "x.wfw", NULL);
    char *argv[] = {COMMAND,   "build",  "corran32", SOURCE_DIR "/examples/lamp/lamp.c",
                    "--board", "skerry", "-o",       wfw,
                    NULL};
    char **env = g_environ_setenv(g_get_environ(), "TMPDIR", temp, TRUE);
    (void)state;
    assert_int_equal(mkdir(temp, 0700), 0);
    for (unsigned i = 0; i < G_N_ELEMENTS(signals); i++) {
        GPid pid;
        int status;
        assert_true(g_spawn_async(NULL, argv, env,
                                  G_SPAWN_DO_NOT_REAP_CHILD | G_SPAWN_STDERR_TO_DEV_NULL, NULL,
                                  NULL, &pid, NULL));
        while (files_in(temp) == 0) /* it has begun */
            g_usleep(1000);
        kill(pid, signals[i]);
        waitpid(pid, &status, 0);
        assert_true(WIFSIGNALED(status) && WTERMSIG(status) == signals[i]);
        assert_int_equal(files_in(temp), 0);
        assert_int_equal(files_in(folder), 1);
    }
    g_strfreev(env);
    g_free(wfw);
    g_free(temp);
    test_remove(folder);
}

static void the_library_itself_writes_whole_or_not(void **state)
{
    char *folder = test_folder(), *path = g_build_filename(folder, "a", NULL), *why, *text;
    (void)state;
    assert_null(wad_output_open("/nowhere/a", &why));
    holds(why, "cannot write '/nowhere/a': No such file");
    g_free(why);
    wad_output *out = wad_output_open(path, &why);
    fputs("half", wad_output_file(out));
    wad_output_drop(out);
    assert_int_equal(files_in(folder), 0);
    assert_true(wad_output_bytes(path, "whole", 5, &why));
    assert_true(g_file_get_contents(path, &text, NULL, NULL));
    assert_string_equal(text, "whole");
    g_free(text);
    assert_false(wad_output_bytes(folder, "x", 1, &why));
    holds(why, "Is a directory");
    g_free(why);
    g_free(path);
    test_remove(folder);
}

/* ---- texts in other languages ---- */

/* All that a byte can be, around what would end a string and begin a command. */
static char *hostile(const char *mark)
{
    GString *s = g_string_new("a'1);system(\"touch ");
    g_string_append_printf(s, "%s\")#`touch %s`$(touch %s)%%n%%s\\\"", mark, mark, mark);
    for (int c = 1; c < 256; c++)
        g_string_append_c(s, (char)c);
    g_string_append(s, "\nset output '/nowhere'\nsystem('touch ");
    g_string_append(s, mark);
    g_string_append(s, "')\n");
    return g_string_free(s, FALSE);
}

static void is_picture(const char *path)
{
    char *text;
    gsize n;
    assert_true(g_file_get_contents(path, &text, &n, NULL));
    assert_true(n > 100 && (!memcmp(text, "\x89PNG", 4) || strstr(text, "</svg>")));
    g_free(text);
}

static void no_name_is_a_command_to_the_plotter(void **state)
{
    char *folder = test_folder(), *mark = g_build_filename(folder, "owned", NULL), *why = NULL;
    char *text = hostile(mark), *png = g_build_filename(folder, "p.png", NULL);
    char *svg = g_build_filename(folder, "p.svg", NULL);
    wad_capture *c = wad_capture_new();
    (void)state;
    unsigned channel = wad_capture_channel(c, text), quote = wad_capture_channel(c, "Vout'");
    unsigned analog = wad_capture_analog(c, text, "V");
    for (unsigned i = 0; i < 10; i++) {
        wad_capture_edge(c, channel, i * 1000000, i % 2 ? WAD_HIGH : WAD_LOW);
        wad_capture_edge(c, quote, i * 1000000, i % 2 ? WAD_LOW : WAD_HIGH);
        wad_capture_sample(c, analog, i * 1000000, i);
    }
    const wad_plot_options o = {.title = text};
    if (!wad_plot_file(c, 10000000, &o, png, &why) || !wad_plot_file(c, 10000000, &o, svg, &why))
        fail_msg("%s", why);
    is_picture(png);
    is_picture(svg);
    const uint64_t ps[] = {1000, 2000, 1500};
    const wad_intervals series[] = {{text, ps, 3}};
    if (!wad_plot_intervals(series, 1, &o, png, &why))
        fail_msg("%s", why);
    const wad_rate_point points[] = {{.hz = 1000, .ppm = 1}, {.hz = 2000, .ppm = -4}};
    const wad_rate_plot rates = {.title = text, .points = points, .n = 2};
    if (!wad_plot_rates(&rates, png, &why))
        fail_msg("%s", why);
    assert_false(g_file_test(mark, G_FILE_TEST_EXISTS));
    wad_capture_free(c);
    g_free(svg);
    g_free(png);
    g_free(text);
    g_free(mark);
    test_remove(folder);
}

static void hostile_names_of_files_are_plotted(void **state)
{
    char *folder = test_folder(), *out, *err;
    char *csv = g_build_filename(folder, "volts';system(\"touch owned\")#\n.csv", NULL);
    char *png = g_build_filename(folder, "it's\nnew.png", NULL);
    (void)state;
    assert_true(g_file_set_contents(
        csv,
        "t,volts';system(\"touch owned\")#,\"a, quoted \"\" name\"\n0,0.5,1\n1,0.25,0\n2,1,1\n", -1,
        NULL));
    assert_int_equal(test_spawn(&out, &err, "env", "-C", folder, COMMAND, "plot", csv, "--title",
                                "two\nlines'", "-o", png, NULL),
                     0);
    is_picture(png);
    char *owned = g_build_filename(folder, "owned", NULL);
    assert_false(g_file_test(owned, G_FILE_TEST_EXISTS));
    g_free(out);
    g_free(err);
    assert_int_equal(WADIUM(&out, &err, "measure", csv), 0);
    holds(out, "a, quoted \" name");
    g_free(owned);
    g_free(out);
    g_free(err);
    g_free(png);
    g_free(csv);
    test_remove(folder);
}

static wad_bench_result *hostile_run(wad_board **board, wad_bench **bench, const char *title)
{
    char *why = NULL;
    wad_diags *diags = wad_diags_new();
    *board = test_board("skerry");
    *bench = wad_bench_new(title, *board);
    assert_true(wad_bench_say(*bench, "firmware lamp", diags));
    assert_true(wad_bench_say(*bench, "capture WARN", diags));
    assert_true(wad_bench_say(*bench, "run 1 s", diags));
    assert_true(wad_bench_say(*bench, "expect warn frequency 1 Hz within 1 %", diags));
    wad_diags_free(diags);
    const wad_bench_options o = {.firmware_dir = FIRMWARE_DIR};
    wad_bench_result *r = wad_bench_run(*bench, &o, &why);
    if (!r)
        fail_msg("%s", why);
    return r;
}

static char *told(void (*report)(wad_bench_result *const *, unsigned, FILE *), wad_bench_result *r)
{
    char *text;
    size_t n;
    FILE *f = open_memstream(&text, &n);
    report(&r, 1, f);
    fclose(f);
    return text;
}

void wad_report_junit(wad_bench_result *const *results, unsigned n, FILE *out);

static void titles_break_no_report(void **state)
{
    char *title = hostile("x");
    wad_board *board;
    wad_bench *bench;
    (void)state;
    wad_bench_result *r = hostile_run(&board, &bench, title);
    char *tap = told(wad_report_tap, r);
    unsigned plan = 0, lines = 0;
    char **all = g_strsplit(tap, "\n", -1);
    for (unsigned i = 0; all[i]; i++) { /* every line is one that TAP has */
        sscanf(all[i], "1..%u", &plan);
        bool is_test = g_str_has_prefix(all[i], "ok ") || g_str_has_prefix(all[i], "not ok ");
        lines += is_test;
        if (!is_test && *all[i] && *all[i] != '#' && *all[i] != ' ' &&
            !g_str_has_prefix(all[i], "TAP version") && !g_str_has_prefix(all[i], "1.."))
            fail_msg("no line of TAP: %s", all[i]);
    }
    assert_int_equal(lines, plan);
    g_strfreev(all);
    char *junit = told(wad_report_junit, r);
    xmlDoc *doc = xmlReadMemory(junit, (int)strlen(junit), "j", NULL, XML_PARSE_NONET);
    assert_non_null(doc);
    xmlFreeDoc(doc);
    char *json = told(wad_report_json, r);
    JsonParser *parser = json_parser_new();
    assert_true(json_parser_load_from_data(parser, json, -1, NULL));
    g_object_unref(parser);
    free(json);
    free(junit);
    free(tap);
    wad_bench_result_free(r);
    wad_bench_free(bench);
    wad_board_free(board);
    g_free(title);
}

static void descriptions_stay_descriptions(void **state)
{
    static const char text[] = "chip T {\n bus little 32\n clock core 8 MHz\n block A at 0x1000 "
                               "like l \"*/ int x; /*\"\n}\n"
                               "layout l {\n reg R at 0 rw reset 0 \"end\" ref \"a */ b\" {\n 0 E "
                               "rw \"one\\n*/ two\"\n}\n}\n";
    wad_diags *diags = wad_diags_new();
    char *folder = test_folder(), *h = g_build_filename(folder, "t.h", NULL), *gdb, *out, *err;
    (void)state;
    wad_sheet *s = wad_sheet_parse(text, strlen(text), "t.sheet", diags);
    assert_non_null(s);
    FILE *f = fopen(h, "w");
    wad_emit_header(s, f);
    fclose(f);
    if (test_spawn(&out, &err, "gcc", "-std=c11", "-Wall", "-Wextra", "-Werror", "-I",
                   SOURCE_DIR "/include", "-fsyntax-only", "-x", "c", h, NULL))
        fail_msg("%s", err);
    g_free(out);
    g_free(err);
    gdb = g_build_filename(folder, "t.gdb", NULL);
    f = fopen(gdb, "w");
    wad_emit_gdb(s, f);
    fclose(f);
    assert_int_equal(test_spawn(&out, &err, "gdb", "-batch", "-nx", "-ex", "set confirm off", "-x",
                                gdb, "-ex", "help reg_A_R", NULL),
                     0);
    if (*err)
        fail_msg("gdb: %s", err);
    holds(out, "end");
    g_free(out);
    g_free(err);
    g_free(gdb);
    g_free(h);
    wad_sheet_free(s);
    wad_diags_free(diags);
    test_remove(folder);
}

/* ---- JSON ---- */

/* As strict as the standard: a number has digits behind its point and its exponent. */
static const char *skip_json(const char *p, unsigned depth);

static const char *blanks(const char *p)
{
    return p + strspn(p, " \t\r\n");
}

static const char *skip_number(const char *p)
{
    p += *p == '-';
    if (*p == '0')
        p++;
    else if (strspn(p, "0123456789"))
        p += strspn(p, "0123456789");
    else
        return NULL;
    if (*p == '.') {
        size_t n = strspn(p + 1, "0123456789");
        if (!n)
            return NULL;
        p += n + 1;
    }
    if (*p == 'e' || *p == 'E') {
        p++;
        p += *p == '+' || *p == '-';
        size_t n = strspn(p, "0123456789");
        return n ? p + n : NULL;
    }
    return p;
}

static const char *skip_string(const char *p)
{
    for (p++; *p && *p != '"'; p++) {
        if ((guchar)*p < 0x20)
            return NULL;
        if (*p == '\\') {
            p++;
            if (!*p || !strchr("\"\\/bfnrtu", *p))
                return NULL;
            for (unsigned k = 0; *p == 'u' && k < 4; k++)
                if (!g_ascii_isxdigit(p[k + 1]))
                    return NULL;
        }
    }
    return *p ? p + 1 : NULL;
}

static const char *skip_items(const char *p, char end, bool named, unsigned depth)
{
    p = blanks(p + 1);
    if (*p == end)
        return p + 1;
    for (;;) {
        if (named) {
            p = *p == '"' ? skip_string(p) : NULL;
            p = p ? blanks(p) : NULL;
            if (!p || *p != ':')
                return NULL;
            p = blanks(p + 1);
        }
        p = skip_json(p, depth + 1);
        p = p ? blanks(p) : NULL;
        if (!p || (*p != ',' && *p != end))
            return NULL;
        if (*p == end)
            return p + 1;
        p = blanks(p + 1);
    }
}

static const char *skip_json(const char *p, unsigned depth)
{
    static const char *const words[] = {"true", "false", "null"};
    if (depth > 100)
        return NULL;
    if (*p == '{' || *p == '[')
        return skip_items(p, *p == '{' ? '}' : ']', *p == '{', depth);
    if (*p == '"')
        return skip_string(p);
    for (unsigned i = 0; i < 3; i++)
        if (g_str_has_prefix(p, words[i]))
            return p + strlen(words[i]);
    return skip_number(p);
}

static void every_json_output_is_json(void **state)
{
    char *folder = test_folder(), *vcd = lamp_capture(folder), *snapshot, *out, *err;
    const char *const names[] = {"lamp", "gauge", "sampled", "forgetful"};
    (void)state;
    snapshot = g_build_filename(folder, "s.json", NULL);
    for (unsigned i = 0; i < G_N_ELEMENTS(names) + 2; i++) {
        if (i < G_N_ELEMENTS(names)) {
            char *bench = g_strdup_printf(SOURCE_DIR "/examples/%s/%s.bench", names[i], names[i]);
            WADIUM(&out, &err, "run", bench, "-d", FIRMWARE_DIR, "--json", "--snapshot", snapshot);
            g_free(bench);
        } else if (i == G_N_ELEMENTS(names)) {
            WADIUM(&out, &err, "show", "corran32", "--json");
        } else {
            WADIUM(&out, &err, "measure", vcd, "--json");
        }
        const char *end = *out ? skip_json(blanks(out), 0) : NULL;
        if (!end || *blanks(end))
            fail_msg("output %u is no JSON: %.200s", i, end ? end : out);
        g_free(out);
        g_free(err);
    }
    assert_true(g_file_get_contents(snapshot, &out, NULL, NULL));
    const char *end = skip_json(out, 0);
    assert_true(end && !*blanks(end));
    g_free(out);
    g_free(snapshot);
    g_free(vcd);
    test_remove(folder);
}

/* ---- what is asked for is there, or an error ---- */

static void nothing_that_was_asked_for_is_ignored(void **state)
{
    char *folder = test_folder(), *vcd = lamp_capture(folder), *empty, *binary, *snapshot, *said;
    int status;
    (void)state;
    empty = g_build_filename(folder, "empty", NULL);
    binary = g_build_filename(folder, "binary", NULL);
    snapshot = g_build_filename(folder, "snapshot", NULL);
    g_file_set_contents(empty, "", 0, NULL);
    g_file_set_contents(binary, "CNT0.CTRL 1\n\0\1\2\n", 16, NULL);
    said = shell(&status, "%s run %s -d %s --snapshot %s", COMMAND, LAMP, FIRMWARE_DIR, snapshot);
    g_free(said);
    const struct {
        char *command;
        int status;
        const char *words;
    } cases[] = {
        {g_strdup("show skerry NOSUCH"), 2, "no table of a board 'NOSUCH'"},
        {g_strdup_printf("run %s -d %s --trace-block CNTO --trace -", LAMP, FIRMWARE_DIR), 2,
         "did you mean 'CNT0'?"},
        {g_strdup_printf("steps %s -d %s --block NOSUCH", LAMP, FIRMWARE_DIR), 2, "'NOSUCH'"},
        {g_strdup_printf("plot %s --signals warn,nosuch -o %s/x.png", vcd, folder), 2,
         "no signal 'nosuch'"},
        {g_strdup_printf("measure %s --from 3s --to 2s", vcd), 2, "--to lies before --from"},
        {g_strdup_printf("measure %s --from 50s", vcd), 2, "behind the end"},
        {g_strdup_printf("decode corran32 @%s", empty), 3, "the dump is empty"},
        {g_strdup_printf("decode corran32 @%s", binary), 3, "this is no dump"},
        {g_strdup_printf("compare %s %s", snapshot, snapshot), 0, "registers compared"},
        {g_strdup_printf("compare %s %s", snapshot, vcd), 2, "two of a kind"},
        {g_strdup_printf("image corran16 " SOURCE_DIR "/examples/lamp/lamp.c -o %s/x.elf", folder),
         2, "no start-up for"},
    };
    for (unsigned i = 0; i < G_N_ELEMENTS(cases); i++) {
        said = shell(&status, "%s %s", COMMAND, cases[i].command);
        if (status != cases[i].status || !strstr(said, cases[i].words))
            fail_msg("%s: status %d, %s", cases[i].command, status, said);
        g_free(said);
        g_free(cases[i].command);
    }
    g_free(snapshot);
    g_free(binary);
    g_free(empty);
    g_free(vcd);
    test_remove(folder);
}

/* Expectations at times that the run, or the recording, does not reach. */
static void windows_that_are_not_there_are_not_met(void **state)
{
    static const struct {
        const char *expect;
        int status;
        const char *words;
    } cases[] = {
        {"warn edges 0 from 50 s to 60 s", 1, "not measured: the end is at 2 s already"},
        {"warn edges 1 from 1 s to 60 s", 1, "not measured"},
        {"warn is high at 60 s", 1, "not measured"},
        {"warn is high at 0.75 s from 1 s to 2 s", 3, "it takes no window"},
        {"LINK says \"never said\" from 0 s to 1 s", 1, "nothing heard"},
        {"LINK bytes 0 from 0.5 s to 1 s", 0, "ok"},
    };
    char *folder = test_folder(), *path = g_build_filename(folder, "w.bench", NULL), *said;
    int status;
    (void)state;
    for (unsigned i = 0; i < G_N_ELEMENTS(cases); i++) {
        char *text =
            g_strdup_printf("bench \"w\" {\n board Skerry\n firmware lamp\n uart LINK at 9600\n"
                            " capture WARN\n run 2 s\n expect %s\n}\n",
                            cases[i].expect);
        g_file_set_contents(path, text, -1, NULL);
        said = shell(&status, "%s run %s -d %s", COMMAND, path, FIRMWARE_DIR);
        if (status != cases[i].status || !strstr(said, cases[i].words))
            fail_msg("%s: status %d, %s", cases[i].expect, status, said);
        g_free(said);
        g_free(text);
    }
    char *vcd = lamp_capture(folder);
    g_file_set_contents(path,
                        "bench \"w\" {\n board Skerry\n firmware lamp\n capture WARN\n run 2 s\n"
                        " expect no findings\n}\n",
                        -1, NULL);
    said = shell(&status, "%s run %s --recording %s", COMMAND, path, vcd);
    assert_int_equal(status, 2);
    holds(said, "nothing to judge");
    g_free(said);
    g_file_set_contents(path,
                        "bench \"w\" {\n board Skerry\n firmware lamp\n capture WARN\n run 90 s\n"
                        " expect warn edges 0 from 50 s to 60 s\n}\n",
                        -1, NULL);
    said = shell(&status, "%s run %s --recording %s", COMMAND, path, vcd);
    assert_int_equal(status, 1);
    holds(said, "not measured");
    g_free(said);
    g_free(vcd);
    g_free(path);
    test_remove(folder);
}

/* A text at one time is not one at another. */
static void what_a_line_says_it_says_in_its_window(void **state)
{
    char *folder = test_folder(), *path = g_build_filename(folder, "w.bench", NULL), *said;
    static const char *const windows[] = {"from 5 ms to 40 ms", "from 45 ms to 100 ms"};
    int status;
    (void)state;
    for (unsigned i = 0; i < 2; i++) {
        char *text = g_strdup_printf(
            "bench \"w\" {\n board Skerry\n firmware echo\n uart LINK at 115200\n"
            " send LINK \"tide\\r\" at 10 ms\n run 200 ms\n expect LINK says \"tide\" %s\n}\n",
            windows[i]);
        g_file_set_contents(path, text, -1, NULL);
        said = shell(&status, "%s run %s -d %s", COMMAND, path, FIRMWARE_DIR);
        if (status != (i ? 1 : 0))
            fail_msg("%s: status %d, %s", windows[i], status, said);
        g_free(said);
        g_free(text);
    }
    g_free(path);
    test_remove(folder);
}

static void a_finding_stands_in_the_file_that_is_named(void **state)
{
    (void)state;
    assert_true(wad_place_is_in("/a/b/forgetful.c", "forgetful.c"));
    assert_true(wad_place_is_in("/a/b/forgetful.c", "b/forgetful.c"));
    assert_true(wad_place_is_in("forgetful.c", "forgetful.c"));
    assert_false(wad_place_is_in("/a/b/forgetful.c", "tful.c"));
}

/* ---- readers ---- */

static void a_trace_that_lacks_columns_is_refused(void **state)
{
    static const char *const texts[] = {
        "access,register,value,file,line\nwrite,CNT0.CTRL,1\n",
        "access,register,value,file,line\nwrite,CNT0.CTRL,1,a.c\n",
        "time_ps,file,line,function,access,register,value\n",
        "time_ps,file,line,function,access,register,value\n1,a.c,3,f,wrote,CNT0.CTRL,1\n",
        "time_ps,file,line,function,access,register,value\n1,a.c,3,f,write,CNT0.CTRL,0x1FFFFFFFF\n",
    };
    wad_sheet *sheet = test_chip("corran32");
    char *folder = test_folder(), *path = g_build_filename(folder, "t.csv", NULL), *why;
    wad_traces_compared r;
    FILE *null = fopen("/dev/null", "w");
    (void)state;
    for (unsigned i = 0; i < G_N_ELEMENTS(texts); i++) {
        g_file_set_contents(path, texts[i], -1, NULL);
        assert_false(wad_trace_compare(sheet, path, path, &r, null, &why));
        assert_non_null(why);
        g_free(why);
    }
    fclose(null);
    wad_sheet_free(sheet);
    g_free(path);
    test_remove(folder);
}

static void a_snapshot_of_brackets_is_refused(void **state)
{
    char *folder = test_folder(), *path = g_build_filename(folder, "s.json", NULL), *said;
    GString *deep = g_string_new(NULL);
    int status;
    (void)state;
    for (unsigned i = 0; i < 5000000; i++)
        g_string_append_c(deep, '[');
    g_file_set_contents(path, deep->str, (gssize)deep->len, NULL);
    said = shell(&status, "%s compare %s %s", COMMAND, path, path);
    holds(said, "is no snapshot");
    assert_int_equal(status == 2 || status == 3, 1);
    g_free(said);
    g_string_assign(deep, "{\"a\": /*\"*/ [[[[[[[[[[[[[[[[[[[[[[[[ /*\"*/");
    g_file_set_contents(path, deep->str, (gssize)deep->len, NULL);
    said = shell(&status, "%s compare %s %s", COMMAND, path, path);
    holds(said, "is no snapshot");
    g_free(said);
    g_string_free(deep, TRUE);
    g_free(path);
    test_remove(folder);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(a_full_standard_output_is_status_3),
        cmocka_unit_test(captures_measured_into_a_full_device),
        cmocka_unit_test(a_picture_that_finds_no_room_leaves_the_old_one),
        cmocka_unit_test(a_board_whose_disk_is_full_says_so),
        cmocka_unit_test(what_is_no_file_is_written_through),
        cmocka_unit_test(four_at_once_into_one_file),
        cmocka_unit_test(an_interrupt_leaves_nothing),
        cmocka_unit_test(the_library_itself_writes_whole_or_not),
        cmocka_unit_test(no_name_is_a_command_to_the_plotter),
        cmocka_unit_test(hostile_names_of_files_are_plotted),
        cmocka_unit_test(titles_break_no_report),
        cmocka_unit_test(descriptions_stay_descriptions),
        cmocka_unit_test(every_json_output_is_json),
        cmocka_unit_test(nothing_that_was_asked_for_is_ignored),
        cmocka_unit_test(windows_that_are_not_there_are_not_met),
        cmocka_unit_test(what_a_line_says_it_says_in_its_window),
        cmocka_unit_test(a_finding_stands_in_the_file_that_is_named),
        cmocka_unit_test(a_trace_that_lacks_columns_is_refused),
        cmocka_unit_test(a_snapshot_of_brackets_is_refused),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
