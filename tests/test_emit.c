/* SPDX-License-Identifier: MIT */
/* Generated C: stable, as agreed (golden files), and clean under strict compilers. */
#include <glib/gstdio.h>
#include <string.h>

#include "support.h"

static char *emit(void (*writer)(const wad_sheet *, FILE *), const wad_sheet *sheet)
{
    char *text;
    size_t size;
    FILE *f = open_memstream(&text, &size);
    writer(sheet, f);
    fclose(f);
    return text;
}

static const struct {
    const char *file;
    void (*writer)(const wad_sheet *, FILE *);
} outputs[] = {{"small.h", wad_emit_header},
               {"small_roles.h", wad_emit_roles},
               {"small_vectors.c", wad_emit_vectors},
               {"memory.ld", wad_emit_linker}};

static wad_sheet *small(void)
{
    wad_diags *diags = wad_diags_new();
    wad_sheet *s = wad_sheet_read(SOURCE_DIR "/tests/golden/small.sheet", diags);
    wad_diags_print(diags, stderr);
    wad_diags_free(diags);
    assert_non_null(s);
    return s;
}

/* `make golden` writes the files anew; read what changed before committing them. */
static void output_equals_the_golden_files(void **state)
{
    (void)state;
    wad_sheet *s = small();
    for (unsigned i = 0; i < G_N_ELEMENTS(outputs); i++) {
        char *path = g_strdup_printf(SOURCE_DIR "/tests/golden/%s", outputs[i].file), *want = NULL;
        char *got = emit(outputs[i].writer, s);
        if (g_getenv("WADIUM_WRITE_GOLDEN"))
            g_file_set_contents(path, got, -1, NULL);
        assert_true(g_file_get_contents(path, &want, NULL, NULL));
        assert_string_equal(got, want);
        free(got);
        g_free(want);
        g_free(path);
    }
    wad_sheet_free(s);
}

static void same_sheet_same_bytes(void **state)
{
    (void)state;
    wad_sheet *a = test_chip("corran32"), *b = test_chip("corran32");
    for (unsigned i = 0; i < G_N_ELEMENTS(outputs); i++) {
        char *x = emit(outputs[i].writer, a), *y = emit(outputs[i].writer, b);
        assert_string_equal(x, y);
        assert_non_null(strstr(x, a->hash));
        free(x);
        free(y);
    }
    wad_sheet_free(a);
    wad_sheet_free(b);
}

static void compile(const char *compiler, const char *folder, const char *source)
{
    char *out, *err, *include = g_strconcat("-I", folder, NULL);
    int status = test_spawn(&out, &err, compiler, "-std=c11", "-ffreestanding", "-Wall", "-Wextra",
                            "-Wpedantic", "-Wconversion", "-Wshadow", "-Werror", "-O2", include,
                            "-I" SOURCE_DIR "/include", "-I" SOURCE_DIR "/ports/sim", "-c", source,
                            "-o", "/dev/null", NULL);
    if (status)
        fail_msg("%s: %s", compiler, err);
    g_free(include);
    g_free(out);
    g_free(err);
}

/* Uses each helper form, so that a macro that does not expand is seen. */
static const char use[] =
    "#include \"small_roles.h\"\n"
    "uint32_t use(uint32_t v);\n"
    "uint32_t use(uint32_t v)\n"
    "{\n"
    "    SMALL_A->CTRL = SMALL_WITH(SMALL_UNIT_CTRL_MODE, SMALL_A->CTRL, "
    "SMALL_UNIT_CTRL_MODE_FAST);\n"
    "    SMALL_A->SEL[SMALL_UNIT_SEL_PIN_REG(9u)] = SMALL_WITH_AT(SMALL_UNIT_SEL_PIN, 9u, "
    "SMALL_A->SEL[1], v);\n"
    "    SMALL_A->TX = v;\n"
    "    small_unit_set_DIV(SMALL_A, v);\n"
    "    wad_put(SMALL_A_BASE, wad_at(small_unit_sel_pin, 9), v);\n"
    "    return SMALL_A->RX + SMALL_GET_AT(SMALL_UNIT_SEL_PIN, 3u, v) + "
    "small_unit_get_DIV(SMALL_A);\n"
    "}\n";

static void output_compiles_without_a_warning(void **state)
{
    (void)state;
    wad_sheet *s = small();
    char *folder = test_folder();
    for (unsigned i = 0; i < G_N_ELEMENTS(outputs); i++) {
        char *path = g_build_filename(folder, outputs[i].file, NULL);
        char *text = emit(outputs[i].writer, s);
        g_file_set_contents(path, text, -1, NULL);
        free(text);
        g_free(path);
    }
    char *source = g_build_filename(folder, "use.c", NULL);
    char *vectors = g_build_filename(folder, "small_vectors.c", NULL);
    g_file_set_contents(source, use, -1, NULL);
    compile("gcc", folder, source);
    compile("gcc", folder, vectors);
    char *clang = g_find_program_in_path("clang");
    if (clang) {
        compile("clang", folder, source);
        compile("clang", folder, vectors);
    }
    g_free(clang);
    g_free(source);
    g_free(vectors);
    wad_sheet_free(s);
    test_remove(folder);
}

