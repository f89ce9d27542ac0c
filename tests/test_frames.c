/* SPDX-License-Identifier: MIT */
/* The SPI port with a memory of frames: groups, formats, selects and times, parity, handshake,
 * lengths. */
#include <string.h>

#include "corran32_sheet.h"
#include "wadium/irq.h"

#include "corran32_roles.h"

#define S    WAD_PS_PER_S
#define MS   (S / 1000)
#define PORT CORRAN32_FRM0_BASE
#define R    corran32_frames_roles

static wad_sim *sim;
static unsigned irqs;
static uint32_t status_seen, rx[16], error_seen;
static const wad_timebase base = {&corran32_base, .hz = 1000000};

static const wad_pin_def *pin(const char *name)
{
    return wad_sheet_pin(sheet, name);
}

/* ---- the world ---- */

static unsigned clocks, selects[2];
static uint64_t select_ps[8], first_clock_ps[8];
static unsigned n_selects;

static void on_clock(void *ctx, uint64_t ps, wad_level level)
{
    (void)ctx;
    (void)level;
    clocks++;
    if (n_selects && n_selects <= 8 && !first_clock_ps[n_selects - 1])
        first_clock_ps[n_selects - 1] = ps;
}

static void on_select(void *ctx, uint64_t ps, wad_level level)
{
    unsigned which = *(const unsigned *)ctx;
    if (level != WAD_LOW)
        return;
    selects[which]++;
    if (n_selects < 8)
        select_ps[n_selects++] = ps;
}

static void jumper(void *ctx, uint64_t ps, wad_level level)
{
    (void)ctx;
    (void)ps;
    wad_sim_drive(sim, pin("PC1"), level);
}

static void handle(void)
{
    irqs++;
    status_seen |= wadi_read(PORT, R.parity.off, 4);
    wadi_write(PORT, R.parity.off, 4, status_seen & 0x70F);
}

static const wad_handler handlers[32] = {[CORRAN32_FRM0_IRQ] = handle};

static void run(int (*main_fn)(void), void (*world)(void), uint64_t ps)
{
    static const unsigned numbers[] = {0, 1};
    char *why;
    irqs = status_seen = clocks = n_selects = 0;
    memset(selects, 0, sizeof selects);
    memset(first_clock_ps, 0, sizeof first_clock_ps);
    sim = wad_sim_new(sheet, &why);
    wad_sim_watch_pin(sim, pin("PC0"), on_clock, NULL);
    wad_sim_watch_pin(sim, pin("PC3"), on_select, (void *)(uintptr_t)&numbers[0]);
    wad_sim_watch_pin(sim, pin("PC4"), on_select, (void *)(uintptr_t)&numbers[1]);
    if (world)
        world();
    wad_sim_attach(sim, main_fn, handlers, 32);
    assert_int_equal(wad_sim_run(sim, ps).end, WAD_RUN_TIME);
}

static void end_with(unsigned findings)
{
    test_findings(sim, findings);
    wad_sim_free(sim);
}

static void wire_jumper(void)
{
    wad_sim_watch_pin(sim, pin("PC2"), jumper, NULL);
}

/* ---- firmware ---- */

static int rest(void)
{
    for (;;)
        wad_port_sleep();
    return 0;
}

static bool open_port(bool controller)
{
    static const wad_route routes[] = {CORRAN32_ROUTE_FRM0_SCK_PC0,  CORRAN32_ROUTE_FRM0_MISO_PC1,
                                       CORRAN32_ROUTE_FRM0_MOSI_PC2, CORRAN32_ROUTE_FRM0_CS0_PC3,
                                       CORRAN32_ROUTE_FRM0_CS1_PC4,  CORRAN32_ROUTE_FRM0_READY_PC5};
    bool good = wad_block_up(&corran32_frm0, 1000);
    if (good)
        wad_put(PORT, R.controller, controller);
    for (unsigned i = 0; i < 6 && good; i++)
        if (controller || i < 4)
            good = wad_pin_route(routes[i]) == WAD_OK;
    return good && wad_irq_enable(CORRAN32_FRM0_IRQ, 1) == WAD_OK;
}

