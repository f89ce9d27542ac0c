/* SPDX-License-Identifier: MIT */
/* The devices on the bench's buses, as firmware meets them: the thermometer, the flash memory with
 * its refusals, wires that are cut, power that fails. */
#include <glib/gstdio.h>
#include <string.h>

#include "support.h"
#include "wadium/check.h"

#include "corran32_roles.h"

static wad_board *board;
static const wad_timebase base = {&corran32_base, .hz = 1000000};
static const wad_spi bus = {&corran32_spi0, .clock = CORRAN32_ROUTE_SPI0_SCK_PB13,
                            .mosi = CORRAN32_ROUTE_SPI0_MOSI_PB15,
                            .miso = CORRAN32_ROUTE_SPI0_MISO_PB14, .time = &base};
static const wad_spi_device thermo = {&bus, .hz = 4000000, .select = CORRAN32_ROUTE_SPI0_CS0_PB12,
                                      .setup = 1, .hold = 1};
static const wad_spi_device store = {&bus, .hz = 4000000, .by_pin = true,
                                     .select_pin = CORRAN32_PB5};
static wad_status status;

static int set_up(void **state)
{
    (void)state;
    board = test_board("skerry");
    return 0;
}

static int tear_down(void **state)
{
    (void)state;
    wad_board_free(board);
    return 0;
}

static void open_both(void)
{
    status = wad_timebase_open(&base);
    if (status == WAD_OK)
        status = wad_pin_input(CORRAN32_PB14, WAD_PULL_UP);
    if (status == WAD_OK)
        status = wad_spi_open(&bus);
    if (status == WAD_OK)
        status = wad_spi_add(&thermo);
    if (status == WAD_OK)
        status = wad_spi_add(&store);
}

static int rest(void)
{
    for (;;)
        wad_port_sleep();
    return 0;
}

static int (*main_now)(void);

static void attach(wad_sim *sim, void *ctx)
{
    (void)ctx;
    wad_sim_attach(sim, main_now, NULL, 0);
}

/* The statements, and a run of the function. */
static wad_bench_result *run(wad_bench **bench, int (*main_fn)(void), const char *const *say)
{
    const wad_bench_options options = {.prepare = attach};
    wad_diags *diags = wad_diags_new();
    char *why = NULL;
    *bench = wad_bench_new("devices", board);
    for (unsigned i = 0; say[i]; i++)
        if (!wad_bench_say(*bench, say[i], diags)) {
            char *text = test_diags_text(diags);
            fail_msg("%s: %s", say[i], text);
        }
    wad_diags_free(diags);
    main_now = main_fn;
    wad_bench_result *r = wad_bench_run(*bench, &options, &why);
    if (!r)
        fail_msg("%s", why);
    if (!r->passed)
        wad_report_text(r, stderr);
    assert_int_equal(status, WAD_OK);
    assert_true(r->passed);
    return r;
}

static void end(wad_bench_result *r, wad_bench *bench)
{
    wad_bench_result_free(r);
    wad_bench_free(bench);
}

static bool notes_say(const wad_bench_result *r, const char *text)
{
    for (unsigned i = 0; i < r->n_notes; i++)
        if (strstr(r->notes[i], text))
            return true;
    return false;
}

/* ---- the thermometer ---- */

static uint8_t got[300];
static wad_status ends[16];

static void ask(uint8_t command, void *in, size_t n)
{
    if (status == WAD_OK)
        status = wad_spi_write_read(&thermo, &command, 1, in, n, 1000);
}

static void order(uint8_t reg, uint8_t value)
{
    const uint8_t out[] = {reg, value};
    if (status == WAD_OK)
        status = wad_spi_write(&thermo, out, 2, 1000);
}

