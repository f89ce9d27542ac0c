/* SPDX-License-Identifier: MIT */
/*
 * The tide log loses no acknowledged record: the power is cut at every step of the writing of a
 * record, in every step of a page write, and across the erasing of a sector; each time the log
 * comes back with all that was said to be saved, right to the bit.
 */
#include <glib/gstdio.h>
#include <string.h>

#include "support.h"

#define US          UINT64_C(1000000)
#define MS          (1000 * US)
#define FIRST_FROM  (2 * MS)
#define FIRST_TO    (5 * MS)
#define SECOND_FROM (2 * MS)
#define SECOND_TO   (46 * MS)
#define SECTOR      4096u
#define RECORD      16u
#define SLOTS       (SECTOR / RECORD)

static wad_board *board;
static char *folder, *image, *kept;

static int set_up(void **state)
{
    (void)state;
    board = test_board("skerry");
    folder = test_folder();
    image = g_build_filename(folder, "before.bin", NULL);
    kept = g_build_filename(folder, "after.bin", NULL);
    return 0;
}

static int tear_down(void **state)
{
    (void)state;
    wad_board_free(board);
    g_free(image);
    g_free(kept);
    test_remove(folder);
    return 0;
}

/* ---- what a memory holds, read without the example's code ---- */

static uint16_t crc_of(const uint8_t *data, unsigned n)
{
    uint32_t crc = 0xFFFF;
    for (unsigned i = 0; i < n * 8; i++) {
        bool top = (crc >> 15 ^ data[i / 8] >> (7 - i % 8)) & 1;
        crc = (crc << 1 & 0xFFFF) ^ (top ? 0x1021 : 0);
    }
    return (uint16_t)crc;
}

static uint32_t level_of(uint32_t number)
{
    return 2000 + number * 37 % 1000;
}

static void make_record(uint8_t *at, uint32_t number)
{
    const uint32_t words[] = {number, level_of(number), number};
    at[0] = 'T';
    at[1] = 0;
    for (unsigned i = 0; i < 12; i++)
        at[4 + i] = (uint8_t)(words[i / 4] >> (8 * (i % 4)));
    uint16_t crc = crc_of(at + 4, 12);
    at[2] = (uint8_t)(crc >> 8);
    at[3] = (uint8_t)crc;
}

/* Is the record there, as it was written? */
static bool holds(const uint8_t *bytes, uint32_t number)
{
    uint8_t want[RECORD];
    make_record(want, number);
    for (unsigned i = 0; i < 4 * SLOTS; i++)
        if (!memcmp(bytes + i * RECORD, want, RECORD))
            return true;
    return false;
}

/* ---- runs ---- */

typedef struct steps {
    GArray *times; /* uint64_t: of each access to a register */
    uint64_t from, to;
} steps;

static void on_access(void *ctx, const wad_access_record *r)
{
    steps *s = ctx;
    if (r->ps >= s->from && r->ps < s->to && !strncmp(r->block->name, "SPI", 3))
        g_array_append_val(s->times, r->ps);
}

static void watch(wad_sim *sim, void *ctx)
{
    if (ctx)
        wad_sim_watch_access(sim, on_access, ctx);
}

typedef struct life {
    uint32_t acknowledged; /* the last "saved N" before the power failed */
    uint32_t found;        /* the N of the last "N in the log" */
    bool wrong;
} life;

static GString *heard;
static size_t back_at; /* bytes heard before the power failed */

static void on_byte(void *ctx, const wad_serial_heard *byte)
{
    back_at += byte->ps < *(const uint64_t *)ctx;
    g_string_append_c(heard, (char)byte->data);
}

static size_t take(void *ctx, uint8_t *bytes, size_t room, uint64_t wait_us)
{
    (void)ctx;
    (void)bytes;
    (void)room;
    (void)wait_us;
    return 0;
}

static void hear(life *l);

static life run(const char *from_image, uint64_t cut_ps, uint64_t end_ps, steps *s, uint8_t *bytes)
{
    const wad_bridge ears = {.line = "LINK", .take = take, .give = on_byte, .ctx = &cut_ps};
    const wad_bench_options options = {
        .firmware_dir = FIRMWARE_DIR, .prepare = watch, .ctx = s, .bridge = &ears};
    wad_diags *diags = wad_diags_new();
    wad_bench *b = wad_bench_new("log", board);
    char *why = NULL, *text;
    GString *say = g_string_new("firmware tide_log\nuart LINK at 115200\nspi STORE\n");
    if (from_image)
        g_string_append_printf(say, "image STORE in \"%s\"\n", from_image);
    if (cut_ps)
        g_string_append_printf(say, "power fails at %llu ps\n", (unsigned long long)cut_ps);
    g_string_append_printf(say, "keep STORE in \"%s\"\nrun %llu ps\n", kept,
                           (unsigned long long)end_ps);
    if (!wad_bench_say(b, say->str, diags))
        fail_msg("%s", test_diags_text(diags));
    heard = g_string_new(NULL);
    back_at = 0;
    wad_bench_result *r = wad_bench_run(b, &options, &why);
    if (!r)
        fail_msg("%s", why);
    life l = {0};
    hear(&l);
    gsize n;
    assert_true(g_file_get_contents(kept, &text, &n, NULL));
    memcpy(bytes, text, 4 * SECTOR);
    g_free(text);
    g_string_free(heard, TRUE);
    g_string_free(say, TRUE);
    wad_bench_result_free(r);
    wad_bench_free(b);
    wad_diags_free(diags);
    return l;
}

