/* SPDX-License-Identifier: MIT */
/* The stand-in board: a chip in step with real time, and the server in front of it. */
#include "wadium/host/standin.h"

#include <string.h>

#include "core.h"
#include "describe.h"
#include "memory.h"
#include "pin_stream.h"
#include "sim/core/cpu.h"
#include "sim/core/master.h"
#include "sim/core/sim.h"
#include "sim/core/stop.h"

#define STEP      (WAD_PS_PER_S / 1000)
#define BEHIND_US 50000 /* a host that falls further behind does not make up for it */
#define WATCHES   8

typedef struct standin {
    const wad_standin_options *o;
    wad_bench *bench;
    wad_sim *sim;
    wad_server *server;
    wad_server_target target;
    wadi_core *core; /* NULL: firmware for the simulated chip, which goes from access to access */
    wadi_stream *stream;
    wad_event step;
    gint64 anchor_us;   /* real time at ... */
    uint64_t anchor_ps; /* ... this one of the chip's */
    unsigned since_flush;
    bool halted, stepping, reset_asked, over;
    struct {
        wad_remote_point kind;
        uint64_t address;
        unsigned bytes;
    } watches[WATCHES]; /* of a chip without a core; kind WAD_REMOTE_BREAK: free */
    int hit;
    char *why;
} standin;

/* ---- time ---- */

static void anchor(standin *b)
{
    b->anchor_us = g_get_monotonic_time();
    b->anchor_ps = wad_sim_now(b->sim);
}

/* Microseconds that the chip is ahead of real time; below 0: behind. */
static gint64 ahead_us(const standin *b)
{
    double chip = (double)(wad_sim_now(b->sim) - b->anchor_ps) / 1e6 / b->o->pace;
    return (gint64)chip - (g_get_monotonic_time() - b->anchor_us);
}

static bool halted(const standin *b)
{
    return b->core ? wadi_core_halted(b->core) : b->halted || b->sim->run.stands;
}

static void ask_look(standin *b)
{
    if (b->core)
        wadi_core_ask_look(b->core);
    wad_sim_ask_look(b->sim);
}

static void on_step(wad_event *e)
{
    standin *b = (standin *)((char *)e - offsetof(standin, step));
    if (b->o->over && b->o->over(b->o->ctx))
        b->over = true;
    if (b->over) {
        wad_sim_stop(b->sim);
        return;
    }
    if (b->o->pace > 0 && !halted(b)) {
        gint64 us = ahead_us(b);
        if (us > 0)
            g_usleep((gulong)us);
        else if (us < -BEHIND_US)
            anchor(b);
    }
    if (b->stream && ++b->since_flush == 20) {
        b->since_flush = 0;
        if (!b->why && !wadi_stream_flush(b->stream, &b->why))
            b->over = true; /* the board ends, and says why */
    }
    wad_sim_schedule(b->sim, &b->step, e->ps + STEP);
    ask_look(b);
}

static void on_begin(wad_sim *sim, void *ctx)
{
    standin *b = ctx;
    if (b->why) {
        wad_sim_stop(sim);
        return;
    }
    anchor(b);
    wad_sim_schedule(sim, &b->step, STEP);
    if (b->o->ready)
        b->o->ready(b->o->ctx, wad_server_port(b->server));
}

/* While the core is halted the rest of the board lives on. */
static void let_pass(standin *b)
{
    gint64 us = b->o->pace > 0 ? -ahead_us(b) : 1000;
    if (us > BEHIND_US) {
        anchor(b);
        us = 1000;
    }
    if (us > 0)
        wad_sim_let_pass(b->sim, (uint64_t)((double)us * 1e6 * (b->o->pace > 0 ? b->o->pace : 1)));
}

/* ---- looks ---- */

static void tell_stop(standin *b)
{
    bool watch;
    wad_remote_point kind;
    uint64_t address;
    unsigned why = b->core ? wadi_core_why(b->core, &watch, &kind, &address) : 0;
    if (why && watch)
        wad_server_stopped_at(b->server, kind, address);
    else if (why)
        wad_server_stopped(b->server, why);
}

static void reset_chip(standin *b)
{
    b->reset_asked = false;
    if (b->core)
        wadi_core_reset(b->core);
    wadi_run_again(b->sim);
}

