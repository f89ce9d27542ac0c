/* SPDX-License-Identifier: MIT */
/* The stand-in board: the self-test over its serial line, jumpers pulled, defects found and named,
 * a real debugger in front of it. */
#include <string.h>
#include <sys/wait.h>

#include "board_support.h"

#define CHECK IMAGE_DIR "/board_check.elf"
#define LAMP  IMAGE_DIR "/lamp.elf"

/* ---- the self-test ---- */

/* Collects the self-test of a board with this defect (NULL: none); what was said. */
static int self_test(const char *defect, char **out)
{
    test_standin b;
    char *folder = test_folder(), *link = g_build_filename(folder, "link", NULL), *err;
    char *serial = g_strdup_printf("LINK=%s", link);
    test_plug_in(&b, "--firmware", CHECK, "--world", JUMPERS, "--serial", serial,
                 defect ? "--defect" : NULL, defect, NULL);
    int status = WADIUM(out, &err, "collect", link, "--reset", b.where, "--quiet", "--timeout",
                        "120s"); /* the board may have little of the processor */
    g_free(err);
    test_unplug(&b);
    g_free(serial);
    g_free(link);
    test_remove(folder);
    return status;
}

static void every_driver_passes_on_the_board(void **state)
{
    char *out;
    (void)state;
    int status = self_test(NULL, &out);
    assert_string_equal(out, "Skerry: 48 of 48 checks passed\n");
    assert_int_equal(status, 0);
    g_free(out);
}

/* All jumpers pulled: what each carries fails, and nothing else does. */
static void a_pulled_jumper_fails_what_it_carries(void **state)
{
    static const char *const fails[] = {"FAIL  26 J4: pulses arrive",
                                        "FAIL  30 J1: serial port, bytes over the wire",
                                        "FAIL  33 J2: SPI port, frames over the wire",
                                        "FAIL  35 J5: encoder, a step and back",
                                        "FAIL  40 J3: 500 mV",
                                        "FAIL  41 J3: 1650 mV",
                                        "FAIL  42 J3: 2800 mV"};
    char *out, *at;
    (void)state;
    assert_int_equal(self_test("cut J1\ncut J2\nanalog PA6 open\ncut J4\ncut J5", &out), 1);
    at = out;
    for (unsigned i = 0; i < G_N_ELEMENTS(fails); i++) {
        char *found = strstr(at, fails[i]);
        if (!found || strstr(at, "FAIL") != found)
            fail_msg("%s: %s", fails[i], out);
        at = found + 4;
    }
    if (strstr(at, "FAIL"))
        fail_msg("%s", out);
    g_free(out);
}

/* ---- defects by comparison ---- */

static const char captured[] =
    "bench \"as it should be\" {\n    board    Skerry\n"
    "    firmware board_check\n    uart     LINK at 115200\n"
    "    jumper   J1 from PC10 to PC11\n    jumper   J4 from PC8 to PB8\n"
    "    capture  WARN\n    capture  LEVEL1\n    capture  TEST\n"
    "    capture  PC11 as j1\n    capture  PB8 as j4\n"
    "    capture  LINK.RX as link_rx\n    run      1 s\n}\n";
static const char world[] = "jumper J1 from PC10 to PC11\njumper J4 from PC8 to PB8\n"
                            "uart LINK at 115200\n"
                            "capture PC11 as j1\ncapture PB8 as j4\ncapture LINK.RX as link_rx\n";

typedef struct pair {
    char *folder, *bench, *world, *sim, *board;
} pair;

static void make_pair(pair *p)
{
    char *out, *err;
    p->folder = test_folder();
    p->bench = g_build_filename(p->folder, "as.bench", NULL);
    p->world = g_build_filename(p->folder, "around.world", NULL);
    p->sim = g_build_filename(p->folder, "sim.vcd", NULL);
    p->board = g_build_filename(p->folder, "board.vcd", NULL);
    assert_true(g_file_set_contents(p->bench, captured, -1, NULL));
    assert_true(g_file_set_contents(p->world, world, -1, NULL));
    if (WADIUM(&out, &err, "run", p->bench, "-d", FIRMWARE_DIR, "--vcd", p->sim) > 1)
        fail_msg("%s", err);
    g_free(out);
    g_free(err);
}

