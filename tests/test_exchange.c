/* SPDX-License-Identifier: MIT */
/* Captured exchanges: made bit by bit in every mode, size and order, then decoded; and each thing
 * that can be wrong with one. */
#include <math.h>
#include <string.h>

#include "support.h"
#include "wadium/host/exchange.h"

#define HALF 50000u /* picoseconds: 10 MHz */

typedef struct maker {
    wad_capture *capture;
    uint64_t ps;
    unsigned mode, bits;
    bool lsb, device_phase; /* the device's own phase */
} maker;

static const int all_lines[] = {0, 1, 2, 3};

static void edge(maker *m, unsigned line, bool level)
{
    wad_capture_edge(m->capture, line, m->ps, level ? WAD_HIGH : WAD_LOW);
}

static maker new_maker(unsigned mode, unsigned bits, bool lsb)
{
    static const char *const names[] = {"select", "sck", "mosi", "miso"};
    maker m = {wad_capture_new(), 0, mode, bits, lsb, mode & 1};
    for (unsigned i = 0; i < 4; i++)
        wad_capture_channel(m.capture, names[i]);
    edge(&m, WAD_LINE_SELECT, true);
    edge(&m, WAD_LINE_CLOCK, mode >> 1);
    edge(&m, WAD_LINE_MOSI, false);
    wad_capture_edge(m.capture, WAD_LINE_MISO, 0, WAD_FLOATING);
    m.ps = 1000000;
    return m;
}

static bool bit(const maker *m, uint32_t word, unsigned i)
{
    return word >> (m->lsb ? i : m->bits - 1 - i) & 1;
}

static void show(maker *m, uint32_t out, uint32_t in, unsigned i, bool phase)
{
    if ((m->mode & 1) == phase)
        edge(m, WAD_LINE_MOSI, bit(m, out, i));
    if (m->device_phase == phase)
        edge(m, WAD_LINE_MISO, bit(m, in, i));
}

/* `n` bits of a frame; the first stands there already in phase 0. */
static void frame(maker *m, uint32_t out, uint32_t in, unsigned n)
{
    show(m, out, in, 0, false);
    for (unsigned i = 0; i < n; i++) {
        m->ps += HALF;
        edge(m, WAD_LINE_CLOCK, !(m->mode >> 1));
        m->ps += 1000; /* data follow a nanosecond behind */
        show(m, out, in, i, true);
        m->ps += HALF - 1000;
        edge(m, WAD_LINE_CLOCK, m->mode >> 1);
        m->ps += 1000;
        if (i + 1 < n)
            show(m, out, in, i + 1, false);
        m->ps -= 1000;
    }
    m->ps += 1000;
}

static void chip_select(maker *m, bool on)
{
    m->ps += 2 * HALF;
    edge(m, WAD_LINE_SELECT, !on);
    m->ps += HALF;
}

static wad_exchanges *decode(maker *m, const int *channels, wad_exchange_form form)
{
    char *why;
    form.bits = m->bits;
    form.lsb_first = m->lsb;
    wad_exchanges *x = wad_exchange_decode(m->capture, channels, m->ps + 1000000, &form, &why);
    if (!x)
        fail_msg("%s", why);
    return x;
}

static uint32_t seed = 7;

static uint32_t any(unsigned bits)
{
    seed = seed * 1664525u + 1013904223u;
    uint32_t word = seed ^ seed >> 13;
    return bits == 32 ? word : word & ((1u << bits) - 1);
}

/* ---- all forms ---- */

