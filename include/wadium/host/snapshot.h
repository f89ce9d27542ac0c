/* SPDX-License-Identifier: MIT */
/*
 * A chip's registers at one time, from the simulator or from a board, kept as JSON, and compared
 * field by field.
 *
 *     wad_snapshot *s = wad_snapshot_new(sheet, "the simulator at 50 ms");
 *     wad_sim_snapshot(sim, s);
 *     wad_snapshot_write(s, out);
 *     ...
 *     wad_compared c = wad_snapshot_compare(s, board, false, stdout);
 *     if (c.different) ...
 *
 * What the chip changes by itself (status, flags, counters: `volatile` in the sheet) is expected to
 * differ, and is counted apart.
 */
#ifndef WADIUM_HOST_SNAPSHOT_H
#define WADIUM_HOST_SNAPSHOT_H

#include "words.h"

typedef struct wad_snapshot wad_snapshot;

/** `source` says where it is from and when, in a few words. */
wad_snapshot *wad_snapshot_new(const wad_sheet *sheet, const char *source);
void wad_snapshot_free(wad_snapshot *s);
const char *wad_snapshot_source(const wad_snapshot *s);
/** A register's value. */
void wad_snapshot_put(wad_snapshot *s, const wad_fieldref *reg, uint32_t value);
/** A register that was not read, and why. */
void wad_snapshot_leave_out(wad_snapshot *s, const wad_fieldref *reg, const char *why);
unsigned wad_snapshot_count(const wad_snapshot *s);
const wad_word *wad_snapshot_word(const wad_snapshot *s, unsigned i);
/** The i-th register that was left out, NULL past the last, and why. */
const wad_fieldref *wad_snapshot_left_out(const wad_snapshot *s, unsigned i, const char **why);

void wad_snapshot_write(const wad_snapshot *s, FILE *out);
/** NULL: `why` (g_free). One of another version of the sheet is taken, and says so in `note`
 * (g_free, may be NULL). */
wad_snapshot *wad_snapshot_read(const wad_sheet *sheet, const char *path, char **note, char **why);
/** The chip that a snapshot's file is of (g_free), so that its sheet can be found. NULL: `why`. */
char *wad_snapshot_chip(const char *path, char **why);

typedef struct wad_compared {
    unsigned different; /**< fields that should be the same */
    unsigned expected;  /**< fields that the chip changes by itself */
    unsigned compared;  /**< registers */
    unsigned apart;     /**< registers that only one of them has */
} wad_compared;
/** Lists what differs; with `all` also what was expected to. */
wad_compared wad_snapshot_compare(const wad_snapshot *a, const wad_snapshot *b, bool all,
                                  FILE *out);

#endif
