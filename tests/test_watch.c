/* SPDX-License-Identifier: MIT */
/* A look at a run: variables by name, what has changed, time in steps, inputs by hand; the command
 * in lines and on a terminal. */
#include <fcntl.h>
#include <math.h>
#include <poll.h>
#include <pty.h>
#include <signal.h>
#include <string.h>
#include <sys/wait.h>
#include <unistd.h>

#include "support.h"
#include "wadium/host/variables.h"

#define MS   UINT64_C(1000000000)
#define HORN SOURCE_DIR "/examples/horn/horn.bench"

static wad_board *board;

static int set_up(void **state)
{
    (void)state;
    board = test_board("skerry");
    return 0;
}

static int tear_down(void **state)
{
    (void)state;
    wad_board_free(board);
    return 0;
}

/* ---- a run, looked at by a function ---- */

static wad_bench_result *run_live(const wad_live_options *live, const char *const *statements,
                                  wad_bench **bench)
{
    wad_diags *diags = wad_diags_new();
    char *why;
    *bench = wad_bench_new("watched", board);
    assert_true(wad_bench_say(*bench, "firmware watched\nrun 100 ms", diags));
    for (; *statements; statements++)
        assert_true(wad_bench_say(*bench, *statements, diags));
    const wad_bench_options options = {.firmware_dir = FIRMWARE_DIR, .live = live};
    wad_bench_result *r = wad_bench_run(*bench, &options, &why);
    if (!r)
        fail_msg("%s", why);
    wad_diags_free(diags);
    return r;
}

static void over(wad_bench_result *r, wad_bench *bench)
{
    wad_bench_result_free(r);
    wad_bench_free(bench);
}

static const char *const nothing[] = {NULL};

static void say(wad_live *live, const char *command)
{
    wad_diags *diags = wad_diags_new();
    if (!wad_live_say(live, command, diags)) {
        char *text = test_diags_text(diags);
        fail_msg("'%s': %s", command, text);
    }
    wad_diags_free(diags);
}

static const wad_live_row *row(wad_live *live, wad_live_panel panel, const char *name)
{
    unsigned n;
    const wad_live_row *rows = wad_live_rows(live, panel, &n);
    for (unsigned i = 0; i < n; i++)
        if (!strcmp(rows[i].name, name))
            return &rows[i];
    fail_msg("no row '%s'", name);
    return NULL;
}

static void expect_row(wad_live *live, wad_live_panel panel, const char *name, const char *text)
{
    const wad_live_row *r = row(live, panel, name);
    if (strcmp(r->text, text))
        fail_msg("%s: '%s', not '%s'", name, r->text, text);
}

/* ---- variables ---- */

static wad_sim *the_sim;

static void expect_variable(const char *path, const char *text)
{
    wad_variable v;
    char *why;
    if (!wad_variable_find(the_sim, path, &v, &why))
        fail_msg("%s", why);
    char *is = wad_variable_text(&v, 60);
    if (strcmp(is, text))
        fail_msg("%s: '%s', not '%s'", path, is, text);
    g_free(is);
}

static void expect_no_variable(const char *path, const char *message)
{
    wad_variable v;
    char *why = NULL;
    assert_false(wad_variable_find(the_sim, path, &v, &why));
    if (!why || !strstr(why, message))
        fail_msg("%s: '%s' does not say '%s'", path, why, message);
    g_free(why);
}