static int thermo_main(void)
{
    const uint8_t with_crc = 0xC3;
    open_both();
    ask(0x80, got, 2); /* name, status */
    order(2, 1);
    ask(0x81, got + 2, 1); /* busy */
    wad_delay_ms(&base, 29);
    ask(0x81, got + 3, 1); /* still */
    wad_delay_ms(&base, 2);
    ask(0x81, got + 4, 1); /* ready */
    ask(0x83, got + 5, 1); /* only the high half: it stays ready */
    ask(0x81, got + 6, 1);
    ends[0] = wad_spi_write_read_crc(&thermo, &with_crc, 1, got + 7, 2, 1000);
    ask(0x81, got + 9, 1); /* read: no longer */
    order(0, 1);           /* the name cannot be written */
    order(2, 1);
    order(2, 1); /* twice */
    wad_delay_ms(&base, 35);
    ends[1] = wad_spi_write_read_crc(&thermo, &with_crc, 1, got + 10, 2, 1000);
    while (wad_timebase_now(&base) < 72000) {
    }
    ends[2] = wad_spi_write_read_crc(&thermo, &with_crc, 1, got + 12, 2, 1000); /* wires cut */
    wad_delay_ms(&base, 10);
    ends[3] = wad_spi_write_read_crc(&thermo, &with_crc, 1, got + 14, 2, 1000);
    return rest();
}

static void the_thermometer_measures(void **state)
{
    wad_bench *bench;
    const char *const say[] = {"spi THERMO limit 4 MHz",
                               "temperature THERMO 21.5",
                               "temperature THERMO -0.25 at 40 ms",
                               "glitch THERMO MISO at 70 ms for 5 ms",
                               "run 100 ms",
                               "expect THERMO refusals 2",
                               "expect no findings",
                               NULL};
    (void)state;
    wad_bench_result *r = run(&bench, thermo_main, say);
    const uint8_t want[] = {0x5C, 0, 2, 2, 1, 21, 1, 21, 128, 0, 0xFF, 0xC0};
    assert_memory_equal(got, want, sizeof want);
    assert_int_equal(ends[0], WAD_OK);
    assert_int_equal(ends[1], WAD_OK);
    assert_int_equal(ends[2], WAD_E_DATA);
    assert_int_equal(ends[3], WAD_OK);
    assert_true(notes_say(r, "register 0 cannot be written"));
    assert_true(notes_say(r, "a conversion was begun while one goes on"));
    end(r, bench);
}

/* ---- the flash memory ---- */

static uint8_t packet[4 + 300];

static wad_status command(uint8_t first, uint32_t address, const uint8_t *data, size_t n)
{
    packet[0] = first;
    for (unsigned i = 0; i < 3; i++)
        packet[1 + i] = (uint8_t)(address >> (16 - 8 * i));
    if (n)
        memcpy(packet + 4, data, n);
    return wad_spi_write(&store, packet, 4 + n, 2000);
}

static void simple(uint8_t first)
{
    if (status == WAD_OK)
        status = wad_spi_write(&store, &first, 1, 1000);
}

static uint8_t flash_status(void)
{
    uint8_t first = 0x10, in = 0xFF;
    if (status == WAD_OK)
        status = wad_spi_write_read(&store, &first, 1, &in, 1, 1000);
    return in;
}

static void read_flash(uint32_t address, uint8_t *in, size_t n)
{
    uint8_t head[] = {0x30, (uint8_t)(address >> 16), (uint8_t)(address >> 8), (uint8_t)address};
    if (status == WAD_OK)
        status = wad_spi_write_read(&store, head, 4, in, n, 5000);
}

static void change(uint8_t first, uint32_t address, const uint8_t *data, size_t n)
{
    simple(0x20);
    if (status == WAD_OK)
        status = command(first, address, data, n);
    while (status == WAD_OK && flash_status() & 1)
        wad_delay_us(&base, 100);
}

static uint8_t seen[16], flags[16];