static void set_format(unsigned i, unsigned mode, bool lsb, unsigned bits, unsigned half)
{
    wad_put(PORT, wad_at(R.phase, i), mode & 1);
    wad_put(PORT, wad_at(R.idle_high, i), mode >> 1);
    wad_put(PORT, wad_at(R.lsb_first, i), lsb);
    wad_put(PORT, wad_at(R.bits, i), bits - R.bits_plus);
    wad_put(PORT, wad_at(R.divider, i), half - 1);
}

static void set_frame(unsigned i, unsigned format, uint32_t word)
{
    wad_put(PORT, wad_at(R.format, i), format);
    wad_put(PORT, wad_at(R.tx, i), word);
}

static void set_group(unsigned i, unsigned first, unsigned last)
{
    wad_put(PORT, wad_at(R.first, i), first);
    wad_put(PORT, wad_at(R.last, i), last);
}

static void start(unsigned groups)
{
    wadi_write(PORT, R.start.off, 4, groups);
}

static void wait_for(unsigned groups)
{
    for (unsigned i = 0; i < 20000 && (status_seen & groups) != groups; i++)
        wad_port_cycles(20);
    for (unsigned i = 0; i < 16; i++)
        rx[i] = wad_get(PORT, wad_at(R.rx, i));
    error_seen = wad_get(PORT, R.error_frame);
}

/* ---- four formats in one group, another group behind it, all modes and sizes ---- */

static uint32_t tx[16], seed = 3, rounds, right;

static uint32_t any(unsigned bits)
{
    seed = seed * 1664525u + 1013904223u;
    uint32_t word = seed ^ seed >> 14;
    return bits == 32 ? word : word & ((1u << bits) - 1);
}

static void one_round(unsigned bits)
{
    for (unsigned f = 0; f < 4; f++)
        set_format(f, (f + bits) % 4, f & 1, f < 2 ? bits : 36 - bits, 1 + f);
    for (unsigned i = 0; i < 16; i++) {
        tx[i] = any(i % 4 < 2 ? bits : 36 - bits);
        set_frame(i, i % 4, tx[i]);
    }
    set_group(0, 0, 9);
    set_group(2, 10, 15);
    status_seen = 0;
    start(5);
    wait_for(5);
    rounds++;
    right += !memcmp(rx, tx, sizeof tx) && (status_seen & 0x70F) == 5;
}

static int rounds_main(void)
{
    if (!open_port(true))
        return 1;
    wadi_write(PORT, R.done_irq.off, 4, 0xF);
    wad_put(PORT, R.parity_on, 1);
    wad_put(PORT, R.enable, 1);
    wad_irq_global_on();
    for (unsigned bits = 4; bits <= 32; bits++)
        one_round(bits);
    return rest();
}

static void every_frame_has_its_own_format(void **state)
{
    (void)state;
    rounds = right = 0;
    run(rounds_main, wire_jumper, S);
    assert_int_equal(rounds, 29);
    assert_int_equal(right, 29);
    assert_int_equal(irqs, 2 * 29);
    end_with(0);
}

/* ---- selects and times ---- */

static int selects_main(void)
{
    if (!open_port(true))
        return 1;
    set_format(0, 0, false, 8, 4); /* a half bit is 4 clocks of 125 ns */
    for (unsigned i = 0; i < 5; i++) {
        set_frame(i, 0, 0x5A);
        wad_put(PORT, wad_at(R.select_on, i), 1);
        wad_put(PORT, wad_at(R.select, i), i == 4);
        wad_put(PORT, wad_at(R.hold, i), i < 2); /* one, two and three are one select */
        wad_put(PORT, wad_at(R.setup, i), i == 0 ? 6 : 0);
        wad_put(PORT, wad_at(R.gap, i), i == 3 ? 15 : 0);
    }
    set_group(0, 0, 4);
    wad_put(PORT, R.loop, 1);
    wadi_write(PORT, R.done_irq.off, 4, 0xF);
    wad_put(PORT, R.enable, 1);
    wad_irq_global_on();
    start(1);
    wait_for(1);
    return rest();
}