/* Every operator of a law becomes C of the same meaning. */
static void laws_become_c_whole(void **state)
{
    static const char text[] =
        "chip T {\n bus little 32\n clock core 8 MHz\n"
        " clock a law min(core, 3 MHz) + max(core, 1 Hz)\n clock b law core / 3 ** A.R.P\n"
        " clock c law -core + 2 * core\n clock d law core / A.R.E\n clock e law core / A.C.N[2]\n"
        " block A at 0x1000 like l\n}\nlayout l {\n reg R at 0 rw reset 0x14 {\n 1:0 P rw\n"
        " 5:2 E rw { 5 big is 64 }\n }\n reg C at 4 rw reset 0x1111 {\n 3:0 N[4] rw not 0\n }\n}\n";
    (void)state;
    wad_diags *diags = wad_diags_new();
    wad_sheet *s = wad_sheet_parse(text, strlen(text), "t.sheet", diags);
    assert_non_null(s);
    char *c = emit(wad_emit_roles, s);
    assert_non_null(strstr(
        c, "(wad_smaller(t_core_hz(), UINT32_C(3000000)) + wad_larger(t_core_hz(), UINT32_C(1)))"));
    assert_non_null(
        strstr(c, "(t_core_hz() / wad_power(UINT32_C(3), (wad_get(T_A_BASE, t_l_r_p))))"));
    assert_non_null(strstr(c, "((0u - t_core_hz()) + (UINT32_C(2) * t_core_hz()))"));
    assert_non_null(strstr(c, "(wad_get(T_A_BASE, t_l_r_e) == 5u ? 64u : wad_get("));
    assert_non_null(strstr(c, "wad_get(T_A_BASE, wad_at(t_l_c_n, 2))"));
    free(c);
    wad_sheet_free(s);
    wad_diags_free(diags);
}

/* What would be wrong C is an error with its place, and what is right is not. */
static void what_c_cannot_say_is_refused(void **state)
{
    static const struct {
        const char *old, *new, *wanted; /* wanted NULL: good */
    } cases[] = {
        {"law internal / 2 ** A.CTRL.DIV", "law internal / 2 ** A.CTRL.DIV", NULL},
        {"law internal / 2 ** A.CTRL.DIV", "law internal * 1.5", "whole numbers: write 3 / 2"},
        {"law internal / 2 ** A.CTRL.DIV", "law internal * 1000", "counts in 32 bits"},
        {"law internal / 2 ** A.CTRL.DIV", "law internal / 3 * 2", NULL},
        {"law internal / 2 ** A.CTRL.DIV", "law 3 / 2 * internal", "this quotient has a fraction"},
        {"needs A.CTRL.GATE = 1", "needs A.CTRL.GATE != 0", "needs"},
        {"needs A.CTRL.GATE = 1", "needs A.CTRL.GATE = 1 and A.CTRL.MODE = 1", NULL},
        {"clock internal 8 MHz", "clock internal 8 MHz on A.CTRL.GATE = 1 and A.CTRL.MODE = 1",
         "by one field"}};
    char *text;
    (void)state;
    assert_true(g_file_get_contents(SOURCE_DIR "/tests/golden/small.sheet", &text, NULL, NULL));
    for (unsigned i = 0; i < G_N_ELEMENTS(cases); i++) {
        char *at = strstr(text, cases[i].old), *said;
        size_t size;
        assert_non_null(at);
        char *own = g_strdup_printf("%.*s%s%s", (int)(at - text), text, cases[i].new,
                                    at + strlen(cases[i].old));
        wad_diags *diags = wad_diags_new();
        wad_sheet *s = wad_sheet_parse(own, strlen(own), "own.sheet", diags);
        bool good = s && wad_emit_check(s, diags);
        FILE *f = open_memstream(&said, &size);
        wad_diags_print(diags, f);
        fclose(f);
        if (good != !cases[i].wanted || (cases[i].wanted && !strstr(said, cases[i].wanted)) ||
            (cases[i].wanted && !strstr(said, "own.sheet:")))
            fail_msg("%s: %s: %s", cases[i].new, good ? "good" : "refused", said);
        free(said);
        wad_diags_free(diags);
        wad_sheet_free(s);
        g_free(own);
    }
    g_free(text);
}

static void board_names_its_pins(void **state)
{
    (void)state;
    wad_board *board = test_board("skerry");
    char *text;
    size_t size;
    FILE *f = open_memstream(&text, &size);
    wad_emit_pins(board, f);
    fclose(f);
    assert_non_null(strstr(text, "#define SKERRY_WARN CORRAN32_PC3 /* warning lamp */\n"));
    assert_non_null(strstr(text, "#define SKERRY_TEST_ACTIVE 0\n"));
    assert_non_null(strstr(text, "#define SKERRY_THERMO_CS CORRAN32_PB12"));
    free(text);
    wad_board_free(board);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(output_equals_the_golden_files),
        cmocka_unit_test(same_sheet_same_bytes),
        cmocka_unit_test(output_compiles_without_a_warning),
        cmocka_unit_test(laws_become_c_whole),
        cmocka_unit_test(what_c_cannot_say_is_refused),
        cmocka_unit_test(board_names_its_pins),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
