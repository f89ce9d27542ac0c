/* SPDX-License-Identifier: MIT */
/* Parts that a bench names by a C file: their wires, their statements, what they count, frames and
 * bytes made for them, and each way in which such a file is no part. */
#include <glib/gstdio.h>
#include <string.h>

#include "support.h"
#include "wadium/pin.h"

#include "corran32_roles.h"

static wad_board *board;
static char *folder;

static int set_up(void **state)
{
    (void)state;
    board = test_board("skerry");
    folder = test_folder();
    return 0;
}

static int tear_down(void **state)
{
    (void)state;
    wad_board_free(board);
    test_remove(folder);
    return 0;
}

/* A part's file, and its path in quotes. */
static char *part_file(const char *name, const char *text)
{
    char *path = g_build_filename(folder, name, NULL);
    char *whole = g_strconcat("#include <wadium/host/part.h>\n", text, NULL);
    assert_true(g_file_set_contents(path, whole, -1, NULL));
    g_free(whole);
    return path;
}

static int (*main_now)(void);
static wad_bench *bench;

static void attach(wad_sim *sim, void *ctx)
{
    (void)ctx;
    wad_sim_attach(sim, main_now, NULL, 0);
}

/* `%s` in a statement is the part's file. */
static wad_bench_result *run(const char *path, int (*main_fn)(void), const char *const *say)
{
    const wad_bench_options options = {.prepare = attach};
    wad_diags *diags = wad_diags_new();
    char *why = NULL;
    bench = wad_bench_new("parts", board);
    for (unsigned i = 0; say[i]; i++) {
        char **halves = g_strsplit(say[i], "%s", 2), *whole = g_strjoinv(path, halves);
        if (!wad_bench_say(bench, whole, diags)) {
            char *text = test_diags_text(diags);
            fail_msg("%s: %s", whole, text);
        }
        g_free(whole);
        g_strfreev(halves);
    }
    wad_diags_free(diags);
    main_now = main_fn;
    wad_bench_result *r = wad_bench_run(bench, &options, &why);
    if (!r)
        fail_msg("%s", why);
    return r;
}

static void end(wad_bench_result *r)
{
    wad_bench_result_free(r);
    wad_bench_free(bench);
}

static void must_pass(wad_bench_result *r)
{
    test_passed(r);
}

static bool notes_say(const wad_bench_result *r, const char *text)
{
    for (unsigned i = 0; i < r->n_notes; i++)
        if (strstr(r->notes[i], text))
            return true;
    return false;
}

/* ---- on pins ---- */

/* A pump of two switches: counts its strokes, and does not stand both at once. */
static const char pump[] =
    "enum { HIGH, LOW };\n"
    "static const wad_part_act acts[] = {\n"
    "    {\"jam\", WAD_ACT_NOTHING, 0, 0, 0, 0},\n"
    "    {\"head\", WAD_ACT_NUMBER, WAD_UNIT_V, -1, 5, 0},\n"
    "    {\"label\", WAD_ACT_TEXT, 0, 0, 0, 0}, {0}};\n"
    "static char kept[80];\n"
    "static void edge(wad_part *p, unsigned wire, uint64_t ps, wad_level level)\n"
    "{\n"
    "    int *jammed = wad_part_state(p);\n"
    "    if (level != WAD_HIGH) return;\n"
    "    if (wad_part_level(p, HIGH) == WAD_HIGH && wad_part_level(p, LOW) == WAD_HIGH)\n"
    "        wad_part_refuse(p, \"both switches are on at %u us\", (unsigned)(ps / 1000000));\n"
    "    else if (wire == HIGH && !*jammed)\n"
    "        wad_part_count(p, \"strokes\");\n"
    "}\n"
    "static void act(wad_part *p, unsigned n, const wad_part_value *v)\n"
    "{\n"
    "    if (n == 0) *(int *)wad_part_state(p) = 1;\n"
    "    else if (n == 1) __builtin_sprintf(kept, \"%.3f\", v->number);\n"
    "    else if (v->bytes < 40) __builtin_strcat(kept, v->text);\n"
    "}\n"
    "static void power_fails(wad_part *p) { *(int *)wad_part_state(p) = 0;\n"
    "    wad_part_count(p, \"losses\"); }\n"
    "static bool keep(const wad_part *p, const char *path, char **why)\n"
    "{\n"
    "    (void)p;\n"
    "    FILE *f = fopen(path, \"w\");\n"
    "    if (!f) { *why = __builtin_strdup(\"the pump cannot write\"); return false; }\n"
    "    fputs(kept, f);\n"
    "    return fclose(f) == 0;\n"
    "}\n"
    "static const wad_part_class cls = {.kind = \"switches\", .wires = \"HIGH LOW\",\n"
    "    .state_size = sizeof(int), .acts = acts, .counts = \"strokes losses\", .edge = edge,\n"
    "    .act = act, .power_fails = power_fails, .keep = keep};\n"
    "WAD_PART(cls)\n";