static int flash_main(void)
{
    static const uint8_t id = 0x90;
    uint8_t data[300];
    for (unsigned i = 0; i < sizeof data; i++)
        data[i] = (uint8_t)(i * 7 + 1);
    open_both();
    if (status == WAD_OK)
        status = wad_spi_write_read(&store, &id, 1, seen, 3, 1000);
    change(0x40, 0x01230, data, 16);
    flags[0] = flash_status();
    read_flash(0x01230, got, 16);
    if (status == WAD_OK) /* not enabled */
        status = command(0x40, 0x01240, data, 4);
    flags[1] = flash_status();
    read_flash(0x01240, got + 16, 4);
    change(0x40, 0x02004, data, 256); /* round in its page */
    read_flash(0x02000, got + 20, 8);
    change(0x40, 0x01230, (const uint8_t *)"\x0F", 1); /* ones cannot be written back */
    read_flash(0x01230, got + 28, 1);
    simple(0x20);
    if (status == WAD_OK)
        status = command(0x50, 0x01FFF, NULL, 0); /* the sector, wherever in it */
    flags[2] = flash_status();
    read_flash(0x01230, got + 29, 2); /* it is busy: refused */
    while (status == WAD_OK && flash_status() & 1)
        wad_delay_ms(&base, 1);
    read_flash(0x01230, got + 31, 2);
    read_flash(0x02004, got + 33, 2);    /* the next sector stands */
    const uint8_t protect[] = {0x60, 1}; /* the last 64 KiB */
    if (status == WAD_OK)
        status = wad_spi_write(&store, protect, 2, 1000);
    change(0x40, 0xF0000, data, 1);
    flags[3] = flash_status();
    change(0x40, 0xEFFFF, data, 1);
    flags[4] = flash_status();
    read_flash(0xEFFFF, got + 35, 2);
    simple(0x77); /* no such command */
    return rest();
}

static void the_flash_memory_writes_erases_and_refuses(void **state)
{
    wad_bench *bench;
    const char *const say[] = {"spi STORE", "run 100 ms", "expect STORE refusals 4",
                               "expect no findings", NULL};
    (void)state;
    wad_bench_result *r = run(&bench, flash_main, say);
    const uint8_t want_id[] = {'S', 'k', 20};
    assert_memory_equal(seen, want_id, 3);
    for (unsigned i = 0; i < 16; i++)
        assert_int_equal(got[i], (uint8_t)(i * 7 + 1));
    const uint8_t want_flags[] = {0, 4, 1, 4, 0};
    assert_memory_equal(flags, want_flags, sizeof want_flags);
    const uint8_t want[] = {0xFF,
                            0xFF,
                            0xFF,
                            0xFF, /* not enabled */
                            (uint8_t)(252 * 7 + 1),
                            (uint8_t)(253 * 7 + 1),
                            (uint8_t)(254 * 7 + 1),
                            (uint8_t)(255 * 7 + 1),
                            1,
                            8,
                            15,
                            22,
                            0x01 & 0x0F,
                            0xFF,
                            0xFF, /* busy: a line of ones */
                            0xFF,
                            0xFF,
                            1,
                            8, /* erased; the next one not */
                            1,
                            0xFF}; /* protected from there on */
    assert_memory_equal(got + 16, want, sizeof want);
    assert_true(notes_say(r, "the page write at 0x01200 was not done: it was not enabled"));
    assert_true(notes_say(r, "command 0x30 came while it was busy"));
    assert_true(notes_say(r, "the page write at 0xf0000 was not done: it is protected there"));
    assert_true(notes_say(r, "it has no command 0x77"));
    end(r, bench);
}

/* ---- power ---- */

static unsigned lives;
static uint8_t after[256];

static int power_main(void)
{
    uint8_t zeros[256] = {0};
    open_both();
    lives++;
    if (lives == 1) {
        simple(0x20);
        if (status == WAD_OK)
            status = command(0x40, 0x00500, zeros, 256); /* 0.7 ms, and fails at 3 ms */
        while (status == WAD_OK)
            wad_delay_us(&base, 10);
    }
    read_flash(0x00500, after, 256);
    return rest();
}

