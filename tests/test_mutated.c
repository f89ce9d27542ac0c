/* SPDX-License-Identifier: MIT */
/*
 * Sheets with words left out, doubled, exchanged and put elsewhere: each is refused with a place
 * and a cause, or is a chip that all of Wadium can work with. WADIUM_MUTANTS says how many of each.
 */
#include <stdlib.h>
#include <string.h>

#include "small_chip.h"

/* Every form that registers, roles and the chip have, once. */
static const char forms[] =
    "chip Forms {\n summary \"every form once\"\n bus little 32\n clock slow 1 MHz\n"
    " clock core law pick B.G.SEL { 0 slow, 1 slow } * 8 switched B.G.IS\n"
    " memory ram at 0x2000_0000 size 4 KiB\n"
    " cpu own global B.G.I saves B.G nests never\n on entry { B.G.I = 0 }\n"
    " on exit { B.G.I = 1 }\n sleep deep when B.G.DEEP\n"
    " line 1 TIMERS \"all\" { enabled B.G.ON, priority B.G.SEL first high }\n"
    " block A[2] step 0x2000 at 0x4000_0000 like l \"all of it\" {\n window at 0x1000 sets\n"
    "  needs B.G.ON ready B.G.RDY after 3 cycles of slow\n"
    "  reset while B.G.RST ready B.G.DONE after 20 us\n irq { 1 wrap, 2 }\n"
    "  clock law pick CTL.BUF { 0 slow, 1 core } / 2 ** CTL.IE }\n"
    " block B at 0x4000_8000 like g\n"
    " window at 0x4200_0000 bits of 0x4000_0000 size 64 KiB\n"
    " unit TICK as tick { clock slow, irq 3, reload B.G.SEL, wrap_irq not B.G.RST }\n"
    " on write B.G.ON = 1 { A0.NOW.VALUE = 7 }\n}\n"
    "layout g { reg G at 0 rw { 0 ON rw, 1 RST rw, 2 RDY ro, 3 DONE ro, 4 I rw, 5 DEEP rw, 6 SEL "
    "rw,"
    " 7 IS ro } }\n"
    "layout l {\n reg OUT at 0 rw { 31:16 WE wo masks V \"lets through\", 15:0 V rw }\n"
    " reg CTL at 4 rw { 15:8 KEY wo key 0x2D else reset reads 0x96, 0 BUF rw, 1 F rw, 2 IE rw,\n"
    "  3 G w1c cleared by wrap or write OUT then read CTL, 5:4 MODE rw { 0 up, 1 down is 3 } }\n"
    " reg R at 8 rw held until wrap when CTL.BUF or (CTL.IE = 0 and CTL.MODE = 1 .. 2) shows "
    "active\n"
    " reg S at 12 rw after 3 cycles of slow busy CTL.F\n"
    " reg IV at 16 ro { 7:0 N ro number { 2 CTL.F, 4 CTL.G } clears otherwise 1 }\n"
    " reg ALSO at 20 rw { 3:0 X rw is OUT.V, 7:4 Y rw sets R.VALUE }\n"
    " reg DL at 24 rw when CTL.BUF = 1\n reg D at 24 rw locked K\n reg SET at 28 sets D\n"
    " group CH[4] step 0x20 at 0x40 { reg A at 0 rw, reg B at 4 ro reads CH.A + 1, reg C[2] at 8 "
    "rw }\n"
    " reg NOW at 32 ro reads ones(OUT ^ ~R) | 4 & 3\n reg L at 0x100 rw width 8\n"
    " reg H at 0x101 rw width 8\n value HL = H.VALUE : L.VALUE through TEMP on write\n"
    " lock K key CTL.KEY 0x35 0xC9 unbroken open for 4 cycles once unless CTL.IE shows CTL.F else "
    "stuck\n"
    " rate beat law clock / (16 * (R.VALUE + 1))\n"
    " on write CTL.BUF = 1 when CTL.IE { NOW.VALUE = NOW.VALUE + written, after 20 us { CTL.F = 1 "
    "} }\n"
    " on entry { reset }\n"
    " acts as counter { prescale CTL.BUF { 0 stopped, 1 is 8 }, reload R.VALUE when CTL.IE = 0\n"
    "  reload law (S.VALUE + 1) * 2\n wrap CTL.F, wrap_irq CTL.IE, load write ALSO.X = 3\n"
    "  mode CTL.MODE { 0 up, 1 .. 2 down }, compare[n] CH[n].A, match[n] { CTL.G, CTL.F } }\n"
    " acts as counter T { enable CTL.IE and CTL.F, reload HL, wrap always 0, wrap_irq "
    "always }\n"
    "}\n";

