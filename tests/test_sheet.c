/* SPDX-License-Identifier: MIT */
/* The sheet language: what it says, what it refuses and where. */
#include <string.h>

#include "support.h"
#include "wadium/host/clocktree.h"
#include "wadium/host/warnings.h"

/* A chip around a layout's body, for small cases. */
#define CHIP(layout)                                                                               \
    "chip T {\n bus little 32\n clock core 8 MHz\n block A at 0x1000 like l\n}\nlayout l "         \
    "{\n" layout "\n}\n"

static wad_sheet *parse(const char *text)
{
    wad_diags *diags = wad_diags_new();
    wad_sheet *sheet = wad_sheet_parse(text, strlen(text), "t.sheet", diags);
    wad_diags_print(diags, stderr);
    wad_diags_free(diags);
    assert_non_null(sheet);
    return sheet;
}

static const wad_register *reg_of(const wad_sheet *s, const char *name)
{
    const wad_register *r = wad_layout_register(wad_sheet_block(s, "A")->layout, name);
    assert_non_null(r);
    return r;
}

static void demonstration_chip_reads(void **state)
{
    (void)state;
    wad_sheet *s = test_chip("corran32");
    assert_string_equal(s->name, "Corran32");
    assert_int_equal(s->bus_bits, 32);
    assert_int_equal(s->n_pins, 48);
    const wad_instance *cnt1 = wad_sheet_block(s, "CNT1");
    assert_int_equal(cnt1->base, 0x40010400);
    assert_int_equal(cnt1->irqs[0], 9);
    assert_ptr_equal(wad_sheet_irq_owner(s, 9), cnt1);
    assert_string_equal(wad_instance_signal(cnt1, "CH2")->options[0].pin->name, "PA2");
    assert_int_equal(wad_layout_register(cnt1->layout, "RELOAD")->reset, 0xFFFF);
    const wad_instance *cnt3 = wad_sheet_block(s, "CNT3");
    assert_int_equal(wad_layout_register(cnt3->layout, "RELOAD")->reset, 0xFFFFFFFF);
    wad_sheet_free(s);
}

static void numbers_in_all_their_forms(void **state)
{
    (void)state;
    wad_sheet *s = parse(CHIP("reg A at 0x1_0 rw reset 0b1010\n"
                              "reg B at 4 * 5 rw reset 2 ** 16 - 1\n"
                              "reg C at (1 + 2) * 8 rw reset 1_000_000"));
    assert_int_equal(reg_of(s, "A")->offset, 16);
    assert_int_equal(reg_of(s, "A")->reset, 10);
    assert_int_equal(reg_of(s, "B")->offset, 20);
    assert_int_equal(reg_of(s, "B")->reset, 65535);
    assert_int_equal(reg_of(s, "C")->offset, 24);
    assert_int_equal(reg_of(s, "C")->reset, 1000000);
    wad_sheet_free(s);
}

/* Pin n's two bits may spill into a second register: element 17 of 16 a register. */
static void field_array_spills_over_registers(void **state)
{
    (void)state;
    wad_sheet *s = parse(CHIP("reg F[2] at 0 rw {\n 1:0 P[24] rw\n}"));
    const wad_bitfield *f = reg_of(s, "F")->fields[0];
    assert_int_equal(f->per_reg, 16);
    wad_fieldref ref;
    char *why = NULL;
    assert_true(wad_sheet_resolve(s, "A.F.P[17]", &ref, &why));
    assert_int_equal(wad_fieldref_address(&ref), 0x1004);
    assert_int_equal(ref.lsb, 2);
    assert_int_equal(wad_fieldref_mask(&ref), 0xC);
    char *name = wad_fieldref_name(&ref);
    assert_string_equal(name, "A.F.P[17]");
    g_free(name);
    assert_false(wad_sheet_resolve(s, "A.F.P[24]", &ref, &why));
    g_free(why);
    wad_sheet_free(s);
}

static void values_are_split_with_a_write_order(void **state)
{
    (void)state;
    wad_sheet *s = parse(CHIP("reg HI at 0 rw {\n 3:0 V rw\n}\nreg LO at 4 rw {\n 7:0 V rw\n}\n"
                              "value DIV = HI.V : LO.V \"divider\" write low first"));
    const wad_value *v = wad_sheet_block(s, "A")->layout->values[0];
    assert_string_equal(v->name, "DIV");
    assert_int_equal(v->width, 12);
    assert_int_equal(v->n_parts, 2);
    assert_string_equal(v->parts[0]->reg->name, "HI");
    assert_false(v->write_high_first);
    wad_sheet_free(s);
}