/* Ten strokes of 1 ms; in the fourth both switches are on. */
static int stroke_main(void)
{
    bool good = wad_pin_output(CORRAN32_PB1, false) == WAD_OK &&
                wad_pin_output(CORRAN32_PB6, false) == WAD_OK;
    for (unsigned i = 0; good && i < 10; i++) {
        wad_pin_write(CORRAN32_PB6, i == 3);
        wad_pin_write(CORRAN32_PB1, true);
        for (unsigned k = 0; k < 100; k++)
            (void)wad_pin_read(CORRAN32_PB1);
        wad_pin_write(CORRAN32_PB1, false);
        wad_pin_write(CORRAN32_PB6, false);
    }
    for (;;)
        wad_port_sleep();
    return 0;
}

static void a_part_hears_counts_and_refuses(void **state)
{
    const char *const say[] = {"part PUMP in \"%s\"", "run 100 ms",
                               "expect PUMP counts \"strokes\" 9", "expect PUMP refusals 1", NULL};
    char *path = part_file("pump.c", pump);
    (void)state;
    wad_bench_result *r = run(path, stroke_main, say);
    must_pass(r);
    assert_true(notes_say(r, "PUMP, at "));
    assert_true(notes_say(r, "both switches are on"));
    end(r);
    g_free(path);
}

static void its_wires_are_cut_like_any(void **state)
{
    const char *const cut[] = {"part PUMP in \"%s\"", "cut PUMP HIGH", "run 100 ms",
                               "expect PUMP counts \"strokes\" 0", NULL};
    const char *const stuck[] = {"part PUMP in \"%s\"",
                                 "stick PUMP LOW high",
                                 "run 100 ms",
                                 "expect PUMP counts \"strokes\" 0",
                                 "expect PUMP refusals 10",
                                 NULL};
    char *path = part_file("pump.c", pump);
    (void)state;
    wad_bench_result *r = run(path, stroke_main, cut);
    must_pass(r);
    end(r);
    r = run(path, stroke_main, stuck); /* each of the ten strokes */
    must_pass(r);
    assert_true(notes_say(r, "PUMP: 2 more of the kind"));
    end(r);
    g_free(path);
}

static void its_statements_come_with_their_values(void **state)
{
    char *path = part_file("pump.c", pump), *kept = g_build_filename(folder, "kept", NULL);
    char *keep = g_strdup_printf("keep PUMP in \"%s\"", kept), *text;
    const char *const say[] = {"part PUMP in \"%s\"",
                               "jam PUMP",
                               "label PUMP \" of the harbour\" at 2 ms",
                               "head PUMP -250 mV at 1 ms",
                               keep,
                               "run 100 ms",
                               "expect PUMP counts \"strokes\" 0",
                               NULL};
    (void)state;
    wad_bench_result *r = run(path, stroke_main, say);
    must_pass(r);
    end(r);
    assert_true(g_file_get_contents(kept, &text, NULL, NULL));
    assert_string_equal(text, "-0.250 of the harbour");
    g_free(text);
    g_free(keep);
    g_free(kept);
    g_free(path);
}

