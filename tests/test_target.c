/* SPDX-License-Identifier: MIT */
/* A live target by its sheet, over the command: peek, poke, dump, watch, load, images, the remote
 * port; and the tutorial, whose page must show what its steps say. */
#include <string.h>

#include "board_support.h"

#define LAMP IMAGE_DIR "/lamp.elf"

static test_standin board;

static int set_up(void **state)
{
    (void)state;
    test_plug_in(&board, "--firmware", LAMP, NULL);
    g_usleep(300000); /* it has begun to blink */
    return 0;
}

static int tear_down(void **state)
{
    (void)state;
    return test_unplug(&board);
}

/* The command's words, both kinds; its status. */
static int say(char **text, const char *verb, const char *a, const char *b, const char *c)
{
    char *out, *err;
    int status = WADIUM(&out, &err, verb, "--on", board.where, a, b, c);
    *text = g_strconcat(out, err, NULL);
    g_free(out);
    g_free(err);
    return status;
}

static void expect(int status, const char *wanted, const char *verb, const char *a, const char *b,
                   const char *c)
{
    char *text;
    int got = say(&text, verb, a, b, c);
    if (got != status || !strstr(text, wanted))
        fail_msg("%s %s %s: %d, %s", verb, a, b ? b : "", got, text);
    g_free(text);
}

static void registers_are_read_with_their_fields(void **state)
{
    (void)state;
    expect(0, "EN           rw   1                counter runs", "peek", "skerry", "CNT0.CTRL",
           NULL);
    expect(0, "CNT0.RELOAD      0x0000F9FF  VALUE 0xF9FF = 63999", "peek", "skerry", "0x4001000C",
           "--line");
    expect(2, "UART0 is off: CLK.GATE.UART0 is 0, not 1", "peek", "skerry", "UART0.CTRL", NULL);
    expect(2, "reading TICK.STAT clears WRAP: not done", "peek", "skerry", "TICK.STAT", NULL);
    expect(0, "TICK.STAT", "peek", "skerry", "TICK.STAT", "--effects");
    expect(2, "PINC.SET can only be written", "peek", "skerry", "PINC.SET", NULL);
    expect(2, "no register 'CTLR' (did you mean 'CTRL'?)", "peek", "skerry", "CNT0.CTLR", NULL);
    expect(2, "variables need the program's image", "peek", "skerry", "blink_error_ppm", NULL);
    expect(2, "this is no Corran16", "peek", "corran16", "INFO.CHIP", NULL);
    expect(0, "PART", "peek", "corran32", "INFO.CHIP", NULL);
}

static void variables_are_read_by_name(void **state)
{
    char *out, *err;
    (void)state;
    assert_int_equal(WADIUM(&out, &err, "peek", "skerry", "blink_period", "blink_error_ppm",
                            "--image", LAMP, "--on", board.where),
                     0);
    if (!strstr(out, "blink_period     64000") || !strstr(out, "blink_error_ppm  0"))
        fail_msg("%s%s", out, err);
    g_free(out);
    g_free(err);
    assert_int_equal(
        WADIUM(&out, &err, "peek", "skerry", "no_such", "-i", LAMP, "--on", board.where), 2);
    assert_non_null(strstr(err, "the firmware has no variable 'no_such' in memory; it has"));
    g_free(out);
    g_free(err);
}

static void writes_are_read_back(void **state)
{
    (void)state;
    expect(0, "  is     0x00000040", "poke", "skerry", "PINA.OUT", "PIN[6]=1");
    expect(2, "does not fit into 32 bits", "poke", "skerry", "CNT0.CTRL", "0x100000000");
    expect(2, "CTRL has no field 'ENN' (did you mean 'EN'?)", "poke", "skerry", "CNT0.CTRL",
           "ENN=1");
    expect(2, "poke takes a register and fields", "poke", "skerry", "CNT0.CTRL.EN", "1");
    expect(2, "SPI0 is off", "poke", "skerry", "SPI0.CTRL", "1");
    expect(0, "it cannot be read back", "poke", "skerry", "PINA.SET", "0x80");
    expect(0, "-> 0x12345678", "poke", "skerry", "0x20007000", "0x12345678");
}

/* A register that is locked keeps what it has, and how it is opened is said. */
static void bits_that_do_not_take_are_told(void **state)
{
    test_standin b;
    char *out, *err;
    (void)state;
    test_plug_in_board(&b, "corran8", NULL);
    int status = WADIUM(&out, &err, "poke", "corran8", "WDT.CTRL", "0x05", "--on", b.where);
    if (status != 1 || !strstr(out, "did not take what was written: the register is locked, open"))
        fail_msg("%d: %s%s", status, out, err);
    g_free(out);
    g_free(err);
    assert_int_equal(WADIUM(&out, &err, "peek", "corran32", "INFO.CHIP", "--on", b.where), 2);
    g_free(out);
    g_free(err);
    test_unplug(&b);
}

