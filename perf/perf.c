/* SPDX-License-Identifier: MIT */
/*
 * Figures of this machine, each beside the one to reach. Ratios are taken
 * within one run; nothing here passes or fails.
 */
#include <glib/gstdio.h>
#include <pthread.h>
#include <string.h>
#include <sys/resource.h>
#include <sys/wait.h>
#include <time.h>

#include "wadium/host/bench.h"
#include "wadium/host/rate.h"
#include "wadium/host/remote_server.h"
#include "wadium/irq.h"
#include "wadium/timer.h"

#include "corran32_roles.h"

#define R    corran32_counter_roles
#define BASE CORRAN32_CNT0_BASE

/* With --small a hundredth of the work, to count instructions by: what is printed then times
 * nothing. */
static unsigned less = 1;
#define ACCESSES (20000000u / less)
#define EDGES    (20000000u / less)

static double seconds(void)
{
    struct timespec t;
    clock_gettime(CLOCK_MONOTONIC, &t);
    return (double)t.tv_sec + (double)t.tv_nsec * 1e-9;
}

static wad_sheet *chip(void)
{
    wad_diags *diags = wad_diags_new();
    wad_sheet *sheet = wad_sheet_read(SOURCE_DIR "/chips/corran32.sheet", diags);
    wad_diags_print(diags, stderr);
    wad_diags_free(diags);
    if (!sheet)
        exit(2);
    return sheet;
}

static void figure(const char *what, const char *value, const char *reach)
{
    printf("%-52s %18s   %s\n", what, value, reach);
}

/* ---- register accesses on the port ---- */

static double stored_ns, live_ns, written_ns, written_live_ns;

static int access_main(void)
{
    wad_block_up(&corran32_cnt0, 1000);
    uint32_t sum = 0;
    double t0 = seconds();
    for (unsigned i = 0; i < ACCESSES; i++)
        sum += wad_port_read32(BASE, R.reload.off);
    double t1 = seconds();
    for (unsigned i = 0; i < ACCESSES; i++)
        sum += wad_port_read32(BASE, R.count.off);
    double t2 = seconds();
    for (unsigned i = 0; i < ACCESSES; i++)
        wad_port_write32(CORRAN32_CLK_BASE, corran32_clocks_pll_mul.off, 6);
    double t3 = seconds();
    wad_put(BASE, R.enable, 1);
    for (unsigned i = 0; i < ACCESSES; i++)
        wad_port_write32(BASE, R.wrap.off, 1);
    double t4 = seconds();
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
    double t0 = seconds();
    for (unsigned i = 0; i < ACCESSES; i++)
        sum = bare(sum + i);
    double ns = (seconds() - t0) / ACCESSES * 1e9;
    return sum == 1 ? 0 : ns;
}

static void run_accesses(const wad_sheet *sheet)
{
    char *why, text[32];
    wad_sim *sim = wad_sim_new(sheet, &why);
    wad_sim_attach(sim, access_main, NULL, 0);
    wad_sim_run(sim, 100 * WAD_PS_PER_S);
    wad_sim_free(sim);
    double call = bare_ns();
    snprintf(text, sizeof text, "%.1f ns", call);
    figure("a bare call on this machine, now", text, "(2.0 to 2.7 ns when the figures were set)");
    snprintf(text, sizeof text, "%.1f ns, %.1fx", stored_ns, stored_ns / call);
    figure("port: read of a storage register, against a bare call", text, "<= 8 ns, <= 4x");
    snprintf(text, sizeof text, "%.1f ns", written_ns);
    figure("port: write of a clock register, fields checked", text, "<= 40 ns");
    snprintf(text, sizeof text, "%.1f ns", live_ns);
    figure("port: read of a running count", text, "<= 40 ns");
    snprintf(text, sizeof text, "%.1f ns", written_live_ns);
    figure("port: clearing a flag of a running counter", text, "<= 40 ns");
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
    double t0 = seconds();
    uint32_t x = 1;
    for (unsigned k = 0; k < n / 64; k++)
        for (unsigned i = 0; i < 64; i++) {
            uint32_t word = table[i];
            __asm__ volatile("" : "+r"(word));
            x = (x ^ word) * 16777619u + (x >> 15);
        }
    table[1] = x;
    return seconds() - t0;
}

