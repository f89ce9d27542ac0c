/* SPDX-License-Identifier: MIT */
/*
 * "Typed, but not simulated" is complete: each word that begins something in docs/sheet.ebnf stands
 * in the table below, with a sheet where nothing serves it and the doubt that lint must have, or
 * with the reason why there is no such sheet. A new word of the language without its row fails.
 */
#include <string.h>

#include "ebnf.h"
#include "small_chip.h"
#include "wadium/host/warnings.h"

#define CHIP(chip, block, layout)                                                                  \
    "chip T {\n bus little 32\n clock core 8 MHz\n" chip                                           \
    " block A at 0x4000_0000 like l {\n" block " }\n}\nlayout l {\n" layout "\n}\n"
#define LAYOUT(layout) CHIP("", "", layout)
#define ACTING                                                                                     \
    "reg C at 0 rw { 0 E rw\n 1 I rw\n 2 F w1c\n 15:8 R rw }\n acts as counter { enable C.E, "     \
    "reload C.R plus 1, wrap C.F, wrap_irq C.I }\n"

typedef struct row {
    const char *rule, *word;
    const char *sheet; /* NULL: `doubt` says why it is served wherever it may stand */
    const char *doubt;
} row;

static const row rows[] = {
    /* the chip */
    {"chipitem", "summary", NULL, "it is shown"},
    {"chipitem", "bus", NULL, "all accesses go by it"},
    {"chipitem", "space", CHIP(" space far\n", "", ACTING), "L326"},
    {"chipitem", "memory", NULL, "firmware is linked to it"},
    {"chipitem", "supply", NULL, "it is the voltage of all pins"},
    {"chipitem", "identity", NULL, "targets are told apart by it"},
    {"chipitem", "cpu", NULL, "see cpuattr"},
    {"chipitem", "clock", CHIP(" clock x 4 MHz\n", "", ACTING), "L323"},
    {"chipitem", "block", LAYOUT("reg R at 0 rw { 0 F rw }"), "L314"},
    {"chipitem", "unit", CHIP(" unit U as counter { enable A.C.E }\n", "", ACTING), "L304"},
    {"chipitem", "line", CHIP(" line 9 X\n", "", ACTING), "L307"},
    {"chipitem", "sleep", NULL, "the core sleeps so whenever its condition holds"},
    {"chipitem", "window", NULL, "the bus serves it"},
    {"chipitem", "on", CHIP(" on read A.W { A.C.E = 0 }\n", "", "reg W at 4 wo\n" ACTING), "L320"},
    {"chipitem", "erratum", NULL, "it is shown wherever the place is"},
    {"cpuattr", "access", NULL, "cycles of the core"},
    {"cpuattr", "interrupt_entry", NULL, "cycles of the core"},
    {"cpuattr", "interrupt_exit", NULL, "cycles of the core"},
    {"cpuattr", "interrupt_chain", NULL, "cycles of the core"},
    {"cpuattr", "bus_fault", NULL, "the line of bus faults"},
    {"cpuattr", "int", NULL, "the compiler's, told where it matters"},
    {"cpuattr", "aligned", NULL, "misaligned accesses fault"},
    {"cpuattr", "char", NULL, "the compiler's"},
    {"cpuattr", "draws", NULL, "the core's current"},
    {"cpuattr", "per_mhz", NULL, "the core's current"},
    {"cpuattr", "global", NULL, "what masks interrupts"},
    {"cpuattr", "saves", NULL, "what an entry saves"},
    {"cpuattr", "nests", NULL, "which handlers are interrupted"},
    {"clockattr", "tolerance", NULL, "the baud budget counts it"},
    {"clockattr", "on", NULL, "the clock runs while it holds"},
    {"clockattr", "ready", NULL, "hardware sets it"},
    {"clockattr", "after", NULL, "the clock's start"},
    {"clockattr", "within", NULL, "a rate outside is a finding"},
    {"clockattr", "output", NULL, "a pin function that exists, else an error"},
    {"clockattr", "watched",
     CHIP(" clock x 4 MHz watched A.C.E\n clock y law x\n", " clock y\n", ACTING), "L324"},
    {"clockattr", "lost", CHIP(" clock x 4 MHz lost A.C.F\n", " clock x\n", ACTING), "L207"},
    {"clockattr", "instead", CHIP(" clock x 4 MHz instead A.C.E = 1\n", " clock x\n", ACTING),
     "L207"},
    {"clockattr", "switched", NULL, "only of a choice, else an error"},
    {"clockattr", "draws", NULL, "the clock's current"},
    {"draws", "draws", NULL, "the block's current"},
    {"draws", "per_mhz", NULL, "the block's current"},
    {"draws", "active", CHIP("", " active 2 mA\n", "reg R at 0 rw"), "L318"},
    {"lineitem", "enabled", NULL, "what masks the line; beside a controller an error"},
    {"lineitem", "pending", NULL, "the same"},
    {"lineitem", "priority", NULL, "the same"},
    /* blocks */
    {"blockitem", "unit", NULL, "of a unit that the layout has, else an error"},
    {"blockitem", "reset", NULL, "the bus holds the block"},
    {"blockitem", "window", NULL, "the bus serves it"},
    {"blockitem", "owned", NULL, "writes of it are findings"},
    {"unititem", "clock", NULL, "without it nothing answers"},
    {"unititem", "needs", NULL, "the bus shuts the block"},
    {"unititem", "irq", CHIP("", " irq 3\n", "reg R at 0 rw"), "L307"},
    {"irq", "irq", CHIP("", " irq 3\n", "reg R at 0 rw"), "L307"},
    {"unititem", "route", CHIP(" block B at 0x4001_0000 like l\n", " route B.C.R\n", ACTING),
     "L325"},
    {"unititem", "triggers", NULL, "by the field that selects one, else an error"},
    {"unititem", "requests", NULL, "the same"},
    {"unititem", "pins",
     CHIP(" block P at 0x4001_0000 like p {\n carries P[2]\n }\n", " pins OUT out { P0 }\n",
          ACTING "}\nlayout p { reg I at 0 ro { 0 P[2] ro }\n"
                 " acts as gpio { in[n] I.P[n] }"),
     "L315"},
    {"unititem", "carries", CHIP("", " carries P[2]\n", ACTING), "L317"},
    {"ready", "ready", NULL, "hardware sets it"},
    {"ready", "after", NULL, "how long it takes"},
    /* layouts */
    {"layoutitem", "reg", LAYOUT("reg R at 0 rw { 0 F rw }"), "L314"},
    {"reg", "reg", LAYOUT("reg R at 0 rw { 0 F rw }"), "L314"},
    {"layoutitem", "group", LAYOUT("group G[2] step 8 at 0 { reg R at 0 rw { 0 F rw } }"), "L314"},
    {"group", "group", LAYOUT("group G[2] step 8 at 0 { reg R at 0 rw { 0 F rw } }"), "L314"},
    {"layoutitem", "value", NULL, "the bus keeps its order, its latch and its shared byte"},
    {"value", "value", NULL, "the same"},
    {"layoutitem", "lock", LAYOUT(ACTING "lock K while C.E = 1"), "L321"},
    {"lock", "lock", LAYOUT(ACTING "lock K while C.E = 1"), "L321"},
    {"layoutitem", "rate", NULL, "wadium rate solves it"},
    {"layoutitem", "on", LAYOUT("reg W at 4 wo\n" ACTING "on read W { C.E = 0 }"), "L320"},
    {"layoutitem", "change", NULL, "of a register that is there, else an error"},
    {"layoutitem", "acts", LAYOUT("reg C at 0 rw { 0 E rw }\n acts as own can { enable C.E }"),
     "L313"},
    {"regattr", "reset", NULL, "what it holds after a reset"},
    {"regattr", "ref", NULL, "it is shown"},
    {"regattr", "width", NULL, "other accesses are findings"},
    {"regattr", "locked", NULL, "the lock keeps it"},
    {"regattr", "volatile", NULL, "comparisons expect it"},
    {"regattr", "bytes", NULL, "the bus takes its parts"},
    {"regattr", "bits", NULL, "the bus has a window for it"},
    {"regattr", "when", NULL, "the bus asks it"},
    {"common", "reads",
     LAYOUT("reg C at 0 rw { 0 E rw reads 1\n 15:8 R rw }\n acts as counter { enable "
            "C.E, reload C.R plus 1 }"),
     "L312"},
    {"common", "held", LAYOUT("reg S at 4 ro held until wrap\n" ACTING), "L319"},
    {"common", "after", LAYOUT("reg S at 4 ro after 2 us\n" ACTING), "L319"},
    {"fieldattr", "ref", NULL, "it is shown"},
    {"fieldattr", "not", NULL, "another value is a finding"},
    {"fieldattr", "stable", NULL, "a change is a finding"},
    {"fieldattr", "when", NULL, "a use in another mode is a finding"},
    {"fieldattr", "volatile", NULL, "comparisons expect it"},
    {"fieldattr", "fixed", NULL, "comparisons rely on it"},
    {"fieldattr", "cleared", LAYOUT("reg S at 4 rw { 0 X w1c cleared at entry }\n" ACTING), "L322"},
    {"fieldattr", "masks", LAYOUT("reg S at 4 rw { 0 X rw\n 8 M ro masks X }\n" ACTING), "L319"},
    {"fieldattr", "key", LAYOUT("reg S at 4 ro { 15:8 K ro key 0x2D }\n" ACTING), "L319"},
    {"fieldattr", "number", NULL, "the bus reads it"},
    {"lockattr", "relocks", NULL, "the lock closes so"},
    {"lockattr", "unbroken", NULL, "the lock opens so"},
    {"lockattr", "open", NULL, "the lock closes so"},
    {"lockattr", "once", NULL, "the lock opens so"},
    {"lockattr", "shows", NULL, "the lock sets it"},
    {"lockattr", "else", NULL, "what a wrong key does"},
    /* roles: what begins with a name has its rows below */
    {"place", "always", NULL, "the model reads it"},
    {"pair", "first", NULL, "of a priority: which goes first"},
    {"pair", "as", NULL, "the core follows it; of what is no flag, or no level, it is an error"},
};