static void one_form(unsigned mode, unsigned bits, bool lsb, bool with_select)
{
    uint32_t out[12], in[12];
    const int lines[] = {with_select ? 0 : -1, 1, 2, 3};
    maker m = new_maker(mode, bits, lsb);
    for (unsigned i = 0; i < 12; i++) {
        out[i] = any(bits);
        in[i] = any(bits);
        if (i % 3 == 0)
            chip_select(&m, true);
        frame(&m, out[i], in[i], bits);
        if (i % 3 == 2) {
            chip_select(&m, false);
            m.ps += 20 * HALF;
        }
    }
    wad_exchanges *x = decode(&m, lines, (wad_exchange_form){.mode = -1});
    assert_int_equal(x->n, 4);
    assert_int_equal(x->n_frames, 12);
    for (unsigned i = 0; i < x->n; i++) {
        assert_int_equal(x->exchanges[i].n, 3);
        assert_false(x->exchanges[i].ambiguous);
        assert_int_equal(x->exchanges[i].mode, mode);
        assert_true(fabs(x->exchanges[i].hz / (1e12 / (2.0 * HALF)) - 1) < 0.01);
        assert_true(fabs(x->exchanges[i].duty - 0.5) < 0.001);
    }
    for (unsigned i = 0; i < 12; i++) {
        assert_int_equal(x->frames[i].out, out[i]);
        assert_int_equal(x->frames[i].in, in[i]);
    }
    assert_int_equal(x->shorts + x->glitches + x->early + x->late + x->disagreeing, 0);
    wad_exchanges_free(x);
    wad_capture_free(m.capture);
}

static void every_form_is_decoded_and_its_mode_told(void **state)
{
    (void)state;
    for (unsigned mode = 0; mode < 4; mode++)
        for (unsigned bits = 4; bits <= 32; bits++)
            for (unsigned i = 0; i < 4; i++)
                one_form(mode, bits, i & 1, i & 2);
}

static void without_changes_the_mode_is_ambiguous(void **state)
{
    (void)state;
    maker m = new_maker(2, 8, false);
    chip_select(&m, true);
    frame(&m, 0, 0, 8);
    chip_select(&m, false);
    wad_exchanges *x = decode(&m, all_lines, (wad_exchange_form){.mode = -1});
    /* the device's line begins to be driven, which is no change of data */
    assert_true(x->exchanges[0].ambiguous);
    assert_int_equal(x->exchanges[0].mode >> 1, 1);
    char *text;
    size_t size;
    FILE *f = open_memstream(&text, &size);
    wad_show_exchanges(x, 0, f);
    fclose(f);
    assert_non_null(strstr(text, "mode 2 or 3: too few changes to tell"));
    free(text);
    wad_exchanges_free(x);
    wad_capture_free(m.capture);
}

/* ---- what can be wrong ---- */

static void what_is_wrong_is_counted(void **state)
{
    (void)state;
    maker m = new_maker(0, 8, false);
    chip_select(&m, true);
    frame(&m, 0x5A, 0xC3, 8);
    frame(&m, 0x5A, 0xC3, 5); /* a short one */
    chip_select(&m, false);
    edge(&m, WAD_LINE_SELECT, false); /* a glitch */
    m.ps += 3000;
    edge(&m, WAD_LINE_SELECT, true);
    m.device_phase = true; /* the device has another mode */
    chip_select(&m, true);
    frame(&m, 0x5A, 0xC3, 8);
    chip_select(&m, false);
    wad_exchanges *x = decode(&m, all_lines, (wad_exchange_form){.mode = -1, .hold_ps = 5000});
    assert_int_equal(x->n, 3);
    assert_int_equal(x->shorts, 1);
    assert_int_equal(x->exchanges[0].extra, 5);
    assert_int_equal(x->glitches, 1);
    assert_true(x->exchanges[1].glitch);
    assert_int_equal(x->disagreeing, 1);
    assert_true(x->exchanges[2].disagrees);
    assert_int_equal(x->exchanges[0].late, 0);
    /* its changes lie a nanosecond behind the edges that take: c3 out of 0: four of them */
    assert_true(x->exchanges[2].late >= 2);
    assert_int_equal(x->early, 0);
    char *text;
    size_t size;
    FILE *f = open_memstream(&text, &size);
    wad_show_exchanges(x, 4, f);
    fclose(f);
    assert_non_null(strstr(text, "^^ a short frame: 5 of 8 bits"));
    assert_non_null(strstr(text, "^^ a glitch: selected for less than a bit"));
    assert_non_null(strstr(text, "the device has another mode"));
    assert_non_null(strstr(text,
                           "3 exchanges, 2 frames of 8 bits, most significant first; 1 short, "
                           "1 select glitch, "));
    free(text);
    wad_exchanges_free(x);
    wad_capture_free(m.capture);
}