static void values_may_be_arrays_and_latch(void **state)
{
    (void)state;
    wad_sheet *s = parse(CHIP("reg H[3] at 0 rw width 8\nreg L[3] at 3 rw width 8\n"
                              "value CMP[n] = H[n].VALUE : L[n].VALUE latch low"));
    const wad_value *v = wad_sheet_block(s, "A")->layout->values[0];
    assert_int_equal(v->count, 3);
    assert_int_equal(v->width, 16);
    assert_true(v->latch_low);
    assert_true(v->write_high_first);
    wad_sheet_free(s);
}

static void locks_open_by_a_condition_or_by_a_key(void **state)
{
    (void)state;
    wad_sheet *s =
        parse(CHIP("lock A \"first\" while P.K = 0x5A\nlock B key KEY 0x11 0x22 relocks after 2\n"
                   "reg P at 0 rw {\n 7:0 K rw\n}\nreg KEY at 4 wo\nreg X at 8 rw locked A\n"
                   "reg Y at 12 rw locked B {\n 3:0 V w0c\n 7:4 _ must 0xF\n}\nreg Z at 16 rw"));
    const wad_layout *l = wad_sheet_block(s, "A")->layout;
    const wad_lock *a = reg_of(s, "X")->lock, *b = reg_of(s, "Y")->lock;
    assert_int_equal(l->n_locks, 2);
    assert_string_equal(a->text, "first");
    assert_int_equal(a->open->terms[0].value, 0x5A);
    assert_null(a->key);
    assert_string_equal(b->key->name, "KEY");
    assert_int_equal(b->n_sequence, 2);
    assert_int_equal(b->sequence[1], 0x22);
    assert_int_equal(b->writes, 2);
    assert_null(b->open);
    assert_null(reg_of(s, "Z")->lock);
    assert_int_equal(reg_of(s, "Y")->fields[0]->access, WAD_ACCESS_W0C);
    assert_int_equal(reg_of(s, "Y")->fields[1]->must, 0xF);
    wad_sheet_free(s);
}

static void a_block_may_route_its_pins_together(void **state)
{
    (void)state;
    wad_sheet *s = test_chip("corran16");
    const wad_instance *b = wad_sheet_block(s, "CNT1");
    char *name = wad_fieldref_name(&b->route);
    assert_string_equal(name, "MAP.ROUTE.CNT1");
    assert_int_equal(b->signals[0].options[1].fn, 2);
    assert_string_equal(b->signals[0].options[1].pin->name, "P10");
    assert_null(wad_sheet_block(s, "PORT0")->route.reg);
    assert_int_equal(s->cpu.int_bits, 16);
    assert_true(s->cpu.aligned);
    assert_int_equal(s->cpu.bus_fault, -1);
    assert_int_equal(wad_sheet_address_bias(s), WAD_LOW_ADDRESS_BIAS);
    g_free(name);
    wad_sheet_free(s);
}

static void one_address_reads_one_and_writes_another(void **state)
{
    (void)state;
    wad_sheet *s = parse(CHIP("reg RX at 0 ro\nreg TX at 0 wo"));
    wad_diags *diags = wad_diags_new();
    wad_sheet_lint(s, diags);
    assert_int_equal(wad_diags_count(diags), 1); /* no overlap; nothing asks for them */
    assert_non_null(strstr(wad_diags_at(diags, 0)->text, "nothing asks for 2 of the 2 fields"));
    assert_int_equal(reg_of(s, "RX")->offset, reg_of(s, "TX")->offset);
    wad_diags_free(diags);
    wad_sheet_free(s);
}

static void names_may_look_like_units(void **state)
{
    (void)state;
    wad_sheet *s = parse(CHIP("reg R at 0 rw {\n 0 s rw\n 1 V rw { 0 h, 1 B }\n}"));
    assert_non_null(wad_register_field(reg_of(s, "R"), "s"));
    assert_int_equal(wad_register_field(reg_of(s, "R"), "V")->n_enums, 2);
    wad_sheet_free(s);
}

