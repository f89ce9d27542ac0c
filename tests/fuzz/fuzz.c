/* SPDX-License-Identifier: MIT */
/* What libFuzzer calls: one reader a program, chosen by READER. `make fuzz` runs them all. */
#include <fcntl.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

#include "remote/protocol/session.h"
#include "wadium/host/bench.h"
#include "wadium/host/collect.h"
#include "wadium/host/recording.h"
#include "wadium/host/remote_server.h"
#include "wadium/host/snapshot.h"
#include "wadium/host/steps.h"
#include "wadium/host/words.h"

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size);

#define TEXT (const char *)data

static FILE *nowhere(void)
{
    static FILE *f;
    if (!f)
        f = fopen("/dev/null", "w");
    return f;
}

/* Readers of files. */
static const char *file_of(const uint8_t *data, size_t size)
{
    static char path[64];
    if (!*path)
        g_snprintf(path, sizeof path, "/dev/shm/wadium-fuzz-%d", (int)getpid());
    int fd = open(path, O_WRONLY | O_CREAT | O_TRUNC, 0600);
    if (fd < 0 || write(fd, data, size) != (ssize_t)size)
        abort();
    close(fd);
    return path;
}

static wad_sheet *chip(void)
{
    static wad_sheet *sheet;
    if (!sheet) {
        wad_diags *d = wad_diags_new();
        sheet = wad_sheet_read(SOURCE_DIR "/chips/corran32.sheet", d);
        wad_diags_free(d);
    }
    return sheet;
}

static void must_say_why(bool good, wad_diags *diags)
{
    if (!good && !wad_diags_errors(diags))
        abort();
    wad_diags_print(diags, nowhere());
    wad_diags_free(diags);
}

/* ---- the readers ---- */

static void __attribute__((unused)) read_sheet(const uint8_t *data, size_t size)
{
    wad_diags *diags = wad_diags_new();
    wad_sheet *s = wad_sheet_parse(TEXT, size, "f.sheet", diags);
    char *why = NULL;
    must_say_why(s != NULL, diags);
    if (!s)
        return;
    diags = wad_diags_new();
    wad_sheet_lint(s, diags);
    wad_diags_free(diags);
    wad_show_chip(s, nowhere());
    wad_show_chip_json(s, nowhere());
    wad_emit_header(s, nowhere());
    wad_emit_roles(s, nowhere());
    wad_emit_vectors(s, nowhere());
    wad_emit_gdb(s, nowhere());
    wad_sim *sim = wad_sim_new(s, &why);
    wad_sim_free(sim);
    g_free(why);
    wad_sheet_free(s);
}

static void __attribute__((unused)) read_board(const uint8_t *data, size_t size)
{
    wad_diags *diags = wad_diags_new();
    wad_board *b = wad_board_parse(TEXT, size, SOURCE_DIR "/boards/f.board", diags);
    must_say_why(b != NULL, diags);
    wad_board_free(b);
}

static void __attribute__((unused)) read_bench(const uint8_t *data, size_t size)
{
    wad_diags *diags = wad_diags_new();
    wad_bench_list *list = wad_bench_parse(TEXT, size, SOURCE_DIR "/examples/lamp/f.bench", diags);
    must_say_why(list != NULL, diags);
    wad_bench_list_free(list);
}

static void channel(void *ctx, unsigned number, const char *name)
{
    wad_capture_channel(ctx, name);
    (void)number;
}

static void edge(void *ctx, unsigned number, uint64_t ps, wad_level level)
{
    if (number >= wad_capture_channels(ctx))
        abort();
    wad_capture_edge(ctx, number, ps, level);
}

static void __attribute__((unused)) read_vcd(const uint8_t *data, size_t size)
{
    wad_capture *c = wad_capture_new();
    const wad_vcd_listener to = {.channel = channel, .edge = edge, .ctx = c};
    wad_diags *diags = wad_diags_new();
    must_say_why(wad_vcd_parse(TEXT, size, "f.vcd", &to, diags), diags);
    wad_capture_free(c);
}

static void __attribute__((unused)) read_csv(const uint8_t *data, size_t size)
{
    wad_diags *diags = wad_diags_new();
    uint64_t end;
    wad_capture *c = wad_recording_load(file_of(data, size), &end, diags);
    must_say_why(c != NULL, diags);
    wad_capture_free(c);
}

static void __attribute__((unused)) read_snapshot(const uint8_t *data, size_t size)
{
    char *note = NULL, *why = NULL;
    wad_snapshot *s = wad_snapshot_read(chip(), file_of(data, size), &note, &why);
    if (!s && !why)
        abort();
    if (s)
        wad_snapshot_compare(s, s, true, nowhere());
    wad_snapshot_free(s);
    g_free(note);
    g_free(why);
}

static void __attribute__((unused)) read_trace(const uint8_t *data, size_t size)
{
    wad_traces_compared r;
    char *why = NULL;
    const char *path = file_of(data, size);
    if (!wad_trace_compare(chip(), path, path, &r, nowhere(), &why) && !why)
        abort();
    g_free(why);
    wad_diags *diags = wad_diags_new();
    wad_steps *steps = wad_steps_read(chip(), path, NULL, diags);
    if (steps)
        wad_show_steps(steps, nowhere());
    must_say_why(steps != NULL, diags);
    wad_steps_free(steps);
}

