/* SPDX-License-Identifier: MIT */
/* Kinds of the sheet's own, and their models in C: by roles that the sheet names. */
#include <string.h>

#include "small_chip.h"
#include "wadium/host/model.h"

static void a_kind_of_the_sheet_s_own_runs_by_its_model(void **state)
{
    (void)state;
    small_run_whole("scarba32", "pulls", "5 of 5 expectations met, 0 findings");
}

/* ---- without a file: registered by the test ---- */

enum { DATA, DONE, DONE_IRQ, GO, SIZE };

typedef struct adder {
    wad_event end;
} adder;

static unsigned resets, ends;

static void done(wad_event *e)
{
    wad_model *m = e->model;
    wad_model_put(m, DATA, 0, wad_model_get(m, DATA, 0) + wad_model_code(m, SIZE, "each", 3));
    wad_model_put(m, DONE, 0, 1);
    wad_model_event(m, DONE, 0);
    ends++;
}

static void reset(wad_model *m)
{
    adder *a = wad_model_state(m);
    a->end.fn = done;
    wad_model_cancel(m, &a->end);
    resets++;
}

static void written(wad_model *m, const wad_write *w)
{
    adder *a = wad_model_state(m);
    if (w->roles & WAD_ROLE_BIT(GO) && wad_model_get(m, GO, 0)) {
        wad_model_enabled(m);
        wad_model_schedule(m, &a->end, wad_sim_now(wad_model_sim(m)) + 10000000);
    }
}

/* Another order than the sheet's, and one role that it does not bind. */
static const wad_model_class adder_model = {.kind = "adder",
                                            .state_size = sizeof(adder),
                                            .reset = reset,
                                            .written = written,
                                            .roles = "!data done done_irq go size"};

#define ADDER                                                                                      \
    HEAD                                                                                           \
        "block A at 0x4000_0000 like l {\n irq 2\n }\n"                                            \
        "block C at 0x4000_1000 like c {\n triggers { 1 A.done }\n }\n}\n"                         \
        "layout l { reg CMD at 0 rw { 0 GO pulse\n 1 IE rw }\n"                                    \
        "reg D at 4 rw { 15:0 V rw }\n reg F at 8 rw { 0 DONE w1c\n 4 SEEN ro cleared by done }\n" \
        "on done { F.SEEN = 1 }\n"                                                                 \
        "acts as own adder { go write CMD.GO = 1, done F.DONE, done_irq CMD.IE, data D.V } }\n"    \
        "layout c { reg CTRL at 0 rw { 0 EN rw\n 1 SEL rw }\n reg N at 4 ro volatile { 15:0 V ro " \
        "}\n"                                                                                      \
        "reg TOP at 8 rw reset 0xFF { 15:0 V rw }\n"                                               \
        "acts as counter { enable CTRL.EN, count N.V, reload TOP.V plus 1, trigger CTRL.SEL, "     \
        "action always 1 { 1 count } } }"

static void use_adder(wad_sim *sim)
{
    char *why = NULL;
    if (!wad_sim_register(sim, &adder_model, "A", &why))
        fail_msg("%s", why);
}

static unsigned handled;

static void on_done(void)
{
    out(BASE + 8, 1);
    handled++;
}

/* Flags raise the line, hooks and triggers hear of them, acts reach the model. */
static int add_three_times(void)
{
    out(BASE + 0x1000, 3);
    out(BASE + 4, 10);
    wad_port_irq_on();
    for (unsigned i = 0; i < 3; i++) {
        out(BASE, 3);
        unsigned before = handled;
        while (handled == before)
            wad_port_sleep();
    }
    CHECK_READ(BASE + 4, 19);
    CHECK_READ(BASE + 0x1004, 3);
    CHECK_READ(BASE + 8, 0x10);
    out(BASE, 2); /* no GO, no end */
    for (unsigned i = 0; i < 100; i++)
        in(BASE);
    CHECK(handled == 3);
    return 0;
}

static const wad_handler handlers[] = {[2] = on_done};

static void all_that_a_kind_of_wadium_s_has_it_has(void **state)
{
    (void)state;
    small_prepare = use_adder;
    resets = ends = handled = 0;
    small_run_handlers(ADDER, add_three_times, handlers, 3, 0);
    small_prepare = NULL;
    assert_int_equal(ends, 3);
    assert_true(resets >= 1);
}

/* Without a model the registers hold what is written, a flag that software sets raises its line. */
static int by_itself(void)
{
    out(BASE + 4, 0x55);
    CHECK_READ(BASE + 4, 0x55);
    out(BASE, 1);
    CHECK_READ(BASE, 0);
    CHECK_READ(BASE + 8, 0);
    return 0;
}

static void without_a_model_it_holds_what_is_written(void **state)
{
    (void)state;
    small_run(ADDER, by_itself, 0);
}

/* ---- what is wrong ---- */

