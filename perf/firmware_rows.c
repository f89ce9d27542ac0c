/* SPDX-License-Identifier: MIT */
/* Firmware in a run: accesses, plain C, ticks, serial and SPI ports, DMA. */
#include <glib/gstdio.h>
#include <pthread.h>
#include <string.h>
#include <sys/resource.h>
#include <sys/wait.h>
#include <time.h>

#include "rows.h"
#include "wadium/host/bench.h"
#include "wadium/host/rate.h"
#include "wadium/host/remote_server.h"
#include "wadium/irq.h"

#include "corran32_roles.h"

#define R    corran32_counter_roles
#define BASE CORRAN32_CNT0_BASE

/* ---- register accesses on the port ---- */

static double stored_ns, live_ns, written_ns, written_live_ns;

static int access_main(void)
{
    wad_block_up(&corran32_cnt0.block, 1000);
    uint32_t sum = 0;
    double t0 = perf_now();
    for (unsigned i = 0; i < ACCESSES; i++)
        sum += wad_port_read32(BASE, R.reload.off);
    double t1 = perf_now();
    for (unsigned i = 0; i < ACCESSES; i++)
        sum += wad_port_read32(BASE, R.count.off);
    double t2 = perf_now();
    for (unsigned i = 0; i < ACCESSES; i++)
        wad_port_write32(CORRAN32_CLK_BASE, corran32_clocks_pll_mul.off, 6);
    double t3 = perf_now();
    wad_put(BASE, R.enable, 1);
    for (unsigned i = 0; i < ACCESSES; i++)
        wad_port_write32(BASE, R.wrap.off, 1);
    double t4 = perf_now();
    stored_ns = (t1 - t0) / ACCESSES * 1e9;
    live_ns = (t2 - t1) / ACCESSES * 1e9;
    written_ns = (t3 - t2) / ACCESSES * 1e9;
    written_live_ns = (t4 - t3) / ACCESSES * 1e9;
    for (;;)
        wad_port_sleep();
    return (int)sum;
}

/* What a call costs that does nothing: the yardstick of the access figures on this machine. */
static __attribute__((noinline)) uint32_t bare(uint32_t x)
{
    __asm__ volatile("");
    return x;
}

static double bare_ns(void)
{
    uint32_t sum = 0;
    double t0 = perf_now();
    for (unsigned i = 0; i < ACCESSES; i++)
        sum = bare(sum + i);
    double ns = (perf_now() - t0) / ACCESSES * 1e9;
    return sum == 1 ? 0 : ns;
}

void perf_run_accesses(const wad_sheet *sheet)
{
    char *why, text[32];
    wad_sim *sim = wad_sim_new(sheet, &why);
    wad_sim_attach(sim, access_main, NULL, 0);
    wad_sim_run(sim, 100 * WAD_PS_PER_S);
    wad_sim_free(sim);
    double call = bare_ns();
    snprintf(text, sizeof text, "%.1f ns", call);
    perf_figure("a bare call on this machine, now", text,
                "(2.0 to 2.7 ns when the figures were set)");
    snprintf(text, sizeof text, "%.1f ns, %.1fx", stored_ns, stored_ns / call);
    perf_figure("port: read of a storage register, against a bare call", text, "<= 8 ns, <= 4x");
    snprintf(text, sizeof text, "%.1f ns", written_ns);
    perf_figure("port: write of a clock register, fields checked", text, "<= 40 ns");
    snprintf(text, sizeof text, "%.1f ns", live_ns);
    perf_figure("port: read of a running count", text, "<= 40 ns");
    snprintf(text, sizeof text, "%.1f ns", written_live_ns);
    perf_figure("port: clearing a flag of a running counter", text, "<= 40 ns");
}

/* ---- plain volatile C ---- */

double perf_seconds(void);
unsigned perf_times(void);
void perf_tell(unsigned what, double ns);
void perf_empty(const volatile void *address);
double perf_compute(void);

/* An entry point that does nothing: what calling in costs by itself. */
void perf_empty(const volatile void *address)
{
    __asm__ volatile("" ::"r"(address));
}

double perf_compute(void)
{
    static uint32_t table[64];
    const unsigned n = perf_times();
    double t0 = perf_now();
    uint32_t x = 1;
    for (unsigned k = 0; k < n / 64; k++)
        for (unsigned i = 0; i < 64; i++) {
            uint32_t word = table[i];
            __asm__ volatile("" : "+r"(word));
            x = (x ^ word) * 16777619u + (x >> 15);
        }
    table[1] = x;
    return perf_now() - t0;
}

double perf_seconds(void)
{
    return perf_now();
}

unsigned perf_times(void)
{
    return 10000000u / perf_less;
}