static void what_it_cannot_keep_fails_the_run(void **state)
{
    const char *const say[] = {"part PUMP in \"%s\"", "keep PUMP in \"/nowhere/x\"", "run 1 ms",
                               NULL};
    char *path = part_file("pump.c", pump);
    (void)state;
    wad_bench_result *r = run(path, stroke_main, say);
    assert_false(r->passed);
    assert_true(notes_say(r, "the pump cannot write"));
    end(r);
    g_free(path);
}

static void it_loses_its_power_with_the_board(void **state)
{
    const char *const say[] = {"part PUMP in \"%s\"",
                               "jam PUMP at 1 ms",
                               "power fails at 50 ms",
                               "run 100 ms",
                               "expect PUMP counts \"losses\" 1",
                               "expect PUMP counts \"strokes\" 9",
                               NULL};
    char *path = part_file("pump.c", pump);
    (void)state;
    wad_bench_result *r = run(path, stroke_main, say);
    /* not jammed before 1 ms: some strokes; begun anew after the failure: nine */
    unsigned counted = (unsigned)atoi(r->verdicts[1].measured);
    assert_true(r->verdicts[0].passed);
    assert_in_range(counted, 9, 18);
    end(r);
    g_free(path);
}

/* ---- on a bus ---- */

/* Answers with what came before, turned round; pulls READY high while it is not selected. */
static const char gauge[] =
    "enum { CS, SCK, MOSI, MISO, READY };\n"
    "static uint32_t next(wad_part *p, unsigned i)\n"
    "{ return i ? ~*(uint32_t *)wad_part_state(p) & 0xFFFF : 0x1234; }\n"
    "static void came(wad_part *p, unsigned i, uint32_t frame)\n"
    "{ (void)i; *(uint32_t *)wad_part_state(p) = frame; wad_part_count(p, \"frames\"); }\n"
    "static void selected(wad_part *p) { wad_part_drive(p, READY, WAD_LOW); }\n"
    "static void deselected(wad_part *p, unsigned frames, unsigned bits)\n"
    "{ (void)frames; (void)bits; wad_part_wake(p, wad_part_now(p) + 3000000000u); }\n"
    "static void wake(wad_part *p, uint64_t ps) { (void)ps; wad_part_drive(p, READY, WAD_HIGH); }\n"
    "static const wad_part_spi spi = {16, selected, next, came, deselected};\n"
    "static const wad_part_class cls = {.kind = \"gauge\", .wires = WAD_WIRES_SPI \" >READY\",\n"
    "    .state_size = 4, .counts = \"frames\", .spi = &spi, .wake = wake};\n"
    "WAD_PART(cls)\n";

static uint16_t answers[3];
static wad_status status;

static int gauge_main(void)
{
    static const wad_timebase base = {&corran32_base, .hz = 1000000};
    static const wad_spi bus = {&corran32_spi0, .clock = CORRAN32_ROUTE_SPI0_SCK_PB13,
                                .mosi = CORRAN32_ROUTE_SPI0_MOSI_PB15,
                                .miso = CORRAN32_ROUTE_SPI0_MISO_PB14, .time = &base};
    static const wad_spi_device device = {
        &bus,       .hz = 1000000, .bits = 16, .mode = 3, .select = CORRAN32_ROUTE_SPI0_CS0_PB12,
        .setup = 1, .hold = 1};
    const uint16_t out[] = {0x0F0F, 0x8001, 0};
    status = wad_timebase_open(&base);
    if (status == WAD_OK)
        status = wad_pin_input(CORRAN32_PB14, WAD_PULL_UP);
    if (status == WAD_OK)
        status = wad_spi_open(&bus);
    if (status == WAD_OK)
        status = wad_spi_add(&device);
    if (status == WAD_OK)
        status = wad_spi_transfer(&device, out, answers, 3, 1000);
    for (;;)
        wad_port_sleep();
    return 0;
}

static const char board_text[] = "board Gauge {\n"
                                 "    chip Corran32\n"
                                 "    part G gauge { CS PB12, SCK PB13, MISO PB14, MOSI PB15, "
                                 "READY PB8 }\n"
                                 "    part H gauge { CS PB12, SCK PB13, MISO PB14, MOSI PB15 }\n"
                                 "    part M modem { TX PA9, RX PA10, RING PC9 }\n"
                                 "}\n";