static void variables_are_read_by_name(void **state)
{
    char *why;
    (void)state;
    the_sim = wad_sim_new(board->sheet, &why);
    assert_true(wad_sim_load(the_sim, FIRMWARE_DIR "/watched.wfw", &why));
    expect_variable("ticks", "0");
    expect_variable("tide", "TIDE_HIGH");
    expect_variable("last", "{raw 4095, drift -7, bits {gain 5, channel 17, offset -3}}");
    expect_variable("last.raw", "4095");
    expect_variable("last.bits.channel", "17");
    expect_variable("last.bits.offset", "-3");
    expect_variable("grid", "[6] 1 2 3 4 -5 6");
    expect_variable("grid[4]", "-5");
    expect_variable("kept[1].drift", "7");
    expect_variable("kept[1].bits.gain", "1");
    expect_variable("kept[1].bits.offset", "-1");
    expect_variable("pressed", "false");
    expect_variable("ratio", "0.25");
    expect_variable("name", "\"mole\"");
    expect_variable("name[1]", "111");
    expect_variable("wide", "1311768467463790320");
    expect_variable("where", "&ticks");
    expect_variable("fixed", "77");
    expect_variable("tick.turn", "0");
    expect_variable("watched.c:ticks", "0");
    expect_no_variable("tocks", "no variable 'tocks' in memory; it has ticks, samples, tide");
    expect_no_variable("last.cooked", "'last' has no member 'cooked'");
    expect_no_variable("samples[16]", "'[16]': it has 16 elements, from [0]");
    expect_no_variable("ticks[0]", "goes with arrays");
    expect_no_variable("samples[", "goes with arrays");
    expect_no_variable("samples[-1]", "goes with arrays");
    expect_no_variable("last.", "has no member ''");
    expect_no_variable("", "no variable ''");
    wad_sim_free(the_sim);
}

/* Compiled by relative names: the library's own variables are told apart wherever one stands. */
static void names_are_those_of_where_it_was_compiled(void **state)
{
    char *folder = test_folder(), *image = g_build_filename(folder, "relative.so", NULL), *why;
    char *command =
        g_strdup_printf("cd '%s' && gcc -g -shared -fPIC -nostdlib -Iinclude -Iports/sim "
                        "-I'%s/corran32' -I'%s/skerry' -DWAD_CHIP='\"corran32_roles.h\"' -o '%s' "
                        "drivers/tick.c tests/firmware/watched.c",
                        SOURCE_DIR, BUILD_DIR "/generated", BUILD_DIR "/generated", image);
    wad_variable v;
    (void)state;
    assert_int_equal(system(command), 0);
    wad_variables *all = wad_variables_open(image, &why);
    assert_non_null(all);
    if (!wad_variables_find(all, "ticks", &v, &why))
        fail_msg("%s", why);
    assert_string_equal(v.file, SOURCE_DIR "/tests/firmware/watched.c");
    wad_variables_close(all);
    g_free(command);
    g_free(image);
    test_remove(folder);
}

static void what_may_change_is_listed_and_nothing_else(void **state)
{
    static const char *const names[] = {"ticks",   "samples", "tide", "last", "grid",  "kept",
                                        "pressed", "ratio",   "name", "wide", "where", "tick.turn"};
    char *why;
    (void)state;
    the_sim = wad_sim_new(board->sheet, &why);
    assert_int_equal(wad_variable_count(the_sim), 0);
    assert_true(wad_sim_load(the_sim, FIRMWARE_DIR "/watched.wfw", &why));
    assert_int_equal(wad_variable_count(the_sim), G_N_ELEMENTS(names));
    for (unsigned i = 0; i < G_N_ELEMENTS(names); i++) {
        wad_variable v = wad_variable_at(the_sim, i);
        assert_string_equal(v.name, names[i]);
        assert_true(v.line > (i ? wad_variable_at(the_sim, i - 1).line : 20));
    }
    wad_variable v;
    double numbers[6];
    assert_true(wad_variable_find(the_sim, "grid", &v, &why));
    assert_int_equal(wad_variable_numbers(&v, numbers, 6), 6);
    assert_true(numbers[0] == 1 && numbers[4] == -5 && numbers[5] == 6);
    assert_true(wad_variable_find(the_sim, "last", &v, &why));
    assert_int_equal(wad_variable_numbers(&v, numbers, 6), 0);
    wad_sim_free(the_sim);
}

/* ---- looks ---- */

typedef struct seen {
    unsigned looks, number;
    uint64_t last_ps;
    unsigned line;
    GString *text;
} seen;