void perf_tell(unsigned what, double ns)
{
    static const char *const names[] = {"plain C: read and write of an ordinary variable",
                                        "plain C: read of a volatile flag in RAM",
                                        "plain C: read of a storage register",
                                        "plain C: write of a clock register, fields checked",
                                        "plain C: read of a running count",
                                        "plain C: clearing a flag of a running counter",
                                        "plain C: an entry point that does nothing",
                                        "plain C: a computing loop, against one not instrumented"};
    static const char *const reach[] = {"",         "",         "<= 8 ns, <= 4x",  "<= 40 ns",
                                        "<= 40 ns", "<= 40 ns", "(2.0 to 2.7 ns)", ""};
    static double empty_ns = 1;
    char text[32];
    if (what == 6)
        empty_ns = ns;
    snprintf(text, sizeof text,
             what == 2   ? "%.1f ns, %.1fx"
             : what == 7 ? "%.1fx"
                         : "%.1f ns",
             ns, ns / empty_ns);
    perf_figure(names[what], text, reach[what]);
}

void perf_run_plain(const wad_sheet *sheet)
{
    char *why;
    wad_sim *sim = wad_sim_new(sheet, &why);
    if (wad_sim_load(sim, BUILD_DIR "/firmware/plain_loops.wfw", &why)) {
        wad_run_result r = wad_sim_run(sim, 100 * WAD_PS_PER_S);
        if (r.end != WAD_RUN_TIME)
            printf("  %s\n", r.story);
    } else {
        printf("  %s\n", why);
        g_free(why);
    }
    wad_sim_free(sim);
}

/* ---- one simulated hour of 1 kHz ticks ---- */

static unsigned ticks;

static void on_tick(void *context)
{
    (void)context;
    ticks++;
}

static const wad_timer tick = {&corran32_cnt0, .clock_hz = 8000000, .rate = WAD_RATE_HZ(1000),
                               .on_wrap = on_tick};

static void tick_handler(void)
{
    wad_timer_handle(&tick);
}

static int tick_main(void)
{
    (void)!wad_timer_open(&tick);
    wad_timer_start(&tick);
    wad_irq_global_on();
    for (;;)
        wad_port_sleep();
    return 0;
}

void perf_run_hour(const wad_sheet *sheet)
{
    static const wad_handler handlers[12] = {[8] = tick_handler};
    char *why, text[64];
    wad_sim *sim = wad_sim_new(sheet, &why);
    wad_sim_attach(sim, tick_main, handlers, 12);
    double t0 = perf_now();
    wad_sim_run(sim, 3600 * WAD_PS_PER_S / perf_less);
    snprintf(text, sizeof text, "%.2f s", perf_now() - t0);
    perf_figure("1 kHz tick with handler, one simulated hour", text, "<= 1.0 s");
    if (ticks + 2 < 3600000 / perf_less)
        printf("  only %u ticks came\n", ticks);
    wad_sim_free(sim);
}

/* ---- a serial port, saturated both ways ---- */

static uint8_t in_ring[256], out_ring[256], block[64];
static wad_uart_stats stats;
static const wad_uart port = {&corran32_uart0,
                              .clock_hz = 8000000,
                              .baud = 115200,
                              .tx = CORRAN32_ROUTE_UART0_TX_PA9,
                              .rx = CORRAN32_ROUTE_UART0_RX_PA10,
                              .in = WAD_RING(in_ring),
                              .out = WAD_RING(out_ring),
                              .stats = &stats,
                              .priority = 1};
static wad_sim *looped;

static void port_handler(void)
{
    wad_uart_handle(&port);
}

/* Refilled and emptied when half a ring has gone; asleep in between. */
static int port_main(void)
{
    (void)!wad_uart_open(&port);
    wad_irq_global_on();
    for (;;) {
        while (wad_uart_room(&port) >= sizeof block)
            (void)wad_uart_write(&port, block, sizeof block, 0);
        while (wad_uart_waiting(&port) >= sizeof block)
            (void)wad_uart_read(&port, block, sizeof block, 0);
        wad_port_sleep();
    }
    return 0;
}

static void follow(void *ctx, uint64_t ps, wad_level level)
{
    (void)ps;
    wad_sim_drive(looped, ctx, level == WAD_LOW ? WAD_LOW : WAD_HIGH);
}

void perf_run_uart(const wad_sheet *sheet)
{
    static const wad_handler handlers[17] = {[CORRAN32_UART0_IRQ] = port_handler};
    char *why, text[64];
    looped = wad_sim_new(sheet, &why);
    for (unsigned i = 0; i < sizeof block; i++)
        block[i] = (uint8_t)(i * 29);
    wad_sim_attach(looped, port_main, handlers, 17);
    wad_sim_watch_pin(looped, wad_sheet_pin(sheet, "PA9"), follow,
                      (void *)(uintptr_t)wad_sheet_pin(sheet, "PA10"));
    double t0 = perf_now();
    wad_sim_run(looped, 20 * WAD_PS_PER_S / perf_less);
    snprintf(text, sizeof text, "%.0f x", 20.0 / perf_less / (perf_now() - t0));
    perf_figure("UART 115200 both ways, saturated, against real time", text, ">= 200 x");
    if (stats.received < 229000 / perf_less || stats.overruns || stats.dropped)
        printf("  only %u of 230 000 bytes came\n", (unsigned)stats.received);
    wad_sim_free(looped);
}