static GRand *dice;

static guint below(guint n)
{
    return n ? (guint)g_rand_int_range(dice, 0, (gint32)n) : 0;
}

/* Words, numbers, marks and blanks. */
static GPtrArray *tokens_of(const char *text)
{
    GPtrArray *list = g_ptr_array_new_with_free_func(g_free);
    while (*text) {
        size_t n = 1;
        if (g_ascii_isalnum(*text) || *text == '_')
            while (g_ascii_isalnum(text[n]) || text[n] == '_')
                n++;
        g_ptr_array_add(list, g_strndup(text, n));
        text += n;
    }
    return list;
}

static void exchange(GPtrArray *tokens, guint i, guint k)
{
    gpointer kept = tokens->pdata[i];
    tokens->pdata[i] = tokens->pdata[k];
    tokens->pdata[k] = kept;
}

static char *mutant_of(const GPtrArray *original, const GPtrArray *words)
{
    GPtrArray *tokens = g_ptr_array_new_with_free_func(g_free);
    for (guint i = 0; i < original->len; i++)
        g_ptr_array_add(tokens, g_strdup(original->pdata[i]));
    for (guint n = 1 + below(3); n; n--) {
        guint i = below(tokens->len);
        const char *word = words->pdata[below(words->len)];
        switch (below(4)) {
        case 0:
            g_free(tokens->pdata[i]);
            tokens->pdata[i] = g_strdup(word);
            break;
        case 1:
            g_ptr_array_remove_index(tokens, i);
            break;
        case 2:
            g_ptr_array_insert(tokens, (gint)i, g_strconcat(" ", word, " ", NULL));
            break;
        default:
            exchange(tokens, i, below(tokens->len));
        }
    }
    g_ptr_array_add(tokens, NULL);
    char *text = g_strjoinv("", (char **)tokens->pdata);
    g_ptr_array_free(tokens, TRUE);
    return text;
}

/* ---- what is done with those that are accepted ---- */

static const wad_sheet *chip;

/* Any register, of any width, and addresses beside. */
static int at_random(void)
{
    for (unsigned i = 0; i < 400; i++) {
        const wad_instance *b = chip->n_blocks ? chip->blocks[below(chip->n_blocks)] : NULL;
        if (!b || !b->layout->n_regs)
            continue;
        const wad_register *r = b->layout->regs[below(b->layout->n_regs)];
        uint32_t at = (uint32_t)b->base + r->offset + (r->count ? below(r->count) * r->step : 0);
        uint32_t bytes = wad_register_bytes(r), value = g_rand_int(dice) >> below(32);
        if (bytes == 1 || !below(8))
            below(2) ? (void)in8(at) : out8(at, (uint8_t)value);
        else if (bytes == 4)
            below(2) ? (void)in(at) : out(at, value);
    }
    return 0;
}

static void nothing(void)
{
}

static void run_chip(wad_sheet *sheet)
{
    wad_handler handlers[256];
    char *why = NULL;
    wad_sim *sim = wad_sim_new(sheet, &why);
    g_free(why);
    if (!sim)
        return;
    for (unsigned i = 0; i < G_N_ELEMENTS(handlers); i++)
        handlers[i] = nothing;
    chip = sheet;
    wad_sim_attach(sim, at_random, handlers, MIN(sheet->n_vectors, 256));
    wad_sim_run(sim, WAD_PS_PER_S / 2000);
    wad_sim_free(sim);
}