static void setup_and_hold_are_measured(void **state)
{
    (void)state;
    maker m = new_maker(0, 8, false);
    chip_select(&m, true);
    frame(&m, 0xAA, 0x55, 8); /* each bit changes, half a bit before it is taken less 1 ns */
    chip_select(&m, false);
    const uint64_t margin = HALF - 1000;
    wad_exchanges *x =
        decode(&m, all_lines, (wad_exchange_form){.mode = 0, .setup_ps = margin - 1});
    assert_int_equal(x->early, 0);
    wad_exchanges_free(x);
    x = decode(&m, all_lines, (wad_exchange_form){.mode = 0, .setup_ps = margin});
    assert_int_equal(x->early, 14); /* seven changes on both lines */
    assert_int_equal(x->late, 0);
    wad_exchanges_free(x);
    wad_capture_free(m.capture);
}

/* ---- the command ---- */

static void the_command_decodes_and_draws(void **state)
{
    char *folder = test_folder(), *vcd = g_build_filename(folder, "t.vcd", NULL);
    char *png = g_build_filename(folder, "t.png", NULL), *out, *err, *bytes;
    gsize n;
    (void)state;
    assert_int_equal(WADIUM(&out, &err, "run", SOURCE_DIR "/examples/modes/modes.bench", "-d",
                            FIRMWARE_DIR, "--vcd", vcd),
                     0);
    g_free(out);
    g_free(err);
    assert_int_equal(WADIUM(&out, &err, "spi", vcd, "-o", png), 0);
    for (unsigned mode = 0; mode < 4; mode++) {
        char *want = g_strdup_printf("2 frames  mode %u  2 MHz, duty 50 %%", mode);
        assert_non_null(strstr(out, want));
        g_free(want);
    }
    assert_non_null(strstr(out, "out  35 c1\n                   in   c1 35\n"));
    assert_non_null(strstr(out, "4 exchanges, 8 frames of 8 bits"));
    assert_true(g_file_get_contents(png, &bytes, &n, NULL));
    assert_true(n > 5000 && !memcmp(bytes, "\x89PNG", 4));
    g_free(bytes);
    g_free(out);
    g_free(err);
    /* frames of 12 bits: 16 clocks are one and a bit */
    assert_int_equal(WADIUM(&out, &err, "spi", vcd, "--bits", "12"), 1);
    assert_non_null(strstr(out, "a short frame: 4 of 12 bits"));
    g_free(out);
    g_free(err);
    static const struct {
        const char *want, *option, *value;
    } slips[] = {{"has no signal 'nothing'; it has select, sck", "--clock", "nothing"},
                 {"--bits is 1 to 32", "--bits", "0"},
                 {"--mode is 0 to 3", "--mode", "4"},
                 {"--rows is a number", "--rows", "-1"},
                 {"say -o FILE.png", "--from", "1ms"},
                 {"", "--setup", "soon"}};
    for (unsigned i = 0; i < G_N_ELEMENTS(slips); i++) {
        assert_int_equal(WADIUM(&out, &err, "spi", vcd, slips[i].option, slips[i].value), 2);
        assert_string_equal(out, "");
        if (!strstr(err, slips[i].want))
            fail_msg("wanted '%s' in: %s", slips[i].want, err);
        g_free(out);
        g_free(err);
    }
    test_remove(folder);
    g_free(vcd);
    g_free(png);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(every_form_is_decoded_and_its_mode_told),
        cmocka_unit_test(without_changes_the_mode_is_ambiguous),
        cmocka_unit_test(what_is_wrong_is_counted),
        cmocka_unit_test(setup_and_hold_are_measured),
        cmocka_unit_test(the_command_decodes_and_draws),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