static void a_live_target_is_watched(void **state)
{
    char *out, *err;
    (void)state;
    assert_int_equal(WADIUM(&out, &err, "watch", "skerry", "PINC.OUT", "CLK.PLL", "--on",
                            board.where, "--every", "50ms", "--for", "1300ms"),
                     0);
    char **lines = g_strsplit(out, "\n", -1);
    unsigned pins = 0, pll = 0;
    for (unsigned i = 0; lines[i]; i++) {
        pins += strstr(lines[i], "PINC.OUT") != NULL;
        pll += strstr(lines[i], "CLK.PLL") != NULL;
    }
    assert_true(pins >= 2); /* the lamp changes, the PLL does not */
    assert_int_equal(pll, 1);
    g_strfreev(lines);
    g_free(out);
    g_free(err);
}

static void snapshots_say_what_is_left_out(void **state)
{
    char *folder = test_folder(), *a = g_build_filename(folder, "a.json", NULL), *text;
    char *b = g_build_filename(folder, "b.json", NULL), *out, *err;
    (void)state;
    expect(0, "registers in", "dump", "skerry", "--json", a);
    expect(0, "left out: UART0 is off", "dump", "skerry", NULL, NULL);
    expect(2, "Corran32 has no block 'CNTX'", "dump", "skerry", "CNTX", NULL);
    assert_int_equal(WADIUM(&out, &err, "compare", a, a), 0);
    assert_non_null(strstr(out, ": 0 fields differ"));
    g_free(out);
    g_free(err);
    /* one field by hand */
    assert_true(g_file_get_contents(a, &text, NULL, NULL));
    char *at = strstr(text, "\"CNT1.RELOAD\" : \"0x0000");
    assert_non_null(at);
    at[strlen("\"CNT1.RELOAD\" : \"0x0000")] ^= 1;
    assert_true(g_file_set_contents(b, text, -1, NULL));
    g_free(text);
    assert_int_equal(WADIUM(&out, &err, "compare", a, b), 1);
    assert_non_null(strstr(out, "CNT1.RELOAD"));
    assert_non_null(strstr(out, "1 field differs"));
    g_free(out);
    g_free(err);
    assert_int_equal(WADIUM(&out, &err, "compare", SOURCE_DIR "/README.json", b), 3);
    g_free(out);
    g_free(err);
    assert_true(g_file_set_contents(b, "{\"wadium\": 7}", -1, NULL));
    assert_int_equal(WADIUM(&out, &err, "compare", b, b), 3);
    assert_non_null(strstr(err, "is no snapshot"));
    g_free(out);
    g_free(err);
    g_free(a);
    g_free(b);
    test_remove(folder);
}

/* ---- images ---- */

#define LAMP_C SOURCE_DIR "/examples/lamp/lamp.c"

/* The stack's bound is not passed: memory below it is as it was painted. */
static void the_stack_stays_within_its_bound(void **state)
{
    char *folder = test_folder(), *elf = g_build_filename(folder, "lamp.elf", NULL), *out, *err;
    (void)state;
    assert_int_equal(
        WADIUM(&out, &err, "image", "corran32", LAMP_C, "--board", "skerry", "--ram", "-o", elf),
        0);
    const char *at = strstr(out, "stack");
    assert_non_null(at);
    unsigned bound = (unsigned)g_ascii_strtoull(at + 5 + strspn(at + 5, " "), NULL, 10);
    assert_true(bound > 100 && bound < 3000);
    g_free(out);
    g_free(err);
    expect(0, "read back as they are", "load", "skerry", elf, NULL);
    g_usleep(1200000);
    /* memory that nobody wrote holds 0xA5: the deepest word that does not */
    uint32_t deepest = 0x20008000;
    for (uint32_t address = 0x20008000 - 2 * bound; address < 0x20008000; address += 4) {
        char *where = g_strdup_printf("0x%08x", address), *text;
        assert_int_equal(say(&text, "peek", "skerry", where, NULL), 0);
        bool touched = !strstr(text, "0xA5A5A5A5");
        g_free(text);
        g_free(where);
        if (touched) {
            deepest = address;
            break;
        }
        address += 28; /* any of eight words */
    }
    assert_true(0x20008000 - deepest <= bound);
    assert_true(0x20008000 - deepest > bound / 4); /* and it was used */
    g_free(elf);
    test_remove(folder);
}