static void work_with(wad_sheet *sheet, FILE *nowhere)
{
    wad_diags *diags = wad_diags_new();
    wad_sheet_lint(sheet, diags);
    wad_emit_header(sheet, nowhere);
    if (wad_emit_check(sheet, diags))
        wad_emit_roles(sheet, nowhere);
    wad_emit_vectors(sheet, nowhere);
    wad_emit_gdb(sheet, nowhere);
    wad_show_chip(sheet, nowhere);
    wad_show_chip_json(sheet, nowhere);
    for (unsigned i = 0; i < sheet->n_blocks; i++) {
        const wad_instance *b = sheet->blocks[i];
        wad_show_block(sheet, b, nowhere);
        for (unsigned k = 0; k < b->layout->n_regs; k++)
            wad_show_register(sheet, b, b->layout->regs[k], 0, nowhere);
    }
    run_chip(sheet);
    wad_diags_free(diags);
}

static unsigned how_many(void)
{
    const char *n = g_getenv("WADIUM_MUTANTS");
    return n ? (unsigned)atoi(n) : 300;
}

/* A sheet that is refused says where and why; `accepted` counts the others. */
static void try_one(const char *text, FILE *nowhere, unsigned *accepted)
{
    wad_diags *diags = wad_diags_new();
    wad_sheet *sheet = wad_sheet_parse(text, strlen(text), "mutant.sheet", diags);
    if (!sheet &&
        (!wad_diags_errors(diags) || !wad_diags_count(diags) || !*wad_diags_at(diags, 0)->text))
        fail_msg("refused without a word: %s", text);
    if (sheet && wad_diags_errors(diags))
        fail_msg("errors, and accepted: %s", text);
    if (sheet) {
        ++*accepted;
        work_with(sheet, nowhere);
    }
    wad_sheet_free(sheet);
    wad_diags_free(diags);
}

static void mutate(const char *name, const char *text)
{
    const char *only = g_getenv("WADIUM_MUTANTS_OF");
    if (only && strcmp(only, name))
        return;
    GPtrArray *tokens = tokens_of(text), *words = tokens_of(forms);
    FILE *nowhere = fopen("/dev/null", "w");
    const char *keep = g_getenv("WADIUM_MUTANT_FILE"); /* the one under work, for after a crash */
    unsigned accepted = 0;
    assert_non_null(nowhere);
    dice = g_rand_new_with_seed(20261);
    for (unsigned i = 0; i < how_many(); i++) {
        char *mutant = mutant_of(tokens, words);
        if (keep)
            g_file_set_contents(keep, mutant, -1, NULL);
        try_one(mutant, nowhere, &accepted);
        g_free(mutant);
    }
    assert_true(accepted > 0 || how_many() < 100);
    g_rand_free(dice);
    fclose(nowhere);
    g_ptr_array_free(tokens, TRUE);
    g_ptr_array_free(words, TRUE);
}

static void mutate_file(const char *name)
{
    char *path = g_strdup_printf(SOURCE_DIR "/chips/%s.sheet", name), *text = NULL;
    assert_true(g_file_get_contents(path, &text, NULL, NULL));
    mutate(name, text);
    g_free(text);
    g_free(path);
}

static void mutants_of_every_form(void **state)
{
    (void)state;
    mutate("forms", forms);
}

static void mutants_of_the_eight_bit_sheet(void **state)
{
    (void)state;
    mutate_file("corran8");
}

static void mutants_of_the_sixteen_bit_sheet(void **state)
{
    (void)state;
    mutate_file("corran16");
}

/* The sheet that the mutants come from is a chip, all of which works. */
static void every_form_is_read_and_runs(void **state)
{
    FILE *nowhere = fopen("/dev/null", "w");
    wad_sheet *sheet = small_parse(forms);
    (void)state;
    dice = g_rand_new_with_seed(1);
    work_with(sheet, nowhere);
    g_rand_free(dice);
    wad_sheet_free(sheet);
    fclose(nowhere);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(every_form_is_read_and_runs),
        cmocka_unit_test(mutants_of_every_form),
        cmocka_unit_test(mutants_of_the_eight_bit_sheet),
        cmocka_unit_test(mutants_of_the_sixteen_bit_sheet),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