static void block_arrays_count_through(void **state)
{
    (void)state;
    wad_sheet *s = parse("chip T {\n bus little 32\n clock core 8 MHz\n"
                         " block G at 0 like gate\n"
                         " block A[3] step 0x100 at 0x1000 like l {\n"
                         "  irq 4 + i\n  needs G.ON.B[i] = 1 and G.FN.P[8] = 3\n }\n}\n"
                         "layout l {\n reg R at 0 rw\n}\n"
                         "layout gate {\n reg ON at 0 rw {\n 0 B[4] rw\n }\n reg FN[2] at 4 rw {\n "
                         "3:0 P[16] rw\n }\n}\n");
    const wad_instance *a2 = wad_sheet_block(s, "A2");
    assert_int_equal(a2->base, 0x1200);
    assert_int_equal(a2->irqs[0], 6);
    assert_int_equal(a2->needs.terms[0].ref.lsb, 2);
    assert_int_equal(a2->needs.terms[1].ref.reg_index, 1); /* the array spills */
    assert_int_equal(a2->needs.terms[1].ref.lsb, 0);
    wad_sheet_free(s);
}

static uint64_t pll_settings(void *ctx, const wad_instance *block, const wad_register *reg,
                             uint32_t index)
{
    const uint32_t *regs = ctx;
    (void)block;
    (void)index;
    return !strcmp(reg->name, "PLL") ? regs[0] : !strcmp(reg->name, "SEL") ? regs[1] : reg->reset;
}

/* All settings of the PLL and its dividers, against the formula of the datasheet. */
static void clock_laws_are_exact(void **state)
{
    (void)state;
    wad_sheet *s = test_chip("corran32");
    const wad_clock *per = wad_sheet_clock(s, "per"), *root;
    for (uint32_t mul = 0; mul < 64; mul++)
        for (uint32_t div = 0; div < 16; div++)
            for (uint32_t cdiv = 0; cdiv < 8; cdiv += 3) {
                uint32_t regs[] = {mul | div << 8 | 1u << 12, 2u | cdiv << 4 | 1u << 8};
                wad_rational hz;
                assert_true(wad_clock_rate(s, per, pll_settings, regs, &hz, &root));
                /* hz.num / hz.den == 12 MHz * (mul + 2) / (div + 1) / 2^cdiv / 2 */
                assert_true((uint64_t)hz.num * (div + 1) * (2u << cdiv) ==
                            UINT64_C(12000000) * (mul + 2) * (uint64_t)hz.den);
                assert_string_equal(root->name, "xtal");
            }
    wad_sheet_free(s);
}

static void laws_know_functions_and_picks(void **state)
{
    static const struct {
        const char *law;
        int64_t num, den;
    } cases[] = {{"floor(core / 3)", 2666666, 1},
                 {"min(core, 3 MHz)", 3000000, 1},
                 {"max(core, 3 MHz) - 1 Hz", 7999999, 1},
                 {"core / 3", 8000000, 3},
                 {"-2 * -core", 16000000, 1},
                 {"2 ** 3 ** 2 * core / 8000000", 512, 1},
                 {"pick A.R.P { 0 core, 1 core / 2, 3 core * 5 / 7 }", 40000000, 7},
                 {"core / A.R.E", 125000, 1}};
    (void)state;
    for (unsigned i = 0; i < G_N_ELEMENTS(cases); i++) {
        char *text =
            g_strdup_printf("chip T {\n bus little 32\n clock core 8 MHz\n clock x law %s\n"
                            " block A at 0 like l\n}\nlayout l {\n reg R at 0 rw reset 0x17 {\n"
                            " 1:0 P rw\n 5:2 E rw { 5 big is 64 }\n }\n}\n",
                            cases[i].law);
        wad_sheet *s = parse(text);
        wad_rational hz;
        assert_true(wad_clock_rate(s, wad_sheet_clock(s, "x"), NULL, NULL, &hz, NULL));
        assert_int_equal(hz.num, cases[i].num);
        assert_int_equal(hz.den, cases[i].den);
        wad_sheet_free(s);
        g_free(text);
    }
}

/* By code, whatever its enumerator `is` worth in laws, also where two are worth the same or one is
 * worth what another one is; and the solver finds the code back. */
