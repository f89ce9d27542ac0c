/* SPDX-License-Identifier: MIT */
/* The command as a person uses it: what it prints, how it ends, what it leaves behind. */
#include <glib/gstdio.h>
#include <string.h>

#include "support.h"

typedef struct ran {
    int status;
    char *out, *err;
} ran;

static void done(ran *r)
{
    g_free(r->out);
    g_free(r->err);
}

#define RUN(r, ...)                                                                                \
    ran r = {0, NULL, NULL};                                                                       \
    r.status = WADIUM(&r.out, &r.err, __VA_ARGS__)

static void expect_text(const char *text, const char *part)
{
    if (!strstr(text, part))
        fail_msg("wanted '%s' in:\n%s", part, text);
}

static void every_verb_has_help(void **state)
{
    static const char *const verbs[] = {
        "show",   "lint",   "emit", "run",  "measure", "plot",   "findings", "build", "new",
        "encode", "decode", "diff", "find", "rate",    "clocks", "pins",     "steps", "watch"};
    (void)state;
    RUN(all, "--help");
    assert_int_equal(all.status, 0);
    for (unsigned i = 0; i < G_N_ELEMENTS(verbs); i++) {
        RUN(r, verbs[i], "--help");
        assert_int_equal(r.status, 0);
        expect_text(r.out, "Usage:");
        char *line = g_strdup_printf("\n  %s ", verbs[i]);
        expect_text(all.out, line);
        g_free(line);
        done(&r);
        RUN(bad, verbs[i], "--nonsense");
        assert_int_equal(bad.status, 2);
        expect_text(bad.err, "wadium: Unknown option --nonsense; see 'wadium ");
        done(&bad);
    }
    done(&all);
    RUN(none, "shw");
    assert_int_equal(none.status, 2);
    expect_text(none.err, "there is no verb 'shw'");
    done(&none);
}

static void show_draws_chip_block_and_register(void **state)
{
    (void)state;
    RUN(chip, "show", "corran32");
    expect_text(chip.out, "CNT1     0x4001_0400  counter    per    9    16-bit timer\n");
    expect_text(chip.out, "core       8 MHz        within 1 Hz to 48 MHz\n");
    done(&chip);
    RUN(block, "show", "Corran32", "CNT1");
    expect_text(block.out,
                "\nCMP[4]       0x030    12  0x4001_0430  rw   0x00000000 compare values\n");
    expect_text(block.out, "pins  CH0  out on PA0 fn 1 or PB0 fn 3\n");
    done(&block);
    RUN(reg, "show", "corran32", "CLK.SEL");
    expect_text(reg.out, "offset 0x0C bytes = 3 words, 32 bits, rw, reset 0x00000000");
    expect_text(reg.out, "|                   |   PDIV    |   |   CDIV    |       | CORE  |\n");
    done(&reg);
    RUN(element, "show", "corran32", "CNT1.CMP[2]");
    expect_text(element.out, "CNT1.CMP[2]: compare values (datasheet 7.11)\naddress 0x4001_0438, "
                             "offset 0x38 bytes = 14 words");
    expect_text(element.out, "one of 4, 4 bytes apart\n");
    done(&element);
    RUN(vectors, "show", "corran32", "vectors");
    expect_text(vectors.out, "9     CNT1     handle_CNT1");
    done(&vectors);
    RUN(board, "show", "skerry");
    expect_text(board.out,
                "TEST             button       PB4    test button, active low, pulled up, "
                "bounces 3 ms\n");
    done(&board);
    RUN(json, "show", "corran32", "--json");
    expect_text(json.out, "\"address\" : 1073807360");
    done(&json);
}

static void lines_have_no_trailing_blanks(void **state)
{
    static const char *const what[] = {"CLK", "CNT0", "CNT0.CTRL", "PINA.FUNC", "vectors"};
    (void)state;
    for (unsigned i = 0; i < G_N_ELEMENTS(what); i++) {
        RUN(r, "show", "corran32", what[i]);
        assert_null(strstr(r.out, " \n"));
        done(&r);
    }
    RUN(chip, "show", "corran32");
    assert_null(strstr(chip.out, " \n"));
    done(&chip);
    RUN(board, "show", "skerry");
    assert_null(strstr(board.out, " \n"));
    done(&board);
}

