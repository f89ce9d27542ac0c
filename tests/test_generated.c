/* SPDX-License-Identifier: MIT */
/*
 * Statements made at random from docs/sheet.ebnf, each put where it may stand in a small sheet: the
 * reader takes their form. What they say together may be wrong (a name that is nothing, a field
 * outside of its register): that is told, but never as something else that was expected.
 * WADIUM_STATEMENTS says how many.
 */
#include <stdlib.h>
#include <string.h>

#include "ebnf.h"
#include "small_chip.h"

/* ---- how far it is from something to its end ---- */

static GHashTable *costs; /* of rules */

static unsigned cost(const node *n)
{
    unsigned most = 0, least = 1000;
    switch (n->form) {
    case RULE:
        return 1 + GPOINTER_TO_UINT(g_hash_table_lookup(costs, n->text));
    case SEQUENCE:
        for (guint i = 0; i < n->in->len; i++)
            most = MAX(most, cost(n->in->pdata[i]));
        return most;
    case CHOICE:
        for (guint i = 0; i < n->in->len; i++)
            least = MIN(least, cost(n->in->pdata[i]));
        return least;
    default:
        return n->form == WORD || n->form == TERMINAL;
    }
}

static void count_costs(void)
{
    GHashTableIter at;
    gpointer name, rule;
    costs = g_hash_table_new(g_str_hash, g_str_equal);
    g_hash_table_iter_init(&at, rules);
    while (g_hash_table_iter_next(&at, &name, NULL))
        g_hash_table_insert(costs, name, GUINT_TO_POINTER(1000));
    for (unsigned round = 0; round < 40; round++) {
        g_hash_table_iter_init(&at, rules);
        while (g_hash_table_iter_next(&at, &name, &rule))
            g_hash_table_insert(costs, name, GUINT_TO_POINTER(cost(rule)));
    }
}

static guint shortest(const node *choice)
{
    guint best = 0;
    for (guint i = 1; i < choice->in->len; i++)
        if (cost(choice->in->pdata[i]) < cost(choice->in->pdata[best]))
            best = i;
    return best;
}

/* The way that was taken the least often. */
static guint rarest(const node *choice)
{
    guint best = 0;
    for (guint i = 1; i < choice->in->len; i++)
        if (choice->taken[i] < choice->taken[best])
            best = i;
    return best;
}

/* ---- statements from it ---- */

static GRand *dice;

static guint below(guint n)
{
    return n ? (guint)g_rand_int_range(dice, 0, (gint32)n) : 0;
}

typedef struct made {
    GString *text;
    bool in_chip;            /* paths begin with a block */
    const char *rule, *last; /* the rule that is made, and the word before */
    unsigned depth, fresh;
} made;

static const char *one_of(const char *const *list, guint n)
{
    return list[below(n)];
}
#define ONE_OF(...)                                                                                \
    one_of((const char *const[]){__VA_ARGS__},                                                     \
           sizeof((const char *const[]){__VA_ARGS__}) / sizeof(char *))

static void put(made *m, const char *text)
{
    g_string_append_printf(m->text, "%s ", text);
}

static void put_name(made *m)
{
    char *fresh = g_strdup_printf("N%u", m->fresh++);
    const char *rule = m->rule, *last = m->last;
    const char *name = !strcmp(rule, "kind")     ? ONE_OF("counter", "uart", "gpio", "tick")
                       : !strcmp(last, "like")   ? "m"
                       : !strcmp(last, "in")     ? "outer"
                       : !strcmp(last, "clock")  ? "slow"
                       : !strcmp(last, "locked") ? "K"
                       : !strcmp(last, "pins")   ? "CH"
                       : !strcmp(rule, "role") ? ONE_OF("enable", "reload", "wrap", "count", "mode")
                       : !strcmp(rule, "code") ? ONE_OF("up", "down", "stopped")
                       : !strcmp(rule, "pin")  ? ONE_OF("P0", "P1")
                       : !strcmp(rule, "term") ? ONE_OF("quiet", "loud")
                       : !strcmp(rule, "window")                                     ? "B"
                       : !strcmp(rule, "delay")                                      ? "slow"
                       : !strcmp(rule, "reg") && m->text->len && !strcmp(last, "is") ? "CTL"
                                                                                     : fresh;
    put(m, name);
    g_free(fresh);
}