static void a_pick_goes_by_code(void **state)
{
    static const int64_t up[] = {1, 1, 1, 5}, down[] = {1, 2, 3, 7}, worth[] = {7, 2, 2, 1};
    (void)state;
    for (unsigned code = 0; code < 4; code++) {
        char *text = g_strdup_printf(
            "chip T {\n bus little 32\n clock core 8 MHz\n"
            " clock x law pick A.R.P { 0 core, 1 core / 2, 2 core / 3, 3 core * 5 / 7 }\n"
            " clock y law core / A.R.P\n block A at 0 like l\n}\nlayout l {\n"
            " reg R at 0 rw reset %u {\n"
            " 1:0 P rw { 0 a is 7, 1 b is 2, 2 c is 2, 3 d is 1 }\n }\n}\n",
            code);
        wad_sheet *s = parse(text);
        wad_rational hz;
        assert_true(wad_clock_rate(s, wad_sheet_clock(s, "x"), NULL, NULL, &hz, NULL));
        assert_true(hz.num * down[code] == 8000000 * up[code] * hz.den);
        assert_true(wad_clock_rate(s, wad_sheet_clock(s, "y"), NULL, NULL, &hz, NULL));
        assert_true(hz.num * worth[code] == 8000000 * hz.den);
        for (unsigned wanted = 0; wanted < 4; wanted++) {
            wad_clock_wish wish = {wad_sheet_clock(s, "x"), {8000000 * up[wanted], down[wanted]}};
            wad_clock_plan plan;
            char *why = NULL;
            assert_true(wad_clock_solve(s, &wish, 1, NULL, 0, &plan, &why));
            assert_true(plan.worst_ppm == 0);
            assert_int_equal(plan.n_settings, wanted != code);
            if (plan.n_settings)
                assert_int_equal(plan.settings[0].value, wanted);
            wad_clock_plan_clear(&plan);
        }
        wad_sheet_free(s);
        g_free(text);
    }
}

/* ---- what is refused, and where ---- */

/* A block that listens, with one more line. */
#define LINKED(line)                                                                               \
    "chip T {\n bus little 32\n clock core 8 MHz\n block A at 0 like l {\n\n " line "\n }\n}\n"    \
    "layout l {\n reg R at 0 rw {\n 0 E rw\n 1 W rw\n 2 I rw\n 4:3 S rw\n 5 F rw cleared at "      \
    "entry\n"                                                                                      \
    " }\n acts as counter { enable R.E, wrap R.W, wrap_irq R.I, trigger R.S }\n}\n"

typedef struct wrong {
    const char *text, *place, *message;
} wrong;

static void check_wrong(const wrong *w)
{
    char *errors = test_sheet_errors(w->text);
    char *start = g_strdup_printf("t.sheet:%s: error: ", w->place);
    const char *at = strstr(errors, start);
    if (!at || !strstr(at, w->message))
        fail_msg("wanted %s...%s\ngot %s", start, w->message, errors);
    g_free(start);
    g_free(errors);
}