static void unknown_names_are_one_clear_error(void **state)
{
    static const char *const cases[][3] = {
        {"corran33", NULL, "there is no chip 'corran33': give its name or the path"},
        {"corran32", "CNT9", "no table or block of Corran32 'CNT9' (did you mean 'CNT0'?)"},
        {"corran32", "vector", "no table or block of Corran32 'vector' (did you mean 'vectors'?)"},
        {"corran8", "NOSUCH", "there are vectors, triggers, dma, clocks, pins, PORT0, "},
        {"skerry", "WARM", "there is no table of a board 'WARM'; there is dma"},
        {"corran32", "CNT1.CTRX", "no register 'CTRX' (did you mean 'CTRL'?)"},
        {"corran32", "CNT1.CTRL.EM", "no field 'EM' (did you mean 'EN'?)"},
        {"corran32", "XNT1.CTRL", "no block 'XNT1' (did you mean 'CNT1'?)"},
        {"corran32", "CNT1.CMP[4]", "register 'CMP' has no element 4"},
    };
    (void)state;
    for (unsigned i = 0; i < G_N_ELEMENTS(cases); i++) {
        RUN(r, "show", cases[i][0], cases[i][1]);
        assert_int_equal(r.status, 2);
        expect_text(r.err, cases[i][2]);
        assert_string_equal(r.out, "");
        done(&r);
    }
}

static void broken_sheet_leaves_no_output(void **state)
{
    (void)state;
    char *folder = test_folder(), *sheet = g_build_filename(folder, "b.sheet", NULL);
    char *out = g_build_filename(folder, "b.h", NULL);
    g_file_set_contents(sheet, "chip B {\n bus little 32\n clock core 8 Mhz\n}\n", -1, NULL);
    RUN(r, "emit", "header", sheet, "-o", out);
    assert_int_equal(r.status, 3);
    expect_text(r.err, "b.sheet:3:");
    assert_false(g_file_test(out, G_FILE_TEST_EXISTS));
    done(&r);
    RUN(where, "emit", "header", "corran32", "-o", "/nowhere/x.h");
    assert_int_equal(where.status, 3);
    expect_text(where.err, "cannot write '/nowhere/x.h'");
    done(&where);
    RUN(what, "emit", "headr", "corran32");
    assert_int_equal(what.status, 2);
    expect_text(what.err,
                "cannot emit 'headr': header, roles, vectors, linker, gdb, pins and sheet can be");
    done(&what);
    g_free(sheet);
    g_free(out);
    test_remove(folder);
}

static void lint_counts_and_judges(void **state)
{
    (void)state;
    RUN(good, "lint", "corran32");
    assert_int_equal(good.status, 0);
    expect_text(good.out, "0 errors, 0 doubts");
    done(&good);
    char *folder = test_folder(), *sheet = g_build_filename(folder, "b.sheet", NULL);
    g_file_set_contents(sheet,
                        "chip B {\n bus little 32\n clock core 8 MHz\n block A at 0 like l\n}\n"
                        "layout l {\n reg R at 0 rw {\n 3:0 X rw\n 2 Y rw\n }\n}\n",
                        -1, NULL);
    RUN(doubt, "lint", sheet);
    assert_int_equal(doubt.status, 1);
    expect_text(doubt.out, "b.sheet:9:2: warning: field 'Y' overlaps");
    done(&doubt);
    g_free(sheet);
    test_remove(folder);
}

/* ---- the example, end to end ---- */

#define LAMP SOURCE_DIR "/examples/lamp/lamp.bench"

