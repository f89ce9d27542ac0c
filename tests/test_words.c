/* SPDX-License-Identifier: MIT */
/* Control words: fields to bits and back, for every field of every chip, and what is refused. */
#include <string.h>

#include "support.h"
#include "wadium/host/words.h"

static const char *const chips[] = {"corran32", "corran16", "corran8"};

/* Each writable field set to each of some values: only its bits change, and to that value. */
static void check_field(const wad_instance *b, const wad_register *r, const wad_bitfield *f,
                        GRand *rand)
{
    unsigned n = f->count ? f->count : 1;
    for (unsigned k = 0; k < n; k++) {
        uint32_t element = f->count > f->per_reg ? k / f->per_reg : 0;
        unsigned lsb = f->lsb + (f->count ? k % f->per_reg * f->step : 0);
        uint64_t ones = (UINT64_C(1) << f->width) - 1;
        uint64_t value = g_rand_int(rand) & ones, start = g_rand_int(rand);
        if (f->not_zero && !value)
            value = 1;
        char *setting = f->count
                            ? g_strdup_printf("%s[%u]=%llu", f->name, k, (unsigned long long)value)
                            : g_strdup_printf("%s=0x%llx", f->name, (unsigned long long)value);
        const char *const settings[] = {setting, NULL};
        wad_fieldref ref = {.block = b, .reg = r, .reg_index = element, .width = r->width};
        wad_word w;
        char *why;
        if (!wad_encode(&ref, start, settings, &w, &why))
            fail_msg("%s.%s %s: %s", b->name, r->name, setting, why);
        assert_int_equal(w.value, (start & ~(ones << lsb)) | value << lsb);
        assert_int_equal(w.given, ones << lsb);
        g_free(setting);
    }
}

static void every_field_lands_on_its_bits(void **state)
{
    GRand *rand = g_rand_new_with_seed(11);
    (void)state;
    for (unsigned c = 0; c < G_N_ELEMENTS(chips); c++) {
        wad_sheet *sheet = test_chip(chips[c]);
        for (unsigned i = 0; i < sheet->n_blocks; i++)
            for (unsigned k = 0; k < sheet->blocks[i]->layout->n_regs; k++) {
                const wad_register *r = sheet->blocks[i]->layout->regs[k];
                for (unsigned n = 0; !r->alias && n < r->n_fields; n++)
                    if (r->fields[n]->name && r->fields[n]->access != WAD_ACCESS_RO)
                        check_field(sheet->blocks[i], r, r->fields[n], rand);
            }
        wad_sheet_free(sheet);
    }
    g_rand_free(rand);
}

static void wrong_settings_name_the_cure(void **state)
{
    static const struct {
        const char *reg, *setting, *message;
    } cases[] = {
        {"CNT0.CTRL", "MODE=dwn", "'MODE' has no value 'dwn': it has 0 up, 1 down, 2 updown"},
        {"CNT0.CTRL", "MOD=1", "CTRL has no field 'MOD' (did you mean 'MODE'?)"},
        {"CNT0.CTRL", "EN", "'EN' is not written FIELD=VALUE"},
        {"CNT0.CTRL", "EN=2", "2 does not fit 'EN', which has 1 bit: 0 to 1"},
        {"CLK.PLL", "MUL=0", "'MUL' must not be 0"},
        {"CLK.PLL", "MUL=x", "'x' is no value for 'MUL', which takes a number of 6 bits"},
        {"CLK.STAT", "XTALRDY=1", "'XTALRDY' is read-only"},
        {"PINA.FUNC[1]", "PIN[3]=1", "'PIN' has elements here: write PIN[8] to PIN[15]"},
        {"CNT0.CTRL", "EN[0]=1", "'EN' has no elements"},
    };
    wad_sheet *sheet = test_chip("corran32");
    (void)state;
    for (unsigned i = 0; i < G_N_ELEMENTS(cases); i++) {
        const char *const settings[] = {cases[i].setting, NULL};
        wad_fieldref ref;
        wad_word w;
        char *why;
        assert_true(wad_sheet_resolve(sheet, cases[i].reg, &ref, &why));
        assert_false(wad_encode(&ref, 0, settings, &w, &why));
        assert_string_equal(why, cases[i].message);
        g_free(why);
    }
    wad_sheet_free(sheet);
}

static void values_that_cannot_be_are_doubted(void **state)
{
    wad_sheet *sheet = test_chip("corran32");
    wad_word w = {.value = 0x80000006};
    char *why;
    (void)state;
    assert_true(wad_sheet_resolve(sheet, "CNT0.CTRL", &w.ref, &why));
    char **doubts = wad_word_doubts(&w);
    assert_int_equal(g_strv_length(doubts), 2);
    assert_string_equal(doubts[0], "MODE has no value 3");
    assert_string_equal(doubts[1], "reserved bits 0x80000000 are not as they must be");
    g_strfreev(doubts);
    w.value = 0x11;
    doubts = wad_word_doubts(&w);
    assert_null(doubts[0]);
    g_strfreev(doubts);
    wad_sheet_free(sheet);
}