/* The firmware's own count of the same thing: after t milliseconds its timer has come t times. */
static void at_each_tick(void *ctx, wad_live *live, wad_live_reason reason)
{
    seen *s = ctx;
    wad_live_state now = wad_live_now(live);
    if (reason == WAD_LIVE_BEGIN) {
        assert_int_equal(now.ps, 0);
        expect_row(live, WAD_LIVE_VARIABLES, "ticks", "0");
        assert_false(row(live, WAD_LIVE_VARIABLES, "ticks")->changed);
        return;
    }
    if (reason == WAD_LIVE_END) {
        assert_int_equal(now.ps, 100 * MS);
        return;
    }
    s->looks++;
    assert_int_equal(now.ps, s->looks * 10 * MS + MS / 2);
    char *want = g_strdup_printf("%u", s->looks * 10);
    expect_row(live, WAD_LIVE_VARIABLES, "ticks", want);
    assert_true(row(live, WAD_LIVE_VARIABLES, "ticks")->changed);
    assert_false(row(live, WAD_LIVE_VARIABLES, "ratio")->changed);
    assert_true(g_str_has_suffix(row(live, WAD_LIVE_INTERRUPTS, "CNT0")->text, " in all"));
    g_free(want);
    want = g_strdup_printf(" a second, %u in all", s->looks * 10);
    double rate = g_ascii_strtod(row(live, WAD_LIVE_INTERRUPTS, "CNT0")->text, NULL);
    assert_true(fabs(rate - 1000) < 60);
    assert_non_null(strstr(row(live, WAD_LIVE_INTERRUPTS, "CNT0")->text, want));
    assert_true(now.asleep && now.awake > 0 && now.awake < 0.1);
    g_free(want);
}

static void looks_come_when_asked_for(void **state)
{
    static const char *const statements[] = {"expect no findings", NULL};
    seen s = {0};
    const wad_live_options live = {
        .look = at_each_tick, .ctx = &s, .every_ps = 10 * MS, .offset_ps = MS / 2};
    wad_bench *bench;
    (void)state;
    wad_bench_result *r = run_live(&live, statements, &bench);
    assert_int_equal(s.looks, 9);
    assert_true(r->passed);
    assert_int_equal(r->n_verdicts, 1); /* nobody meddled: judged */
    over(r, bench);
}

/* Looked at or not, the firmware does the same at the same times. */
static void a_look_changes_nothing(void **state)
{
    seen s = {0};
    const wad_live_options live = {
        .look = at_each_tick, .ctx = &s, .every_ps = 10 * MS, .offset_ps = MS / 2};
    wad_bench *bench[2];
    wad_bench_result *r[2];
    (void)state;
    for (unsigned i = 0; i < 2; i++) {
        static const char *const statements[] = {"capture WARN", "press TEST at 20 ms for 30 ms",
                                                 NULL};
        r[i] = run_live(i ? &live : NULL, statements, &bench[i]);
    }
    assert_int_equal(s.looks, 9);
    assert_int_equal(r[0]->run.awake_ps, r[1]->run.awake_ps);
    assert_true(wad_capture_edges(r[0]->capture) > 2);
    assert_int_equal(wad_capture_edges(r[0]->capture), wad_capture_edges(r[1]->capture));
    wad_cursor x = {0}, y = {0};
    wad_edge_record e, f;
    while (wad_capture_next(r[0]->capture, &x, &e) && wad_capture_next(r[1]->capture, &y, &f))
        assert_true(e.ps == f.ps && e.level == f.level);
    over(r[0], bench[0]);
    over(r[1], bench[1]);
}

/* ---- steps ---- */

