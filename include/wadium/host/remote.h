/* SPDX-License-Identifier: MIT */
/*
 * A live target over the GDB remote serial protocol, which servers of debug probes speak: its
 * memory, registers of its core, halt and go.
 *
 *     char *why = NULL;
 *     wad_remote *r = wad_remote_open("127.0.0.1:3333", NULL, &why);
 *     uint32_t word;
 *     if (r && wad_remote_get(r, 0x40001000, 4, &word, &why))
 *         printf("0x%08x\n", word);
 *     if (why)
 *         fprintf(stderr, "%s\n", why);                    g_free
 *     wad_remote_close(r, true);                           the core goes on
 *
 * Servers halt the core when somebody connects. All functions block until the answer is there or
 * the time is over, and give `why` (g_free) where they fail. One thread at a time.
 */
#ifndef WADIUM_HOST_REMOTE_H
#define WADIUM_HOST_REMOTE_H

#include <stdbool.h>
#include <stddef.h>
#include <stdint.h>
#include <stdio.h>

typedef struct wad_remote wad_remote;

typedef struct wad_remote_options {
    unsigned timeout_ms; /**< for an answer; 0: 5000 */
    unsigned tries;      /**< of a packet that arrived damaged; 0: 3 */
    bool acks;           /**< keep acknowledgements, for lines that lose bytes; else they are
                              given up where the server agrees */
    FILE *log;           /**< packets as they come and go; NULL: none */
} wad_remote_options;

/** The target's words begin with their high byte; wad_remote_open says no. */
void wad_remote_big_endian(wad_remote *r, bool big);
/** `where` is HOST:PORT, :PORT (this machine), or `| COMMAND`, a server on a pipe. NULL: `why`. */
wad_remote *wad_remote_open(const char *where, const wad_remote_options *options, char **why);
/** Ends the connection; `go`: the core runs on, else it is left as it is. NULL is fine. */
void wad_remote_close(wad_remote *r, bool go);
/** How often the connection was lost and made anew: state the server kept may be gone. */
unsigned wad_remote_reconnects(const wad_remote *r);

/* ---- memory and registers of blocks, while the core is halted ---- */

/** `bytes` of memory, in as many packets as it takes. */
bool wad_remote_read(wad_remote *r, uint64_t address, void *to, size_t bytes, char **why);
bool wad_remote_write(wad_remote *r, uint64_t address, const void *from, size_t bytes, char **why);
/** One access of 1, 2 or 4 bytes, little-endian: what a probe carries out in that width. A read
 * that got no answer is asked again (over a new connection where the old one is lost); a write
 * never is. */
bool wad_remote_get(wad_remote *r, uint64_t address, unsigned bytes, uint32_t *value, char **why);
bool wad_remote_put(wad_remote *r, uint64_t address, unsigned bytes, uint32_t value, char **why);
/** The same without waiting for the answer: up to 32 are under way, in order; what went wrong is
 * told by the next call that waits. */
bool wad_remote_post(wad_remote *r, uint64_t address, const void *from, size_t bytes, char **why);
/** Waits for what was posted. */
bool wad_remote_settle(wad_remote *r, char **why);

/* ---- the core ---- */

typedef enum wad_remote_end {
    WAD_REMOTE_STOPPED, /**< by a signal: 5 a breakpoint or a step, 2 asked to, 11 a fault */
    WAD_REMOTE_EXITED,  /**< the program is over; `code` */
    WAD_REMOTE_RUNNING  /**< still, when the time was over */
} wad_remote_end;

typedef struct wad_remote_stop {
    wad_remote_end end;
    unsigned code;    /**< signal, or exit status */
    bool watch;       /**< by a watchpoint, at ... */
    uint64_t address; /**< ... this one */
} wad_remote_stop;

/** How it stands: what the server said last. */
wad_remote_stop wad_remote_state(const wad_remote *r);
bool wad_remote_go(wad_remote *r, char **why);
bool wad_remote_step(wad_remote *r, wad_remote_stop *stop, char **why);
bool wad_remote_halt(wad_remote *r, wad_remote_stop *stop, char **why);
/** Until the core stops, `timeout_ms` at the most. */
bool wad_remote_wait(wad_remote *r, unsigned timeout_ms, wad_remote_stop *stop, char **why);

typedef enum wad_remote_point {
    WAD_REMOTE_BREAK = 0,  /**< in memory */
    WAD_REMOTE_HARD = 1,   /**< by the core's comparators: code in flash */
    WAD_REMOTE_WRITES = 2, /**< of data */
    WAD_REMOTE_READS = 3,
    WAD_REMOTE_ACCESSES = 4
} wad_remote_point;
/** False as well where the server has none of that kind. */
bool wad_remote_set_point(wad_remote *r, wad_remote_point kind, uint64_t address, unsigned bytes,
                          bool on, char **why);

/** A register of the core, as the server describes it. */
typedef struct wad_remote_register {
    const char *name;
    unsigned number, bits;
} wad_remote_register;
const wad_remote_register *wad_remote_registers(wad_remote *r, unsigned *n, char **why);
/** By name: "pc", "sp", "r0". False as well where it has no value now. */
bool wad_remote_get_register(wad_remote *r, const char *name, uint64_t *value, char **why);
bool wad_remote_set_register(wad_remote *r, const char *name, uint64_t value, char **why);

/** A command of the server itself ("reset"); its answer in `text` (g_free). */
bool wad_remote_monitor(wad_remote *r, const char *command, char **text, char **why);

#endif