static void errors_name_place_and_cause(void **state)
{
    static const wrong cases[] = {
        {CHIP("reg R at 0 rw locked L"), "7:5", "this layout has no lock 'L'"},
        {CHIP("reg R at 0 rw\nlock L by R"), "8:8",
         "'while CONDITION' or 'key REGISTER VALUE ...'"},
        {CHIP("reg R at 0 rw\nlock L key S 1 2"), "8:12", "layout 'l' has no register 'S'"},
        {CHIP("reg R at 0 rw\nlock L key R"), "8:13", "the values of the key"},
        {CHIP("reg R at 0 rw {\n 3:0 _ must 16\n}"), "8:13",
         "the value of reserved bits must be a whole number from 0 to 15"},
        {CHIP("reg H[2] at 0 rw\nreg L[3] at 8 rw\nvalue V[n] = H[n].VALUE : L[n].VALUE"), "9:27",
         "each part of 'V[n]' lies in an array of registers of one length"},
        {CHIP("reg R at 0 rw {\n 32 X rw\n}"), "8:2", "bit 32 lies outside register 'R'"},
        {CHIP("reg R at 0 rw {\n 0:3 X rw\n}"), "8:2", "written high:low, as 3:0"},
        {CHIP("reg R at 2 rw"), "7:5", "not a multiple of the register's 4 bytes"},
        {CHIP("reg R at 0 rx"), "7:12",
         "an access kind (rw, ro, wo, w1c, w1s, w1t, w0c, w0s, w0t, rc, rs, wc, ws, once, pulse)"},
        {CHIP("reg R at 0 rw\nreg R at 4 rw"), "8:5", "stands twice"},
        {CHIP("reg R at 0 rw reset 0x1_0000_0000"), "7:5", "does not fit 32 bits"},
        {CHIP("reg R at 0 rw {\n 0 X rw \"open\n}"), "8:9", "no closing '\"'"},
        {CHIP("reg R at 0 rw {\n 1:0 X rw { 4 big }\n}"), "8:13", "from 0 to 3"},
        {CHIP("reg R at 0 rw {\n 1:0 X rw { 1 a, 1 b }\n}"), "8:18", "stands twice in this list"},
        {CHIP("reg R[2] at 0 rw {\n 7:0 X[12] rw\n}"), "8:8", "need 3 registers, 'R' has 2"},
        {CHIP("reg R at 0 rw\nreg S at 4 sets Q"), "8:5", "no register of this layout"},
        {CHIP("acts as conter { enable R.E }"), "7:9", "no kind 'conter'"},
        {CHIP("reg R at 0 rw {\n 0 E rw\n}\nacts as counter { enabel R.E }"), "10:19",
         "did you mean 'enable'?"},
        {CHIP("reg R at 0 rw {\n 0 E rw\n}\nacts as counter { enable R.X }"), "10:26",
         "register 'R' has no field 'X'"},
        {CHIP("reg R at 0 rw {\n 0 E rw\n}\nacts as counter { match[n] R.E }"), "10:28",
         "must stand in its path"},
        {CHIP("rog R at 0 rw"), "7:1",
         "'reg', 'group', 'value', 'lock', 'rate', 'change', 'on EVENT' or 'acts as KIND'"},
        {"chip T {\n bus little 32\n clock core law a\n clock a law core\n}", "3:8",
         "depends on itself"},
        {"chip T {\n bus little 32\n clock core law nix\n}", "3:17", "'nix' is no clock"},
        {"chip T {\n bus little 32\n clock core 0 Hz\n}", "3:8", "above 0 Hz"},
        {"chip T {\n bus little 32\n clock core 8 V\n}", "3:13", "a frequency such as 8 MHz"},
        {"chip T {\n bus little 24\n}", "2:13", "8, 16 or 32 bits"},
        {"chip T {\n bus little 32\n}", "1:6", "no clock named 'core'"},
        {"chip T {\n clock core 8 MHz\n}", "1:6", "no 'bus' statement"},
        {"chip T {\n bus little 32\n clock core 8 MHz\n block A at 0 like cuonter\n}\nlayout "
         "counter {\n reg R at 0 rw\n}",
         "4:20", "did you mean 'counter'?"},
        {"chip T {\n bus little 32\n clock core 8 MHz\n block A at 0 like l {\n needs B.R = 1\n "
         "}\n}\n"
         "layout l {\n reg R at 0 rw\n}",
         "5:8", "the chip has no block 'B'"},
        {"chip T {\n bus little 32\n clock core 8 MHz\n block A at 0 like l {\n pins X { PZ9 fn 1 "
         "}\n }\n}\nlayout l {\n reg R at 0 rw\n}",
         "5:11", "no pin 'PZ9'"},
        {"chip T {\n", "1:8", "never closed"},
        {"chip T {\n}\n}", "3:1", "closes nothing"},
        {"chip T { bus ? }", "1:14", "'?' has no meaning"},
        {"chip T {\n}\nchip U {\n}", "3:1", "this is the second"},
        {"chip T { bus little 99999999999999999999 }", "1:21", "number too large"},
        /* what links blocks */
        {CHIP("reg R at 0 rw {\n 0 X ro cleared by S\n}"), "8:20",
         "'S' is no register here and no flag of a unit"},
        {CHIP("reg R at 0 rw {\n 0 X ro cleared by read S\n}"), "8:25",
         "layout 'l' has no register 'S'"},
        {CHIP("reg R at 0 rw {\n 0 X ro cleared by write R.X\n}"), "8:26",
         "say which value: R.X = 1"},
        {CHIP("reg R at 0 rw {\n 0 X ro cleared by write R.X = 2\n}"), "8:32",
         "the value that is written must be a whole number from 0 to 1"},
        {CHIP("reg R at 0 rw {\n 0 X ro cleared by read R then S\n}"), "8:32",
         "'S' is no register here and no flag of a unit"},
        {CHIP("reg R at 0 rw {\n 0 X[2] ro cleared by read S\n}\nreg S[3] at 8 ro"), "8:28",
         "'S' has another number of elements"},
        {CHIP("reg R at 0 rw {\n 0 X ro cleared before\n}"), "8:17", "expected 'by'"},
        {LINKED("triggers { 1 B.wrap }"), "6:15", "there is no block 'B'"},
        {LINKED("triggers { 1 A.enable }"), "6:15", "'A.enable' is no event"},
        {LINKED("triggers { 1 A.wrap[1] }"), "6:15", "A.wrap has 1 elements: name none"},
        {LINKED("triggers { 1 A.wrap, 1 A.wrap }"), "6:23", "value 1 stands twice"},
        {LINKED("triggers { 4 A.wrap }"), "6:13", "from 0 to 3"},
        {LINKED("owned R.X by \"rom\""), "6:8", "register 'R' has no field 'X'"},
        {LINKED("owned R.E"), "6:11", "expected 'by'"},
        {"chip T {\n bus little 32\n clock core 8 MHz\n block A at 0 like l {\n"
         " triggers { 1 A.wrap }\n }\n}\nlayout l {\n reg R at 0 rw\n}",
         "5:11", "binds no role 'trigger'"},
        {"chip T {\n bus little 32\n clock core 8 MHz lost A.R.X\n}", "3:24", "no block 'A'"},
        {"chip T {\n bus little 32\n clock core 8 MHz\n block A at 0 like l\n}\n"
         "layout l {\n reg R at 0 rw {\n 0 E rw\n 7:1 P rw\n}\n acts as counter {\n enable R.E\n "
         "reload "
         "R.P\n}\n acts as tick {\n enable R.E\n}\n}",
         "15:2", "acts as counter already: name the further units"},
        {"chip T {\n bus little 32\n clock core 8 MHz\n block A at 0 like l\n block B at 4 like "
         "l\n}\n"
         "layout l {\n reg R[2] at 0 rw\n}",
         "5:8", "each address belongs to one block"},
    };
    (void)state;
    for (unsigned i = 0; i < G_N_ELEMENTS(cases); i++)
        check_wrong(&cases[i]);
}