static void free_pair(pair *p)
{
    g_free(p->bench);
    g_free(p->world);
    g_free(p->sim);
    g_free(p->board);
    test_remove(p->folder);
}

/* The firmware of both is the native one: the same instructions, so the same times. */
static char *compare(const pair *p, const char *defect, int *status)
{
    char *out, *err;
    test_let_run(FIRMWARE_DIR "/board_check.wfw", p->board, "1s", "--world", p->world,
                 defect ? "--defect" : NULL, defect, NULL);
    *status = WADIUM(&out, &err, "compare", p->sim, p->board, "--align", "level1", "--falling",
                     "--within", "20us");
    g_free(err);
    return out;
}

static void every_defect_is_found_and_named(void **state)
{
    static const struct {
        const char *defect, *named;
    } defects[] = {{"stick LEVEL1 low", "always low in the second"},
                   {"pull TEST missing", "DIFF  test         high in the first, floating"},
                   {"clock xtal off 300 ppm", "ppm fast: a clock is off"},
                   {"cut J1", "DIFF  j1"},
                   {"cut J4", "DIFF  j4"},
                   {"cut LINK RX", "DIFF  link_rx"}};
    pair p;
    int status;
    (void)state;
    make_pair(&p);
    char *out = compare(&p, NULL, &status);
    if (status)
        fail_msg("without a defect: %s", out);
    g_free(out);
    for (unsigned i = 0; i < G_N_ELEMENTS(defects); i++) {
        out = compare(&p, defects[i].defect, &status);
        if (i == 0) { /* what is aligned on is what is stuck: by another signal */
            char *err;
            g_free(out);
            status = WADIUM(&out, &err, "compare", p.sim, p.board, "--align", "j1");
            g_free(err);
        }
        if (status != 1 || !strstr(out, defects[i].named))
            fail_msg("%s: %s", defects[i].defect, out);
        g_free(out);
    }
    free_pair(&p);
}

static void an_erratum_is_found_in_the_registers(void **state)
{
    test_standin b;
    char *folder = test_folder(), *out, *err;
    char *sim = g_build_filename(folder, "sim.json", NULL);
    char *board = g_build_filename(folder, "board.json", NULL);
    (void)state;
    test_plug_in(&b, "--defect", "erratum corran32-rev-a", NULL);
    assert_int_equal(WADIUM(&out, &err, "dump", "skerry", "--on", b.where, "--json", board), 0);
    g_free(out);
    g_free(err);
    test_unplug(&b);
    assert_true(WADIUM(&out, &err, "run", SOURCE_DIR "/examples/lamp/lamp.bench", "-d",
                       FIRMWARE_DIR, "--snapshot", sim) < 2);
    g_free(out);
    g_free(err);
    assert_int_equal(WADIUM(&out, &err, "compare", sim, board), 1);
    if (!strstr(out, "INFO.CHIP.REV              3 c                1 a"))
        fail_msg("%s", out);
    g_free(out);
    g_free(err);
    g_free(sim);
    g_free(board);
    test_remove(folder);
}

/* ---- a real debugger ---- */

/* gdb's words for these commands, on a board that runs `firmware`. */
static char *debug(const char *firmware, const char *const *commands)
{
    test_standin b;
    GPtrArray *argv = g_ptr_array_new();
    char *connect, *out, *err;
    GError *error = NULL;
    test_plug_in(&b, "--firmware", firmware, NULL);
    connect = g_strdup_printf("target remote %s", b.where);
    const char *const head[] = {"timeout", "30",  "gdb-multiarch",      "-batch",
                                "-nx",     "-ex", "set pagination off", "-ex",
                                connect};
    for (unsigned i = 0; i < G_N_ELEMENTS(head); i++)
        g_ptr_array_add(argv, (gpointer)head[i]);
    for (unsigned i = 0; commands[i]; i++) {
        g_ptr_array_add(argv, (gpointer) "-ex");
        g_ptr_array_add(argv, (gpointer)commands[i]);
    }
    if (g_str_has_suffix(firmware, ".elf"))
        g_ptr_array_add(argv, (gpointer)firmware);
    g_ptr_array_add(argv, NULL);
    if (!g_spawn_sync(SOURCE_DIR, (char **)argv->pdata, NULL, G_SPAWN_SEARCH_PATH, NULL, NULL, &out,
                      &err, NULL, &error))
        fail_msg("%s", error->message);
    char *all = g_strconcat(out, err, NULL);
    g_ptr_array_free(argv, TRUE);
    g_free(connect);
    g_free(out);
    g_free(err);
    assert_int_equal(test_unplug(&b), 0);
    return all;
}

