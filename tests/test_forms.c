/* SPDX-License-Identifier: MIT */
/* A chip whose five timers are of five forms, one driver for all: each is set by its own table, at
 * the nearest of 16 prescalers, by the compiler's steps and at run time; what cannot be does not
 * compile. */
#include <string.h>

#include <glib/gstdio.h>

#include "support.h"
#include "wadium/host/model.h"

#include "forms32_roles.h"

static const wad_timer_unit *const units[] = {&forms32_cnt0, &forms32_cnt1, &forms32_cnt2,
                                              &forms32_cnt3, &forms32_cnt4};
static const uint32_t prescalers[] = {256, 1024, 4096, 65536, 65536};
static const uint32_t most[] = {65535, 65535, 65535, 0xFFFFFFFF, 0xFFFFFF};
static char story[300];

__extension__ typedef __int128 i128;

/* 16 prescalers from that on with which the count may fit, one by one; in exact fractions. */
static bool nearest(uint32_t clock, wad_rate rate, uint32_t max, uint32_t top, uint32_t *prescale,
                    uint32_t *count)
{
    i128 clocks = (i128)clock * rate.per, best_off = 0, best_is = 0;
    i128 from = clocks / rate.hz / top;
    uint32_t first = from < 1 ? 1 : from > max ? max : (uint32_t)from;
    *prescale = 0;
    for (uint32_t p = first; p <= max && p < first + 16; p++) {
        i128 each = (i128)rate.hz * p, low = clocks / each;
        for (i128 c = low > 1 ? low : 1; c <= low + 1 && c <= top; c++) {
            i128 is = each * c, off = clocks > is ? clocks - is : is - clocks;
            if (p == 1 && c == 1)
                continue;
            if (!*prescale || off * best_is < best_off * is) {
                best_off = off;
                best_is = is;
                *prescale = p;
                *count = (uint32_t)c;
            }
        }
    }
    return *prescale != 0;
}

static double off_ppm(uint32_t clock, wad_rate rate, uint32_t p, uint32_t c)
{
    return ((double)clock * rate.per / ((double)rate.hz * p * c) - 1) * 1e6;
}

static void compare(unsigned which, wad_rate rate, uint32_t clock)
{
    const wad_timer t = {units[which], .clock_hz = clock, .rate = rate, .within_ppm = 500000};
    const uintptr_t base = units[which]->block.base;
    uint32_t p, c;
    bool may = nearest(clock, rate, prescalers[which], most[which], &p, &c) &&
               off_ppm(clock, rate, p, c) < 499999 && off_ppm(clock, rate, p, c) > -499999;
    wad_status st = wad_timer_open(&t);
    const wad_counter_roles *r = wadi_counter_roles(units[which]->form);
    wadi_count by_compiler = wadi_timer_known(&t, r);
    if (st == WAD_OK && may) {
        uint32_t is_p = wad_get(base, r->prescale) + 1, is_c = wad_get(base, r->reload) + 1;
        double is = off_ppm(clock, rate, is_p, is_c), best = off_ppm(clock, rate, p, c);
        is = is < 0 ? -is : is;
        best = best < 0 ? -best : best;
        if (is > best + 0.002 || by_compiler.prescale != is_p || by_compiler.count != is_c)
            snprintf(story, sizeof story,
                     "CNT%u, %u/%u Hz from %u Hz: %u * %u, %.3f ppm; by the compiler %u * %u; "
                     "nearest %u * %u, %.3f ppm",
                     which, rate.hz, rate.per, clock, is_p, is_c, is, by_compiler.prescale,
                     by_compiler.count, p, c, best);
    } else if ((st == WAD_OK) != may &&
               (off_ppm(clock, rate, p ? p : 1, p ? c : 1) < 490000 || st == WAD_OK)) {
        snprintf(story, sizeof story, "CNT%u, %u/%u Hz from %u Hz: status %d, nearest %u * %u",
                 which, rate.hz, rate.per, clock, (int)st, p, c);
    }
}