static void line_is_quoted_with_a_caret(void **state)
{
    (void)state;
    char *errors = test_sheet_errors(CHIP("reg R at 0 rw {\n    32 X rw\n}"));
    assert_non_null(strstr(errors, "\n      32 X rw\n      ^\n"));
    g_free(errors);
}

static void several_errors_in_one_run(void **state)
{
    (void)state;
    char *errors = test_sheet_errors(CHIP("reg R at 0 rx\nreg S at 4 rw {\n 40 X rw\n}\nrog"));
    assert_non_null(strstr(errors, "t.sheet:7:12"));
    assert_non_null(strstr(errors, "t.sheet:9:2"));
    assert_non_null(strstr(errors, "t.sheet:11:1"));
    g_free(errors);
}

/* A layout is read once a variant, but a mistake in it is told once. */
static void shared_layout_reports_once(void **state)
{
    (void)state;
    char *errors =
        test_sheet_errors("chip T {\n bus little 32\n clock core 8 MHz\n"
                          " block A at 0 like l(W = 1)\n block B at 64 like l(W = 2)\n}\n"
                          "layout l(W = 0) {\n reg R at 0 rx\n}");
    const char *first = strstr(errors, "t.sheet:8:13");
    assert_non_null(first);
    assert_null(strstr(first + 1, "t.sheet:8:13"));
    g_free(errors);
}

/* ---- lint ---- */

static const struct {
    unsigned number;
    const char *what, *cure;
} warnings[] = {
#define ROW(name, number, what, cure) {number, what, cure},
    WAD_WARNINGS(ROW)
#undef ROW
};
static bool seen[G_N_ELEMENTS(warnings)];

/* Each line ends with the number of a row. */
static void note_numbers(const char *printed)
{
    for (const char *at = printed; (at = strstr(at, "warning: ")); at++) {
        size_t line = strcspn(at, "\n");
        const char *bracket = g_strrstr_len(at, (gssize)line, " [L");
        assert_non_null(bracket);
        unsigned number = (unsigned)atoi(bracket + 3), i = 0;
        while (i < G_N_ELEMENTS(warnings) && warnings[i].number != number)
            i++;
        assert_true(i < G_N_ELEMENTS(warnings));
        seen[i] = true;
    }
}

