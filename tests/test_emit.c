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

/* ---- laws in C are worth what the sheet's are ---- */

static const char laws[] =
    "chip T {\n bus little 32\n clock core 8 MHz\n clock slow 32768 Hz\n"
    " clock a law min(core, 3 MHz) + max(slow, 1 Hz)\n clock b law core / 3 ** A.R.P\n"
    " clock c law -core + 2 * core\n clock d law core / A.R.E\n clock e law core / A.C.N[2]\n"
    " clock f law core * 1.5 * (A.C.N[0] + A.C.N[1] / 16)\n"
    " clock g law 7 / 3 * core / (1 + A.R.P / 3)\n"
    " clock h law core * (A.M.V + 1) / (A.R.P + 1000)\n"
    " clock i law pick A.M.V { 0 .. 99 core / 2, 100 .. 65534 slow * 3, 65535 core / 7 } / 5\n"
    " clock j law min(core / (A.R.P + 2), core / 3)\n"
    " clock k law core / (2 * 1.5 ** A.R.P)\n"
    " clock l law floor(core / (A.M.V + 1) / 7) * 7\n"
    " block A at 0x1000 like l\n}\nlayout l {\n reg R at 0 rw reset 0x14 {\n 1:0 P rw\n"
    " 5:2 E rw not 0 { 5 big is 64 }\n }\n reg C at 4 rw reset 0x1111 {\n 3:0 N[4] rw not 0\n }\n"
    " reg M at 8 rw { 15:0 V rw }\n}\n";

enum { SETTINGS = 200, LAW_REGS = 3 };

/* Prints every clock at every setting. */
static char *law_program(const wad_sheet *s, uint32_t settings[][LAW_REGS])
{
    GString *c =
        g_string_new("#include <stdio.h>\n#include \"t_roles.h\"\n"
                     "static const unsigned *now;\n"
                     "uint32_t wad_port_read(uintptr_t base, uint32_t offset, uint8_t size)\n"
                     "{ (void)base; (void)size; return now[offset / 4]; }\n"
                     "void wad_port_write(uintptr_t b, uint32_t o, uint8_t s, uint32_t v)\n"
                     "{ (void)b; (void)o; (void)s; (void)v; }\n"
                     "static const unsigned all[][3] = {\n");
    for (unsigned i = 0; i < SETTINGS; i++)
        g_string_append_printf(c, "{%uu, %uu, %uu},\n", settings[i][0], settings[i][1],
                               settings[i][2]);
    g_string_append_printf(c,
                           "};\nint main(void)\n{\nfor (int i = 0; i < %d; i++) {\n"
                           "now = all[i];\n",
                           SETTINGS);
    for (unsigned i = 0; i < s->n_clocks; i++)
        g_string_append_printf(c, "printf(\"%%lu\\n\", (unsigned long)t_%s_hz());\n",
                               s->clocks[i]->name);
    g_string_append(c, "}\nreturn 0;\n}\n");
    return g_string_free(c, FALSE);
}

static uint64_t law_register(void *ctx, const wad_instance *block, const wad_register *reg,
                             uint32_t index)
{
    (void)block;
    (void)index;
    return ((const uint32_t *)ctx)[reg->offset / 4];
}

static void laws_are_worth_the_same_in_c(void **state)
{
    static uint32_t settings[SETTINGS][LAW_REGS];
    (void)state;
    wad_diags *diags = wad_diags_new();
    wad_sheet *s = wad_sheet_parse(laws, strlen(laws), "t.sheet", diags);
    char *said = test_diags_text(diags);
    if (!s || !wad_emit_check(s, diags))
        fail_msg("%s", said);
    g_free(said);
    for (unsigned i = 0; i < SETTINGS; i++) {
        settings[i][0] = (uint32_t)g_random_int_range(0, 4) | 4u << 2 | (i % 2 ? 1u << 2 : 0);
        for (unsigned k = 0; k < 4; k++)
            settings[i][1] |= (uint32_t)g_random_int_range(1, 16) << 4 * k;
        settings[i][2] =
            i < 4 ? (uint32_t[]){0, 99, 100, 65535}[i] : (uint32_t)g_random_int_range(0, 65536);
    }
    char *folder = test_folder(), *roles = emit(wad_emit_roles, s);
    char *header = emit(wad_emit_header, s), *program = law_program(s, settings);
    char *paths[4] = {
        g_build_filename(folder, "t_roles.h", NULL), g_build_filename(folder, "t.h", NULL),
        g_build_filename(folder, "laws.c", NULL), g_build_filename(folder, "laws", NULL)};
    g_file_set_contents(paths[0], roles, -1, NULL);
    g_file_set_contents(paths[1], header, -1, NULL);
    g_file_set_contents(paths[2], program, -1, NULL);
    char *out, *err, *include = g_strconcat("-I", folder, NULL);
    if (test_spawn(&out, &err, "gcc", "-std=c11", "-Wall", "-Wextra", "-Wconversion", "-Werror",
                   "-O1", include, "-I" SOURCE_DIR "/include", "-I" SOURCE_DIR "/ports/sim",
                   paths[2], "-o", paths[3], NULL))
        fail_msg("%s\n%s", err, roles);
    g_free(out);
    g_free(err);
    assert_int_equal(test_spawn(&out, &err, paths[3], NULL), 0);
    const char *at = out;
    for (unsigned i = 0; i < SETTINGS; i++)
        for (unsigned k = 0; k < s->n_clocks; k++) {
            wad_rational hz;
            assert_true(wad_clock_rate(s, s->clocks[k], law_register, settings[i], &hz, NULL));
            uint64_t got = strtoull(at, (char **)&at, 10), want = (uint64_t)(hz.num / hz.den);
            if (got != want)
                fail_msg("%s with %x %x %x: %llu in C, %llu by the sheet", s->clocks[k]->name,
                         settings[i][0], settings[i][1], settings[i][2], (unsigned long long)got,
                         (unsigned long long)want);
        }
    for (unsigned i = 0; i < 4; i++)
        g_free(paths[i]);
    g_free(out);
    g_free(err);
    g_free(include);
    g_free(program);
    free(roles);
    free(header);
    test_remove(folder);
    wad_sheet_free(s);
    wad_diags_free(diags);
}

/* What would be wrong C is an error with its place, and what is right is not. */
static void what_c_cannot_say_is_refused(void **state)
{
    static const struct {
        const char *old, *new, *wanted; /* wanted NULL: good */
    } cases[] = {{"law internal / 2 ** A.CTRL.DIV", "law internal / 2 ** A.CTRL.DIV", NULL},
                 {"law internal / 2 ** A.CTRL.DIV", "law internal * 1.5", NULL},
                 {"law internal / 2 ** A.CTRL.DIV", "law internal * 1000",
                  "in 32 bits of hertz, and 'core' can reach 8e+09"},
                 {"law internal / 2 ** A.CTRL.DIV", "law internal / 3 * 2", NULL},
                 {"law internal / 2 ** A.CTRL.DIV", "law 3 / 2 * internal", NULL},
                 {"needs A.CTRL.GATE = 1", "needs A.CTRL.GATE != 0", "needs"},
                 {"needs A.CTRL.GATE = 1", "needs A.CTRL.GATE = 1 and A.CTRL.MODE = 1", NULL},
                 {"clock internal 8 MHz",
                  "clock internal 8 MHz on A.CTRL.GATE = 1 and A.CTRL.MODE = 1", "by one field"}};
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
        cmocka_unit_test(laws_are_worth_the_same_in_c),
        cmocka_unit_test(what_c_cannot_say_is_refused),
        cmocka_unit_test(board_names_its_pins),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