static void put_path(made *m)
{
    if (m->in_chip)
        put(m, ONE_OF("B.G.ON", "B.G.SEL", "B.ROW[1].F", "A.CTL.EN", "B.H"));
    else
        put(m, ONE_OF("CTL.EN", "CTL.MODE", "ROW[1].F", "CTL", "TOP.V", "B.G.ON"));
}

static void put_terminal(made *m, const char *what)
{
    char *number;
    static const struct {
        const char *what, *texts[3];
    } units[] = {{"HERTZ", {"MHz", "Hz", "kHz"}},
                 {"SECONDS", {"ms", "us", "s"}},
                 {"CYCLES", {"cycles", "cycle", "cycles"}},
                 {"VOLTS", {"V", "mV", "V"}},
                 {"AMPERES", {"mA", "uA", "A"}},
                 {"BYTES", {"B", "KiB", "KiB"}},
                 {"SHARE", {"ppm", "ppm", "ppm"}},
                 {"UNIT", {"ms", "V", "kHz"}}};
    for (unsigned i = 0; i < G_N_ELEMENTS(units); i++)
        if (!strcmp(what, units[i].what)) {
            put(m, units[i].texts[below(3)]);
            return;
        }
    if (!strcmp(what, "NAME")) {
        put_name(m);
    } else if (!strcmp(what, "STRING")) {
        put(m, "\"words\"");
    } else if (!strcmp(what, "NEWLINE")) {
        g_string_append_c(m->text, '\n');
    } else {
        number = g_strdup_printf("%u", below(8));
        put(m, number);
        g_free(number);
    }
}

static void make(made *m, const node *n);

static void make_rule(made *m, const char *name)
{
    const char *outer = m->rule;
    const node *rule = g_hash_table_lookup(rules, name);
    if (!rule)
        fail_msg("there is no rule '%s'", name);
    m->rule = name;
    if (!strcmp(name, "path") && (m->in_chip || below(8))) {
        put_path(m);
    } else if (!strcmp(name, "const") && below(4)) {
        put_terminal(m, "INT");
    } else if (!strcmp(name, "regpath")) {
        put(m, m->in_chip ? ONE_OF("A.CTL", "B.ROW[1]", "B.H") : ONE_OF("CTL", "ROW[1]", "TOP"));
    } else if (!strcmp(name, "fieldpath")) {
        put(m, m->in_chip ? ONE_OF("A.CTL.EN", "B.ROW[1].F") : ONE_OF("CTL.MODE", "ROW[1].F"));
    } else {
        m->depth++;
        make(m, rule);
        m->depth--;
    }
    m->rule = outer;
}

/* Deep in it what can be left out is, so that it ends. */
static void make(made *m, const node *n)
{
    guint pick;
    switch (n->form) {
    case WORD:
        put(m, n->text);
        m->last = n->text;
        break;
    case TERMINAL:
        put_terminal(m, n->text);
        m->last = "";
        break;
    case RULE:
        make_rule(m, n->text);
        break;
    case SEQUENCE:
        for (guint i = 0; i < n->in->len; i++)
            make(m, n->in->pdata[i]);
        break;
    case CHOICE:
        pick = m->depth > 10 ? shortest(n) : below(3) ? below(n->in->len) : rarest(n);
        n->taken[pick]++;
        make(m, n->in->pdata[pick]);
        break;
    default:
        pick = m->depth > 10 ? 0 : below(n->form == REPEATED ? 3 : 2);
        n->taken[pick != 0]++;
        for (guint i = 0; i < pick; i++)
            make(m, n->in->pdata[0]);
    }
}

/* ---- in a sheet ---- */