static void to_accesses(void *ctx, wad_live *live, wad_live_reason reason)
{
    seen *s = ctx;
    wad_live_state now = wad_live_now(live);
    switch (s->number++) {
    case 0:
        assert_int_equal(reason, WAD_LIVE_BEGIN);
        say(live, "step access PINC.OUT");
        break;
    case 1:
        assert_int_equal(reason, WAD_LIVE_STEP);
        assert_non_null(strstr(now.what, "writes PINC."));
        assert_string_equal(strrchr(now.place.file, '/'), "/watched.c");
        say(live, "step interrupt");
        break;
    case 2:
        /* the sheet's 16 cycles of 8 MHz */
        assert_string_equal(now.what, "enters the handler of CNT0, 2 us after the request");
        expect_row(live, WAD_LIVE_VARIABLES, "ticks", "0");
        say(live, "step interrupt CNT0");
        break;
    case 3:
        assert_int_equal(now.ps - s->last_ps, MS);
        expect_row(live, WAD_LIVE_VARIABLES, "ticks", "1");
        expect_row(live, WAD_LIVE_VARIABLES, "tide", "TIDE_FALLING");
        say(live, "step access CNT0.STAT");
        break;
    case 4:
        assert_non_null(strstr(now.what, "CNT0.STAT 0x000000"));
        assert_true(now.ps > s->last_ps && now.ps < s->last_ps + MS / 10);
        say(live, "go 7 ms");
        break;
    case 5:
        assert_int_equal(now.ps, s->last_ps + 7 * MS);
        assert_string_equal(now.what, "");
        say(live, "go");
        break;
    default:
        assert_int_equal(reason, WAD_LIVE_END);
        assert_int_equal(now.ps, 100 * MS);
    }
    s->last_ps = now.ps;
}

static void time_goes_on_in_steps(void **state)
{
    seen s = {0};
    const wad_live_options live = {.look = to_accesses, .ctx = &s};
    wad_bench *bench;
    (void)state;
    wad_bench_result *r = run_live(&live, nothing, &bench);
    assert_int_equal(s.number, 7);
    assert_int_equal(r->run.end, WAD_RUN_TIME);
    over(r, bench);
}

/* ---- registers ---- */

static void at_registers(void *ctx, wad_live *live, wad_live_reason reason)
{
    seen *s = ctx;
    const wad_live_row *r;
    unsigned n;
    switch (s->number++) {
    case 0:
        wad_live_rows(live, WAD_LIVE_REGISTERS, &n);
        assert_int_equal(n, 0); /* nothing is touched yet */
        say(live, "step access PINC.DIR");
        break;
    case 1:
        say(live, "step access PINC.DIR");
        break;
    case 2:
        r = row(live, WAD_LIVE_REGISTERS, "DIR");
        assert_string_equal(r->group, "PINC");
        assert_string_equal(r->text, "0x00000008  PIN[3] 1");
        assert_true(r->changed);
        assert_int_equal(r->n_marks, 2);
        assert_int_equal(r->marks[0].from, 0);
        assert_int_equal(r->marks[0].length, 10);
        assert_memory_equal(r->text + r->marks[1].from, "PIN[3] 1", r->marks[1].length);
        assert_true(row(live, WAD_LIVE_REGISTERS, "OUT")->quiet);
        assert_false(r->quiet);
        say(live, "go 1 us");
        break;
    case 3:
        assert_false(row(live, WAD_LIVE_REGISTERS, "DIR")->changed);
        break;
    default:
        assert_int_equal(reason, WAD_LIVE_END);
    }
}

static void changed_fields_are_marked(void **state)
{
    seen s = {0};
    const wad_live_options live = {.look = at_registers, .ctx = &s};
    wad_bench *bench;
    (void)state;
    wad_bench_result *r = run_live(&live, nothing, &bench);
    assert_int_equal(s.number, 5);
    over(r, bench);
}

/* ---- inputs ---- */