static void an_image_for_flash_is_not_loaded(void **state)
{
    (void)state;
    expect(2, "belong into flash: build the image for RAM", "load", "skerry", LAMP, NULL);
    expect(2, "there is no image '/nowhere/x.elf'", "load", "skerry", "/nowhere/x.elf", NULL);
    expect(2, "is no ELF image", "load", "skerry", SOURCE_DIR "/README.md", NULL);
}

/* Sizes as the tool that belongs to the compiler counts them. */
static void sizes_are_those_of_the_file(void **state)
{
    char *folder = test_folder(), *elf = g_build_filename(folder, "x.elf", NULL), *out, *err;
    unsigned text, data, bss;
    (void)state;
    assert_int_equal(
        WADIUM(&out, &err, "image", "corran32", LAMP_C, "--board", "skerry", "-o", elf), 0);
    char *at = strstr(out, "\nall ");
    assert_non_null(at);
    unsigned code = (unsigned)g_ascii_strtoull(at + 4, &at, 10), zero;
    unsigned first = (unsigned)g_ascii_strtoull(at, &at, 10);
    zero = (unsigned)g_ascii_strtoull(at, &at, 10);
    g_free(out);
    g_free(err);
    assert_int_equal(test_spawn(&out, &err, "arm-none-eabi-size", elf, NULL), 0);
    assert_int_equal(sscanf(strchr(out, '\n') + 1, "%u %u %u", &text, &data, &bss), 3);
    /* what the linker fills between parts is nobody's */
    assert_true(code <= text && text - code < 64);
    assert_int_equal(first, data);
    assert_true(zero <= bss && bss - zero < 16);
    g_free(out);
    g_free(err);
    assert_int_equal(WADIUM(&out, &err, "image", "corran32", LAMP_C, "-o", elf, "--cpu", "z80"), 2);
    assert_non_null(strstr(err, "there is no start-up for 'z80'"));
    g_free(out);
    g_free(err);
    g_free(elf);
    test_remove(folder);
}

/* The registers of a fault are told at the next start, once. */
static void a_fault_is_told_at_the_next_start(void **state)
{
    char *folder = test_folder(), *elf = g_build_filename(folder, "fault.elf", NULL), *out, *err;
    char *vcd = g_build_filename(folder, "fault.vcd", NULL), line[64];
    (void)state;
    assert_int_equal(WADIUM(&out, &err, "image", "corran32", SOURCE_DIR "/tests/firmware/fault.c",
                            "--board", "skerry", "-q", "-o", elf),
                     0);
    g_free(out);
    g_free(err);
    test_let_run(elf, vcd, "200ms", NULL);
    WADIUM(&out, &err, "serial", vcd, "link_tx", "--baud", "115200");
    GString *said = g_string_new(NULL); /* the characters between the bars */
    for (char *at = out; (at = strchr(at, '|')) && at[1];) {
        char *end = strchr(at + 1, '|');
        if (!end)
            break;
        g_string_append_len(said, at + 1, end - at - 1);
        at = end + 1;
    }
    g_free(out);
    g_free(err);
    assert_int_equal(test_spawn(&out, &err, "arm-none-eabi-nm", elf, NULL), 0);
    char *at = strstr(out, " T make_fault");
    assert_non_null(at);
    guint64 function = g_ascii_strtoull(at - 8, NULL, 16) & ~UINT64_C(1);
    bool found = false; /* at one of its few instructions */
    for (unsigned i = 0; i < 12; i += 2) {
        g_snprintf(line, sizeof line, "fault 1003 at 0x%08x", (unsigned)function + i);
        found = found || strstr(said->str, line) != NULL;
    }
    if (!found || !strstr(said->str, "cold") || !strstr(said->str, "r0 0x60000000") ||
        !strstr(said->str, "told"))
        fail_msg("%s", said->str);
    g_string_free(said, TRUE);
    g_free(out);
    g_free(err);
    g_free(elf);
    g_free(vcd);
    test_remove(folder);
}

/* ---- firmware on the desk ---- */

/* Until a handler was served: the first is due after half a second of the board's time, and a busy
 * machine may be slower than the board's clock. */
static void on_the_desk(const char *trace, bool shortened, char **out, char **err)
{
    for (double seconds = 1.2; seconds < 5; seconds *= 2) {
        char *time = g_strdup_printf("--for=%g", seconds);
        assert_int_equal(test_spawn(out, err, BUILD_DIR "/desk/lamp_desk", "--on", board.where,
                                    "--trace", trace, time, shortened ? "--shadow" : NULL,
                                    "--batch", NULL),
                         0);
        g_free(time);
        if (strstr(*out, "handlers were served"))
            return;
        if (seconds < 4) {
            g_free(*out);
            g_free(*err);
        }
    }
    fail_msg("no handler was served: %s%s", *out, *err);
}