static void lamp_runs_is_measured_and_drawn(void **state)
{
    (void)state;
    char *folder = test_folder(), *vcd = g_build_filename(folder, "lamp.vcd", NULL);
    char *png = g_build_filename(folder, "lamp.png", NULL), *text;
    char *svg = g_build_filename(folder, "lamp.svg", NULL);
    gsize size;
    RUN(r, "run", LAMP, "-d", FIRMWARE_DIR, "--vcd", vcd);
    assert_int_equal(r.status, 0);
    expect_text(r.out, "ok    level4 duty             90.0000 %");
    expect_text(r.out, "11 of 11 expectations met, 0 findings");
    done(&r);
    RUN(m, "measure", vcd);
    assert_int_equal(m.status, 0);
    expect_text(m.out, "level2            9996       1000 Hz  25.0000 %       250 us         1 ms");
    done(&m);
    RUN(p, "plot", vcd, "-o", png);
    assert_int_equal(p.status, 0);
    assert_true(g_file_get_contents(png, &text, &size, NULL));
    assert_memory_equal(text, "\x89PNG", 4);
    assert_true(size > 5000);
    g_free(text);
    done(&p);
    RUN(s, "plot", vcd, "-o", svg, "--from", "1 s", "--to", "1.01s", "--signals", "warn,level1");
    assert_int_equal(s.status, 0);
    assert_true(g_file_get_contents(svg, &text, &size, NULL));
    expect_text(text, "<svg");
    expect_text(text, "level1");
    assert_null(strstr(text, "level2"));
    g_free(text);
    done(&s);
    RUN(t, "plot", vcd, "--text", "--from", "1999ms", "--to", "2003ms", "--width", "80");
    expect_text(t.out, "level3  ▁╱▔▔▔▔▔╲▁▁▁▁▁╱");
    expect_text(t.out, "1000 Hz  50 %");
    done(&t);
    g_free(vcd);
    g_free(png);
    g_free(svg);
    test_remove(folder);
}

static void failed_expectation_is_status_1(void **state)
{
    (void)state;
    char *folder = test_folder(), *bench = g_build_filename(folder, "b.bench", NULL);
    g_file_set_contents(bench,
                        "bench \"too fast\" {\n board Skerry\n firmware lamp\n capture WARN\n"
                        " run 3 s\n expect warn frequency 2 Hz within 1 %\n}\n",
                        -1, NULL);
    RUN(r, "run", bench, "-d", FIRMWARE_DIR);
    assert_int_equal(r.status, 1);
    expect_text(r.out, "FAIL  warn frequency  1 Hz      wanted 2 Hz within 1 %");
    done(&r);
    RUN(tap, "run", bench, "-d", FIRMWARE_DIR, "--tap");
    assert_int_equal(tap.status, 1);
    expect_text(tap.out, "not ok 2 - too fast: warn frequency");
    done(&tap);
    g_free(bench);
    test_remove(folder);
}

static void bad_input_is_status_2(void **state)
{
    (void)state;
    char *folder = test_folder(), *vcd = g_build_filename(folder, "x.vcd", NULL);
    char *png = g_build_filename(folder, "x.png", NULL);
    g_file_set_contents(vcd, "$enddefinitions $end\n#5\n1!\n", -1, NULL);
    RUN(no_bench, "run", "/nowhere.bench");
    assert_int_equal(no_bench.status, 3);
    expect_text(no_bench.err, "/nowhere.bench: error: cannot read the bench");
    done(&no_bench);
    RUN(no_firmware, "run", LAMP, "-d", folder);
    assert_int_equal(no_firmware.status, 2);
    expect_text(no_firmware.err, "there is no firmware '");
    done(&no_firmware);
    RUN(bad_vcd, "measure", vcd);
    assert_int_equal(bad_vcd.status, 3);
    expect_text(bad_vcd.err, "x.vcd:3:1: error: a change of an identifier");
    done(&bad_vcd);
    RUN(plot, "plot", vcd, "-o", png);
    assert_int_equal(plot.status, 3);
    assert_false(g_file_test(png, G_FILE_TEST_EXISTS));
    done(&plot);
    RUN(time, "measure", vcd, "--from", "5 lightyears");
    assert_int_equal(time.status, 2);
    expect_text(time.err, "'5 lightyears' is no time");
    done(&time);
    RUN(where, "plot", vcd);
    assert_int_equal(where.status, 2);
    expect_text(where.err, "say where to");
    done(&where);
    g_free(vcd);
    g_free(png);
    test_remove(folder);
}

/* ---- projects ---- */

static void new_project_on(const char *chip)
{
    char *folder = test_folder(), *path = g_build_filename(folder, "gauge", NULL);
    char *source = g_build_filename(path, "main.c", NULL),
         *fw = g_build_filename(path, "gauge.wfw", NULL);
    char *bench = g_build_filename(path, "gauge.bench", NULL);
    char *say = g_strdup_printf("wadium build %s main.c -o gauge.wfw", chip);
    RUN(made, "new", chip, path);
    assert_int_equal(made.status, 0);
    expect_text(made.out, say);
    done(&made);
    RUN(built, "build", chip, source, "-o", fw);
    assert_int_equal(built.status, 0);
    assert_string_equal(built.err, "");
    done(&built);
    RUN(run, "run", bench);
    assert_int_equal(run.status, 0);
    expect_text(run.out, "1 of 1 expectations met, 0 findings");
    done(&run);
    RUN(again, "new", chip, path);
    assert_int_equal(again.status, 2);
    expect_text(again.err, "File exists");
    done(&again);
    g_free(say);
    g_free(bench);
    g_free(fw);
    g_free(source);
    test_remove(path);
    test_remove(folder);
}