static char *sheet_with(const char *place, const char *statement)
{
#define AT(where) (!strcmp(place, where) ? statement : "")
    return g_strdup_printf(
        "chip T {\n bus little 32\n space outer\n clock slow 1 MHz\n clock core 8 MHz\n"
        " line 5 OTHERS\n %s\n"
        " block A at 0x4000_0000 like l {\n irq 1\n carries P[2]\n %s\n }\n"
        " block B at 0x4001_0000 like m\n}\n"
        "layout m {\n reg G at 0 rw { 0 ON rw\n 3:1 SEL rw { 0 quiet, 1 loud }\n 8 I rw }\n"
        " reg H at 4 rw\n reg ROW[3] at 8 rw { 7:0 F rw }\n}\n"
        "layout l {\n reg CTL at 0 rw { 0 EN rw\n 1 IE rw\n 2 F w1c\n 5:4 MODE rw { 0 quiet, 1 "
        "loud "
        "}\n %s\n }\n"
        " reg TOP at 4 rw { 15:0 V rw }\n reg ROW[3] at 8 rw { 7:0 F rw }\n"
        " reg LOW at 0x14 rw\n reg KEY at 0x18 wo\n lock K key KEY 1 2\n %s\n"
        " acts as counter { enable CTL.EN, wrap CTL.F, wrap_irq CTL.IE\n %s\n }\n}\n%s\n",
        AT("chipitem"), AT("blockitem"), AT("field"), AT("layoutitem"), AT("role"), AT("layout"));
#undef AT
}

#define MOST_TOLD 200

static unsigned accepted, refused;
static GHashTable *told; /* messages, each once */

/* What the reader says of it; "": nothing. g_free */
static char *errors_of(const char *text)
{
    GString *all = g_string_new(NULL);
    wad_diags *diags = wad_diags_new();
    wad_sheet *sheet = wad_sheet_parse(text, strlen(text), "t.sheet", diags);
    for (unsigned i = 0; i < wad_diags_count(diags); i++) {
        const wad_diag *d = wad_diags_at(diags, i);
        if (d->severity == WAD_ERROR)
            g_string_append_printf(all, "line %u: %s\n", d->line, d->text);
    }
    wad_sheet_free(sheet);
    wad_diags_free(diags);
    return g_string_free(all, FALSE);
}

/* `number { 1 CTL.F } clears CTL.G`: a number register is no other name of bits as well. */
static bool is_ambiguous(const char *statement)
{
    return g_regex_match_simple("number \\{[^}]*\\} clears [A-Z]", statement, 0, 0);
}

static node *beginning(const char *rule)
{
    static GHashTable *all;
    all = all ? all : g_hash_table_new(g_str_hash, g_str_equal);
    node *n = g_hash_table_lookup(all, rule);
    if (!n) {
        n = new_node(RULE, rule);
        g_hash_table_insert(all, (gpointer)rule, n);
    }
    return n;
}

static void one_statement(const char *place)
{
    made m = {g_string_new(NULL), false, place, "", 0, 0};
    m.in_chip = !strcmp(place, "chipitem") || !strcmp(place, "blockitem");
    make(&m, beginning(place));
    if (is_ambiguous(m.text->str)) {
        g_string_free(m.text, TRUE);
        return;
    }
    char *sheet = sheet_with(place, m.text->str), *errors = errors_of(sheet);
    accepted += !*errors;
    const char *wrong = strstr(errors, ": expected");
    if (wrong && ++refused <= MOST_TOLD && g_hash_table_add(told, g_strdup(wrong)))
        fprintf(stderr, "%s:\n%s\n%s\n", place, m.text->str, errors);
    g_free(errors);
    g_free(sheet);
    g_string_free(m.text, TRUE);
}

static const char *const places[] = {"chipitem", "blockitem", "layoutitem",
                                     "field",    "role",      "layout"};