static void in_order(const char *text, const char *const *wanted)
{
    const char *at = text;
    for (unsigned i = 0; wanted[i]; i++) {
        const char *found = strstr(at, wanted[i]);
        if (!found)
            fail_msg("not '%s' in: %s", wanted[i], text);
        at = found + strlen(wanted[i]);
    }
}

static void gdb_debugs_the_targets_own_code(void **state)
{
    static const char *const commands[] = {"print blink_error_ppm",
                                           "x/1wx 0x40010000",
                                           "set var *(unsigned*)0x4001000c = 1999",
                                           "x/1wx 0x4001000c",
                                           "set var blink_error_ppm = 77",
                                           "print blink_error_ppm",
                                           "break *handle_CNT0",
                                           "continue",
                                           "backtrace",
                                           "finish",
                                           "delete",
                                           "rwatch *(unsigned*)0x40010014",
                                           "continue",
                                           "stepi",
                                           "info registers xpsr",
                                           "monitor chip",
                                           "monitor reset",
                                           "maintenance flush register-cache",
                                           "info registers pc",
                                           "detach",
                                           NULL};
    static const char *const wanted[] = {"$1 = 0",
                                         "0x40010000:\t0x00000011",
                                         "0x4001000c:\t0x000007cf",
                                         "$2 = 77",
                                         "Breakpoint 1",
                                         "#0  ",
                                         "wadi_timer_handle_body (r", /* inline */
                                         "handle_CNT0 ()",
                                         "<signal handler called>",
                                         "main ()",
                                         "watchpoint 2",
                                         "xpsr",
                                         "wad_reset",
                                         "detached",
                                         "Corran32, sheet", /* a server's words come as errors */
                                         "the chip begins anew",
                                         NULL};
    (void)state;
    char *text = debug(LAMP, commands);
    in_order(text, wanted);
    g_free(text);
}

/* Firmware for the simulated chip halts between two register accesses: its own source lines. */
static void gdb_looks_at_native_firmware(void **state)
{
    static const char *const commands[] = {"x/1wx 0x40010000",
                                           "info registers rip",
                                           "set var *(unsigned*)0x40002808 = 8",
                                           "x/1wx 0x40002808",
                                           "stepi",
                                           "detach",
                                           NULL};
    static const char *const wanted[] = {"0x40010000:\t0x00000011", "rip", "0x40002808", "detached",
                                         NULL};
    (void)state;
    char *text = debug(FIRMWARE_DIR "/lamp.wfw", commands);
    in_order(text, wanted);
    g_free(text);
}

static void registers_by_name_in_gdb(void **state)
{
    char *folder = test_folder(), *script = g_build_filename(folder, "chip.gdb", NULL), *out, *err;
    char *source = g_strdup_printf("source %s", script);
    const char *const commands[] = {source,      "reg_CNT0_CTRL",     "reg_CLK",
                                    "reg_UART0", "help reg_UART0_RX", NULL};
    static const char *const wanted[] = {
        "CNT0.CTRL 0x00000011",         "EN = 1",        "MODE = 0 up", "CLK.CTRL", "UART0.CTRL",
        "UART0.RX: not read, it takes", "received byte", NULL};
    (void)state;
    assert_int_equal(WADIUM(&out, &err, "emit", "gdb", "corran32", "-o", script), 0);
    g_free(out);
    g_free(err);
    char *text = debug(LAMP, commands);
    in_order(text, wanted);
    g_free(text);
    g_free(source);
    g_free(script);
    test_remove(folder);
}