static void new_project_builds_and_runs_as_it_is(void **state)
{
    (void)state;
    new_project_on("corran32");
    new_project_on("corran16");
    new_project_on("corran8");
}

static void what_does_not_build_leaves_nothing(void **state)
{
    (void)state;
    char *folder = test_folder(), *source = g_build_filename(folder, "bad.c", NULL);
    char *fw = g_build_filename(folder, "bad.wfw", NULL),
         *odd = g_build_filename(folder, "9lives", NULL);
    g_file_set_contents(
        source, "#include \"corran32.h\"\nint main(void) { return CORRAN32_CNT9; }\n", -1, NULL);
    RUN(built, "build", "corran32", source, "-o", fw);
    assert_int_equal(built.status, 2);
    expect_text(built.err, "bad.c:2:");
    expect_text(built.err, "'");
    assert_false(g_file_test(fw, G_FILE_TEST_EXISTS));
    done(&built);
    RUN(chip, "build", "corran33", source, "-o", fw);
    assert_int_equal(chip.status, 2);
    expect_text(chip.err, "there is no chip 'corran33'");
    done(&chip);
    RUN(compiler, "build", "corran32", source, "-o", fw, "--compiler", "nocc");
    assert_int_equal(compiler.status, 2);
    expect_text(compiler.err, "no compiler 'nocc' is installed");
    done(&compiler);
    RUN(name, "new", "corran32", odd);
    assert_int_equal(name.status, 2);
    expect_text(name.err, "'9lives' is no name for a project");
    assert_false(g_file_test(odd, G_FILE_TEST_EXISTS));
    done(&name);
    g_free(odd);
    g_free(fw);
    g_free(source);
    test_remove(folder);
}

static void build_takes_plain_c_and_drivers_alike(void **state)
{
    static const char *const examples[] = {"lamp/lamp.c", "plain-lamp/plain_lamp.c"};
    (void)state;
    char *folder = test_folder();
    for (unsigned i = 0; i < 2; i++) {
        char *source = g_strconcat(SOURCE_DIR "/examples/", examples[i], NULL);
        char *fw = g_build_filename(folder, "lamp.wfw", NULL);
        RUN(built, "build", "corran32", source, "--board", "skerry", "-o", fw, "--flag=-O1");
        assert_int_equal(built.status, 0);
        done(&built);
        RUN(run, "run", LAMP, "-d", folder);
        assert_int_equal(run.status, 0);
        done(&run);
        g_free(fw);
        g_free(source);
    }
    test_remove(folder);
}

/* Every driver is linked in, whichever a firmware takes. */
static void build_links_all_drivers(void **state)
{
    static const char *const examples[] = {"horn", "gauge", "thermometer", "wheel", "echo"};
    char *folder = test_folder();
    (void)state;
    for (unsigned i = 0; i < G_N_ELEMENTS(examples); i++) {
        char *source = g_strdup_printf(SOURCE_DIR "/examples/%s/%s.c", examples[i], examples[i]);
        char *fw = g_strdup_printf("%s/%s.wfw", folder, examples[i]);
        char *bench = g_strdup_printf("board Skerry\nfirmware %s\nrun 10 ms\n", examples[i]);
        char *path = g_build_filename(folder, "build.bench", NULL);
        char *text = g_strdup_printf("bench \"built\" {\n%s}\n", bench);
        g_file_set_contents(path, text, -1, NULL);
        RUN(built, "build", "corran32", source, "--board", "skerry", "-o", fw);
        if (built.status)
            fail_msg("%s: %s", examples[i], built.err);
        done(&built);
        RUN(run, "run", path);
        if (run.status)
            fail_msg("%s: %s%s", examples[i], run.out, run.err);
        done(&run);
        g_free(text);
        g_free(path);
        g_free(bench);
        g_free(fw);
        g_free(source);
    }
    test_remove(folder);
}