static void moves(void *ctx, wad_live *live, wad_live_reason reason)
{
    seen *s = ctx;
    char *trace;
    unsigned n;
    switch (s->number++) {
    case 0:
        say(live, "go 10 ms");
        break;
    case 1:
        expect_row(live, WAD_LIVE_INPUTS, "TEST", "released");
        expect_row(live, WAD_LIVE_INPUTS, "PRESSURE", "1.200 V");
        expect_row(live, WAD_LIVE_PINS, "lamp", "low");
        say(live, "press TEST");
        say(live, "raise PRESSURE 50 mV");
        say(live, "raise PRESSURE 50 mV");
        say(live, "go 10 ms");
        break;
    case 2:
        expect_row(live, WAD_LIVE_INPUTS, "TEST", "pressed");
        expect_row(live, WAD_LIVE_INPUTS, "PRESSURE", "1.300 V");
        expect_row(live, WAD_LIVE_PINS, "lamp", "high");
        expect_row(live, WAD_LIVE_VARIABLES, "pressed", "true");
        assert_true(row(live, WAD_LIVE_PINS, "lamp")->changed);
        say(live, "release TEST");
        say(live, "analog PRESSURE sine 1 V 1 kHz offset 1.5 V");
        say(live, "drive PC8 high");
        say(live, "go 10 ms");
        break;
    case 3:
        expect_row(live, WAD_LIVE_INPUTS, "TEST", "released");
        expect_row(live, WAD_LIVE_PINS, "lamp", "low");
        say(live, "press TEST for 5 ms");
        say(live, "lower PRESSURE 100 mV");
        say(live, "go 20 ms");
        break;
    case 4:
        expect_row(live, WAD_LIVE_PINS, "lamp", "low");
        /* 20 ms shown, pressed (and bouncing) from 0 to 5: a quarter */
        trace = wad_live_trace(live, 0, 40);
        assert_int_equal(g_utf8_strlen(trace, -1), 40);
        for (unsigned i = 0; i < 40; i++) {
            const char *at = g_utf8_offset_to_pointer(trace, i);
            if (i >= 7 && i < 10)
                assert_memory_equal(at, "▔", strlen("▔"));
            if (i >= 17)
                assert_memory_equal(at, "▁", strlen("▁"));
        }
        g_free(trace);
        wad_live_rows(live, WAD_LIVE_INPUTS, &n);
        assert_int_equal(n, 2);
        say(live, "end");
        break;
    default:
        assert_int_equal(reason, WAD_LIVE_END);
    }
}

static void inputs_are_moved_by_hand(void **state)
{
    static const char *const statements[] = {"capture WARN as lamp",
                                             "analog PRESSURE level 1.2 V behind 1 kohm",
                                             "expect lamp is low at 90 ms", NULL};
    seen s = {0};
    const wad_live_options live = {.look = moves, .ctx = &s, .window_ps = 20 * MS};
    wad_bench *bench;
    (void)state;
    wad_bench_result *r = run_live(&live, statements, &bench);
    assert_int_equal(s.number, 6);
    assert_int_equal(r->n_verdicts, 0); /* meddled with: not judged, and it says so */
    assert_non_null(strstr(r->notes[0], "not left to itself"));
    assert_int_equal(r->run.end_ps, 50 * MS);
    over(r, bench);
}

static void wrong_commands(void *ctx, wad_live *live, wad_live_reason reason)
{
    static const char *const wrong[][2] = {
        {"stop", "'go', 'step'"},
        {"step", "'access' or 'interrupt'"},
        {"step access UART9", "no block 'UART9'"},
        {"step access CNT0.NOSUCH", "block CNT0 has no register 'NOSUCH'"},
        {"step interrupt PWR", "block PWR has no interrupt line"},
        {"press WARN", "'WARN' is no button of the board; there is TEST"},
        {"raise TEST 1 V", "'TEST' is no analog input of the bench; there is none"},
        {"go 5", "a time such as"},
        {"go 5 ms now", "now"},
        {"drive PC8 up", "'high', 'low' or 'floating'"},
        {"drive PX9 high", "'PX9'"},
        {"analog NOSUCH level 1 V", "'NOSUCH'"},
        {"analog PRESSURE level 1 V at 3 s", "without 'at'"},
        {"analog PRESSURE level", "level"},
    };
    (void)ctx;
    if (reason != WAD_LIVE_BEGIN)
        return;
    for (unsigned i = 0; i < G_N_ELEMENTS(wrong); i++) {
        wad_diags *diags = wad_diags_new();
        assert_false(wad_live_say(live, wrong[i][0], diags));
        char *text = test_diags_text(diags);
        if (!strstr(text, wrong[i][1]))
            fail_msg("'%s': %s", wrong[i][0], text);
        g_free(text);
        wad_diags_free(diags);
        assert_false(wad_live_goes(live));
        assert_false(wad_live_by_hand(live));
    }
}