static wad_board *own_board(void)
{
    char *path = g_build_filename(folder, "gauge.board", NULL);
    wad_diags *diags = wad_diags_new();
    assert_true(g_file_set_contents(path, board_text, -1, NULL));
    wad_board *own = wad_board_read(path, diags);
    if (!own) {
        char *text = test_diags_text(diags);
        fail_msg("%s", text);
    }
    wad_diags_free(diags);
    g_free(path);
    return own;
}

static void a_device_has_its_frames_and_wires_of_its_own(void **state)
{
    const char *const say[] = {"spi G in \"%s\" mode 3 limit 2 MHz",
                               "capture PB8 as ready",
                               "run 20 ms",
                               "expect G frames 3",
                               "expect G selects 1",
                               "expect G counts \"frames\" 3",
                               "expect ready is high at 19 ms",
                               "expect ready edges 1 from 1 us",
                               "expect no findings",
                               NULL};
    char *path = part_file("gauge.c", gauge);
    wad_board *own = own_board(), *old = board;
    (void)state;
    board = own;
    wad_bench_result *r = run(path, gauge_main, say);
    must_pass(r);
    assert_int_equal(status, WAD_OK);
    const uint16_t want[] = {0x1234, 0xF0F0, 0x7FFE};
    assert_memory_equal(answers, want, sizeof want);
    end(r);
    wad_board_free(own);
    board = old;
    g_free(path);
}

/* ---- on a line ---- */

/* Sends "a", then of each byte that comes the next one; "f" makes it ring. */
static const char modem[] =
    "enum { TX, RX, RTS, CTS, RING };\n"
    "static void byte(wad_part *p, const wad_serial_heard *b)\n"
    "{\n"
    "    uint8_t next = (uint8_t)(b->data + 1);\n"
    "    if (b->data < 'f') wad_part_send(p, &next, 1);\n"
    "    else wad_part_drive(p, RING, WAD_HIGH);\n"
    "}\n"
    "static bool begin(wad_part *p, char **why)\n"
    "{ (void)why; wad_part_wake(p, 10000000000u); return true; }\n"
    "static void wake(wad_part *p, uint64_t ps)\n"
    "{ (void)ps; wad_part_send(p, (const uint8_t *)\"a\", 1); }\n"
    "static const wad_part_serial serial = {byte};\n"
    "static const wad_part_class cls = {.kind = \"modem\", .wires = WAD_WIRES_SERIAL \" ?>RING\",\n"
    "    .serial = &serial, .begin = begin, .wake = wake};\n"
    "WAD_PART(cls)\n";

static void a_line_has_its_bytes(void **state)
{
    /* the firmware answers each byte with the next one: a b, c d, e f */
    const char *const say[] = {"uart M at 2400 format \"8M1.5\" in \"%s\"",
                               "capture PC9 as ring",
                               "run 200 ms",
                               "expect M bytes 3",
                               "expect M says \"bdf\"",
                               "expect ring is high at 199 ms",
                               "expect M errors 0",
                               NULL};
    char *path = part_file("modem.c", modem);
    wad_board *own = own_board();
    wad_bench *b = wad_bench_new("line", own);
    wad_diags *diags = wad_diags_new();
    char *why = NULL;
    (void)state;
    for (unsigned i = 0; say[i]; i++) {
        char **halves = g_strsplit(say[i], "%s", 2), *whole = g_strjoinv(path, halves);
        assert_true(wad_bench_say(b, whole, diags));
        g_free(whole);
        g_strfreev(halves);
    }
    assert_true(wad_bench_say(b, "firmware serial_32", diags));
    wad_bench_result *r =
        wad_bench_run(b, &(wad_bench_options){.firmware_dir = FIRMWARE_DIR}, &why);
    if (!r)
        fail_msg("%s", why);
    must_pass(r);
    wad_bench_result_free(r);
    wad_bench_free(b);
    wad_diags_free(diags);
    wad_board_free(own);
    g_free(path);
}