double perf_seconds(void)
{
    return seconds();
}

unsigned perf_times(void)
{
    return 10000000u / less;
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
    figure(names[what], text, reach[what]);
}

static void run_plain(const wad_sheet *sheet)
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

static wad_timer tick;
static unsigned ticks;

static void on_tick(void *context)
{
    (void)context;
    ticks++;
}

static void tick_handler(void)
{
    wad_timer_handle(&tick);
}

static int tick_main(void)
{
    (void)!wad_timer_open(&tick, &corran32_cnt0, WAD_HZ(1000), NULL);
    (void)!wad_timer_on_wrap(&tick, 0, on_tick, NULL);
    wad_timer_start(&tick);
    wad_irq_global_on();
    for (;;)
        wad_port_sleep();
    return 0;
}

static void run_hour(const wad_sheet *sheet)
{
    static const wad_handler handlers[12] = {[8] = tick_handler};
    char *why, text[64];
    wad_sim *sim = wad_sim_new(sheet, &why);
    wad_sim_attach(sim, tick_main, handlers, 12);
    double t0 = seconds();
    wad_sim_run(sim, 3600 * WAD_PS_PER_S / less);
    snprintf(text, sizeof text, "%.2f s", seconds() - t0);
    figure("1 kHz tick with handler, one simulated hour", text, "<= 1.0 s");
    if (ticks + 2 < 3600000 / less)
        printf("  only %u ticks came\n", ticks);
    wad_sim_free(sim);
}

/* ---- a serial port, saturated both ways ---- */

static wad_uart port;
static uint8_t in_ring[256], out_ring[256], block[64];
static wad_sim *looped;

static void port_handler(void)
{
    wad_uart_handle(&port);
}

/* Refilled and emptied when half a ring has gone; asleep in between. */
static int port_main(void)
{
    const wad_uart_config config = {
        .baud = 115200, .tx = CORRAN32_ROUTE_UART0_TX_PA9, .rx = CORRAN32_ROUTE_UART0_RX_PA10};
    (void)!wad_uart_open(&port, &corran32_uart0, &config, NULL);
    (void)!wad_uart_background(&port, in_ring, sizeof in_ring, out_ring, sizeof out_ring, 1);
    wad_irq_global_on();
    for (;;) {
        while (wad_uart_room(&port) >= sizeof block)
            (void)wad_uart_write(&port, block, sizeof block);
        while (wad_uart_waiting(&port) >= sizeof block)
            (void)wad_uart_read(&port, block, sizeof block);
        wad_port_sleep();
    }
    return 0;
}

static void follow(void *ctx, uint64_t ps, wad_level level)
{
    (void)ps;
    wad_sim_drive(looped, ctx, level == WAD_LOW ? WAD_LOW : WAD_HIGH);
}

static void run_uart(const wad_sheet *sheet)
{
    static const wad_handler handlers[17] = {[CORRAN32_UART0_IRQ] = port_handler};
    char *why, text[64];
    looped = wad_sim_new(sheet, &why);
    for (unsigned i = 0; i < sizeof block; i++)
        block[i] = (uint8_t)(i * 29);
    wad_sim_attach(looped, port_main, handlers, 17);
    wad_sim_watch_pin(looped, wad_sheet_pin(sheet, "PA9"), follow,
                      (void *)(uintptr_t)wad_sheet_pin(sheet, "PA10"));
    double t0 = seconds();
    wad_sim_run(looped, 20 * WAD_PS_PER_S / less);
    snprintf(text, sizeof text, "%.0f x", 20.0 / less / (seconds() - t0));
    figure("UART 115200 both ways, saturated, against real time", text, ">= 200 x");
    if (port.stats.received < 229000 / less || port.stats.overruns || port.stats.dropped)
        printf("  only %u of 230 000 bytes came\n", (unsigned)port.stats.received);
    wad_sim_free(looped);
}

