/* SPDX-License-Identifier: MIT */
/* Steps of a bring-up: recorded, explained, judged, and done again. */
#include <string.h>

#include "support.h"
#include "wadium/host/steps.h"
#include "wadium/host/words.h"

static char *shown(const wad_steps *steps)
{
    char *text;
    size_t size;
    FILE *f = open_memstream(&text, &size);
    wad_show_steps(steps, f);
    fclose(f);
    char *copy = g_strdup(text);
    free(text);
    return copy;
}

static wad_bench *bench_of(wad_board *board, const char *firmware)
{
    wad_bench *bench = wad_bench_new("bring-up", board);
    wad_diags *diags = wad_diags_new();
    char *say = g_strdup_printf("firmware %s", firmware);
    assert_true(wad_bench_say(bench, say, diags));
    assert_true(wad_bench_say(bench, "run 20 ms", diags));
    g_free(say);
    wad_diags_free(diags);
    return bench;
}

/* tests/firmware/steps.c leaves one step out: the list must tell, and be quiet when none is. */
static void what_is_left_out_is_told(void **state)
{
    static const char *const skips[] = {"NOTHING", "CLOCK",        "RESET",      "ROUTE",
                                        "FLAG",    "BLOCK_ENABLE", "CONTROLLER", "MASK"};
    (void)state;
    wad_board *board = test_board("skerry");
    for (unsigned i = 0; i < G_N_ELEMENTS(skips); i++) {
        char *firmware = g_strdup_printf("steps_%s", skips[i]), *why;
        wad_bench *bench = bench_of(board, firmware);
        wad_steps_options o = {.firmware_dir = FIRMWARE_DIR};
        wad_steps *steps = wad_steps_run(bench, &o, &why);
        if (!steps)
            fail_msg("%s: %s", firmware, why);
        if ((wad_steps_warnings(steps) != 0) != (i != 0)) {
            char *text = shown(steps);
            fail_msg("%s: %s", firmware, text);
        }
        wad_steps_free(steps);
        wad_bench_free(bench);
        g_free(firmware);
    }
    wad_board_free(board);
}

static void the_lamp_s_steps_have_reasons(void **state)
{
    static const char *const want[] = {
        "   1  write CLK.CTRL = 0x00000001 ",
        "      XTALEN 0 > 1 -- switches clock xtal on (datasheet 3.2)\n",
        "wait for CLK.STAT, 2.000 ms, ",
        "      XTALRDY 0 > 1 -- clock xtal runs (datasheet 3.3)\n",
        "      -- core 8 MHz to 48 MHz; per 8 MHz to 48 MHz (datasheet 3.5)\n",
        " -- opens the clock gate of CNT1 (datasheet 3.6)\n",
        " -- releases the reset of CNT1 (datasheet 3.7)\n",
        " -- out of reset: CNT1 (datasheet 3.7)\n",
        " -- PA0 becomes CNT1.CH0 (datasheet 5.6)\n",
        " -- clears flag WRAP (datasheet 7.7)\n",
        "lamp.c:48 start_blinking\n      EN 0 > 1 -- counter runs (datasheet 7.2)\n",
        " steps, in order\n"};
    (void)state;
    wad_board *board = test_board("skerry");
    wad_bench *bench = bench_of(board, "lamp");
    wad_steps_options o = {.firmware_dir = FIRMWARE_DIR};
    char *why;
    wad_steps *steps = wad_steps_run(bench, &o, &why);
    assert_non_null(steps);
    char *text = shown(steps), *from = text;
    for (unsigned i = 0; i < G_N_ELEMENTS(want); i++) { /* in this order */
        char *at = strstr(from, want[i]);
        if (!at)
            fail_msg("wanted '%s' (number %u) in:\n%s", want[i], i, text);
        from = at;
    }
    for (const char *line = text; *line; line = strchr(line, '\n') + 1)
        assert_true(strchr(line, '\n') - line <= 100);
    g_free(text);
    wad_steps_free(steps);
    o.call = "start_blinking";
    steps = wad_steps_run(bench, &o, &why);
    for (unsigned i = 0; i < wad_steps_count(steps); i++)
        assert_string_equal(wad_steps_at(steps, i)->place.function, "start_blinking");
    assert_true(wad_steps_count(steps) > 10);
    wad_steps_free(steps);
    wad_bench_free(bench);
    wad_board_free(board);
}