static void power_fails_in_the_middle_of_a_page(void **state)
{
    char *folder = test_folder(), *path = g_build_filename(folder, "kept.bin", NULL), *bytes;
    char *keep = g_strdup_printf("keep STORE in \"%s\"", path);
    gsize n;
    const char *const say[] = {"spi STORE", "power fails at 1 ms", keep,
                               "run 10 ms", "expect no findings",  NULL};
    wad_bench *bench;
    (void)state;
    lives = 0;
    wad_bench_result *r = run(&bench, power_main, say);
    assert_int_equal(lives, 2);
    unsigned zero = 0, one = 0, half = 0, first_one = 256;
    for (unsigned i = 0; i < 256; i++) {
        zero += after[i] == 0;
        one += after[i] == 0xFF;
        half += after[i] != 0 && after[i] != 0xFF;
        first_one = after[i] == 0xFF && i < first_one ? i : first_one;
    }
    /* in order, one byte half done at the most */
    assert_true(zero > 20 && one > 20 && half <= 1);
    assert_int_equal(first_one, zero + half);
    assert_true(g_file_get_contents(path, &bytes, &n, NULL));
    assert_int_equal(n, 1 << 20);
    assert_memory_equal(bytes + 0x500, after, 256);
    g_free(bytes);
    end(r, bench);
    /* the kept contents are what another run begins with */
    char *image = g_strdup_printf("image STORE in \"%s\"", path);
    const char *const then[] = {"spi STORE", image, "run 10 ms", NULL};
    uint8_t before[256];
    memcpy(before, after, 256);
    memset(after, 0x55, 256);
    r = run(&bench, power_main, then);
    assert_memory_equal(after, before, 256);
    end(r, bench);
    g_free(image);
    g_free(keep);
    g_free(path);
    test_remove(folder);
}

/* ---- what cannot be said ---- */

static void slips_name_the_cure(void **state)
{
    static const test_slip slips[] = {
        {"spi NOTHING", "no part of that name with wires CS, SCK, MISO and MOSI"},
        {"spi WARN", "no part of that name with wires CS, SCK, MISO and MOSI"},
        {"spi THERMO", "that device is there already"},
        {"spi STORE as lamp", "a device is a thermometer, a flash or an echo register"},
        {"spi STORE mode 4", "the mode"},
        {"spi STORE bits 16", "this kind of device has one form, with frames of 8 bits"},
        {"spi STORE chip", "this kind of device has one form, with frames of 8 bits"},
        {"spi STORE fast", "expected 'as KIND', 'chip', 'mode'"},
        {"temperature STORE 3", "no such device yet: spi NAME"},
        {"temperature THERMO 300", "-128 to 127.99"},
        {"temperature THERMO 3 Hz", "a temperature is a number of degrees"},
        {"keep THERMO in \"x\"", "that device has no memory"},
        {"jumper THERMO from PB1 to PB2", "something has that name already"},
        {"jumper J from PB1", "expected 'to'"},
        {"glitch THERMO MISO at 1 ms", "say how long"},
        {"stick THERMO low", "name the wire: MISO, MOSI, SCK or CS"},
        {"cut NOBODY", "no such serial line yet"},
        {"power at 1 ms", "expected 'fails'"},
        {"frmware lamp", "or a bus's 'spi', 'jumper', or volts' 'analog'"},
        {"expect THERMO speed 3", "expected 'frames', 'selects', 'refusals' or 'counts'"},
    };
    (void)state;
    test_slips(board, "spi THERMO", slips, G_N_ELEMENTS(slips));
}

static void an_image_that_cannot_be_read_is_named(void **state)
{
    wad_diags *diags = wad_diags_new();
    wad_bench *b = wad_bench_new("image", board);
    const wad_bench_options options = {.prepare = attach};
    char *why = NULL;
    (void)state;
    main_now = power_main;
    assert_true(wad_bench_say(b, "spi STORE", diags));
    assert_true(wad_bench_say(b, "image STORE in \"/nowhere/at/all.bin\"", diags));
    assert_true(wad_bench_say(b, "run 1 ms", diags));
    assert_null(wad_bench_run(b, &options, &why));
    assert_non_null(strstr(why, "STORE's contents cannot be read: "));
    assert_non_null(strstr(why, "/nowhere/at/all.bin"));
    g_free(why);
    wad_bench_free(b);
    wad_diags_free(diags);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(the_thermometer_measures),
        cmocka_unit_test(the_flash_memory_writes_erases_and_refuses),
        cmocka_unit_test(power_fails_in_the_middle_of_a_page),
        cmocka_unit_test(slips_name_the_cure),
        cmocka_unit_test(an_image_that_cannot_be_read_is_named),
    };
    return cmocka_run_group_tests(tests, set_up, tear_down);
}