/* What was said before the power failed, and behind it. */
static void hear(life *l)
{
    const char *after = strstr(heard->str + back_at, " in the log"), *said = heard->str;
    l->wrong = strstr(heard->str, "WRONG") || strstr(heard->str, "no log");
    l->found = UINT32_MAX;
    if (!after)
        return;
    const char *digits = after;
    while (digits > heard->str + back_at && g_ascii_isdigit(digits[-1]))
        digits--;
    l->found = (uint32_t)g_ascii_strtoull(digits, NULL, 10);
    while ((said = strstr(said, "saved ")) && said < heard->str + back_at) {
        char *end;
        said += 6;
        uint32_t number = (uint32_t)g_ascii_strtoull(said, &end, 10);
        if (*end == '\r') /* else it was cut off: nobody knows the number */
            l->acknowledged = number;
    }
}

/* `before` records stand in the image. */
static void one_cut(uint32_t before, uint64_t cut, uint64_t end)
{
    static uint8_t bytes[4 * SECTOR];
    life l = run(image, cut, end, NULL, bytes);
    uint32_t must = MAX(l.acknowledged, before);
    if (l.wrong || l.found == UINT32_MAX || l.found < must)
        fail_msg("power cut at %.3f us: %u acknowledged, %u found%s", (double)cut / 1e6, must,
                 l.found, l.wrong ? ", something is wrong" : "");
    for (uint32_t i = 1; i <= must; i++)
        if (!holds(bytes, i))
            fail_msg("power cut at %.3f us: record %u is lost", (double)cut / 1e6, i);
}

/* A memory with so many records, something old in the sector behind them, and nothing else. */
static void make_image(uint32_t records)
{
    static uint8_t bytes[2 * SECTOR];
    memset(bytes, 0xFF, sizeof bytes);
    memset(bytes + SECTOR, 0xA5, SECTOR);
    for (uint32_t i = 0; i < records; i++)
        make_record(bytes + i * RECORD, i + 1);
    assert_true(g_file_set_contents(image, (const char *)bytes, sizeof bytes, NULL));
}

/* Cuts right behind each access in a stretch, or behind every so many, and on a grid for what goes
 * on by itself. */
static unsigned cut_everywhere(uint32_t before, uint64_t from, uint64_t to, uint64_t grid,
                               uint64_t after, unsigned every)
{
    static uint8_t bytes[4 * SECTOR];
    steps s = {g_array_new(FALSE, FALSE, sizeof(uint64_t)), from, to};
    unsigned cuts = 0;
    make_image(before);
    (void)run(image, 0, to, &s, bytes);
    assert_true(holds(bytes, before + 1)); /* the stretch is that of its writing */
    for (guint i = 0; i < s.times->len; i += every, cuts++) {
        uint64_t at = g_array_index(s.times, uint64_t, i) + 1;
        one_cut(before, at, at + after);
    }
    for (uint64_t at = from; at < to; at += grid, cuts++)
        one_cut(before, at, at + after);
    g_array_free(s.times, TRUE);
    return cuts;
}

/* The second record: enabled, written for 0.7 ms, looked at, read back, said to be saved. */
static void no_cut_in_a_page_write_loses_a_record(void **state)
{
    (void)state;
    unsigned cuts = cut_everywhere(1, FIRST_FROM, FIRST_TO, 20 * US, 8 * MS, 1);
    print_message("%u cuts in the writing of a record\n", cuts);
    assert_true(cuts > 300);
}

/* The sector is full: the next one is erased, and begun. */
static void no_cut_across_a_sector_s_end_loses_a_record(void **state)
{
    (void)state;
    unsigned cuts = cut_everywhere(SLOTS, SECOND_FROM, SECOND_TO, 1 * MS, 8 * MS, 4);
    print_message("%u cuts across the end of a sector\n", cuts);
    assert_true(cuts > 100);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(no_cut_in_a_page_write_loses_a_record),
        cmocka_unit_test(no_cut_across_a_sector_s_end_loses_a_record),
    };
    return cmocka_run_group_tests(tests, set_up, tear_down);
}