/* What is sent before the run begins goes out when it does: 0x55 has an edge a bit. */
static const char early[] =
    "static bool begin(wad_part *p, char **why)\n"
    "{ (void)why; wad_part_send(p, (const uint8_t *)\"U\", 1); return true; }\n"
    "static const wad_part_serial serial = {0};\n"
    "static const wad_part_class cls = {.kind = \"early\", .wires = WAD_WIRES_SERIAL,\n"
    "    .serial = &serial, .begin = begin};\n"
    "WAD_PART(cls)\n";

static void bytes_of_the_beginning_are_sent(void **state)
{
    const char *const say[] = {"uart LINK at 9600 in \"%s\"", "capture PA10 as rx", "run 3 ms",
                               "expect rx edges 9 from 1 us", NULL};
    char *path = part_file("early.c", early);
    (void)state;
    wad_bench_result *r = run(path, stroke_main, say);
    test_passed(r);
    end(r);
    g_free(path);
}

/* ---- the same numbers for the same seed ---- */

static const char dice[] =
    "static bool begin(wad_part *p, char **why)\n"
    "{ (void)why; for (int i = 0; i < 64; i++)\n"
    "    wad_part_count(p, wad_part_random(p) & 1 ? \"heads\" : \"tails\"); return true; }\n"
    "static const wad_part_class cls = {.kind = \"dice\", .wires = \"HIGH LOW\",\n"
    "    .counts = \"heads tails\", .begin = begin};\n"
    "WAD_PART(cls)\n";

static void chance_is_the_seeds(void **state)
{
    char *path = part_file("dice.c", dice);
    unsigned heads[3];
    (void)state;
    for (unsigned i = 0; i < 3; i++) {
        const char *const say[] = {i == 2 ? "seed 9" : "seed 4", "part PUMP in \"%s\"", "run 1 ms",
                                   "expect PUMP counts \"heads\" 0", NULL};
        wad_bench_result *r = run(path, stroke_main, say);
        heads[i] = (unsigned)atoi(r->verdicts[0].measured);
        end(r);
    }
    assert_int_equal(heads[0], heads[1]);
    assert_int_not_equal(heads[0], heads[2]);
    assert_in_range(heads[0], 10, 54);
    g_free(path);
}

/* ---- what a class does that it did not say ---- */

static const char sloppy[] =
    "static bool begin(wad_part *p, char **why)\n"
    "{\n"
    "    (void)why;\n"
    "    wad_part_drive(p, 0, WAD_HIGH);\n"
    "    wad_part_drive(p, 7, WAD_HIGH);\n"
    "    wad_part_count(p, \"stroke\");\n"
    "    wad_part_wake(p, 5);\n"
    "    wad_part_send(p, (const uint8_t *)\"a\", 1);\n"
    "    return true;\n"
    "}\n"
    "static const wad_part_class cls = {.kind = \"sloppy\", .wires = \"HIGH LOW\",\n"
    "    .counts = \"strokes\", .begin = begin};\n"
    "WAD_PART(cls)\n";

static void nothing_that_a_class_asks_for_is_ignored(void **state)
{
    const char *const say[] = {"part PUMP in \"%s\"", "run 1 ms", "expect PUMP refusals 5", NULL};
    char *path = part_file("sloppy.c", sloppy);
    (void)state;
    wad_bench_result *r = run(path, stroke_main, say);
    test_passed(r);
    assert_true(notes_say(r, "drives wire 0, which is none of its '>' wires"));
    assert_true(notes_say(r, "drives wire 7"));
    assert_true(notes_say(r, "counts 'stroke', which its 'counts' does not name"));
    assert_true(notes_say(r, "asks to be woken, and has no 'wake'"));
    assert_true(notes_say(r, "sends bytes, and is on no serial line"));
    end(r);
    g_free(path);
}

/* ---- what is no part ---- */