static void selects_and_times_are_each_frame_s_own(void **state)
{
    (void)state;
    const uint64_t half = 500000; /* picoseconds */
    run(selects_main, NULL, 10 * MS);
    assert_int_equal(selects[0], 2);
    assert_int_equal(selects[1], 1);
    assert_int_equal(n_selects, 3);
    for (unsigned i = 0; i < 5; i++)
        assert_int_equal(rx[i], 0x5A);
    /* setup, and the half bit that every frame begins with */
    assert_int_equal(first_clock_ps[0] - select_ps[0], 7 * half);
    assert_int_equal(first_clock_ps[1] - select_ps[1], half);
    /* three frames of 16 half bits, one half bit behind each */
    assert_int_equal(select_ps[1] - select_ps[0], (6 + 3 * 17) * half);
    assert_int_equal(select_ps[2] - select_ps[1], (16 + 16) * half);
    end_with(0);
}

/* ---- parity ---- */

static int parity_main(void)
{
    if (!open_port(true))
        return 1;
    set_format(0, 0, false, 16, 1);
    for (unsigned i = 0; i < 4; i++)
        set_frame(i, 0, 0x1230 + i);
    set_group(0, 0, 3);
    set_group(1, 0, 1);
    wad_put(PORT, R.loop, 1);
    wad_put(PORT, R.parity_on, 1);
    wadi_write(PORT, R.done_irq.off, 4, 0x70F);
    wad_put(PORT, R.enable, 1);
    wad_irq_global_on();
    wadi_write(PORT, R.flip_frame.off, 4, 2 | 5 << 8);
    start(3);
    wait_for(0x102);
    return rest();
}

static void a_bit_that_flips_in_memory_is_caught(void **state)
{
    (void)state;
    run(parity_main, NULL, 10 * MS);
    /* the group ends before the bad frame; the other one is not touched */
    assert_int_equal(status_seen & 0x70F, 0x102);
    assert_int_equal(error_seen, 2);
    assert_int_equal(clocks, 2 * 16 * (2 + 2) + 2); /* and where it floats, then rests */
    assert_int_equal(rx[1], 0x1231);
    assert_int_equal(rx[2], 0);
    end_with(0);
}

/* ---- the device's handshake ---- */

static bool stays_low;
static unsigned clocks_then;

/* A device that is ready late, and lets READY go with the frame's 16th change. */
static void on_frame_clock(void *ctx, uint64_t ps, wad_level level)
{
    (void)ctx;
    (void)ps;
    (void)level;
    if (++clocks_then % 16 == 0 && !stays_low)
        wad_sim_drive(sim, pin("PC5"), WAD_HIGH);
}

static void be_ready(wad_sim *s, void *ctx)
{
    (void)ctx;
    wad_sim_drive(s, pin("PC5"), WAD_LOW);
}

static void handshake_world(void)
{
    clocks_then = UINT_MAX; /* the clock begins to be driven: no change of a frame */
    wad_sim_drive(sim, pin("PC5"), WAD_HIGH);
    wad_sim_watch_pin(sim, pin("PC0"), on_frame_clock, NULL);
    for (unsigned i = 1; i <= 3; i++)
        wad_sim_at(sim, i * MS, be_ready, NULL);
}

static int handshake_main(void)
{
    if (!open_port(true))
        return 1;
    set_format(0, 0, false, 8, 2);
    for (unsigned i = 0; i < 3; i++) {
        set_frame(i, 0, 0x40 + i);
        wad_put(PORT, wad_at(R.wait_ready, i), 1);
    }
    set_group(0, 0, 2);
    wad_put(PORT, R.loop, 1);
    wadi_write(PORT, R.done_irq.off, 4, 0x70F);
    wad_put(PORT, R.enable, 1);
    wad_irq_global_on();
    start(1);
    wait_for(stays_low ? 0x400 : 1);
    return rest();
}