static void __attribute__((unused)) read_dump(const uint8_t *data, size_t size)
{
    wad_diags *diags = wad_diags_new();
    wad_dump *d = wad_dump_read(chip(), file_of(data, size), diags);
    must_say_why(d != NULL, diags);
    for (unsigned i = 0; d && i < wad_dump_count(d); i++)
        wad_show_word_line(wad_dump_word(d, i), nowhere());
    wad_dump_free(d);
}

static void __attribute__((unused)) read_collected(const uint8_t *data, size_t size)
{
    wad_collect *c = wad_collect_new();
    wad_collect_feed(c, data, size, 1);
    wad_collect_end(c);
    if (!wad_collect_passed(c) && !wad_collect_trouble(c, 0) && !wad_collect_count(c))
        abort();
    wad_collect_free(c);
}

/* ---- packets ---- */

static uint8_t memory[256];

static unsigned get(void *ctx, unsigned number, uint8_t *bytes, unsigned *size)
{
    (void)ctx;
    memset(bytes, (int)number, 4);
    return *size = 4;
}
static bool set(void *ctx, unsigned number, const uint8_t *bytes)
{
    (void)ctx;
    (void)bytes;
    return number < 17;
}
static bool fetch(void *ctx, uint64_t address, uint8_t *bytes, size_t n)
{
    (void)ctx;
    if (address >= sizeof memory || n > sizeof memory - address)
        return false;
    memcpy(bytes, memory + address, n);
    return true;
}
static bool put(void *ctx, uint64_t address, const uint8_t *bytes, size_t n)
{
    (void)ctx;
    if (address >= sizeof memory || n > sizeof memory - address)
        return false;
    memcpy(memory + address, bytes, n);
    return true;
}
static bool point(void *ctx, wad_remote_point kind, uint64_t address, unsigned bytes, bool on)
{
    (void)ctx;
    (void)address;
    (void)bytes;
    return on && kind == WAD_REMOTE_BREAK;
}
static void halt(void *ctx)
{
    (void)ctx;
}
static void go(void *ctx, bool step)
{
    (void)ctx;
    (void)step;
}
static void jump(void *ctx, uint64_t address)
{
    (void)ctx;
    (void)address;
}
static char *monitor(void *ctx, const char *command)
{
    (void)ctx;
    return strlen(command) % 2 ? g_strdup(command) : NULL;
}
static void out(void *ctx, const void *data, size_t n)
{
    (void)ctx;
    (void)data;
    (void)n;
}

static void __attribute__((unused)) read_server(const uint8_t *data, size_t size)
{
    static const wad_server_target target = {.get = get,
                                             .set = set,
                                             .read = fetch,
                                             .write = put,
                                             .point = point,
                                             .halt = halt,
                                             .go = go,
                                             .jump = jump,
                                             .monitor = monitor,
                                             .description = "<target/>",
                                             .n_registers = 17};
    char *why = NULL;
    wad_server *s = wad_server_new(NULL, &target, &why);
    wad_server_feed(s, data, size, out, NULL);
    wad_server_stopped(s, 5);
    wad_server_feed(s, data, size, out, NULL);
    wad_server_free(s);
    g_free(why);
}

/* What a server answers, to the client: all of it is there when it asks. */
static void __attribute__((unused)) read_client(const uint8_t *data, size_t size)
{
    int fds[2];
    char *why = NULL, *text = NULL;
    unsigned n;
    uint64_t value;
    uint8_t bytes[64];
    if (size > 60000 || pipe(fds))
        return;
    if (write(fds[1], data, size) != (ssize_t)size)
        abort();
    close(fds[1]);
    wad_remote *r = g_new0(wad_remote, 1);
    r->options = (wad_remote_options){.timeout_ms = 1, .tries = 2};
    r->where = g_strdup("| false");
    r->wire = (wadi_connection){fds[0], open("/dev/null", O_WRONLY), 0};
    r->packet_max = 400;
    r->no_acks = size && data[0] & 1;
    wadi_unpacker_init(&r->in);
    r->points = g_array_new(FALSE, FALSE, 24);
    bool good = wad_remote_read(r, 0x20000000, bytes, sizeof bytes, &why);
    if (!good && !why)
        abort();
    g_clear_pointer(&why, g_free);
    if (r->wire.in >= 0 && !wad_remote_registers(r, &n, &why) && !why)
        abort();
    g_clear_pointer(&why, g_free);
    if (r->wire.in >= 0)
        (void)wad_remote_get_register(r, "pc", &value, &why);
    g_clear_pointer(&why, g_free);
    if (r->wire.in >= 0)
        (void)wad_remote_monitor(r, "help", &text, &why);
    g_free(text);
    g_free(why);
    wad_remote_close(r, false);
}

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size)
{
    uint8_t *copy = malloc(size + 1); /* of its own size, so that a byte too many is seen */
    memcpy(copy, size ? data : (const uint8_t *)"", size);
    copy = realloc(copy, size ? size : 1);
    READER(copy, size);
    free(copy);
    return 0;
}