/* Between two instructions, or two accesses. */
static void look_core(void *ctx)
{
    standin *b = ctx;
    tell_stop(b);
    wadi_core_debugged(b->core, wad_server_connected(b->server));
    wad_server_poll(b->server, halted(b) ? 1 : 0);
    if (b->reset_asked)
        reset_chip(b);
    if (halted(b))
        let_pass(b);
}

static void look_native(void *ctx)
{
    standin *b = ctx;
    if (b->stepping || b->hit >= 0) {
        bool at_watch = b->hit >= 0;
        int hit = b->hit;
        b->halted = true;
        b->stepping = false;
        b->hit = -1;
        if (at_watch)
            wad_server_stopped_at(b->server, b->watches[hit].kind, b->watches[hit].address);
        else
            wad_server_stopped(b->server, 5);
    }
    do {
        wad_server_poll(b->server, halted(b) ? 1 : 0);
        if (b->reset_asked)
            reset_chip(b);
        if (halted(b))
            let_pass(b);
    } while (halted(b) && !b->over);
    if (b->stepping)
        wad_sim_ask_look(b->sim);
}

/* ---- what the server asks ---- */

static void target_halt(void *ctx)
{
    standin *b = ctx;
    if (b->core)
        wadi_core_halt(b->core);
    b->halted = true;
}

static void target_go(void *ctx, bool step)
{
    standin *b = ctx;
    anchor(b);
    if (b->core)
        wadi_core_go(b->core, step);
    b->halted = false;
    b->stepping = step;
}

static unsigned target_get(void *ctx, unsigned number, uint8_t *bytes, unsigned *size)
{
    standin *b = ctx;
    if (!b->core)
        return wadi_native_register(b->sim, number, bytes, size);
    uint32_t value = wadi_core_register(b->core, number);
    *size = 4;
    memcpy(bytes, &value, 4);
    return 4;
}

static bool target_set(void *ctx, unsigned number, const uint8_t *bytes)
{
    standin *b = ctx;
    uint32_t value;
    memcpy(&value, bytes, 4);
    if (b->core)
        wadi_core_set_register(b->core, number, value);
    return b->core != NULL;
}

static void target_jump(void *ctx, uint64_t address)
{
    standin *b = ctx;
    if (b->core)
        wadi_core_set_register(b->core, THUMB_PC, (uint32_t)address);
}

/* The firmware's own bytes, its code included, lie where they lie in this process. */
static uint8_t *native_memory(standin *b, uint64_t address, size_t n, bool write)
{
    const wadi_firmware *fw = &b->sim->host.fw;
    if (!write && fw->path && address >= fw->start && address < fw->end && n <= fw->end - address)
        return (uint8_t *)(uintptr_t)address;
    return wadi_master_memory(b->sim, address, n, write);
}

static bool target_read(void *ctx, uint64_t address, uint8_t *bytes, size_t n)
{
    standin *b = ctx;
    if (b->core)
        return wadi_core_read(b->core, address, bytes, n);
    return wadi_debug_read(b->sim, native_memory(b, address, n, false), address, bytes, n);
}

static bool target_write(void *ctx, uint64_t address, const uint8_t *bytes, size_t n)
{
    standin *b = ctx;
    if (b->core)
        return wadi_core_write(b->core, address, bytes, n);
    return wadi_debug_write(b->sim, native_memory(b, address, n, true), address, bytes, n);
}

static bool target_point(void *ctx, wad_remote_point kind, uint64_t address, unsigned bytes,
                         bool on)
{
    standin *b = ctx;
    if (b->core)
        return wadi_core_point(b->core, kind, address, bytes, on);
    for (unsigned i = 0; kind >= WAD_REMOTE_WRITES && i < WATCHES; i++) {
        bool same = b->watches[i].kind == kind && b->watches[i].address == address;
        if (on ? b->watches[i].kind == WAD_REMOTE_BREAK || same : same) {
            b->watches[i].kind = on ? kind : WAD_REMOTE_BREAK;
            b->watches[i].address = address;
            b->watches[i].bytes = bytes;
            return true;
        }
    }
    return false;
}

