/* SPDX-License-Identifier: MIT */
/*
 * SPI ports: every mode, bit order and frame size, polled and by interrupt, over a jumper and
 * with a device that is written here, edge by edge, and shares no code with the library.
 */
#include <string.h>

#include "two_buses.h"
#include "wadium/check.h"
#include "wadium/host/spi.h"
#include "wadium/irq.h"

#include "corran32_roles.h"

#define S WAD_PS_PER_S
#define N 6 /* frames a case */

static wad_spi_device device;
static wad_status status;

static const wad_spi config = {&corran32_spi0,
                               .clock = CORRAN32_ROUTE_SPI0_SCK_PB13,
                               .mosi = CORRAN32_ROUTE_SPI0_MOSI_PB15,
                               .miso = CORRAN32_ROUTE_SPI0_MISO_PB14,
                               .time = &base,
                               .stats = &bus_stats,
                               .jobs = &bus_jobs,
                               .priority = 1};

static const wad_pin_def *pin(const char *name)
{
    return wad_sheet_pin(sheet, name);
}

static wad_status open_bus(const wad_spi *c)
{
    wad_status st = wad_timebase_open(&base);
    wad_irq_global_on();
    bus = *c;
    return st == WAD_OK ? wad_spi_open(&bus) : st;
}

/* ---- an echo register, edge by edge ---- */

static struct {
    bool present, selected, high, phase, lsb;
    unsigned bits, at; /* bits taken of this frame */
    uint32_t in, out;  /* `out`: the frame before */
    bool mosi;
    unsigned frames, selects;
} echo;

static void echo_show(void)
{
    unsigned place = echo.lsb ? echo.at : echo.bits - 1 - echo.at;
    wad_sim_drive(sim, pin("PB14"), echo.out >> place & 1 ? WAD_HIGH : WAD_LOW);
}

static void echo_take(void)
{
    unsigned place = echo.lsb ? echo.at : echo.bits - 1 - echo.at;
    echo.in |= (uint32_t)echo.mosi << place;
    if (++echo.at < echo.bits)
        return;
    echo.out = echo.in;
    echo.in = echo.at = 0;
    echo.frames++;
}

static void on_select(void *ctx, uint64_t ps, wad_level level)
{
    (void)ctx;
    (void)ps;
    echo.selected = echo.present && level == WAD_LOW;
    echo.selects += echo.selected;
    echo.at = echo.in = 0;
    if (!echo.selected && echo.present)
        wad_sim_drive(sim, pin("PB14"), WAD_FLOATING);
    else if (echo.selected && !echo.phase)
        echo_show();
}

static void on_clock(void *ctx, uint64_t ps, wad_level level)
{
    (void)ctx;
    (void)ps;
    if (!echo.selected)
        return;
    bool first = (level == WAD_HIGH) != echo.high; /* away from rest */
    if (first != echo.phase)
        echo_take();
    else
        echo_show();
}

static void on_mosi(void *ctx, uint64_t ps, wad_level level)
{
    (void)ps;
    echo.mosi = level == WAD_HIGH;
    if (*(bool *)ctx) /* the jumper */
        wad_sim_drive(sim, pin("PB14"), level);
}

static bool jumper, inside;

static void run(int (*main_fn)(void), uint64_t ps, wad_run_end end)
{
    char *why;
    sim = wad_sim_new(sheet, &why);
    wad_sim_watch_pin(sim, pin("PB12"), on_select, NULL);
    wad_sim_watch_pin(sim, pin("PB13"), on_clock, NULL);
    wad_sim_watch_pin(sim, pin("PB15"), on_mosi, &jumper);
    wad_sim_attach(sim, main_fn, handlers, 32);
    wad_run_result r = wad_sim_run(sim, ps);
    assert_int_equal(r.end, end);
}

static void end_clean(void)
{
    for (unsigned i = 0; i < wad_sim_finding_count(sim); i++)
        wad_finding_print(wad_sim_finding(sim, i), stderr);
    assert_int_equal(wad_sim_finding_count(sim), 0);
    wad_sim_free(sim);
}

/* ---- all of them ---- */

static uint32_t seed = 12345, cases, wrong;

static uint32_t any(void)
{
    seed ^= seed << 13;
    seed ^= seed >> 17;
    seed ^= seed << 5;
    return seed;
}

static uint32_t mask(unsigned bits)
{
    return bits == 32 ? UINT32_MAX : (1u << bits) - 1;
}

/* Frames as memory has them, by size. */
static void put(void *memory, size_t i, unsigned bits, uint32_t word)
{
    if (bits <= 8)
        ((uint8_t *)memory)[i] = (uint8_t)word;
    else if (bits <= 16)
        ((uint16_t *)memory)[i] = (uint16_t)word;
    else
        ((uint32_t *)memory)[i] = word;
}

static uint32_t get(const void *memory, size_t i, unsigned bits)
{
    return bits <= 8    ? ((const uint8_t *)memory)[i]
           : bits <= 16 ? ((const uint16_t *)memory)[i]
                        : ((const uint32_t *)memory)[i];
}

static wad_status exchange(bool by_interrupt, const void *out, void *in, size_t n)
{
    wad_spi_job job = {.device = &device, .out = out, .n_out = n, .in = in, .n_in = n};
    if (!by_interrupt)
        return wad_spi_run(&job, 5000);
    wad_status st = wad_spi_submit(&job);
    wad_deadline d = wad_deadline_us(&base, 5000);
    while (st == WAD_OK && job.state != WAD_SPI_OVER && !wad_deadline_passed(&base, &d)) {
    }
    return st != WAD_OK ? st : job.state == WAD_SPI_OVER ? job.status : WAD_E_TIMEOUT;
}