static void pins_are_shown_both_ways(void **state)
{
    (void)state;
    RUN(pin, "show", "corran32", "pins", "PC0");
    assert_int_equal(pin.status, 0);
    expect_text(pin.out, "PC0    PINC   CNT0.CH0 fn 1, FRM0.SCK fn 4\n");
    done(&pin);
    RUN(block, "show", "corran16", "pins", "CNT1");
    expect_text(block.out, "CH0          out    P04 group 1, P10 group 2, P14 group 3\n");
    expect_text(block.out, "all of them move together, by MAP.ROUTE.CNT1\n");
    done(&block);
    RUN(port, "show", "corran8", "pins", "PORT1");
    expect_text(port.out, "P13    PORT1  CNT0.CH3 fn 1\nP14    PORT1  port only\n");
    done(&port);
    RUN(none, "show", "corran32", "pins", "PX9");
    assert_int_equal(none.status, 2);
    expect_text(none.err, "Corran32 has no pin and no block 'PX9'");
    done(&none);
}

static void numbers_are_worked_out_by_the_command(void **state)
{
    (void)state;
    RUN(rate, "rate", "corran32", "CNT0", "wrap=500ms", "--clock", "48MHz", "--tolerance", "1ppm");
    assert_int_equal(rate.status, 0);
    expect_text(rate.out, "  1        374         63999  2 Hz            exact\n");
    expect_text(rate.out, "CNT0.RELOAD      0x0000F9FF  VALUE 0xF9FF = 63999\n");
    done(&rate);
    RUN(out, "rate", "corran8", "CNT0", "wrap=1Hz", "--hold", "CTRL.DIV=0", "--tolerance", "1%");
    assert_int_equal(out.status, 2);
    expect_text(out.err, "wadium: 1 Hz is out of reach: the slowest is 15.25878906 Hz with "
                         "CTRL.DIV = 0, START = 0, the fastest 1 MHz with CTRL.DIV = 0, "
                         "START = 65535; take a slower clock than 1 MHz\n");
    expect_text(out.out, "outside the tolerance of 10000 ppm\n");
    done(&out);
    RUN(back, "rate", "corran8", "CNT0", "wrap", "--clock", "8MHz", "--from",
        "CTRL.DIV=2,START=3036");
    expect_text(back.out, "2 Hz, one every 500 ms\n");
    done(&back);
    RUN(list, "rate", "corran32", "CNT0", "toggle", "--table", "440,9600", "--clock", "8MHz");
    expect_text(list.out, "    440          0          9090  439.9956 Hz     -10 ppm");
    done(&list);
    RUN(strict, "rate", "corran32", "CNT0", "toggle", "--table", "440,9600", "--clock", "8MHz",
        "--tolerance", "100ppm");
    assert_int_equal(strict.status, 1);
    expect_text(strict.out, "-799.4 ppm = -0.0799 %\n         off by more than 0.01 %\n");
    done(&strict);
    RUN(both, "rate", "corran32", "CNT0", "wrap", "--from", "PRESC.DIV=1", "--hold", "PRESC.DIV=1");
    assert_int_equal(both.status, 2);
    expect_text(both.err, "--from tells the rate of one setting");
    done(&both);
    RUN(many, "run", LAMP, "--explore", "5", "--tap");
    assert_int_equal(many.status, 2);
    expect_text(many.err, "--explore tells of many runs");
    done(&many);
    RUN(narrow, "run", LAMP, "--trace-block", "CLK");
    assert_int_equal(narrow.status, 2);
    expect_text(narrow.err, "--trace-block narrows a trace");
    done(&narrow);
    RUN(bad, "rate", "corran32", "CNT0", "wrap=2Hz", "--hold", "DIV=3");
    assert_int_equal(bad.status, 2);
    expect_text(bad.err,
                "'DIV=3' is not FIELD=VALUE of this law, whose fields are PRESC.DIV, RELOAD.VALUE");
    done(&bad);
    RUN(decode, "decode", "corran32", "0x40010000", "0x6");
    assert_int_equal(decode.status, 1);
    expect_text(decode.out, "wrong: MODE has no value 3\n");
    done(&decode);
    RUN(find, "find", "corran32", "0x40010014");
    assert_int_equal(find.status, 0);
    expect_text(find.out, "CNT0.STAT              address  status\n");
    done(&find);
    RUN(nowhere, "find", "corran32", "flux");
    assert_int_equal(nowhere.status, 1);
    done(&nowhere);
    RUN(clocks, "clocks", "corran32", "core=48MHz", "--set", "CLK.PLL.SRC=xtal");
    assert_int_equal(clocks.status, 0);
    expect_text(clocks.out,
                "exact\n  CLK.CTRL.XTALEN=1\n  CLK.PLL.SRC=1   xtal\n  CLK.PLL.MUL=2\n");
    done(&clocks);
    RUN(broken, "clocks", "corran32", "--set", "CLK.SEL.CORE=pll", "--set", "CLK.CTRL.PLLEN=1");
    assert_int_equal(broken.status, 1);
    expect_text(broken.out, "wrong: 64 MHz is outside 1 Hz to 48 MHz\n");
    done(&broken);
    RUN(unknown, "clocks", "corran32", "cor=1MHz");
    assert_int_equal(unknown.status, 2);
    expect_text(unknown.err, "there is no clock of Corran32 'cor' (did you mean 'core'?)");
    done(&unknown);
}