static void a_device_that_is_out_of_step_is_told(void **state)
{
    (void)state;
    stays_low = false;
    run(handshake_main, handshake_world, 50 * MS);
    assert_int_equal(status_seen & 0x70F, 1);
    assert_int_equal(rx[2], 0x42);
    end_with(0);
    stays_low = true;
    run(handshake_main, handshake_world, 50 * MS);
    assert_int_equal(status_seen & 0x70F, 0x400);
    assert_int_equal(error_seen, 0);
    end_with(0);
}

/* ---- as a device: SPI0 is the controller ---- */

static wad_spi bus;
static wad_spi_device near;
static uint8_t near_in[4];
static wad_status status;

static void follow(void *to, uint64_t ps, wad_level level)
{
    (void)ps;
    wad_sim_drive(sim, to, level);
}

static void wire(const char *from, const char *to)
{
    wad_sim_watch_pin(sim, pin(from), follow, (void *)(uintptr_t)pin(to));
}

static void device_world(void)
{
    wire("PB13", "PC0");
    wire("PB15", "PC2");
    wire("PC1", "PB14");
    wire("PB12", "PC3");
}

static wad_status add(uint8_t bits)
{
    near = (wad_spi_device){
        &bus,       .hz = 500000, .mode = 3, .bits = bits, .select = CORRAN32_ROUTE_SPI0_CS0_PB12,
        .setup = 1, .hold = 1};
    return wad_spi_add(&near);
}

static int device_main(void)
{
    static const uint8_t out[] = {0x11, 0x92, 0x3C, 0xF4}, seven[] = {0x55};
    bus = (wad_spi){&corran32_spi0, .clock = CORRAN32_ROUTE_SPI0_SCK_PB13,
                    .mosi = CORRAN32_ROUTE_SPI0_MOSI_PB15, .miso = CORRAN32_ROUTE_SPI0_MISO_PB14,
                    .time = &base};
    status = wad_timebase_open(&base);
    if (status == WAD_OK)
        status = wad_spi_open(&bus);
    if (status != WAD_OK || !open_port(false))
        return 1;
    set_format(0, 3, false, 8, 1);
    for (unsigned i = 0; i < 5; i++)
        set_frame(i, 0, 0xA0 + 3 * i);
    set_group(1, 0, 3);
    set_group(3, 4, 4);
    wadi_write(PORT, R.done_irq.off, 4, 0x70F);
    wad_put(PORT, R.enable, 1);
    wad_irq_global_on();
    start(0xA);
    status = add(8);
    if (status == WAD_OK)
        status = wad_spi_transfer(&near, out, near_in, 4, 1000);
    if (status == WAD_OK)
        status = add(7); /* a bit is missing: no frame */
    if (status == WAD_OK)
        status = wad_spi_write(&near, seven, 1, 1000);
    wait_for(0x202);
    return rest();
}

static void a_frame_of_another_length_is_told(void **state)
{
    (void)state;
    run(device_main, device_world, 50 * MS);
    assert_int_equal(status, WAD_OK);
    const uint8_t want[] = {0xA0, 0xA3, 0xA6, 0xA9};
    assert_memory_equal(near_in, want, 4);
    assert_int_equal(rx[0], 0x11);
    assert_int_equal(rx[3], 0xF4);
    assert_int_equal(status_seen & 0x70F, 0x202);
    assert_int_equal(error_seen, 4);
    end_with(0);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(every_frame_has_its_own_format),
        cmocka_unit_test(selects_and_times_are_each_frame_s_own),
        cmocka_unit_test(a_bit_that_flips_in_memory_is_caught),
        cmocka_unit_test(a_device_that_is_out_of_step_is_told),
        cmocka_unit_test(a_frame_of_another_length_is_told),
    };
    return cmocka_run_group_tests(tests, set_up, tear_down);
}