/* ---- an exchange port, saturated ---- */

static wad_spi bus;
static wad_spi_device jumper;
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
    const wad_spi_config lines = {.clock = CORRAN32_ROUTE_SPI0_SCK_PB13,
                                  .mosi = CORRAN32_ROUTE_SPI0_MOSI_PB15,
                                  .miso = CORRAN32_ROUTE_SPI0_MISO_PB14};
    const wad_spi_link form = {.hz = 250000};
    (void)!wad_spi_open(&bus, &corran32_spi0, &lines);
    (void)!wad_spi_add(&jumper, &bus, &form, NULL);
    (void)!wad_spi_background(&bus, 1);
    wad_irq_global_on();
    (void)!wad_spi_submit(&job);
    for (;;)
        wad_port_sleep();
    return 0;
}

static void run_spi(const wad_sheet *sheet)
{
    static const wad_handler handlers[18] = {[CORRAN32_SPI0_IRQ] = bus_handler};
    char *why, text[64];
    looped = wad_sim_new(sheet, &why);
    for (unsigned i = 0; i < sizeof sent; i++)
        sent[i] = (uint8_t)(i * 29);
    wad_sim_attach(looped, bus_main, handlers, 18);
    wad_sim_watch_pin(looped, wad_sheet_pin(sheet, "PB15"), follow,
                      (void *)(uintptr_t)wad_sheet_pin(sheet, "PB14"));
    double t0 = seconds();
    wad_sim_run(looped, 5 * WAD_PS_PER_S / less);
    snprintf(text, sizeof text, "%.1f million/s",
             (double)bus.stats.frames * 8 / (seconds() - t0) / 1e6);
    figure("SPI at 250 kHz by interrupt over a jumper: bits", text, "");
    if (exchanges < 500 / less)
        printf("  only %u exchanges came back as sent\n", (unsigned)exchanges);
    wad_sim_free(looped);
}

/* ---- captures ---- */

static uint64_t heard;

static void on_channel(void *ctx, unsigned number, const char *name)
{
    (void)ctx;
    (void)number;
    (void)name;
}

static void on_edge(void *ctx, unsigned channel, uint64_t ps, wad_level level)
{
    (void)channel;
    heard++;
    wad_meter_edge(ctx, ps, level);
}

static double plain_write(const char *path, const char *bytes, size_t size)
{
    double t0 = seconds();
    FILE *f = g_fopen(path, "wb");
    for (size_t at = 0; at < size; at += 65536)
        fwrite(bytes + at, 1, MIN(65536, size - at), f);
    fclose(f);
    return seconds() - t0;
}

static void run_vcd(wad_capture *c)
{
    char *folder = g_dir_make_tmp("wadium-perf-XXXXXX", NULL), text[64], *why;
    char *vcd = g_build_filename(folder, "a.vcd", NULL),
         *plain = g_build_filename(folder, "b", NULL);
    char *bytes;
    gsize size;
    double best = 1e9, best_plain = 1e9;
    for (int i = 0; i < 3; i++) {
        double t0 = seconds();
        wad_vcd_write(c, vcd, EDGES * UINT64_C(10417), &why);
        best = MIN(best, seconds() - t0);
        if (i == 0 && !g_file_get_contents(vcd, &bytes, &size, NULL))
            exit(2);
        best_plain = MIN(best_plain, plain_write(plain, bytes, size));
    }
    snprintf(text, sizeof text, "%.1f million/s", EDGES / best / 1e6);
    figure("VCD: edges written", text, ">= 20 million/s");
    snprintf(text, sizeof text, "%.0f MB/s, %.2f", (double)size / best / 1e6, best_plain / best);
    figure("VCD: bytes written, against plain fwrite of them", text, ">= 0.5");
    wad_meter m;
    wad_diags *diags = wad_diags_new();
    wad_meter_init(&m, 0, UINT64_MAX);
    double t0 = seconds();
    wad_vcd_read(vcd, &(wad_vcd_listener){.channel = on_channel, .edge = on_edge, .ctx = &m},
                 diags);
    snprintf(text, sizeof text, "%.1f million/s", (double)heard / (seconds() - t0) / 1e6);
    figure("VCD: edges read and measured", text, ">= 30 million/s");
    wad_diags_free(diags);
    g_unlink(vcd);
    g_unlink(plain);
    g_rmdir(folder);
    g_free(bytes);
    g_free(vcd);
    g_free(plain);
    g_free(folder);
}