static void the_desk_does_what_the_simulator_does(void **state)
{
    char *folder = test_folder(), *sim = g_build_filename(folder, "sim.csv", NULL);
    char *desk = g_build_filename(folder, "desk.csv", NULL), *out, *err;
    (void)state;
    assert_true(WADIUM(&out, &err, "run", SOURCE_DIR "/examples/lamp/lamp.bench", "-d",
                       FIRMWARE_DIR, "--trace", sim) < 2);
    g_free(out);
    g_free(err);
    for (unsigned i = 0; i < 2; i++) {
        on_the_desk(desk, i == 1, &out, &err);
        assert_non_null(strstr(err, "interrupts are polled for"));
        assert_true((strstr(out, "(0 of them from shadows)") == NULL) == (i == 1));
        g_free(out);
        g_free(err);
        int status = WADIUM(&out, &err, "compare", sim, desk, "--chip", "corran32");
        if (i == 0 && (status || !strstr(out, ": 0 differ, 0 in what")))
            fail_msg("%s%s", out, err);
        g_free(out);
        g_free(err);
    }
    /* another value somewhere is found, with its register */
    char *text, *at;
    assert_true(g_file_get_contents(desk, &text, NULL, NULL));
    at = strstr(text, "write,CNT0.RELOAD,0x0000F9F");
    assert_non_null(at);
    at[strlen("write,CNT0.RELOAD,0x0000F9F")] = 'E';
    assert_true(g_file_set_contents(desk, text, -1, NULL));
    g_free(text);
    assert_int_equal(WADIUM(&out, &err, "compare", sim, desk, "--chip", "corran32"), 1);
    assert_non_null(strstr(out, "CNT0.RELOAD"));
    assert_non_null(strstr(out, ": 1 differs"));
    g_free(out);
    g_free(err);
    assert_int_equal(
        test_spawn(&out, &err, BUILD_DIR "/desk/lamp_desk", "--on", "127.0.0.1:1", NULL), 2);
    assert_non_null(strstr(err, "nobody answers"));
    g_free(out);
    g_free(err);
    g_free(sim);
    g_free(desk);
    test_remove(folder);
}

/* ---- the tutorial ---- */

/* Lines of the page that follow a `%` prompt are what the steps print, in their order. */
static void the_tutorial_is_as_its_page_says(void **state)
{
    char *out, *err, *page, *at;
    (void)state;
    int status = test_spawn(&out, &err, "env", "BUILD=" BUILD_DIR,
                            SOURCE_DIR "/examples/board-bring-up/bring_up.sh", NULL);
    if (status) { /* a message is cut off behind some lines */
        const char *said = strstr(out, "exit status ");
        fail_msg("%s", said ? said - MIN(said - out, 500) : err);
    }
    assert_true(g_file_get_contents(SOURCE_DIR "/docs/board.md", &page, NULL, NULL));
    char **lines = g_strsplit(page, "\n", -1);
    bool inside = false;
    unsigned checked = 0;
    at = out;
    for (unsigned i = 0; lines[i]; i++) {
        bool listing = g_str_has_prefix(lines[i], "    ");
        inside = listing && (inside || lines[i][4] == '%');
        if (!inside)
            continue;
        char *wanted = g_strdup_printf("%s\n", lines[i] + 4), *found = strstr(at, wanted);
        if (!found)
            fail_msg("docs/board.md:%u: not printed, in this order: %s\n%s", i + 1, wanted, out);
        at = found + strlen(wanted);
        checked++;
        g_free(wanted);
    }
    assert_true(checked > 30);
    g_strfreev(lines);
    g_free(page);
    g_free(out);
    g_free(err);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(registers_are_read_with_their_fields),
        cmocka_unit_test(variables_are_read_by_name),
        cmocka_unit_test(writes_are_read_back),
        cmocka_unit_test(bits_that_do_not_take_are_told),
        cmocka_unit_test(a_live_target_is_watched),
        cmocka_unit_test(snapshots_say_what_is_left_out),
        cmocka_unit_test(an_image_for_flash_is_not_loaded),
        cmocka_unit_test(sizes_are_those_of_the_file),
        cmocka_unit_test(a_fault_is_told_at_the_next_start),
        cmocka_unit_test(the_desk_does_what_the_simulator_does),
        cmocka_unit_test(the_stack_stays_within_its_bound),
        cmocka_unit_test(the_tutorial_is_as_its_page_says),
    };
    return cmocka_run_group_tests(tests, set_up, tear_down);
}