static void slips_name_the_cure(void **state)
{
    static const char plain[] =
        "void act(wad_part *p, unsigned n, const wad_part_value *v);\n"
        "void act(wad_part *p, unsigned n, const wad_part_value *v)\n"
        "{ (void)p; (void)n; (void)v; }\n"
        "static const wad_part_class cls = {.kind = \"k\", %s};\nWAD_PART(cls)\n";
    static const struct {
        const char *with, *say, *want; /* `with` beginning with '=': the whole file */
    } slips[] = {
        {"=int x = ;\n", "part PUMP in \"%s\"", "is no part: "},
        {"=int x = ;\n", "part PUMP in \"%s\"", "expected expression"},
        {"=static int x;\n", "part PUMP in \"%s\"", "write WAD_PART(its class) at its end"},
        {"=void missing(void);\nvoid f(void) { missing(); }\n", "part PUMP in \"%s\"",
         "undefined symbol: missing"},
        {".wires = \"HIGH LOW EN\"", "part PUMP in \"%s\"",
         "the board's part 'PUMP' has no wire EN to a pin of the chip"},
        {".wires = \"A B C D E F G H I\"", "part PUMP in \"%s\"", "more than 8 wires"},
        {".wires = \"HIGH >\"", "part PUMP in \"%s\"", "a wire's name has 1 to 15 characters"},
        {".state_size = 3", "part PUMP in \"%s\"", "no kind, or no wires"},
        {".wires = \"HIGH\", .spi = &(wad_part_spi){8}", "part PUMP in \"%s\"",
         "on an SPI bus its wires begin with WAD_WIRES_SPI"},
        {".wires = WAD_WIRES_SPI, .spi = &(wad_part_spi){8}", "spi THERMO in \"%s\"",
         "it needs 'next'"},
        {".wires = WAD_WIRES_SERIAL, .serial = &(wad_part_serial){0}", "part PUMP in \"%s\"",
         "the other end of a serial line: uart NAME at 9600"},
        {".wires = \"HIGH\"", "spi THERMO in \"%s\"", "it has no 'spi'"},
        {".wires = \"HIGH\"", "uart LINK at 9600 in \"%s\"", "it has no 'serial'"},
        {".wires = \"HIGH\"", "part NOTHING in \"%s\"", "the board has no part of that name"},
        {".wires = \"HIGH\", .acts = (const wad_part_act[]){{\"go\"}, {0}}", "part PUMP in \"%s\"",
         "it has acts, and no function 'act'"},
        {".wires = \"HIGH\", .act = act, .acts = (const wad_part_act[]){{\"go\"}, {\"go\"}, {0}}",
         "part PUMP in \"%s\"", "two of its acts have one word"},
        {".wires = \"HIGH\", .act = act, .acts = (const wad_part_act[]){{\"press\"}, {0}}",
         "part PUMP in \"%s\"",
         "part 'PUMP' calls a statement 'press', which is a word of benches"},
        {".wires = \"HIGH\", .act = act, .acts = (const wad_part_act[]){{\"cut\"}, {0}}",
         "part PUMP in \"%s\"", "a statement 'cut', which is a word of benches"},
        {".wires = \"HIGH\"", "part PUMP in \"%s\" fast", "expected the end"},
        {".wires = \"HIGH\"", "part PUMP", "a part 'switches' is in no list: part PUMP in"},
        {".wires = \"HIGH\"", "part THERMO", "a device on an SPI bus: spi NAME"},
        {".wires = \"HIGH\"", "part PUMP in \"nowhere.c\"", "nowhere.c is no part: "},
    };
    (void)state;
    for (unsigned i = 0; i < G_N_ELEMENTS(slips); i++) {
        bool whole = *slips[i].with == '=';
        char **halves = g_strsplit(plain, "%s", 2);
        char *text = whole ? g_strdup(slips[i].with + 1) : g_strjoinv(slips[i].with, halves);
        char *path = part_file("slip.c", text);
        char **say_halves = g_strsplit(slips[i].say, "%s", 2), *say = g_strjoinv(path, say_halves);
        test_slips(board, NULL, &(test_slip){say, slips[i].want}, 1);
        g_free(say);
        g_strfreev(say_halves);
        g_strfreev(halves);
        g_free(text);
        g_free(path);
    }
}