static void what_cannot_be_done_is_said(void **state)
{
    const wad_live_options live = {.look = wrong_commands};
    wad_bench *bench;
    (void)state;
    wad_bench_result *r = run_live(&live, nothing, &bench);
    over(r, bench);
    static const char *const bad_variable[] = {"nosuch", NULL}, *const bad_block[] = {"XY", NULL};
    const wad_live_options wrong[] = {{.look = wrong_commands, .variables = bad_variable},
                                      {.look = wrong_commands, .blocks = bad_block}};
    static const char *const says[] = {"no variable 'nosuch'", "Corran32 has no block 'XY'"};
    for (unsigned i = 0; i < 2; i++) {
        wad_diags *diags = wad_diags_new();
        char *why = NULL;
        bench = wad_bench_new("watched", board);
        assert_true(wad_bench_say(bench, "firmware watched\nrun 100 ms", diags));
        const wad_bench_options options = {.firmware_dir = FIRMWARE_DIR, .live = &wrong[i]};
        assert_null(wad_bench_run(bench, &options, &why));
        assert_non_null(strstr(why, says[i]));
        g_free(why);
        wad_bench_free(bench);
        wad_diags_free(diags);
    }
}

/* ---- the command ---- */

static void expect_text(const char *text, const char *part)
{
    if (!strstr(text, part))
        fail_msg("wanted '%s' in:\n%s", part, text);
}

static int watch(const char *commands, char **out, char **err)
{
    char *folder = test_folder(), *file = g_build_filename(folder, "commands", NULL);
    assert_true(g_file_set_contents(file, commands, -1, NULL));
    int status = WADIUM(out, err, "watch", HORN, "--bench", "1", "-d", FIRMWARE_DIR, "-c", file);
    g_free(file);
    test_remove(folder);
    return status;
}

static void commands_come_from_a_file(void **state)
{
    char *out, *err;
    (void)state;
    assert_int_equal(watch("# where the tone comes from\n"
                           "step access DAC0.DATA\nstep access DAC0.DATA\n\n"
                           "go 100 ms   # some 1364 values\n"
                           "show interrupts\nshow variables\nend\n",
                           &out, &err),
                     0);
    expect_text(out, "s  awake, awake 100 %, draws ");
    expect_text(out, "; writes DAC0.DATA 0x00000800, VALUE 0x800 = 2048 (was 0) at horn.c:");
    expect_text(out, "\n  interrupt  DAC0             ");
    expect_text(out, "\n  variable   wave             [32] 2048 ");
    expect_text(out, "note  it was not left to itself");
    assert_null(strstr(err, "wadium:")); /* sanitizers have words of their own */
    g_free(out);
    g_free(err);
    assert_int_equal(watch("go 1 ms\npress LEVEL1\n", &out, &err), 2);
    expect_text(err, "commands:2: 'LEVEL1' is no button of the board; there is TEST");
    g_free(out);
    g_free(err);
    assert_int_equal(watch("show all\n", &out, &err), 2);
    expect_text(err, "commands:1: show takes 'pins'");
    g_free(out);
    g_free(err);
}

static void lines_say_what_has_changed(void **state)
{
    char *out, *err;
    (void)state;
    assert_int_equal(WADIUM(&out, &err, "watch", HORN, "--bench", "1", "-d", FIRMWARE_DIR, "--text",
                            "--every", "250ms", "-v", "wave[3]", "-v", "other_work.turn", "-b",
                            "CNT1"),
                     0);
    expect_text(out, "\n0.250000000 s  ");
    expect_text(out, "\n0.750000000 s  ");
    expect_text(out, "\n  variable   other_work.turn  ");
    expect_text(out, "  register   CNT1.COUNT       0x");
    assert_null(strstr(out, "register   DAC0"));
    assert_null(strstr(strstr(out, "\n0.500000000 s"), "wave[3]")); /* it is as it was */
    expect_text(out, "440 Hz from the converter");
    expect_text(out, "  ok  ");
    g_free(out);
    g_free(err);
    assert_int_equal(WADIUM(&out, &err, "watch", HORN, "-d", FIRMWARE_DIR, "-t"), 2);
    expect_text(err, "the file has 3 benches: say which one with --bench N\n  1  440 Hz from");
    g_free(out);
    g_free(err);
    assert_int_equal(WADIUM(&out, &err, "watch", HORN, "--bench", "1", "-d", FIRMWARE_DIR), 2);
    expect_text(err, "say --text for lines");
    g_free(out);
    g_free(err);
}