static void one_case(unsigned mode, bool lsb, unsigned bits, bool by_interrupt)
{
    uint32_t out[N], in[N + 1];
    device.mode = (uint8_t)mode;
    device.lsb_first = lsb;
    device.bits = (uint8_t)bits;
    device.loop = inside;
    echo.high = mode >> 1;
    echo.phase = mode & 1;
    echo.lsb = lsb;
    echo.bits = bits;
    uint32_t before = echo.out = any() & mask(bits);
    for (size_t i = 0; i < N; i++)
        put(out, i, bits, any() & mask(bits));
    in[N] = 0x5EA5EA5Eu; /* behind the last one */
    status = wad_spi_add(&device);
    if (status == WAD_OK)
        status = exchange(by_interrupt, out, in, N);
    bool good = status == WAD_OK && in[N] == 0x5EA5EA5Eu;
    for (size_t i = 0; i < N && good; i++) {
        uint32_t want = jumper || inside ? get(out, i, bits) : i ? get(out, i - 1, bits) : before;
        good = get(in, i, bits) == want;
    }
    wad_exchange_check check;
    if (jumper && wad_check_exchange(out, in, N, bits, &check) != WAD_OK)
        good = false;
    cases++;
    wrong += !good;
}

static int every_case(void)
{
    if (open_bus(&config) != WAD_OK)
        return 1;
    wad_irq_global_on();
    device = (wad_spi_device){&bus, .hz = 2000000, .select = CORRAN32_ROUTE_SPI0_CS0_PB12,
                              .setup = 1, .hold = 1};
    for (unsigned mode = 0; mode < 4; mode++)
        for (unsigned lsb = 0; lsb < 2; lsb++)
            for (unsigned bits = 4; bits <= 32; bits++)
                for (unsigned how = 0; how < 2; how++)
                    one_case(mode, lsb, bits, how);
    return rest();
}

static void test_loopback(void **state)
{
    (void)state;
    cases = wrong = 0;
    jumper = true;
    echo.present = false;
    run(every_case, S, WAD_RUN_TIME);
    assert_int_equal(cases, 4 * 2 * 29 * 2);
    assert_int_equal(wrong, 0);
    end_clean();
}

/* The wire is cut: only the block's own loop can bring anything back. */
static void test_inside(void **state)
{
    (void)state;
    cases = wrong = 0;
    jumper = echo.present = false;
    inside = true;
    run(every_case, S, WAD_RUN_TIME);
    inside = false;
    assert_int_equal(cases, 4 * 2 * 29 * 2);
    assert_int_equal(wrong, 0);
    end_clean();
}

static void test_echo(void **state)
{
    (void)state;
    cases = wrong = 0;
    jumper = false;
    echo.present = true;
    echo.frames = 0;
    run(every_case, S, WAD_RUN_TIME);
    assert_int_equal(cases, 4 * 2 * 29 * 2);
    assert_int_equal(wrong, 0);
    assert_int_equal(echo.frames, cases * N);
    end_clean();
}

/* ---- an echo in another mode, or with the other bit order ---- */

static wad_pattern patterns[4], other_order;

static wad_pattern pattern_of(unsigned mode, unsigned echo_mode, bool lsb)
{
    uint8_t out[64], in[64];
    wad_exchange_check check = {.pattern = WAD_PATTERN_OTHER};
    device.mode = (uint8_t)mode;
    echo.high = echo_mode >> 1;
    echo.phase = echo_mode & 1;
    echo.lsb = lsb;
    echo.out = 0;
    for (unsigned i = 0; i < sizeof out; i++)
        out[i] = (uint8_t)any();
    status = wad_spi_add(&device);
    if (status == WAD_OK)
        status = wad_spi_transfer(&device, out, in, sizeof out, 5000);
    if (status == WAD_OK)
        (void)!wad_check_exchange(out, in + 1, sizeof out - 1, 8, &check);
    return check.pattern;
}

static int mismatch_main(void)
{
    device =
        (wad_spi_device){&bus, .hz = 2000000, .select = CORRAN32_ROUTE_SPI0_CS0_PB12, .setup = 1};
    echo.bits = 8;
    status = open_bus(&config);
    for (unsigned mode = 0; mode < 4; mode++)
        patterns[mode] = pattern_of(mode, mode ^ 1, false);
    other_order = pattern_of(0, 0, true);
    return rest();
}

static void test_another_mode(void **state)
{
    (void)state;
    jumper = false;
    echo.present = true;
    run(mismatch_main, S / 100, WAD_RUN_TIME);
    assert_int_equal(status, WAD_OK);
    for (unsigned mode = 0; mode < 4; mode++)
        assert_int_equal(patterns[mode], WAD_PATTERN_LATE);
    /* turned round on the way in and on the way out: no echo can show it */
    assert_int_equal(other_order, WAD_PATTERN_SAME);
    end_clean();
}

int main(void)
{
    const struct CMUnitTest tests[] = {cmocka_unit_test(test_loopback),
                                       cmocka_unit_test(test_inside), cmocka_unit_test(test_echo),
                                       cmocka_unit_test(test_another_mode)};
    return cmocka_run_group_tests(tests, set_up, tear_down);
}