static void run_captures(void)
{
    char text[64];
    wad_capture *c = wad_capture_new();
    unsigned channel = wad_capture_channel(c, "lamp");
    double t0 = seconds();
    for (unsigned i = 0; i < EDGES; i++)
        wad_capture_edge(c, channel, i * UINT64_C(10417), (wad_level)(i & 1));
    snprintf(text, sizeof text, "%.1f million/s", EDGES / (seconds() - t0) / 1e6);
    figure("capture: edges recorded in memory", text, ">= 50 million/s");
    wad_meter m;
    wad_meter_init(&m, 0, UINT64_MAX);
    t0 = seconds();
    wad_cursor at = {0};
    wad_edge_record e;
    while (wad_capture_next(c, &at, &e))
        wad_meter_edge(&m, e.ps, e.level);
    snprintf(text, sizeof text, "%.1f million/s", EDGES / (seconds() - t0) / 1e6);
    figure("capture: edges measured", text, ">= 50 million/s");
    run_vcd(c);
    wad_capture_free(c);
}

/* ---- sheets ---- */

static void run_sheet(void)
{
    GString *text =
        g_string_new("chip T {\n bus little 32\n clock core 8 MHz\n block A at 0 like l\n"
                     "}\nlayout l {\n");
    char value[32];
    for (unsigned i = 0; i < 1000; i++)
        g_string_append_printf(
            text,
            " reg R%u at %u rw reset 0 \"register\" {\n  0 EN rw \"enable\"\n"
            "  3:1 MODE rw \"mode\" { 0 off, 1 on }\n  15:8 N rw \"count\"\n }\n",
            i, i * 4);
    g_string_append(text, "}\n");
    double best = 1e9;
    for (int i = 0; i < 5; i++) {
        wad_diags *diags = wad_diags_new();
        double t0 = seconds();
        wad_sheet *s = wad_sheet_parse(text->str, text->len, "t.sheet", diags);
        wad_sheet_lint(s, diags);
        best = MIN(best, seconds() - t0);
        wad_sheet_free(s);
        wad_diags_free(diags);
    }
    snprintf(value, sizeof value, "%.2f ms", best * 1e3);
    figure("sheet of 1000 registers, parsed and checked", value, "<= 5 ms");
    g_string_free(text, TRUE);
}

/* Two fields of 16 bits, 48 MHz, rates that nothing gives exactly: the whole space each time. */
static void run_rate(const wad_sheet *sheet)
{
    char *why, text[32];
    wad_rate_law *law = wad_rate_open(sheet, wad_sheet_block(sheet, "CNT0"), "wrap", &why);
    wad_rational clock = {48000000, 1};
    const unsigned n = MAX(200 / less, 2);
    double t0 = seconds(), ppm = 0;
    for (unsigned i = 0; i < n; i++) {
        wad_rational hz = {1000003 + i * 7919, 100000};
        wad_rate_answer a;
        if (wad_rate_solve(law, clock, hz, NULL, &a, 1))
            ppm = MAX(ppm, a.ppm);
    }
    snprintf(text, sizeof text, "%.2f ms", (seconds() - t0) / n * 1e3);
    figure("rate solver: 16 x 16 bit timer, proven best", text, "<= 1 ms");
    wad_rate_close(law);
}

/* The first of `rows` is the program's name, or --small in its place; without others all are
 * wanted. */