/* A build of one's own, with nothing of Wadium's but its pkg-config variables. */
static void pkg_config_gives_what_another_build_needs(void **state)
{
    (void)state;
    char *folder = test_folder(), *out, *err;
    char *script = g_strdup_printf(
        "set -e; cd %s; v() { PKG_CONFIG_PATH=" BUILD_DIR " pkg-config --variable=$1 wadium; };"
        "W=$(v wadium); $W emit header corran32 -o corran32.h;"
        "$W emit vectors corran32 -o vectors.c;"
        "gcc -O2 $(v plain_cflags) -I. -c " SOURCE_DIR "/examples/plain-lamp/plain_lamp.c -o a.o;"
        "gcc -O2 $(v port_cflags) -c vectors.c -o v.o;"
        "gcc $(v firmware_ldflags) a.o v.o -o plain_lamp.wfw;"
        "for d in $(v drivers); do test -e $d; done;"
        "$W run " SOURCE_DIR "/examples/plain-lamp/plain_lamp.bench -d .",
        folder);
    int status = test_spawn(&out, &err, "sh", "-c", script, NULL);
    if (status)
        fail_msg("%s", err);
    expect_text(out, "11 of 11 expectations met");
    g_free(out);
    g_free(err);
    g_free(script);
    test_remove(folder);
}

/* Stopped for longer than any limit of the host timer, and it goes on as if nothing had been. */
static void gdb_stops_steps_and_prints_in_the_firmware(void **state)
{
    (void)state;
    char *out, *err, *gdb = g_find_program_in_path("gdb");
    assert_non_null(gdb);
    test_spawn(&out, &err, gdb, "-q", "-nx", "-batch", "-x", SOURCE_DIR "/tests/steps.gdb",
               "--args", BUILD_DIR "/bin/wadium", "run",
               SOURCE_DIR "/examples/plain-lamp/plain_lamp.bench", "-d", FIRMWARE_DIR, NULL);
    if (strstr(err, "ptrace: Operation not permitted"))
        skip();
    expect_text(out, "handle_CNT0 () at ");
    expect_text(out, "$1 = 0\n");
    expect_text(out, "CORRAN32_PINC->TGL = WARN;");
    expect_text(out, "$2 = 1\n");
    expect_text(out, "$3 = 7\n");
    expect_text(out, "11 of 11 expectations met, 0 findings");
    g_free(gdb);
    g_free(out);
    g_free(err);
}

static const char race_bench[] = SOURCE_DIR "/examples/race/race.bench";