static int rates_main(void)
{
    GRand *rand = g_rand_new_with_seed(22);
    for (unsigned i = 0; i < 3000 && !*story; i++) {
        uint32_t bits = (uint32_t)g_rand_int_range(rand, 0, 21);
        wad_rate rate = {1 + g_rand_int(rand) % (1u << bits), 1};
        if (i % 3 == 0)
            rate = (wad_rate){1 + g_rand_int(rand) % 1000, 1 + g_rand_int(rand) % 1000};
        compare(i % 5, rate, 1000000 + g_rand_int(rand) % 99000000);
    }
    g_rand_free(rand);
    return 0;
}

static wad_sheet *sheet;

static void run(int (*body)(void))
{
    char *why;
    *story = 0;
    wad_sim *sim = wad_sim_new(sheet, &why);
    wad_sim_attach(sim, body, NULL, 0);
    wad_sim_run(sim, 10 * WAD_PS_PER_S);
    if (*story)
        fail_msg("%s", story);
    wad_sim_free(sim);
}

static void each_form_takes_the_nearest_rate(void **state)
{
    (void)state;
    run(rates_main);
}

/* Four seconds need a prescaler over 255: refused where there is none, and set right where there
 * is. */
static int slow_main(void)
{
    const wad_rate slow = {1, 4};
    for (unsigned i = 0; i < 5; i++) {
        const wad_timer t = {units[i], .clock_hz = 8000000, .rate = slow};
        wad_status st = wad_timer_open(&t);
        if ((st == WAD_OK) != (i != 0))
            snprintf(story, sizeof story, "CNT%u: status %d", i, (int)st);
        const wad_counter_roles *r = wadi_counter_roles(units[i]->form);
        const uintptr_t base = units[i]->block.base;
        uint64_t clocks =
            (uint64_t)(wad_get(base, r->prescale) + 1) * (wad_get(base, r->reload) + 1ull);
        if (st == WAD_OK && clocks != 32000000)
            snprintf(story, sizeof story, "CNT%u: %llu clocks", i, (unsigned long long)clocks);
    }
    return 0;
}

static void a_prescaler_that_is_narrower_is_known(void **state)
{
    (void)state;
    run(slow_main);
}

/* ---- ports of two forms ---- */

static wad_sim *live;
static unsigned edges;

static uint32_t reg(uintptr_t base, uint32_t off)
{
    return wad_port_read32(base, off);
}