static bool wanted(int n, char **rows, const char *name)
{
    for (int i = 1; i < n; i++)
        if (!strcmp(rows[i], name))
            return true;
    return n == 1;
}

static void refuse_unknown(int n, char **rows)
{
    static const char *const all[] = {"access",  "plain", "tick", "uart",   "spi",    "dma",
                                      "capture", "sheet", "rate", "remote", "command"};
    for (int i = 1; i < n; i++) {
        unsigned k = 0;
        while (k < G_N_ELEMENTS(all) && strcmp(rows[i], all[k]))
            k++;
        if (k < G_N_ELEMENTS(all))
            continue;
        fprintf(stderr,
                "perf: there is no row '%s'; perf [--small] [access] [plain] [tick] [uart] "
                "[spi] [dma] [capture] [sheet] [rate] [remote] [command]\n",
                rows[i]);
        exit(2);
    }
}

/* ---- data movers ---- */

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
    double begin = seconds();
    wad_sim_run(sim, 4 * WAD_PS_PER_S / less);
    double took = seconds() - begin;
    uint64_t waited, taken = wad_sim_bus_taken(sim, &waited);
    double moved = (double)taken / (125000.0 * cycles) * bytes; /* of 8 MHz */
    snprintf(text, sizeof text, "%.1f million", moved / took / 1e6);
    char *what = g_strdup_printf("DMA copy, %s: simulated bytes a second", scheme);
    figure(what, text, "");
    snprintf(text, sizeof text, "%.0f ns", took * 1e9 / (moved / bytes));
    figure("  an element of it", text, "");
    g_free(what);
    wad_sim_free(sim);
    wad_sheet_free(sheet);
    wad_diags_free(diags);
    g_free(file);
    g_free(path);
}

static void run_movers(void)
{
    run_mover("corran32", "perf_mover_32", 4, 4, "settings in registers, words");
    run_mover("corran16", "perf_mover_16", 2, 3, "settings in memory, halves");
}

/* ---- a live target ---- */

/* Words of a target behind a server that answers at once, over loopback: what the protocol costs.
 */
static void *serve(void *p)
{
    wad_server *s = p;
    do
        wad_server_poll(s, 100);
    while (wad_server_connected(s));
    return NULL;
}

static unsigned no_register(void *ctx, unsigned number, uint8_t *bytes, unsigned *size)
{
    (void)ctx;
    (void)number;
    (void)bytes;
    *size = 4;
    return 0;
}

static bool read_words(void *ctx, uint64_t address, uint8_t *bytes, size_t n)
{
    (void)address;
    memcpy(bytes, ctx, n);
    return true;
}

static bool write_words(void *ctx, uint64_t address, const uint8_t *bytes, size_t n)
{
    (void)address;
    memcpy(ctx, bytes, n);
    return true;
}

static void nothing(void *ctx)
{
    (void)ctx;
}

static void go(void *ctx, bool step)
{
    (void)ctx;
    (void)step;
}

static void remote_figure(const char *what, double per_s)
{
    char text[64];
    snprintf(text, sizeof text, "%.0f /s, %.0f us", per_s, 1e6 / per_s);
    figure(what, text, "");
}

static void run_remote(void)
{
    static uint8_t memory[4096];
    const wad_server_target target = {.description = "<target/>",
                                      .get = no_register,
                                      .read = read_words,
                                      .write = write_words,
                                      .halt = nothing,
                                      .go = go,
                                      .ctx = memory};
    char *why = NULL, where[32];
    const unsigned n = 20000;
    uint32_t word = 0;
    wad_server *server = wad_server_new("0", &target, &why);
    pthread_t thread;
    snprintf(where, sizeof where, "127.0.0.1:%u", wad_server_port(server));
    pthread_create(&thread, NULL, serve, server);
    wad_remote *r = wad_remote_open(where, NULL, &why);
    if (!r) {
        fprintf(stderr, "perf: %s\n", why);
        exit(2);
    }
    double t0 = seconds();
    for (unsigned i = 0; i < n; i++)
        (void)wad_remote_get(r, 0x40000000, 4, &word, &why);
    remote_figure("remote: reads of a word", n / (seconds() - t0));
    t0 = seconds();
    for (unsigned i = 0; i < n; i++)
        (void)wad_remote_put(r, 0x40000000, 4, i, &why);
    remote_figure("remote: writes of a word, each waited for", n / (seconds() - t0));
    t0 = seconds();
    for (uint32_t i = 0; i < n; i++)
        (void)wad_remote_post(r, 0x40000000, &i, 4, &why);
    (void)wad_remote_settle(r, &why);
    remote_figure("remote: writes of a word, up to 32 under way", n / (seconds() - t0));
    wad_remote_close(r, true);
    pthread_join(thread, NULL);
    wad_server_free(server);
}