static void trace_writes_text_csv_and_signals(void **state)
{
    (void)state;
    char *folder = test_folder(), *csv = g_build_filename(folder, "t.csv", NULL), *text;
    char *vcd = g_build_filename(folder, "t.vcd", NULL);
    RUN(r, "run", race_bench, "-d", FIRMWARE_DIR, "--trace", "-", "--trace-block", "CLK");
    assert_int_equal(r.status, 0);
    expect_text(r.out,
                "waves.c:29             write  CLK.GATE         0x00000104  PINC 0>1, CNT0 0>1\n");
    expect_text(r.out, "waves.c:31             read   CLK.RDONE");
    assert_null(strstr(r.out, "CNT0.STAT"));
    done(&r);
    RUN(c, "run", race_bench, "-d", FIRMWARE_DIR, "--trace", csv, "--trace-block", "CNT0", "--vcd",
        vcd);
    assert_int_equal(c.status, 0);
    assert_true(g_file_get_contents(csv, &text, NULL, NULL));
    expect_text(text, "time_ps,file,line,function,access,register,value,changes\n");
    expect_text(text, "waves.c,34,start,write,CNT0.RELOAD,0x00001F3F,\"VALUE 65535>7999\"\n");
    g_free(text);
    assert_true(g_file_get_contents(vcd, &text, NULL, NULL));
    expect_text(text, "$scope module CNT0 $end\n$var reg 32 ");
    expect_text(text, "b1111100111111 "); /* 7999 */
    g_free(text);
    done(&c);
    RUN(m, "measure", vcd); /* still a capture that our own reader takes */
    assert_int_equal(m.status, 0);
    expect_text(m.out, "warn");
    done(&m);
    RUN(bad, "run", race_bench, "-d", FIRMWARE_DIR, "--replay", "7,3");
    assert_int_equal(bad.status, 2);
    expect_text(bad.err, "'7,3' is no schedule");
    done(&bad);
    g_free(csv);
    g_free(vcd);
    test_remove(folder);
}

/* Against the intervals that were written, by hand. */
static void intervals_are_told_as_they_are(void **state)
{
    static const unsigned steps[] = {1000, 1000, 1003, 997, 1000, 1010};
    char *folder = test_folder(), *path[2];
    (void)state;
    for (unsigned f = 0; f < 2; f++) {
        GString *text = g_string_new("$timescale 1 ns $end\n$var wire 1 a beat $end\n"
                                     "$var real 64 r tone $end\n$enddefinitions $end\n#0\n0a\n");
        unsigned t = 500;
        for (unsigned i = 0; i <= G_N_ELEMENTS(steps); i++) {
            g_string_append_printf(text, "#%u\n1a\nr%u r\n#%u\n0a\n", t, i, t + 100);
            t += f || i == G_N_ELEMENTS(steps) ? 1000 : steps[i];
        }
        g_string_append_printf(text, "#%u\n", t);
        path[f] = g_strdup_printf("%s/%s.vcd", folder, f ? "even" : "odd");
        g_file_set_contents(path[f], text->str, -1, NULL);
        g_string_free(text, TRUE);
    }
    RUN(one, "plot", path[0], "--intervals", "--text");
    assert_int_equal(one.status, 0);
    expect_text(one.out,
                "\nbeat             6  1.00167 us     997 ns         1.01 us        13 ns\n");
    expect_text(one.out,
                "\ntone             6  1.00167 us     997 ns         1.01 us        13 ns\n");
    done(&one);
    RUN(both, "plot", path[0], path[1], "--intervals", "--signals", "tone", "--text", "--to",
        "4us");
    assert_int_equal(both.status, 0);
    expect_text(both.out,
                "\nodd.vcd tone          3  1.001 us       1 us           1.003 us       3 ns\n");
    expect_text(both.out,
                "\neven.vcd tone         3  1 us           1 us           1 us           0 s\n");
    assert_null(strstr(both.out, "beat"));
    done(&both);
    char *png = g_build_filename(folder, "i.png", NULL), *bytes = NULL;
    RUN(drawn, "plot", path[0], path[1], "--intervals", "-o", png);
    assert_int_equal(drawn.status, 0);
    assert_true(g_file_get_contents(png, &bytes, NULL, NULL));
    assert_memory_equal(bytes, "\x89PNG", 4);
    done(&drawn);
    RUN(none, "plot", path[0], "--intervals", "--signals", "horn", "--text");
    assert_int_equal(none.status, 2);
    expect_text(none.err, "has no signal 'horn'");
    done(&none);
    RUN(rare, "plot", path[0], "--intervals", "--to", "1us", "-o", png);
    assert_int_equal(rare.status, 3);
    expect_text(rare.err, "beat changes too rarely to have intervals");
    done(&rare);
    RUN(several, "plot", path[0], path[1], "-o", png);
    assert_int_equal(several.status, 2);
    expect_text(several.err, "several with --intervals");
    done(&several);
    g_free(bytes);
    g_free(png);
    g_free(path[0]);
    g_free(path[1]);
    test_remove(folder);
}