static void on_access(void *ctx, const wad_access_record *r)
{
    standin *b = ctx;
    uint64_t at = r->block->base + r->reg->offset + (uint64_t)r->reg_index * r->reg->step;
    for (unsigned i = 0; i < WATCHES; i++) {
        wad_remote_point kind = b->watches[i].kind;
        if (kind == WAD_REMOTE_BREAK || at >= b->watches[i].address + b->watches[i].bytes ||
            b->watches[i].address >= at + r->bytes ||
            (kind != WAD_REMOTE_ACCESSES && (kind == WAD_REMOTE_WRITES) != r->write))
            continue;
        b->hit = (int)i;
        ask_look(b);
    }
}

static char *target_monitor(void *ctx, const char *command)
{
    standin *b = ctx;
    if (!strcmp(command, "reset")) {
        b->reset_asked = true;
        return g_strdup("the chip begins anew\n");
    }
    if (!strcmp(command, "time"))
        return g_strdup_printf("%.9f s\n", (double)wad_sim_now(b->sim) / 1e12);
    if (!strcmp(command, "chip"))
        return g_strdup_printf("%s, sheet %s\n", b->sim->sheet->name, b->sim->sheet->hash);
    if (!strcmp(command, "help"))
        return g_strdup("reset   the chip begins anew, and stays halted\n"
                        "time    of the board since it was switched on\n"
                        "chip    that it has\n");
    return NULL;
}

static const wad_server_target functions = {.get = target_get,
                                            .set = target_set,
                                            .read = target_read,
                                            .write = target_write,
                                            .point = target_point,
                                            .halt = target_halt,
                                            .go = target_go,
                                            .jump = target_jump,
                                            .monitor = target_monitor};

/* ---- life ---- */

/* A chip without a program: it waits for one, or for accesses from outside. */
static int nothing(void)
{
    wadi_cpu_idle(wadi_current);
    return 0;
}

static void prepare_core(standin *b)
{
    bool native = b->o->firmware && g_str_has_suffix(b->o->firmware, ".wfw");
    if (native) {
        wad_sim_load(b->sim, b->o->firmware, &b->why);
    } else if (b->o->firmware || !strcmp(b->sim->sheet->cpu.isa, "armv6m")) {
        b->core = wadi_core_new(b->sim, &b->why);
        if (b->core && b->o->firmware)
            wadi_core_load(b->core, b->o->firmware, &b->why);
    } else
        wad_sim_attach(b->sim, nothing, NULL, 0);
    if (b->core)
        wadi_core_on_look(b->core, look_core, b);
    else {
        wad_sim_on_look(b->sim, look_native, b);
        wad_sim_watch_access(b->sim, on_access, b);
    }
}

static void prepare(wad_sim *sim, void *ctx)
{
    standin *b = ctx;
    b->sim = sim;
    wad_sim_set_host_limit(sim, 1000000); /* a halted core is no firmware that hangs */
    sim->run.outlives = true;
    prepare_core(b);
    b->target = functions;
    b->target.ctx = b;
    b->target.description = b->core ? wadi_describe_arm : wadi_describe_native;
    b->target.n_registers = b->core ? WADI_ARM_REGISTERS : WADI_NATIVE_REGISTERS;
    if (!b->why)
        b->server = wad_server_new(b->o->listen, &b->target, &b->why);
    if (!b->why && b->o->vcd)
        b->stream = wadi_stream_new(b->o->vcd, b->bench, sim, &b->why);
    b->step.fn = on_step;
    if (b->why)
        wad_sim_attach(sim, nothing, NULL, 0); /* to its end at once */
    wad_sim_at(sim, 0, on_begin, b);
}

bool wad_standin_run(wad_bench *bench, const wad_standin_options *options, char **why)
{
    standin b = {.o = options, .bench = bench, .hit = -1};
    const wad_bench_options o = {.prepare = prepare, .ctx = &b, .bridge = options->bridge};
    *why = NULL;
    wad_bench_result *r = wad_bench_run(bench, &o, why);
    if (r && r->run.end != WAD_RUN_TIME && !b.why)
        b.why = g_strdup(r->run.story);
    char *lost = NULL;
    if (!wadi_stream_free(b.stream, r ? r->run.end_ps : 0, &lost) && !b.why)
        b.why = g_steal_pointer(&lost);
    g_free(lost);
    if (!*why)
        *why = b.why;
    else
        g_free(b.why);
    wad_server_free(b.server);
    wad_bench_result_free(r);
    wadi_core_free(b.core);
    return *why == NULL;
}