/* ---- the command as a process ---- */

/* Time of the processor that a command and all that it starts take: the least of some. */
static double cpu_ms(char **argv, unsigned times)
{
    double least = 0;
    for (unsigned i = 0; i < times; i++) {
        GPid pid;
        int status;
        struct rusage used;
        if (!g_spawn_async(NULL, argv, NULL, G_SPAWN_DO_NOT_REAP_CHILD | G_SPAWN_STDOUT_TO_DEV_NULL,
                           NULL, NULL, &pid, NULL) ||
            wait4(pid, &status, 0, &used) != pid || !WIFEXITED(status) || WEXITSTATUS(status)) {
            fprintf(stderr, "perf: '%s' does not run\n", argv[0]);
            exit(2);
        }
        double ms = (double)(used.ru_utime.tv_sec + used.ru_stime.tv_sec) * 1e3 +
                    (double)(used.ru_utime.tv_usec + used.ru_stime.tv_usec) / 1e3;
        if (!i || ms < least)
            least = ms;
    }
    return least;
}

static void run_command(void)
{
    static char command[] = BUILD_DIR "/bin/wadium", nothing[] = "/bin/true";
    static char version[] = "--version", run[] = "run", d[] = "-d";
    static char lamp[] = SOURCE_DIR "/examples/lamp/lamp.bench", dir[] = BUILD_DIR "/firmware";
    char value[64], *spawn[] = {nothing, NULL}, *begin[] = {command, version, NULL};
    char *bench[] = {command, run, lamp, d, dir, NULL};
    double least = cpu_ms(spawn, 50), begun = cpu_ms(begin, 50);
    g_snprintf(value, sizeof value, "%.1f ms", begun);
    figure("command: 'wadium --version', CPU time", value, "");
    g_snprintf(value, sizeof value, "%.1f times", begun / least);
    figure("  against a program that does nothing", value, "");
    g_snprintf(value, sizeof value, "%.0f ms", cpu_ms(bench, 10));
    figure("command: the lamp's bench, 5 s, CPU time", value, "");
}

int main(int argc, char **argv)
{
    if (argc > 1 && !strcmp(argv[1], "--small")) {
        less = 100;
        argc--;
        argv++;
    }
    refuse_unknown(argc, argv);
    wad_sheet *sheet = chip();
    printf("%-52s %18s   %s\n", "", "measured", "to reach");
    if (wanted(argc, argv, "access"))
        run_accesses(sheet);
    if (wanted(argc, argv, "plain"))
        run_plain(sheet);
    if (wanted(argc, argv, "tick"))
        run_hour(sheet);
    if (wanted(argc, argv, "uart"))
        run_uart(sheet);
    if (wanted(argc, argv, "spi"))
        run_spi(sheet);
    if (wanted(argc, argv, "dma"))
        run_movers();
    if (wanted(argc, argv, "capture"))
        run_captures();
    if (wanted(argc, argv, "sheet"))
        run_sheet();
    if (wanted(argc, argv, "rate"))
        run_rate(sheet);
    if (wanted(argc, argv, "remote"))
        run_remote();
    if (wanted(argc, argv, "command"))
        run_command();
    wad_sheet_free(sheet);
    return 0;
}