static void its_statements_refuse_what_they_do_not_take(void **state)
{
    static const test_slip slips[] = {
        {"jam WARN", "no such part yet: part NAME in \"FILE.c\""},
        {"head PUMP 6 V", "'head' takes a number from -1 to 5, with its unit"},
        {"head PUMP 3", "'head' takes a number"},
        {"label PUMP 3", "expected the text in quotes"},
        {"jam PUMP 3", "expected the end"},
        {"jam LINK", "'LINK' does not take 'jam'"},
        {"stick PUMP low", "name the wire: HIGH, LOW"},
        {"expect PUMP frames 3", "that part is on no SPI bus"},
        {"expect PUMP counts \"turns\" 3", "the part's class counts nothing of that name"},
        {"expect PUMP counts \"strokes\" 3 from 1 ms", "takes no window"},
        {"image THERMO in \"x\"", "no such device yet"},
        {"part PUMP in \"pump.c\"", "that part is there already"},
    };
    char *path = part_file("pump.c", pump);
    char *first = g_strdup_printf("part PUMP in \"%s\"\nuart LINK at 9600", path);
    (void)state;
    test_slips(board, first, slips, G_N_ELEMENTS(slips));
    g_free(first);
    g_free(path);
}

static void one_that_does_not_begin_ends_the_run(void **state)
{
    static const char text[] =
        "static bool begin(wad_part *p, char **why)\n"
        "{ (void)p; *why = __builtin_strdup(\"the float is stuck\"); return false; }\n"
        "static const wad_part_class cls = {.kind = \"k\", .wires = \"HIGH\", .begin = begin};\n"
        "WAD_PART(cls)\n";
    char *path = part_file("stuck.c", text), *say = g_strdup_printf("part PUMP in \"%s\"", path);
    wad_diags *diags = wad_diags_new();
    wad_bench *b = wad_bench_new("stuck", board);
    char *why = NULL;
    (void)state;
    assert_true(wad_bench_say(b, say, diags));
    assert_true(wad_bench_say(b, "run 1 ms", diags));
    main_now = stroke_main;
    assert_null(wad_bench_run(b, &(wad_bench_options){.prepare = attach}, &why));
    assert_string_equal(why, "the float is stuck");
    g_free(why);
    g_free(say);
    g_free(path);
    wad_bench_free(b);
    wad_diags_free(diags);
}

/* ---- as the command does it ---- */

static void it_is_moved_by_hand_while_one_looks(void **state)
{
    char *commands = g_build_filename(folder, "commands", NULL), *out, *err;
    (void)state;
    assert_true(g_file_set_contents(
        commands, "go 200 ms\ntide FLOAT -1\ngo 1.5 s\nshow pins\nend\n", -1, NULL));
    assert_int_equal(WADIUM(&out, &err, "watch", SOURCE_DIR "/examples/wheel/float.bench", "-d",
                            FIRMWARE_DIR, "--commands", commands, "--variable", "wheel.position"),
                     0);
    if (!strstr(out, "wheel.position   -200"))
        fail_msg("%s%s", out, err);
    g_free(out);
    g_free(err);
    g_free(commands);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(a_part_hears_counts_and_refuses),
        cmocka_unit_test(its_wires_are_cut_like_any),
        cmocka_unit_test(its_statements_come_with_their_values),
        cmocka_unit_test(what_it_cannot_keep_fails_the_run),
        cmocka_unit_test(it_loses_its_power_with_the_board),
        cmocka_unit_test(a_device_has_its_frames_and_wires_of_its_own),
        cmocka_unit_test(a_line_has_its_bytes),
        cmocka_unit_test(bytes_of_the_beginning_are_sent),
        cmocka_unit_test(chance_is_the_seeds),
        cmocka_unit_test(nothing_that_a_class_asks_for_is_ignored),
        cmocka_unit_test(slips_name_the_cure),
        cmocka_unit_test(its_statements_refuse_what_they_do_not_take),
        cmocka_unit_test(one_that_does_not_begin_ends_the_run),
        cmocka_unit_test(it_is_moved_by_hand_while_one_looks),
    };
    return cmocka_run_group_tests(tests, set_up, tear_down);
}