/* Roles and codes begin with a name or a number. */
static const row others[] = {
    {"code", "a number",
     LAYOUT("reg C at 0 rw { 0 E rw\n 15:8 D rw }\n acts as counter { enable C.E, "
            "dead_time C.D { 0 is 1 } }"),
     "L310"},
    {"code", "a value's name",
     LAYOUT("reg C at 0 rw { 0 E rw\n 9:8 M rw { 0 up, 1 aside } }\n acts as "
            "counter { enable C.E, mode C.M }"),
     "L311"},
    {"pair", "an attribute",
     LAYOUT("reg C at 0 rw { 0 E rw\n 15:8 R rw }\n acts as counter { enable C.E, "
            "reload C.R odd 3 }"),
     "L301"},
    {"role", "a law",
     LAYOUT("reg C at 0 rw { 0 E rw\n 15:8 D rw }\n acts as counter { enable C.E, "
            "dead_time law C.D + 1 }"),
     "L310"},
    {"role", "pins",
     LAYOUT(ACTING "}\nlayout m { reg C at 0 rw { 0 E rw }\n acts as counter { enable C.E, "
                   "output[n] pins CH }"),
     NULL},
    {"role", "pins of a block",
     LAYOUT("reg C at 0 rw { 0 E rw\n 15:8 R rw }\n acts as counter { enable C.E, "
            "reload C.R plus 1, output[n] pins CH }"),
     "L316"},
    {"role", "twice",
     LAYOUT("reg C at 0 rw { 0 E rw\n 15:8 R rw }\n acts as counter { enable C.E, reload "
            "C.R, reload C.R }"),
     "L305"},
    {"role", "a flag without a line", LAYOUT(ACTING), "L308"},
    {"role", "a trigger without a list",
     LAYOUT("reg C at 0 rw { 0 E rw\n 15:8 R rw\n 1 T rw }\n acts as "
            "counter { enable C.E, reload C.R, trigger C.T }"),
     "L205"},
};

