/* SPDX-License-Identifier: MIT */
/*
 * The other end of the GDB remote serial protocol: something that a debugger, or wad_remote, can
 * connect to. What stands behind is a table of functions.
 *
 *     wad_server *s = wad_server_new("127.0.0.1:3333", &target, &why);
 *     while (...)
 *         wad_server_poll(s, 10);              answers what came, waits at most 10 ms
 *
 * One caller at a time; the core halts when somebody calls, and goes on when he leaves.
 */
#ifndef WADIUM_HOST_REMOTE_SERVER_H
#define WADIUM_HOST_REMOTE_SERVER_H

#include "remote.h"

/** How long a register's value may be. */
#define WAD_SERVER_REGISTER_MAX 16

typedef struct wad_server_target {
    const char *description; /**< target.xml */
    const char *memory_map;  /**< memory-map.xml, or NULL */
    unsigned n_registers;    /**< in the description's order */
    /** Bytes of a register, little-endian, or 0: it has no value now (`size` is set all the same).
     */
    unsigned (*get)(void *ctx, unsigned number, uint8_t *bytes, unsigned *size);
    bool (*set)(void *ctx, unsigned number, const uint8_t *bytes);
    bool (*read)(void *ctx, uint64_t address, uint8_t *bytes, size_t n);
    bool (*write)(void *ctx, uint64_t address, const uint8_t *bytes, size_t n);
    /** False: there is none of that kind. */
    bool (*point)(void *ctx, wad_remote_point kind, uint64_t address, unsigned bytes, bool on);
    void (*halt)(void *ctx);
    void (*go)(void *ctx, bool step);
    void (*jump)(void *ctx, uint64_t address);
    /** The answer to a command of the user (g_free), NULL: no such command. */
    char *(*monitor)(void *ctx, const char *command);
    void *ctx;
} wad_server_target;

typedef struct wad_server wad_server;

/** `listen` is HOST:PORT, or PORT of the loopback; port 0: any. NULL: nothing listens, callers are
 * fed by hand. The target must outlive it. */
wad_server *wad_server_new(const char *listen, const wad_server_target *target, char **why);
void wad_server_free(wad_server *s);
unsigned wad_server_port(const wad_server *s);

/** Takes a caller, answers what he sent; waits at most so long for something to do. */
void wad_server_poll(wad_server *s, unsigned wait_ms);
bool wad_server_connected(const wad_server *s);
/** The core has stopped by itself; `watched`: at the address of a watchpoint of `kind`. */
void wad_server_stopped(wad_server *s, unsigned signal);
void wad_server_stopped_at(wad_server *s, wad_remote_point kind, uint64_t address);

/** Bytes of a caller by hand, as from a socket; the answer's bytes are handed to `out`. */
void wad_server_feed(wad_server *s, const void *data, size_t n,
                     void (*out)(void *ctx, const void *data, size_t n), void *ctx);

#endif