/* Ways that nothing took, but those of a whole file: that holds a chip, or stands over one. */
static unsigned ways_not_taken(void)
{
    unsigned open = 0;
    GHashTable *whole = g_hash_table_new(g_direct_hash, g_direct_equal);
    GPtrArray *todo = g_ptr_array_new();
    g_ptr_array_add(todo, g_hash_table_lookup(rules, "sheet"));
    g_ptr_array_add(todo, g_hash_table_lookup(rules, "chip"));
    while (todo->len) {
        node *n = g_ptr_array_remove_index(todo, todo->len - 1);
        g_hash_table_add(whole, n);
        for (guint i = 0; i < n->in->len; i++)
            g_ptr_array_add(todo, n->in->pdata[i]);
    }
    for (guint i = 0; i < choices->len; i++) {
        const node *c = choices->pdata[i];
        for (guint k = 0; c->taken && !g_hash_table_contains(whole, c) &&
                          k < (c->form == CHOICE ? c->in->len : 2);
             k++)
            if (!c->taken[k]) {
                const node *n = c->form == CHOICE ? c->in->pdata[k] : c->in->pdata[0];
                while (n->in->len)
                    n = n->in->pdata[0];
                fprintf(stderr, "way %u of what begins with '%s' was never taken\n", k, n->text);
                open++;
            }
    }
    g_ptr_array_free(todo, TRUE);
    g_hash_table_destroy(whole);
    return open;
}

/* ---- the same with a word less, twice, or exchanged ---- */

static char *mutated(const char *statement)
{
    char **words = g_strsplit(statement, " ", -1);
    guint n = g_strv_length(words), a = below(n), b = below(n);
    GString *text = g_string_new(NULL);
    guint how = below(3);
    for (guint i = 0; i < n; i++) {
        const char *word = how == 2 && i == a ? words[b] : how == 2 && i == b ? words[a] : words[i];
        if (how != 0 || i != a)
            g_string_append_printf(text, "%s ", word);
        if (how == 1 && i == a)
            g_string_append_printf(text, "%s ", word);
    }
    g_strfreev(words);
    return g_string_free(text, FALSE);
}

/* It is refused with a place and a cause, or a chip that can be shown and emitted. */
static void what_is_changed_is_refused_or_works(void **state)
{
    unsigned good = 0, n = 3000;
    (void)state;
    if (!rules)
        read_grammar();
    count_costs();
    dice = g_rand_new_with_seed(11);
    for (unsigned i = 0; i < n; i++) {
        const char *place = places[i % G_N_ELEMENTS(places)];
        made m = {g_string_new(NULL), false, place, "", 6, 0};
        m.in_chip = !strcmp(place, "chipitem") || !strcmp(place, "blockitem");
        make(&m, beginning(place));
        char *statement = mutated(m.text->str), *text = sheet_with(place, statement), *out = NULL;
        wad_diags *diags = wad_diags_new();
        wad_sheet *sheet = wad_sheet_parse(text, strlen(text), "t.sheet", diags);
        size_t size;
        FILE *to = open_memstream(&out, &size);
        good += sheet != NULL;
        if (sheet) {
            wad_show_chip(sheet, to);
            wad_show_chip_json(sheet, to);
            wad_emit_header(sheet, to);
            wad_sheet_lint(sheet, diags);
        } else if (!wad_diags_errors(diags) || !wad_diags_at(diags, 0)->line) {
            fail_msg("refused without a place or a cause: %s", statement);
        }
        fclose(to);
        free(out);
        wad_sheet_free(sheet);
        wad_diags_free(diags);
        g_free(text);
        g_free(statement);
        g_string_free(m.text, TRUE);
    }
    g_rand_free(dice);
    printf("%u of %u changed statements were good\n", good, n);
    assert_true(good > 0 && good < n);
}

static void what_the_grammar_makes_the_reader_takes(void **state)
{
    const char *many = getenv("WADIUM_STATEMENTS");
    unsigned n = many ? (unsigned)atoi(many) : 20000;
    (void)state;
    read_grammar();
    count_costs();
    dice = g_rand_new_with_seed(7);
    told = g_hash_table_new_full(g_str_hash, g_str_equal, g_free, NULL);
    for (unsigned i = 0; i < n; i++)
        one_statement(places[i % G_N_ELEMENTS(places)]);
    g_rand_free(dice);
    assert_int_equal(refused, 0);
    printf("%u statements, %u of them without any error\n", n, accepted);
    assert_int_equal(ways_not_taken(), 0);
    assert_true(accepted > n / 8);
}

int main(void)
{
    const struct CMUnitTest tests[] = {cmocka_unit_test(what_the_grammar_makes_the_reader_takes),
                                       cmocka_unit_test(what_is_changed_is_refused_or_works)};
    return cmocka_run_group_tests(tests, NULL, NULL);
}