/* ---- an SPI port, saturated ---- */

static wad_spi_stats bus_stats;
static const wad_spi bus = {&corran32_spi0,
                            .clock_hz = 8000000,
                            .clock = CORRAN32_ROUTE_SPI0_SCK_PB13,
                            .mosi = CORRAN32_ROUTE_SPI0_MOSI_PB15,
                            .miso = CORRAN32_ROUTE_SPI0_MISO_PB14,
                            .stats = &bus_stats,
                            .jobs = &(wad_spi_jobs){0},
                            .priority = 1};
static const wad_spi_device jumper = {&bus, .hz = 250000};
static uint8_t sent[256], received[256];
static uint32_t exchanges;

static void bus_handler(void)
{
    wad_spi_handle(&bus);
}

static void exchanged(wad_spi_job *job, wad_status status)
{
    exchanges += status == WAD_OK && !memcmp(sent, received, sizeof sent);
    (void)!wad_spi_submit(job);
}

/* One job that queues itself again; asleep in between. */
static int bus_main(void)
{
    static wad_spi_job job = {.device = &jumper,
                              .out = sent,
                              .n_out = sizeof sent,
                              .in = received,
                              .n_in = sizeof received,
                              .done = exchanged};
    (void)!wad_spi_open(&bus);
    (void)!wad_spi_add(&jumper);
    wad_irq_global_on();
    (void)!wad_spi_submit(&job);
    for (;;)
        wad_port_sleep();
    return 0;
}

void perf_run_spi(const wad_sheet *sheet)
{
    static const wad_handler handlers[18] = {[CORRAN32_SPI0_IRQ] = bus_handler};
    char *why, text[64];
    looped = wad_sim_new(sheet, &why);
    for (unsigned i = 0; i < sizeof sent; i++)
        sent[i] = (uint8_t)(i * 29);
    wad_sim_attach(looped, bus_main, handlers, 18);
    wad_sim_watch_pin(looped, wad_sheet_pin(sheet, "PB15"), follow,
                      (void *)(uintptr_t)wad_sheet_pin(sheet, "PB14"));
    double t0 = perf_now();
    wad_sim_run(looped, 5 * WAD_PS_PER_S / perf_less);
    snprintf(text, sizeof text, "%.1f million/s",
             (double)bus_stats.frames * 8 / (perf_now() - t0) / 1e6);
    perf_figure("SPI at 250 kHz by interrupt over a jumper: bits", text, "");
    if (exchanges < 500 / perf_less)
        printf("  only %u exchanges came back as sent\n", (unsigned)exchanges);
    wad_sim_free(looped);
}

/* ---- DMA controllers ---- */

/* 512 bytes again and again, in elements of a bus word: their number follows from the bus's time.
 */
static void run_mover(const char *chip_name, const char *firmware, unsigned bytes, unsigned cycles,
                      const char *scheme)
{
    char *path = g_strdup_printf(SOURCE_DIR "/chips/%s.sheet", chip_name), *why = NULL;
    char *file = g_strdup_printf(BUILD_DIR "/firmware/%s.wfw", firmware), text[64];
    wad_diags *diags = wad_diags_new();
    wad_sheet *sheet = wad_sheet_read(path, diags);
    wad_sim *sim = sheet ? wad_sim_new(sheet, &why) : NULL;
    if (!sim || !wad_sim_load(sim, file, &why)) {
        fprintf(stderr, "perf: %s\n", why ? why : "no sheet");
        exit(2);
    }
    double begin = perf_now();
    wad_sim_run(sim, 4 * WAD_PS_PER_S / perf_less);
    double took = perf_now() - begin;
    uint64_t waited, taken = wad_sim_bus_taken(sim, &waited);
    double moved = (double)taken / (125000.0 * cycles) * bytes; /* of 8 MHz */
    snprintf(text, sizeof text, "%.1f million", moved / took / 1e6);
    char *what = g_strdup_printf("DMA copy, %s: simulated bytes a second", scheme);
    perf_figure(what, text, "");
    snprintf(text, sizeof text, "%.0f ns", took * 1e9 / (moved / bytes));
    perf_figure("  an element of it", text, "");
    g_free(what);
    wad_sim_free(sim);
    wad_sheet_free(sheet);
    wad_diags_free(diags);
    g_free(file);
    g_free(path);
}

void perf_run_movers(void)
{
    run_mover("corran32", "perf_mover_32", 4, 4, "settings in registers, words");
    run_mover("corran16", "perf_mover_16", 2, 3, "settings in memory, halves");
}