/* ---- faults ---- */

/* A word is written where nothing is: from the chip's fault handler back to the line that did it.
 */
static void a_fault_is_unwound_to_its_line(void **state)
{
    static const char *const commands[] = {"break handle_fault",
                                           "monitor reset",
                                           "maintenance flush register-cache",
                                           "continue",
                                           "backtrace",
                                           "detach",
                                           NULL};
    static const char *const wanted[] = {"#0  handle_fault ()",
                                         "wadi_fault (frame",
                                         "<signal handler called>",
                                         "make_fault (nowhere",
                                         "fault.c:30",
                                         "main ()",
                                         "fault.c:48",
                                         NULL};
    char *folder = test_folder(), *elf = g_build_filename(folder, "fault.elf", NULL), *out, *err;
    (void)state;
    assert_int_equal(WADIUM(&out, &err, "image", "corran32", SOURCE_DIR "/tests/firmware/fault.c",
                            "--board", "skerry", "-q", "-o", elf),
                     0);
    g_free(out);
    g_free(err);
    char *text = debug(elf, commands);
    in_order(text, wanted);
    g_free(text);
    g_free(elf);
    test_remove(folder);
}

/* ---- ending ---- */

/* Nothing runs there, and yet it is a board: a debugger gets in, a signal and its time end it. */
static void a_board_without_a_program_ends_when_told_to(void **state)
{
    static const int ends[] = {SIGTERM, SIGINT, SIGHUP};
    char *out, *err;
    (void)state;
    for (unsigned i = 0; i < G_N_ELEMENTS(ends); i++) {
        test_standin b;
        int status = 0;
        test_plug_in(&b, NULL);
        assert_int_equal(WADIUM(&out, &err, "peek", "skerry", "INFO.CHIP", "--on", b.where), 0);
        g_free(out);
        g_free(err);
        kill(b.pid, ends[i]);
        assert_int_equal(waitpid(b.pid, &status, 0), b.pid);
        assert_true(WIFEXITED(status) && WEXITSTATUS(status) == 0);
        g_spawn_close_pid(b.pid);
        close(b.out);
    }
    assert_int_equal(WADIUM(&out, &err, "board", "skerry", "--listen", "0", "--for", "100 ms"), 0);
    g_free(out);
    g_free(err);
}

/* Its clock can be taken away by a packet: it lies there dead, and can still be read. */
static void a_board_without_a_clock_stays_reachable(void **state)
{
    test_standin b;
    char *out, *err;
    (void)state;
    test_plug_in(&b, NULL);
    assert_int_equal(WADIUM(&out, &err, "poke", "skerry", "CLK.SEL", "CORE=2", "--on", b.where), 0);
    g_free(out);
    g_free(err);
    int status = WADIUM(&out, &err, "peek", "skerry", "INFO.CHIP", "--on", b.where);
    if (status)
        fail_msg("%s%s", out, err);
    g_free(out);
    g_free(err);
    test_unplug(&b);
}

/* Until the text is said, or there is no more. */
static void read_until(int fd, const char *wanted)
{
    GString *said = g_string_new(NULL);
    char c;
    while (!strstr(said->str, wanted))
        if (read(fd, &c, 1) == 1)
            g_string_append_c(said, c);
        else
            fail_msg("not '%s' in: %s", wanted, said->str);
    g_string_free(said, TRUE);
}

/* How the board's warning lamp stands. */
static bool warning(const test_standin *b)
{
    char *out, *err;
    assert_int_equal(WADIUM(&out, &err, "peek", "skerry", "PINC.IN", "--on", b->where), 0);
    bool on = strstr(out, "PINC.IN = 0x00000008") != NULL;
    g_free(out);
    g_free(err);
    return on;
}