#define EXPECT(condition)                                                                          \
    do                                                                                             \
        if (!*story && !(condition))                                                               \
            snprintf(story, sizeof story, "line %d: %s", __LINE__, #condition);                    \
    while (0)

static void drive(const char *pin, wad_level level)
{
    wad_sim_drive(live, wad_sheet_pin(sheet, pin), level);
}

/* What was driven arrives, and its interrupt. */
static void settle(void)
{
    for (unsigned i = 0; i < 10; i++)
        (void)reg(FORMS32_PINB_BASE, 0x2C);
}

static void handle_pinb(void)
{
    for (wad_pin pin = FORMS32_PB0; pin <= FORMS32_PB15; pin++)
        edges += wad_pin_take_edge(pin);
}

/* The compiler knows the pin, or only the run does. */
#define ON_B(PIN)                                                                                  \
    do {                                                                                           \
        EXPECT(wad_pin_output(PIN, true) == WAD_OK && reg(b, 4) == 8 && reg(b, 0xC) == 8);         \
        wad_pin_toggle(PIN);                                                                       \
        EXPECT(reg(b, 4) == 0 && !wad_pin_read(PIN));                                              \
        wad_pin_write(PIN, true);                                                                  \
        EXPECT(reg(b, 4) == 8 && wad_pin_read(PIN));                                               \
        EXPECT(wad_pin_route(WAD_ROUTE(PIN, 1)) == WAD_OK && reg(b, 0x10) == 0x1000);              \
        EXPECT(wad_pin_input(PIN, WAD_PULL_UP) == WAD_OK && reg(b, 0x18) == 0x80 &&                \
               !reg(b, 0x10) && !reg(b, 0xC));                                                     \
        wad_pin_write(PIN, false);                                                                 \
    } while (0)

static int pins_main(void)
{
    const uintptr_t a = FORMS32_PINA_BASE, b = FORMS32_PINB_BASE;
    volatile wad_pin pin = FORMS32_PB3;
    ON_B(FORMS32_PB3);
    ON_B(pin);
    EXPECT(wad_pin_output(FORMS32_PA3, true) == WAD_OK && reg(a, 4) == 8 && reg(a, 0) == 8);
    pin = FORMS32_PA3;
    wad_pin_toggle(pin);
    EXPECT(reg(a, 4) == 0);
    wad_irq_global_on();
    wad_port_write32(b, 0x2C, 0x5A5AFFFF); /* a setting beside flags that 0 clears */
    EXPECT(wad_pin_on_edge(FORMS32_PB3, WAD_EDGE_FALL, 1) == WAD_OK && reg(b, 0x20) == 0x6000);
    EXPECT(wad_pin_on_edge(FORMS32_PB4, WAD_LEVEL_HIGH, 1) == WAD_E_ABSENT);
    EXPECT(wad_pin_on_edge(FORMS32_PB3, (wad_edge)7, 1) == WAD_E_ARG);
    drive("PB3", WAD_LOW);
    settle();
    EXPECT(edges == 1 && reg(b, 0x2C) == 0x5A5A0000);
    drive("PB3", WAD_HIGH);
    settle();
    wad_pin_edges_off(FORMS32_PB3);
    drive("PB3", WAD_LOW);
    settle();
    EXPECT(edges == 1 && reg(b, 0x28) == 0);
    pin = 0x300; /* a port that is not there */
    EXPECT(wad_pin_output(pin, true) == WAD_E_ARG && !wad_pin_read(pin));
    EXPECT(wad_pin_route(0) == WAD_E_ARG);
    return 0;
}

static void each_port_is_driven_by_its_own_table(void **state)
{
    (void)state;
    char *why;
    const wad_handler handlers[8] = {[FORMS32_PINB_IRQ] = handle_pinb};
    *story = 0;
    edges = 0;
    live = wad_sim_new(sheet, &why);
    drive("PB3", WAD_HIGH);
    wad_sim_attach(live, pins_main, handlers, 8);
    wad_sim_run(live, WAD_PS_PER_S);
    if (*story)
        fail_msg("%s", story);
    for (unsigned i = 0; i < wad_sim_finding_count(live); i++)
        wad_finding_print(wad_sim_finding(live, i), stderr);
    assert_int_equal(wad_sim_finding_count(live), 0);
    wad_sim_free(live);
}

/* ---- what the compiler refuses ---- */

/* By the compiler alone: what `wadium image` does besides takes seconds. */
static int compile(const char *source, const char *object, char **err)
{
    const char *arguments[] = {"arm-none-eabi-gcc",
                               "-mcpu=cortex-m0plus",
                               "-mthumb",
                               "-std=c11",
                               "-ffreestanding",
                               "-Os",
                               "-DWAD_CHIP=\"corran32_roles.h\"",
                               "-I" SOURCE_DIR "/include",
                               "-I" SOURCE_DIR "/ports/metal",
                               "-I" SOURCE_DIR "/ports/metal-arm",
                               "-I" BUILD_DIR "/generated/corran32",
                               "-c",
                               source,
                               "-o",
                               object,
                               NULL};
    int status = -1;
    assert_true(g_spawn_sync(NULL, (char **)arguments, NULL, G_SPAWN_SEARCH_PATH, NULL, NULL, NULL,
                             err, &status, NULL));
    return status;
}

/* `chip`: as an image for it; NULL: for corran32. */
static void build(const char *chip, const char *body, const char *wanted)
{
    char *folder = g_dir_make_tmp("wadium-XXXXXX", NULL), *out = NULL, *err;
    char *source = g_build_filename(folder, "x.c", NULL),
         *elf = g_build_filename(folder, "x.elf", NULL);
    char *text = g_strdup_printf("#include <corran32_roles.h>\n"
                                 "static uint8_t in[48];\n%s\n",
                                 body);
    assert_true(g_file_set_contents(source, text, -1, NULL));
    int status = chip ? WADIUM(&out, &err, "image", chip, source, "-q", "-o", elf)
                      : compile(source, elf, &err);
    if (wanted ? status == 0 || !strstr(err, wanted) : status != 0)
        fail_msg("%s\nstatus %d, wanted '%s': %s%s", body, status, wanted, out ? out : "", err);
    g_unlink(source);
    g_unlink(elf);
    g_rmdir(folder);
    g_free(text);
    g_free(source);
    g_free(elf);
    g_free(folder);
    g_free(out);
    g_free(err);
}

#define TIMER(members)                                                                             \
    "static const wad_timer t = {" members "};\nint main(void) { return (int)wad_timer_open(&t); " \
    "}"
#define PORT(members)                                                                              \
    "static const wad_uart u = {&corran32_uart0, " members                                         \
    "};\nint main(void) { return (int)wad_uart_open(&u); }"
#define TX ".tx = CORRAN32_ROUTE_UART0_TX_PA9"
#define DEVICE(members, call)                                                                      \
    "static const wad_spi bus = {&corran32_spi0, .clock_hz = 8000000,\n"                           \
    "    .clock = CORRAN32_ROUTE_SPI0_SCK_PB13};\n"                                                \
    "static const wad_spi_device d = {&bus, " members "};\nint main(void) { return (int)" call     \
    "; }"
#define ADD "wad_spi_add(&d)"

#define CONVERTER(members, input, call)                                                            \
    "static const wad_adc a = {&corran32_adc0, .clock_hz = 8000000, " members "};\n"               \
    "static const wad_adc_input i = {&a, " input "};\n"                                            \
    "int main(void) { uint16_t code; (void)code; return (int)" call "; }"
#define CONVERT "wad_adc_open_input(&i)"

static void what_cannot_be_does_not_compile(void **state)
{
    (void)state;
    const char *slow = TIMER("&corran32_cnt2, .clock_hz = 8000000, .rate = WAD_EVERY_S(4)");
    build("corran32", slow, NULL);
    build("corran32-rev-a", slow, "no prescaler and count come near enough to this rate");
    build(NULL, TIMER("&corran32_cnt0, .clock_hz = 8000000, .rate = WAD_RATE_HZ(44100)"),
          "within_ppm; 1000 where it is not given");
    build(NULL,
          TIMER("&corran32_cnt0, .clock_hz = 8000000, .rate = WAD_RATE_HZ(44100), "
                ".within_ppm = 3000"),
          NULL);
    build(NULL,
          TIMER("&corran32_cnt1, .clock_hz = 8000000, .rate = WAD_RATE_HZ(1000), "
                ".pwm = {{CORRAN32_ROUTE_CNT1_CH0_PA0, WAD_PERCENT(101)}}"),
          "a duty is 10 000 at the most");
    build(NULL, TIMER("&corran32_cnt1, .counts = 1000, .manual_reload = true"),
          "the block lacks something that the timer names");
    build(NULL,
          "static void f(void *c) { (void)c; }\n" TIMER(
              "&corran32_cnt1, .counts = 1000, .on_match = {{f, NULL, 1000}}"),
          "a function's count is never reached");
    /* known but for one member: nothing can be said before it runs */
    build(NULL,
          "int one(wad_uart_parity p) { const wad_uart u = {&corran32_uart0, .clock_hz = 8000000,\n"
          "    .baud = 9600, .parity = p, " TX "}; return (int)wad_uart_open(&u); }\n"
          "int two(uint32_t duty) { const wad_timer t = {&corran32_cnt1, .clock_hz = 8000000,\n"
          "    .rate = WAD_RATE_HZ(1000), .pwm = {{CORRAN32_ROUTE_CNT1_CH0_PA0, duty}}};\n"
          "    return (int)wad_timer_open(&t); }\n"
          "static const wad_spi bus = {&corran32_spi0, .clock_hz = 8000000};\n"
          "int three(uint8_t gap, bool loop) { const wad_spi_device d = {&bus, .hz = 1000000,\n"
          "    .gap = gap, .loop = loop}; return (int)wad_spi_add(&d); }\n"
          "static const wad_adc adc = {&corran32_adc0, .clock_hz = 8000000};\n"
          "int four(uint32_t ohms, uint8_t c) { const wad_adc_input i = {&adc, .channel = c,\n"
          "    .source_ohms = ohms}; return (int)wad_adc_add(&i); }\n"
          "int five(uint8_t bits) { const wad_adc a = {&corran32_adc0, .clock_hz = 8000000,\n"
          "    .bits = bits}; return (int)wad_adc_open(&a); }",
          NULL);
    static const char *const contradictions[] = {
        ".counts = 1000, .rate = WAD_RATE_HZ(1000)",
        ".prescale = 8, .rate = WAD_RATE_HZ(1000)",
        ".counts = 1000, .pwm = {{0, WAD_PERCENT(10)}}",
        ".counts = 1000, .trigger = 1",
        ".counts = 1000, .on_match = {{NULL, NULL, 10}}",
    };
    for (unsigned i = 0; i < G_N_ELEMENTS(contradictions); i++) {
        char *body =
            g_strdup_printf(TIMER("&corran32_cnt1, .clock_hz = 8000000, %s"), contradictions[i]);
        build(NULL, body, "a rate or counts, not both; a prescaler goes with counts");
        g_free(body);
    }
    build(NULL, PORT(".clock_hz = 8000000, .baud = 9600, " TX), NULL);
    build(NULL, PORT(".clock_hz = 8000000, .baud = 9600, .lead = 3, " TX),
          "the block lacks something that the port names");
    build(NULL, PORT(".clock_hz = 8000000, .baud = 2000000, " TX),
          "no divider comes near enough to this baud");
    build(NULL, PORT(".clock_hz = 8000000, .baud = 9600, .bits = 10, " TX),
          "the block lacks something that the port names");
    build(NULL, DEVICE(".hz = 2000000, .bits = 12, .mode = 3", ADD), NULL);
    build(NULL, DEVICE(".hz = 1000", ADD), "no clock as slow");
    build(NULL, DEVICE(".hz = 2000000, .mode = 4", ADD), "a mode is 0 to 3");
    build(NULL, DEVICE(".hz = 2000000, .bits = 3", ADD), "a frame has 4 to 32 bits");
    build(NULL, DEVICE(".hz = 2000000, .setup = 16", ADD), "the block lacks something");
    build(NULL, DEVICE(".hz = 2000000", "wad_spi_read(&d, in, 2, 100)"), "needs the bus's .time");
    build(NULL, CONVERTER(".bits = 12", ".channel = 4, .source_ohms = 10000", CONVERT), NULL);
    build(NULL, CONVERTER(".bits = 9", ".channel = 4", CONVERT), "no results of so many bits");
    build(NULL, CONVERTER(".bits = 14, .extra_bits = 3", ".channel = 4", CONVERT),
          "more than 16 with the extra ones");
    build(NULL, CONVERTER(".average = 9", ".channel = 4", CONVERT), "and not both");
    build(NULL, CONVERTER(".average = 2, .extra_bits = 1", ".channel = 4", CONVERT),
          "and not both");
    build(NULL, CONVERTER(".fastest_hz = 10000", ".channel = 4", CONVERT), "no prescaler brings");
    build(NULL, CONVERTER(".reference = (wad_adc_reference)3", ".channel = 4", CONVERT),
          "the block has no such reference");
    build(NULL, CONVERTER(".bits = 12", ".channel = 16", CONVERT), "has no such channel");
    build(NULL, CONVERTER(".bits = 12", ".channel = 4, .source_ohms = 100000000", CONVERT),
          "no sampling time of the block is long enough");
    build(NULL, CONVERTER(".bits = 12", ".channel = 4", "wad_adc_read(&i, &code, 100)"),
          "needs the converter's .time");
    build(NULL, PORT(".clock_hz = 8000000, .baud = 9600, .out = WAD_RING(in), " TX),
          "the size of a ring is a power of 2");
    build(NULL,
          "static const wad_uart u = {&corran32_uart0, .clock_hz = 8000000, .baud = 9600};\n"
          "int main(void) { return (int)wad_uart_write(&u, \"a\", 1, 100); }",
          "a time limit needs the port's .time");
}

static int set_up(void **state)
{
    wad_diags *diags = wad_diags_new();
    (void)state;
    sheet = wad_sheet_read(FORMS_SHEET, diags);
    if (!sheet)
        fail_msg("%s", test_diags_text(diags));
    wad_diags_free(diags);
    return 0;
}

static int tear_down(void **state)
{
    (void)state;
    wad_sheet_free(sheet);
    return 0;
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(each_form_takes_the_nearest_rate),
        cmocka_unit_test(a_prescaler_that_is_narrower_is_known),
        cmocka_unit_test(each_port_is_driven_by_its_own_table),
        cmocka_unit_test(what_cannot_be_does_not_compile),
    };
    return cmocka_run_group_tests(tests, set_up, tear_down);
}
