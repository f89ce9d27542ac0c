/* SPDX-License-Identifier: MIT */
/*
 * A board that is not there: the simulated chip in step with real time, behind the protocol that a
 * debug probe's server speaks. A bench says what is around it and what is wrong with it.
 *
 *     wad_bench *b = wad_bench_new("stand-in", board);
 *     wad_bench_say(b, "cut LINK RX", diags);
 *     wad_bench_say(b, "run 1000000 s", diags);
 *     wad_standin_options o = {.listen = "127.0.0.1:3333", .firmware = "lamp.elf", .pace = 1,
 *                              .ready = say_port, .over = is_interrupted};
 *     if (!wad_standin_run(b, &o, &why)) ...
 *
 * An image for the target's own core (ELF) is executed instruction by instruction: breakpoints,
 * steps and its registers are there. Firmware for the simulated chip (.wfw) halts and steps from
 * one register access to the next. Without either the core waits for a program in its memory.
 */
#ifndef WADIUM_HOST_STANDIN_H
#define WADIUM_HOST_STANDIN_H

#include "bench.h"
#include "remote_server.h"

typedef struct wad_standin_options {
    const char *listen;   /**< HOST:PORT, or PORT of the loopback; port 0: any free one */
    const char *firmware; /**< .elf or .wfw; NULL: none */
    const char *vcd;      /**< the board's pins as they change, written as it goes; NULL: none */
    const wad_bridge *bridge; /**< somebody at a serial line; NULL: none */
    double pace;              /**< the chip's seconds in a real one; 0: as fast as it goes */
    void (*ready)(void *ctx, unsigned port);
    bool (*over)(void *ctx); /**< asked every millisecond: true ends it */
    void *ctx;
} wad_standin_options;

/** Runs until `over` or the bench's end. False: it could not begin; `why` (g_free). */
bool wad_standin_run(wad_bench *bench, const wad_standin_options *options, char **why);

#endif