static void one_bench_of_a_file_is_run(void **state)
{
    (void)state;
    RUN(second, "run", SOURCE_DIR "/examples/horn/horn.bench", "-d", FIRMWARE_DIR, "--bench", "2");
    assert_int_equal(second.status, 0);
    expect_text(second.out, "440 Hz written by the handler\n");
    assert_null(strstr(second.out, "triggered by the timer"));
    done(&second);
    RUN(fourth, "run", SOURCE_DIR "/examples/horn/horn.bench", "-d", FIRMWARE_DIR, "--bench", "4");
    assert_int_equal(fourth.status, 2);
    expect_text(fourth.err, "--bench is the number of one of the file's benches");
    done(&fourth);
}

static void known_findings_can_be_silenced_and_the_load_stated(void **state)
{
    (void)state;
    char *folder = test_folder(), *bench = g_build_filename(folder, "b.bench", NULL);
    char *rules = g_build_filename(folder, "known.silence", NULL);
    g_file_set_contents(bench,
                        "bench \"b\" {\n board Skerry\n firmware wrong_204\n load 50 %\n"
                        " run 20 ms\n expect no findings\n}\n",
                        -1, NULL);
    g_file_set_contents(rules,
                        "W204 at \"wrong.c\" in mistake \"known\"\nW101 at \"wrong.c:7\" \"old\"\n",
                        -1, NULL);
    RUN(told, "run", bench, "-d", FIRMWARE_DIR);
    assert_int_equal(told.status, 1);
    expect_text(told.out, "(2 cycles an access, load 50 %)");
    expect_text(told.out, "W204  read-modify-write");
    expect_text(told.out, "|MA3|MA2|MA1|MA0|           |WRA|"); /* the register, drawn */
    done(&told);
    RUN(quiet, "run", bench, "-d", FIRMWARE_DIR, "--silence", rules);
    assert_int_equal(quiet.status, 0);
    expect_text(quiet.out, "0 findings, 1 silenced");
    expect_text(quiet.out, "known.silence:2: silence W101 at wrong.c:7: no such finding");
    done(&quiet);
    g_file_set_contents(rules, "W204 at \"wrong.c\"\n", -1, NULL);
    RUN(bad, "run", bench, "-d", FIRMWARE_DIR, "--silence", rules);
    assert_int_equal(bad.status, 3);
    expect_text(bad.err, "the reason in quotes");
    done(&bad);
    g_free(bench);
    g_free(rules);
    test_remove(folder);
}

static void findings_are_listed_with_cures(void **state)
{
    (void)state;
    RUN(r, "findings");
    assert_int_equal(r.status, 0);
#define LISTED(name, number, what, cure) expect_text(r.out, "W" #number "  " what);
    WAD_FINDINGS(LISTED)
#undef LISTED
    done(&r);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(every_verb_has_help),
        cmocka_unit_test(show_draws_chip_block_and_register),
        cmocka_unit_test(lines_have_no_trailing_blanks),
        cmocka_unit_test(unknown_names_are_one_clear_error),
        cmocka_unit_test(broken_sheet_leaves_no_output),
        cmocka_unit_test(lint_counts_and_judges),
        cmocka_unit_test(lamp_runs_is_measured_and_drawn),
        cmocka_unit_test(failed_expectation_is_status_1),
        cmocka_unit_test(bad_input_is_status_2),
        cmocka_unit_test(new_project_builds_and_runs_as_it_is),
        cmocka_unit_test(what_does_not_build_leaves_nothing),
        cmocka_unit_test(build_takes_plain_c_and_drivers_alike),
        cmocka_unit_test(build_links_all_drivers),
        cmocka_unit_test(pins_are_shown_both_ways),
        cmocka_unit_test(numbers_are_worked_out_by_the_command),
        cmocka_unit_test(pkg_config_gives_what_another_build_needs),
        cmocka_unit_test(gdb_stops_steps_and_prints_in_the_firmware),
        cmocka_unit_test(trace_writes_text_csv_and_signals),
        cmocka_unit_test(intervals_are_told_as_they_are),
        cmocka_unit_test(one_bench_of_a_file_is_run),
        cmocka_unit_test(known_findings_can_be_silenced_and_the_load_stated),
        cmocka_unit_test(findings_are_listed_with_cures),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