static void every_address_finds_its_register(void **state)
{
    (void)state;
    for (unsigned c = 0; c < G_N_ELEMENTS(chips); c++) {
        wad_sheet *sheet = test_chip(chips[c]);
        for (unsigned i = 0; i < sheet->n_blocks; i++)
            for (unsigned k = 0; k < sheet->blocks[i]->layout->n_regs; k++) {
                const wad_register *r = sheet->blocks[i]->layout->regs[k];
                wad_fieldref ref;
                if (!strcmp(r->name, "TX")) /* shares its address with RX, which is read */
                    r = wad_layout_register(sheet->blocks[i]->layout, "RX");
                uint64_t at = sheet->blocks[i]->base + r->offset + (r->count ? r->step : 0);
                assert_true(wad_sheet_at(sheet, at, &ref));
                assert_ptr_equal(ref.reg, r);
                assert_int_equal(ref.reg_index, r->count ? 1 : 0);
            }
        wad_fieldref none;
        assert_false(wad_sheet_at(sheet, 0xFFFF0000u, &none));
        wad_sheet_free(sheet);
    }
}

static char *diff_text(const wad_dump *a, const wad_dump *b, unsigned *n)
{
    char *text;
    size_t size;
    FILE *f = open_memstream(&text, &size);
    *n = wad_dump_diff(a, b, f);
    fclose(f);
    return text;
}

static void dumps_are_read_and_compared_by_field(void **state)
{
    wad_sheet *sheet = test_chip("corran32");
    wad_diags *diags = wad_diags_new();
    unsigned n;
    (void)state;
    wad_dump *a = wad_dump_parse(
        sheet, "# before\n0x40010000 0x11\nCLK.SEL: 2 # core\nCLK.CTRL 1\n", "a", diags);
    wad_dump *b =
        wad_dump_parse(sheet, "CNT0.CTRL = 0x13\n0x4000_000C 2\nCLK.GATE 0x100\n", "b", diags);
    assert_int_equal(wad_diags_count(diags), 0);
    assert_int_equal(wad_dump_count(a), 3);
    char *text = diff_text(a, b, &n);
    assert_int_equal(n, 3);
    assert_non_null(strstr(text, "CNT0.CTRL.MODE           0 up             -> 1 down\n"));
    assert_non_null(strstr(text, "CLK.CTRL                 only in the first dump\n"));
    assert_non_null(strstr(text, "CLK.GATE                 only in the second dump\n"));
    free(text);
    text = diff_text(a, a, &n);
    assert_int_equal(n, 0);
    free(text);
    wad_dump_free(a);
    wad_dump_free(b);
    assert_null(wad_dump_parse(sheet, "CNT0.CTRL\n0x10 5\nCNT0.CTRL x\n", "c", diags));
    char *errors = test_diags_text(diags);
    assert_non_null(
        strstr(errors, "c:1:1: error: a line is an address or BLOCK.REGISTER, and a value"));
    assert_non_null(strstr(errors, "c:2:1: error: no register lies at 0x10"));
    assert_non_null(strstr(errors, "c:3:1: error: this is no number: x"));
    g_free(errors);
    wad_diags_free(diags);
    wad_sheet_free(sheet);
}

/* What the command prints compiles to the very word it names. */
static void the_c_that_is_printed_makes_the_word(void **state)
{
    (void)state;
    char *folder = test_folder(), *out, *err;
    char *script = g_strdup_printf(
        "set -e; cd %s; W=" BUILD_DIR "/bin/wadium; $W emit header corran32 -o corran32.h;"
        "check() { $W encode corran32 \"$@\" > word.txt;"
        " echo '#include \"corran32.h\"' > t.c; echo 'enum { W = (' >> t.c;"
        " sed -n '/^C:/,$p' word.txt | sed -e '1d' -e 's/;$//' >> t.c;"
        " echo \") };_Static_assert((unsigned)W == $(head -1 word.txt | cut -d' ' -f3), "
        "\\\"\\\");\" >> t.c;"
        " gcc -c t.c -o t.o; };"
        "check CNT0.CTRL EN=1 MODE=down SHADOW=1; check CNT0.CTRL MODE=updown --explicit;"
        "check 'PINA.FUNC[1]' 'PIN[9]=3' 'PIN[15]=12'; check CLK.PLL MUL=6 DIV=1 SRC=xtal;"
        "check CNT0.OUTMODE 'CH[2]=pwm' --from 0x1; echo fine",
        folder);
    int status = test_spawn(&out, &err, "bash", "-c", script, NULL);
    if (status || !strstr(out, "fine"))
        fail_msg("%s%s", out, err);
    g_free(out);
    g_free(err);
    g_free(script);
    test_remove(folder);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(every_field_lands_on_its_bits),
        cmocka_unit_test(wrong_settings_name_the_cure),
        cmocka_unit_test(values_that_cannot_be_are_doubted),
        cmocka_unit_test(every_address_finds_its_register),
        cmocka_unit_test(dumps_are_read_and_compared_by_field),
        cmocka_unit_test(the_c_that_is_printed_makes_the_word),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