static void models_that_do_not_fit_are_told_why(void **state)
{
    static const struct {
        const char *kind, *roles, *unit, *words;
    } wrong[] = {
        {"adder", "data done done_irq", "A",
         "the model knows no role 'go' of kind 'adder', which A"},
        {"adder", "data done done_irq go !size", "A", "the model needs role 'size'"},
        {"adder", "data done done_irq go data", "A", "has role 'data' twice"},
        {"adder", NULL, "A", "the model says by `.roles`"},
        {"summer", "data", "A", "A is of kind 'adder', and the model of kind 'summer'"},
        {"counter", "enable", "C", "leave `.roles` out"},
        {"adder", "data", "X", "no block or unit 'X'"},
    };
    char *why = NULL;
    (void)state;
    wad_sheet *sheet = small_parse(ADDER);
    wad_sim *sim = wad_sim_new(sheet, &why);
    assert_non_null(sim);
    for (unsigned i = 0; i < sizeof wrong / sizeof wrong[0]; i++) {
        const wad_model_class cls = {.kind = wrong[i].kind, .roles = wrong[i].roles};
        assert_false(wad_sim_register(sim, &cls, wrong[i].unit, &why));
        if (!strstr(why, wrong[i].words))
            fail_msg("case %u: '%s' is not in: %s", i, wrong[i].words, why);
        g_free(why);
    }
    wad_sim_free(sim);
    wad_sheet_free(sheet);
}

static void what_is_wrong_in_a_sheet_is_said(void **state)
{
    (void)state;
    small_refused(ONE_BLOCK("reg R at 0 rw { 0 F rw }\n acts as own counter { enable R.F }"),
                  "'counter' is a kind of Wadium's");
    small_refused(ONE_BLOCK("reg R at 0 rw { 0 F rw }\n acts as own { enable R.F }"),
                  "there is no kind 'own'");
    small_refused(ONE_BLOCK("reg R at 0 rw { 0 F rw }\n acts as caner { enable R.F }"),
                  "and kinds of your own: acts as own caner");
    small_refused(ONE_BLOCK("reg R at 0 rw { 0 F rw }\n acts as own can { enable R.X }"),
                  "no field 'X'");
}

/* A bench with a model that is none. */
static void bench_says(const char *model, const char *source, const char *words)
{
    char *folder = test_folder(), *out, *err;
    char *sheet = g_build_filename(folder, "t.sheet", NULL);
    char *board = g_build_filename(folder, "t.board", NULL);
    char *bench = g_build_filename(folder, "t.bench", NULL);
    char *file = g_build_filename(folder, "m.c", NULL);
    char *main_c = g_build_filename(folder, "f.c", NULL);
    char *firmware = g_build_filename(folder, "f.wfw", NULL);
    char *text = g_strdup_printf(
        "bench \"b\" {\n board \"t.board\"\n firmware \"f.wfw\"\n %s\n run 1 ms\n expect no "
        "findings\n}\n",
        model);
    g_file_set_contents(sheet, ADDER, -1, NULL);
    g_file_set_contents(board, "board B { chip \"t.sheet\" }", -1, NULL);
    g_file_set_contents(bench, text, -1, NULL);
    g_file_set_contents(file, source, -1, NULL);
    g_file_set_contents(main_c, "int main(void) { return 0; }\n", -1, NULL);
    if (WADIUM(&out, &err, "build", sheet, main_c, "-o", firmware))
        fail_msg("%s", err);
    g_free(out);
    g_free(err);
    int status = WADIUM(&out, &err, "run", bench, "-d", folder);
    if (!status || !strstr(err, words))
        fail_msg("'%s' is not in: %s%s", words, out, err);
    char *all[] = {out, err, sheet, board, bench, file, text, main_c, firmware};
    for (unsigned i = 0; i < G_N_ELEMENTS(all); i++)
        g_free(all[i]);
    test_remove(folder);
}

static void files_that_are_no_model_are_refused(void **state)
{
    (void)state;
    bench_says("model \"m.c\" for A", "int x;\n", "is no model: write WAD_MODEL(its class)");
    bench_says("model \"m.c\" for A", "int x\n", "is no model: ");
    bench_says("model \"m.c\" for B",
               "#include <wadium/host/model.h>\n"
               "static const wad_model_class c = {.kind = \"adder\"};\nWAD_MODEL(c)\n",
               "expected a block or a unit of the chip");
    bench_says("model \"m.c\" for A",
               "#include <wadium/host/model.h>\n"
               "static const wad_model_class c = {.kind = \"adder\"};\nWAD_MODEL(c)\n",
               "the model says by `.roles`");
    bench_says("model \"m.c\"", "int x;\n", "expected 'for'");
    bench_says("model \"m.c\" for A\n model \"m.c\" for A",
               "#include <wadium/host/model.h>\n"
               "static const wad_model_class c = {.kind = \"adder\"};\nWAD_MODEL(c)\n",
               "A has a model already");
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(a_kind_of_the_sheet_s_own_runs_by_its_model),
        cmocka_unit_test(all_that_a_kind_of_wadium_s_has_it_has),
        cmocka_unit_test(without_a_model_it_holds_what_is_written),
        cmocka_unit_test(models_that_do_not_fit_are_told_why),
        cmocka_unit_test(what_is_wrong_in_a_sheet_is_said),
        cmocka_unit_test(files_that_are_no_model_are_refused)};
    return cmocka_run_group_tests(tests, NULL, NULL);
}
