/* SPDX-License-Identifier: MIT */
/* What runs on the host alone: captures, sheets, rates, a live target, the command. */
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
    double t0 = perf_now();
    FILE *f = g_fopen(path, "wb");
    for (size_t at = 0; at < size; at += 65536)
        fwrite(bytes + at, 1, MIN(65536, size - at), f);
    fclose(f);
    return perf_now() - t0;
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
        double t0 = perf_now();
        wad_vcd_write(c, vcd, EDGES * UINT64_C(10417), &why);
        best = MIN(best, perf_now() - t0);
        if (i == 0 && !g_file_get_contents(vcd, &bytes, &size, NULL))
            exit(2);
        best_plain = MIN(best_plain, plain_write(plain, bytes, size));
    }
    snprintf(text, sizeof text, "%.1f million/s", EDGES / best / 1e6);
    perf_figure("VCD: edges written", text, ">= 20 million/s");
    snprintf(text, sizeof text, "%.0f MB/s, %.2f", (double)size / best / 1e6, best_plain / best);
    perf_figure("VCD: bytes written, against plain fwrite of them", text, ">= 0.5");
    wad_meter m;
    wad_diags *diags = wad_diags_new();
    wad_meter_init(&m, 0, UINT64_MAX);
    double t0 = perf_now();
    wad_vcd_read(vcd, &(wad_vcd_listener){.channel = on_channel, .edge = on_edge, .ctx = &m},
                 diags);
    snprintf(text, sizeof text, "%.1f million/s", (double)heard / (perf_now() - t0) / 1e6);
    perf_figure("VCD: edges read and measured", text, ">= 30 million/s");
    wad_diags_free(diags);
    g_unlink(vcd);
    g_unlink(plain);
    g_rmdir(folder);
    g_free(bytes);
    g_free(vcd);
    g_free(plain);
    g_free(folder);
}

void perf_run_captures(void)
{
    char text[64];
    wad_capture *c = wad_capture_new();
    unsigned channel = wad_capture_channel(c, "lamp");
    double t0 = perf_now();
    for (unsigned i = 0; i < EDGES; i++)
        wad_capture_edge(c, channel, i * UINT64_C(10417), (wad_level)(i & 1));
    snprintf(text, sizeof text, "%.1f million/s", EDGES / (perf_now() - t0) / 1e6);
    perf_figure("capture: edges recorded in memory", text, ">= 50 million/s");
    wad_meter m;
    wad_meter_init(&m, 0, UINT64_MAX);
    t0 = perf_now();
    wad_cursor at = {0};
    wad_edge_record e;
    while (wad_capture_next(c, &at, &e))
        wad_meter_edge(&m, e.ps, e.level);
    snprintf(text, sizeof text, "%.1f million/s", EDGES / (perf_now() - t0) / 1e6);
    perf_figure("capture: edges measured", text, ">= 50 million/s");
    run_vcd(c);
    wad_capture_free(c);
}

/* ---- sheets ---- */

void perf_run_sheet(void)
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
        double t0 = perf_now();
        wad_sheet *s = wad_sheet_parse(text->str, text->len, "t.sheet", diags);
        wad_sheet_lint(s, diags);
        best = MIN(best, perf_now() - t0);
        wad_sheet_free(s);
        wad_diags_free(diags);
    }
    snprintf(value, sizeof value, "%.2f ms", best * 1e3);
    perf_figure("sheet of 1000 registers, parsed and checked", value, "<= 5 ms");
    g_string_free(text, TRUE);
}

/* Two fields of 16 bits, 48 MHz, rates that nothing gives exactly: the whole space each time. */
void perf_run_rate(const wad_sheet *sheet)
{
    char *why, text[32];
    wad_rate_law *law = wad_rate_open(sheet, wad_sheet_block(sheet, "CNT0"), "wrap", &why);
    wad_rational clock = {48000000, 1};
    const unsigned n = MAX(200 / perf_less, 2);
    double t0 = perf_now(), ppm = 0;
    for (unsigned i = 0; i < n; i++) {
        wad_rational hz = {1000003 + i * 7919, 100000};
        wad_rate_answer a;
        if (wad_rate_solve(law, clock, hz, NULL, &a, 1))
            ppm = MAX(ppm, a.ppm);
    }
    snprintf(text, sizeof text, "%.2f ms", (perf_now() - t0) / n * 1e3);
    perf_figure("rate solver: 16 x 16 bit timer, proven best", text, "<= 1 ms");
    wad_rate_close(law);
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
    perf_figure(what, text, "");
}

void perf_run_remote(void)
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
    double t0 = perf_now();
    for (unsigned i = 0; i < n; i++)
        (void)wad_remote_get(r, 0x40000000, 4, &word, &why);
    remote_figure("remote: reads of a word", n / (perf_now() - t0));
    t0 = perf_now();
    for (unsigned i = 0; i < n; i++)
        (void)wad_remote_put(r, 0x40000000, 4, i, &why);
    remote_figure("remote: writes of a word, each waited for", n / (perf_now() - t0));
    t0 = perf_now();
    for (uint32_t i = 0; i < n; i++)
        (void)wad_remote_post(r, 0x40000000, &i, 4, &why);
    (void)wad_remote_settle(r, &why);
    remote_figure("remote: writes of a word, up to 32 under way", n / (perf_now() - t0));
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

void perf_run_command(void)
{
    static char command[] = BUILD_DIR "/bin/wadium", nothing[] = "/bin/true";
    static char version[] = "--version", run[] = "run", d[] = "-d";
    static char lamp[] = SOURCE_DIR "/examples/lamp/lamp.bench", dir[] = BUILD_DIR "/firmware";
    char value[64], *spawn[] = {nothing, NULL}, *begin[] = {command, version, NULL};
    char *bench[] = {command, run, lamp, d, dir, NULL};
    double least = cpu_ms(spawn, 50), begun = cpu_ms(begin, 50);
    g_snprintf(value, sizeof value, "%.1f ms", begun);
    perf_figure("command: 'wadium --version', CPU time", value, "");
    g_snprintf(value, sizeof value, "%.1f times", begun / least);
    perf_figure("  against a program that does nothing", value, "");
    g_snprintf(value, sizeof value, "%.0f ms", cpu_ms(bench, 10));
    perf_figure("command: the lamp's bench, 5 s, CPU time", value, "");
}
