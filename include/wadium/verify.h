/* SPDX-License-Identifier: MIT */
/*
 * Checks that run on the target and tell what they found over a serial port, as TAP lines that
 * `wadium collect` reads; the same source runs on the simulated chip.
 *
 *     static void put(char c, void *context) { (void)wad_uart_write(&link, &c, 1, 10000); }
 *
 *     wad_verify v;
 *     wad_verify_begin(&v, put, NULL, "Skerry");
 *     wad_verify_note(&v, "wiring: J1 from PC10 to PC11");
 *     wad_verify_status(&v, "serial port opens", wad_uart_open(&second));
 *     wad_verify_equal(&v, "byte over the wire", came, 0x5A);
 *     wad_verify_near(&v, "reference, mV", mv, 3300, 60);
 *     wad_verify_end(&v);
 *
 * A line is `ok 3 - what`, or `not ok 3 - what` and a comment with what was measured against what
 * was wanted. Each ends in ` #` and two digits, the sum of its characters before: the collector
 * takes no line whose sum is another, so noise on the line cannot make a failure pass. No heap, no
 * standard library; all functions block as `put` does, and are for main, not for handlers.
 */
#ifndef WADIUM_VERIFY_H
#define WADIUM_VERIFY_H

#include <stdbool.h>
#include <stddef.h>
#include <stdint.h>

#include "print.h"
#include "status.h"

struct wad_timebase;

/** What a sequence of events was, for wad_verify_order. The caller owns it, and `seen`. */
typedef struct wad_verify_events {
    uint8_t *seen;
    size_t room;
    volatile size_t n; /**< how many there were, also those that found no room */
} wad_verify_events;

/** A run of checks. The caller owns it. */
typedef struct wad_verify {
    unsigned done, failed; /**< read-only */
    wad_put_fn put;        /* private from here */
    void *context;
    uint8_t sum;
} wad_verify;

/** Begins the stream: its version, and whose it is. */
void wad_verify_begin(wad_verify *v, wad_put_fn put, void *context, const char *board);
/** A comment: a wiring list, what comes next. */
void wad_verify_note(wad_verify *v, const char *text);

/* Each says whether it held. */

bool wad_verify_that(wad_verify *v, const char *what, bool holds);
/** WAD_OK, else the status by name. */
bool wad_verify_status(wad_verify *v, const char *what, wad_status status);
bool wad_verify_equal(wad_verify *v, const char *what, uint32_t is, uint32_t wanted);
/** Within `tolerance` to both sides. */
bool wad_verify_near(wad_verify *v, const char *what, int32_t is, int32_t wanted,
                     uint32_t tolerance);
/** low <= is <= high. */
bool wad_verify_range(wad_verify *v, const char *what, int32_t is, int32_t low, int32_t high);
/** Waits until `*flag` is set (by a handler), `us` microseconds at the most. */
bool wad_verify_before(wad_verify *v, const char *what, const volatile bool *flag,
                       const struct wad_timebase *time, uint32_t us);
/** The events that were seen are these, in this order, and no others. */
bool wad_verify_order(wad_verify *v, const char *what, const wad_verify_events *events,
                      const uint8_t *wanted, size_t n);
/** A check that cannot be made here, and why: it counts as passed, and is told. */
void wad_verify_skip(wad_verify *v, const char *what, const char *why);

/** For a handler: keeps an event. Never blocks. */
void wad_verify_saw(wad_verify_events *events, uint8_t event);

/** The plan, and the end: true when all held. */
bool wad_verify_end(wad_verify *v);

#endif