/* The terminal is closed over it: what was captured is there. */
static void a_hang_up_keeps_the_capture(void **state)
{
    char *folder = test_folder(), *vcd = g_build_filename(folder, "lamp.vcd", NULL), *out, *err;
    test_standin b;
    int status;
    (void)state;
    test_plug_in(&b, "--firmware", LAMP, "--vcd", vcd, "--pace", "20", NULL);
    bool was = warning(&b);
    for (unsigned turns = 0, looks = 0; turns < 3; looks++) {
        assert_true(looks < 2000);
        bool is = warning(&b);
        turns += is != was;
        was = is;
    }
    kill(b.pid, SIGHUP);
    assert_int_equal(waitpid(b.pid, &status, 0), b.pid);
    assert_true(WIFEXITED(status) && WEXITSTATUS(status) == 0);
    g_spawn_close_pid(b.pid);
    close(b.out);
    assert_int_equal(WADIUM(&out, &err, "measure", vcd), 0);
    in_order(out, (const char *const[]){"1000 Hz", "10.0000 %", NULL});
    g_free(out);
    g_free(err);
    g_free(vcd);
    test_remove(folder);
}

/* Begun under nohup: a hang-up is nothing to it, to the board's process as to the one that watches.
 * The board's time ends it. */
static void what_is_begun_to_outlive_its_terminal_does(void **state)
{
    char *argv[] = {
        "nohup", BUILD_DIR "/bin/wadium", "board", "skerry", "--listen", "0", "--for", "7 s", NULL};
    GPid pid;
    int out, status;
    (void)state;
    assert_true(g_spawn_async_with_pipes(SOURCE_DIR, argv, NULL,
                                         G_SPAWN_DO_NOT_REAP_CHILD | G_SPAWN_SEARCH_PATH |
                                             G_SPAWN_STDERR_TO_DEV_NULL,
                                         NULL, NULL, &pid, NULL, &out, NULL, NULL));
    read_until(out, "ready at ");
    gint64 began = g_get_monotonic_time();
    kill(pid, SIGHUP);
    assert_int_equal(waitpid(pid, &status, 0), pid);
    assert_true(WIFEXITED(status) && WEXITSTATUS(status) == 0);
    assert_true(g_get_monotonic_time() - began > 6000000); /* a watcher kills after 5 s */
    g_spawn_close_pid(pid);
    close(out);
}

static void what_cannot_begin_says_why(void **state)
{
    static const struct {
        const char *option, *value, *wanted;
    } wrong[] = {{"--firmware", "/nowhere/x.elf", "there is no image '/nowhere/x.elf'"},
                 {"--firmware", SOURCE_DIR "/README.md", "is no ELF file for this core"},
                 {"--listen", "no.such.host.example:1", "no.such.host.example:1"},
                 {"--listen", "70000", "is no address"},
                 {"--defect", "stick NOTHING low", "there is no serial line"},
                 {"--defect", "erratum nothing", "there is no sheet 'nothing'"},
                 {"--world", "/nowhere/w", "/nowhere/w"},
                 {"--serial", "WARN", "no part of that name"}};
    (void)state;
    for (unsigned i = 0; i < G_N_ELEMENTS(wrong); i++) {
        char *out, *err;
        int status = test_spawn(&out, &err, "timeout", "10", BUILD_DIR "/bin/wadium", "board",
                                "skerry", "-l", "0", wrong[i].option, wrong[i].value, NULL);
        if (status != 2 || (!strstr(err, wrong[i].wanted) && i != 4))
            fail_msg("%s %s: %d %s", wrong[i].option, wrong[i].value, status, err);
        g_free(out);
        g_free(err);
    }
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(every_driver_passes_on_the_board),
        cmocka_unit_test(a_pulled_jumper_fails_what_it_carries),
        cmocka_unit_test(every_defect_is_found_and_named),
        cmocka_unit_test(an_erratum_is_found_in_the_registers),
        cmocka_unit_test(gdb_debugs_the_targets_own_code),
        cmocka_unit_test(gdb_looks_at_native_firmware),
        cmocka_unit_test(registers_by_name_in_gdb),
        cmocka_unit_test(a_fault_is_unwound_to_its_line),
        cmocka_unit_test(a_hang_up_keeps_the_capture),
        cmocka_unit_test(what_is_begun_to_outlive_its_terminal_does),
        cmocka_unit_test(a_board_without_a_program_ends_when_told_to),
        cmocka_unit_test(a_board_without_a_clock_stays_reachable),
        cmocka_unit_test(what_cannot_begin_says_why),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
