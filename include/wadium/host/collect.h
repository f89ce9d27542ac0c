/* SPDX-License-Identifier: MIT */
/*
 * What a board says of its checks (<wadium/verify.h>), taken from its serial line as it comes:
 * noise, half lines, resets in the middle, and what is missing at the end.
 *
 *     wad_collect *c = wad_collect_new();
 *     while (!wad_collect_over(c) && (n = read(fd, bytes, sizeof bytes)) > 0)
 *         wad_collect_feed(c, bytes, n, microseconds);
 *     wad_collect_end(c);
 *     if (!wad_collect_passed(c)) ...
 *
 * Any TAP stream is understood; where its lines carry sums (those of wad_verify do) a line with
 * another sum is not believed.
 */
#ifndef WADIUM_HOST_COLLECT_H
#define WADIUM_HOST_COLLECT_H

#include <stdbool.h>
#include <stddef.h>
#include <stdint.h>
#include <stdio.h>

typedef struct wad_collect wad_collect;

typedef struct wad_collected {
    unsigned number;
    const char *name;
    bool passed, skipped;
    const char *comment; /**< what was measured, or why it was skipped; NULL: nothing */
    uint64_t us;         /**< when it came, by the clock of who fed */
} wad_collected;

wad_collect *wad_collect_new(void);
void wad_collect_free(wad_collect *c);

/** `line` hears each line as it is done, with its time; what it is worth: `heard` 0 a check's or
 * the stream's, 1 a comment, 2 damaged or nobody's. May be NULL. */
typedef void (*wad_collect_fn)(void *ctx, uint64_t us, const char *line, unsigned heard);
void wad_collect_listen(wad_collect *c, wad_collect_fn line, void *ctx);

void wad_collect_feed(wad_collect *c, const void *bytes, size_t n, uint64_t us);
/** The plan has come, and as many checks as it says. */
bool wad_collect_over(const wad_collect *c);
/** Nothing more will come: what is missing is known from here on. */
void wad_collect_end(wad_collect *c);

/** The board as it names itself; NULL: it did not. */
const char *wad_collect_board(const wad_collect *c);
unsigned wad_collect_count(const wad_collect *c);
const wad_collected *wad_collect_at(const wad_collect *c, unsigned i);
/** What is wrong with the stream itself, one sentence each, NULL past the last: checks that are
 * missing, lines that were damaged, the board began anew, no plan. */
const char *wad_collect_trouble(const wad_collect *c, unsigned i);
/** Every check of the plan has come and passed, and the stream is whole: damaged lines do not
 * matter where nothing is missing; a board that began anew does. */
bool wad_collect_passed(const wad_collect *c);

void wad_collect_text(const wad_collect *c, FILE *out);
void wad_collect_junit(const wad_collect *c, const char *name, FILE *out);

#endif