/* ---- the screen ---- */

typedef struct terminal {
    pid_t pid;
    int fd;
    GString *shown;
} terminal;

static terminal open_screen(void)
{
    terminal t = {.shown = g_string_new(NULL)};
    struct winsize size = {40, 150, 0, 0};
    t.pid = forkpty(&t.fd, NULL, NULL, &size);
    if (t.pid == 0) {
        g_setenv("TERM", "xterm", TRUE);
        g_setenv("LC_ALL", "C.UTF-8", TRUE);
        execl(BUILD_DIR "/bin/wadium", "wadium", "watch", HORN, "--bench", "1", "-d", FIRMWARE_DIR,
              "--pace", "0.02", "--for", "100s", NULL);
        _exit(127);
    }
    return t;
}

static void wait_for(terminal *t, const char *text)
{
    gint64 last = g_get_monotonic_time() + 20 * G_USEC_PER_SEC;
    while (!strstr(t->shown->str, text) && g_get_monotonic_time() < last) {
        char bytes[4096];
        struct pollfd ready = {t->fd, POLLIN, 0};
        if (poll(&ready, 1, 100) <= 0)
            continue;
        ssize_t n = read(t->fd, bytes, sizeof bytes);
        if (n <= 0)
            break;
        g_string_append_len(t->shown, bytes, n);
    }
    if (!strstr(t->shown->str, text))
        fail_msg("'%s' was not drawn, but: %s", text, t->shown->str);
}

static void press(terminal *t, const char *keys, const char *text)
{
    g_string_truncate(t->shown, 0);
    assert_int_equal(write(t->fd, keys, strlen(keys)), (ssize_t)strlen(keys));
    wait_for(t, text);
}

static void the_screen_obeys_keys(void **state)
{
    int status;
    (void)state;
    terminal t = open_screen();
    wait_for(&t, "Skerry, Corran32");
    wait_for(&t, "other_work.turn");
    wait_for(&t, "REGISTERS");
    wait_for(&t, "running, 0.02 of the chip's seconds");
    press(&t, " ", "HELD");
    press(&t, "a", "the firmware ");
    press(&t, "i", "enters the handler of ");
    press(&t, "1", "so it will be when time goes on");
    press(&t, ":go 3 ms\r", "pressed");
    press(&t, ":go 3 miles\r", "a time such as");
    press(&t, "?", "hold time, and let it go");
    press(&t, " q", "not left to itself");
    assert_int_equal(waitpid(t.pid, &status, 0), t.pid);
    assert_true(WIFEXITED(status) && WEXITSTATUS(status) == 0);
    close(t.fd);
    g_string_free(t.shown, TRUE);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(variables_are_read_by_name),
        cmocka_unit_test(names_are_those_of_where_it_was_compiled),
        cmocka_unit_test(what_may_change_is_listed_and_nothing_else),
        cmocka_unit_test(looks_come_when_asked_for),
        cmocka_unit_test(a_look_changes_nothing),
        cmocka_unit_test(time_goes_on_in_steps),
        cmocka_unit_test(changed_fields_are_marked),
        cmocka_unit_test(inputs_are_moved_by_hand),
        cmocka_unit_test(what_cannot_be_done_is_said),
        cmocka_unit_test(commands_come_from_a_file),
        cmocka_unit_test(lines_say_what_has_changed),
        cmocka_unit_test(the_screen_obeys_keys),
    };
    return cmocka_run_group_tests_name("watch", tests, set_up, tear_down);
}