static void has_doubt(const row *r)
{
    wad_sheet *sheet = small_parse(r->sheet);
    wad_diags *diags = wad_diags_new();
    GString *all = g_string_new(NULL);
    wad_sheet_lint(sheet, diags);
    for (unsigned i = 0; i < wad_diags_count(diags); i++)
        g_string_append_printf(all, "%s\n", wad_diags_at(diags, i)->text);
    if (r->doubt && !strstr(all->str, r->doubt))
        fail_msg("'%s' of %s: no %s in:\n%s\n%s", r->word, r->rule, r->doubt, r->sheet, all->str);
    g_string_free(all, TRUE);
    wad_diags_free(diags);
    wad_sheet_free(sheet);
}

static void what_nothing_serves_is_doubted(void **state)
{
    (void)state;
    for (unsigned i = 0; i < G_N_ELEMENTS(rows); i++)
        if (rows[i].sheet)
            has_doubt(&rows[i]);
    for (unsigned i = 0; i < G_N_ELEMENTS(others); i++)
        has_doubt(&others[i]);
}

static bool is_shown(int number)
{
    char *doubt = g_strdup_printf("L%d", number);
    bool shown = false;
    for (unsigned i = 0; i < G_N_ELEMENTS(rows); i++)
        shown = shown || (rows[i].sheet && !strcmp(rows[i].doubt, doubt));
    for (unsigned i = 0; i < G_N_ELEMENTS(others); i++)
        shown = shown || (others[i].doubt && !strcmp(others[i].doubt, doubt));
    g_free(doubt);
    return shown;
}