/* A trace with everything in the wrong order. */
static void wrong_order_is_told(void **state)
{
    static const char trace[] =
        "time_ps,file,line,function,access,register,value,changes\n"
        "1000,a.c,1,main,write,CLK.RESET,0x3F1F0E07,\"\"\n"    /* CNT0 before its gate */
        "2000,a.c,2,main,write,CLK.GATE,0x00000100,\"\"\n"     /* late */
        "3000,a.c,3,main,write,CNT0.RELOAD,0x000003E7,\"\"\n"  /* in time */
        "4000,a.c,4,main,write,CNT0.CTRL,0x00000001,\"\"\n"    /* enabled */
        "5000,a.c,5,main,write,CNT0.PRESC,0x00000009,\"\"\n"   /* too late */
        "6000,a.c,6,main,write,CNT0.RELOAD,0x000001F3,\"\"\n"  /* a change at run time */
        "7000,a.c,7,main,write,CNT1.RELOAD,0x000001F3,\"\"\n"; /* and never enabled */
    (void)state;
    wad_sheet *sheet = test_chip("corran32");
    wad_diags *diags = wad_diags_new();
    char *folder = test_folder(), *path = g_build_filename(folder, "t.csv", NULL);
    g_file_set_contents(path, trace, -1, NULL);
    wad_steps *steps = wad_steps_read(sheet, path, NULL, diags);
    assert_non_null(steps);
    assert_int_equal(wad_steps_count(steps), 8);
    const char *const warnings[] = {
        "CNT0 first needs CLK.GATE.CNT0 = 1",   NULL, NULL, NULL,
        "CNT0 was enabled before this was set", NULL, NULL, "CNT1 was set up but never enabled"};
    for (unsigned i = 0; i < 8; i++) {
        const char *got = wad_steps_at(steps, i)->warning;
        if (!warnings[i] ? got != NULL : !got || strcmp(got, warnings[i]) != 0)
            fail_msg("step %u: %s", i + 1, got ? got : "nothing");
    }
    wad_steps_free(steps);
    g_file_set_contents(path,
                        "time_ps,file,line,function,access,register,value,changes\n"
                        "1,a.c,1,main,write,CNT0.NONE,1,\"\"\n",
                        -1, NULL);
    assert_null(wad_steps_read(sheet, path, NULL, diags));
    char *text = test_diags_text(diags);
    assert_non_null(strstr(text, "t.csv:2:1: error: "));
    g_free(text);
    g_free(path);
    path = g_build_filename(folder, "none.txt", NULL); /* nothing to tell: no file either */
    char *out, *err;
    assert_int_equal(WADIUM(&out, &err, "steps", SOURCE_DIR "/examples/lamp/lamp.bench", "-d",
                            FIRMWARE_DIR, "--until", "3ms", "--call", "nobody", "-o", path),
                     2);
    assert_non_null(strstr(err, "wadium: no steps were recorded inside of 'nobody'\n"));
    assert_string_equal(out, "");
    assert_false(g_file_test(path, G_FILE_TEST_EXISTS));
    g_free(out);
    g_free(err);
    g_free(path);
    test_remove(folder);
    wad_diags_free(diags);
    wad_sheet_free(sheet);
}

/* The C that steps write, built as a firmware of its own, leaves the registers as the lamp did. */
static void the_c_does_the_same_again(void **state)
{
    (void)state;
    char *folder = test_folder(), *out, *err;
    char *script = g_strdup_printf(
        "set -e; cd %s; W=" BUILD_DIR "/bin/wadium; L=" SOURCE_DIR "/examples/lamp/lamp.bench;"
        "$W steps $L -d " FIRMWARE_DIR " --until 10ms --c bring_up -o up.c;"
        "$W run $L -d " FIRMWARE_DIR " --trace t.csv > /dev/null;"
        "$W steps corran32 t.csv --until 10ms > traced.txt;"
        "$W steps $L -d " FIRMWARE_DIR " --until 10ms > ran.txt;"
        "tail -n +2 traced.txt > a; tail -n +2 ran.txt > b; grep -c . a > /dev/null;"
        "grep '^ *[0-9]*  w' a | cut -c1-70 > a1; grep '^ *[0-9]*  w' b | cut -c1-70 > b1;"
        "diff a1 b1;"
        "printf 'void bring_up(void);\\nvoid handle_CNT0(void);\\nvoid handle_CNT0(void) {}\\n"
        "int main(void) { bring_up(); for (;;) {} }\\n' > main.c;"
        "$W build corran32 main.c up.c -o again.wfw;"
        "printf 'bench \"again\" {\\n board Skerry\\n firmware again\\n run 5 ms\\n}\\n' > "
        "again.bench;"
        "sed -e 's/run      5 s/run 5 ms/' -e '/expect/d' $L > lamp.bench;"
        "$W run again.bench --dump again.txt > /dev/null;"
        "$W run lamp.bench -d " FIRMWARE_DIR " --dump lamp.txt > /dev/null;"
        "$W diff corran32 lamp.txt again.txt || true",
        folder);
    int status = test_spawn(&out, &err, "bash", "-c", script, NULL);
    if (status)
        fail_msg("%s%s", out, err);
    char **lines = g_strsplit(out, "\n", -1);
    for (unsigned i = 0; lines[i]; i++) /* only what runs by itself may differ */
        if (*lines[i] && !strstr(lines[i], ".COUNT.") && !strstr(lines[i], ".STAT.") &&
            !strstr(lines[i], ".IN."))
            fail_msg("%s", out);
    assert_true(g_strv_length(lines) < 12);
    g_strfreev(lines);
    g_free(out);
    g_free(err);
    g_free(script);
    test_remove(folder);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(what_is_left_out_is_told),
        cmocka_unit_test(the_lamp_s_steps_have_reasons),
        cmocka_unit_test(wrong_order_is_told),
        cmocka_unit_test(the_c_does_the_same_again),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