static void check_lint(const char *text, const char *message)
{
    wad_diags *diags = wad_diags_new();
    wad_sheet *s = parse(text);
    wad_sheet_lint(s, diags);
    char *printed = test_diags_text(diags);
    if (!strstr(printed, message))
        fail_msg("wanted '%s', got '%s'", message, printed);
    note_numbers(printed);
    g_free(printed);
    wad_diags_free(diags);
    wad_sheet_free(s);
}

static void lint_tells_each_doubt(void **state)
{
    (void)state;
    check_lint(CHIP("reg R at 0 rw {\n 3:0 X rw\n 3 Y rw\n}"), "overlaps another field");
    check_lint(CHIP("reg R at 0 rw reset 0x10 {\n 3:0 X rw\n}"),
               "sets bits 0x10 that no field has");
    check_lint(CHIP("reg R at 0 rw\nreg S at 0 rw"), "overlaps register 'R'");
    check_lint(CHIP("reg R[4] at 0 rw\nreg S at 8 rw"), "overlaps register 'R'");
    check_lint(CHIP("reg R at 0 rw reset 0 {\n 3:0 X rw not 0\n}"), "is 0 after reset");
    check_lint(CHIP("reg R at 0 rw {\n 0 E rw\n}\nacts as counter { enable R.E }"),
               "binds neither 'reload' nor 'start'");
    check_lint("chip T {\n bus little 32\n clock core 8 MHz within 1 Hz .. 4 MHz\n}",
               "outside its limits");
    check_lint("chip T {\n bus little 32\n clock core 8 MHz\n block A at 0x10 like l\n"
               " block B at 0x14 like l\n}\nlayout l {\n reg R at 0 rw\n reg S at 8 rw\n}",
               "overlaps block 'A'");
    check_lint(CHIP("reg S at 0 ro reset 0 {\n 0 F ro\n}\nreg C at 4 clears S"),
               "typed, but not simulated: 'C' acts on 'S', whose fields are all read-only");
    check_lint(CHIP("reg R at 0 rw {\n 0 E rw\n 7:1 P rw\n}\n"
                    "acts as counter { enable R.E, reload R.P odd 3 }"),
               "typed, but not simulated: kind 'counter' knows no 'odd' of role 'reload'");
    check_lint(
        "chip T {\n bus little 32\n clock core 8 MHz\n block A at 0 like l {\n irq 3 .. 4\n }\n}"
        "\nlayout l {\n reg R at 0 rw {\n 0 E rw\n 7:1 P rw\n}\n acts as counter { enable R.E, "
        "reload R.P }\n}",
        "nothing raises interrupt 3 of A: no flag of it has this line");
#define SHARED(irq)                                                                                \
    "chip T {\n bus little 32\n clock core 8 MHz\n block A at 0 like l {\n irq 3\n }\n block B "   \
    "at "                                                                                          \
    "0x10 like l {\n irq " irq "\n }\n}\nlayout l {\n reg R at 0 rw {\n 0 E rw\n 1 W w1c\n 2 I "   \
    "rw\n 3 O w1c\n 7:4 P rw\n}\n acts as counter { enable R.E, reload R.P, wrap R.W, wrap_irq "   \
    "R.I, match R.O, match_irq R.I }\n}"
    check_lint(SHARED("3"), "interrupt 3 is shared by A and B");
    check_lint(SHARED("{ 4 match }"), "flag 'wrap' of B has an interrupt enable, and no line");
    check_lint(CHIP("reg R at 0 rw {\n 0 E rw\n 7:4 P rw\n}\n"
                    "acts as counter { enable not R.E, reload R.P }"),
               "no driver serves this form yet: enable is inverted (A)");
    check_lint(LINKED("irq 3"), "block 'A' can select a trigger, but lists none");
    check_lint("chip T {\n bus little 32\n clock core 8 MHz\n clock x 4 MHz instead A.R = 1\n"
               " block A at 0 like l\n}\nlayout l {\n reg R at 0 rw\n}",
               "clock 'x' can be lost, but nothing says while what it is watched");
    check_lint(
        "chip T {\n bus little 32\n clock core 8 MHz\n block A at 0 like l {\n irq 3\n }\n}\n"
        "layout l {\n reg R at 0 rw {\n 1:0 M[2] ro cleared at entry\n 5:4 I[2] rw\n }\n reg C at "
        "4 ro\n"
        " reg K[2] at 8 rw\n"
        " acts as timebase { count C.VALUE, compare[n] K[n].VALUE, match[n] R.M[n], match_irq[n] "
        "R.I[n] }\n}",
        "'M' is cleared at entry, but shares interrupt 3 with other flags");
    check_lint("chip T {\n bus little 32\n clock core 8 MHz\n memory ram at 0 size 64 B\n"
               " block A at 0x20 like l\n}\nlayout l {\n reg R at 0 rw\n}",
               "block 'A' overlaps memory 'ram'");
    check_lint(
        "chip T {\n bus little 32\n clock core 8 MHz\n block P at 0 like p {\n carries "
        "P[4]\n }\n block A at 0x20 like l {\n pins X out { P1 fn 2 }\n pins Y out { P1 fn 2 "
        "}\n }\n}\nlayout l {\n reg R at 0 rw\n}\nlayout p {\n reg D at 0 rw {\n 0 D[4] rw\n "
        "}\n acts as gpio {\n out[n] D.D[n]\n }\n}",
        "P1 fn 2 is given to A.Y and to another signal");
    check_lint(CHIP("reg R at 0 rw {\n 1:0 Q[2] rw\n 8 E[2] rw\n}\n"
                    "acts as dma { enable[n] R.E[n], request[n] R.Q[n] }"),
               "block 'A' can select a request, but lists none");
    check_lint("chip T {\n bus little 32\n clock core 8 MHz\n clock x law pick A.R.D { 1 core }\n"
               " block A at 0 like l\n}\nlayout l {\n reg R at 0 rw {\n 3:0 D rw\n }\n}",
               "clock 'x' has no frequency after reset");
    check_lint(CHIP("reg R at 0 rw {\n 0 E rw\n 7:4 L rw\n}\nreg H at 4 rw {\n 7:4 H rw\n}\n"
                    "value V = H.H : R.L \"v\"\nacts as counter { enable R.E, reload V }"),
               "is bound to a value split otherwise");
    check_lint(CHIP("reg R at 0 rw {\n 0 E rw\n 7:1 P rw\n}\n"
                    "acts as counter { enable R.E, reload R.P, reload R.P }"),
               "role 'reload' is bound twice");
    check_lint(CHIP("reg R at 0 rw {\n 7:1 P rw\n}\nacts as counter { dead_time R.P { 0 is 1 } }"),
               "kind 'counter' takes no number for role 'dead_time' that a code says");
    check_lint(CHIP("reg R at 0 rw {\n 1:0 M rw { 0 up, 1 sideways }\n}\n"
                    "acts as counter { mode R.M }"),
               "role 'mode' of kind 'counter' has no 'sideways': 1 does nothing");
    check_lint(CHIP("reg R at 0 rw\nreg S at 4 ro reads R + 1\nacts as counter { reload S.VALUE }"),
               "role 'reload' lies in S.VALUE, which reads as an expression");
    check_lint(CHIP("reg R at 0 rw\nacts as own relay { coil R.VALUE }"),
               "kind 'relay' is the sheet's own: A does nothing until a bench or a board says");
    for (unsigned k = 0; k < G_N_ELEMENTS(warnings); k++)
        if (!seen[k] && warnings[k].number <= 312) /* the others: test_unserved.c */
            fail_msg("no sheet shows L%u, %s", warnings[k].number, warnings[k].what);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(demonstration_chip_reads),
        cmocka_unit_test(numbers_in_all_their_forms),
        cmocka_unit_test(field_array_spills_over_registers),
        cmocka_unit_test(values_are_split_with_a_write_order),
        cmocka_unit_test(values_may_be_arrays_and_latch),
        cmocka_unit_test(locks_open_by_a_condition_or_by_a_key),
        cmocka_unit_test(a_block_may_route_its_pins_together),
        cmocka_unit_test(one_address_reads_one_and_writes_another),
        cmocka_unit_test(names_may_look_like_units),
        cmocka_unit_test(block_arrays_count_through),
        cmocka_unit_test(clock_laws_are_exact),
        cmocka_unit_test(laws_know_functions_and_picks),
        cmocka_unit_test(a_pick_goes_by_code),
        cmocka_unit_test(errors_name_place_and_cause),
        cmocka_unit_test(line_is_quoted_with_a_caret),
        cmocka_unit_test(several_errors_in_one_run),
        cmocka_unit_test(shared_layout_reports_once),
        cmocka_unit_test(lint_tells_each_doubt),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