static void each_doubt_of_this_sort_is_shown(void **state)
{
    static const int numbers[] = {
#define NUMBER(name, number, what, cure) number,
        WAD_WARNINGS(NUMBER)
#undef NUMBER
    };
    (void)state;
    for (unsigned i = 0; i < G_N_ELEMENTS(numbers); i++)
        if (numbers[i] > 312 && numbers[i] < 400 && !is_shown(numbers[i]))
            fail_msg("no sheet of the table shows L%d", numbers[i]);
}

/* ---- is each word of the grammar there? ---- */

static void add_first_words(const node *n, GPtrArray *words)
{
    switch (n->form) {
    case WORD:
        g_ptr_array_add(words, n->text);
        break;
    case CHOICE:
        for (guint i = 0; i < n->in->len; i++)
            add_first_words(n->in->pdata[i], words);
        break;
    case SEQUENCE:
        if (n->in->len)
            add_first_words(n->in->pdata[0], words);
        break;
    default:
        break;
    }
}

static bool is_listed(const char *rule, const char *word)
{
    for (unsigned i = 0; i < G_N_ELEMENTS(rows); i++)
        if (!strcmp(rows[i].rule, rule) && !strcmp(rows[i].word, word))
            return true;
    return false;
}

static void each_word_that_begins_something_is_in_the_table(void **state)
{
    static const char *const which[] = {
        "chipitem",  "cpuattr", "clockattr",  "draws",    "lineitem", "blockitem", "unititem",
        "irq",       "ready",   "layoutitem", "group",    "reg",      "regattr",   "common",
        "fieldattr", "value",   "lock",       "lockattr", "pair"};
    (void)state;
    read_grammar();
    for (unsigned i = 0; i < G_N_ELEMENTS(which); i++) {
        const node *rule = g_hash_table_lookup(rules, which[i]);
        GPtrArray *words = g_ptr_array_new();
        assert_non_null(rule);
        add_first_words(rule, words);
        for (guint k = 0; k < words->len; k++)
            if (!is_listed(which[i], words->pdata[k]))
                fail_msg(
                    "the table has no row for '%s' of %s: where nothing serves it, which doubt "
                    "has lint?",
                    (const char *)words->pdata[k], which[i]);
        g_ptr_array_free(words, TRUE);
    }
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(each_word_that_begins_something_is_in_the_table),
        cmocka_unit_test(what_nothing_serves_is_doubted),
        cmocka_unit_test(each_doubt_of_this_sort_is_shown)};
    return cmocka_run_group_tests(tests, NULL, NULL);
}
