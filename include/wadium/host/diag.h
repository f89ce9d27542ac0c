/* SPDX-License-Identifier: MIT */
/*
 * Messages about a text that Wadium read: a sheet, a board, a bench, a VCD.
 *
 *     wad_diags *d = wad_diags_new();
 *     wad_sheet *s = wad_sheet_read("corran32.sheet", d);
 *     if (!s)
 *         wad_diags_print(d, stderr);
 *     wad_diags_free(d);
 *
 * Each message names file, line and column, quotes the line, marks the place
 * with a caret and says what was expected. Readers go on after an error, so
 * one run reports several.
 */
#ifndef WADIUM_HOST_DIAG_H
#define WADIUM_HOST_DIAG_H

#include <stdbool.h>
#include <stdint.h>
#include <stdio.h>

/** A place in a text. `line` and `col` count from 1; line 0 means the whole file. */
typedef struct wad_where {
    const char *file; /**< owned by whoever read the text */
    uint32_t line;
    uint32_t col;
} wad_where;

typedef enum wad_severity { WAD_NOTE, WAD_WARNING, WAD_ERROR } wad_severity;

typedef struct wad_diag {
    wad_severity severity;
    const char *file;
    uint32_t line;
    uint32_t col;
    const char *text;   /**< the message, one line */
    const char *quoted; /**< the line of the source, or NULL */
} wad_diag;

typedef struct wad_diags wad_diags;

wad_diags *wad_diags_new(void);
void wad_diags_free(wad_diags *diags);

/** Adds a message; `quoted` is copied and may be NULL. At most 50 are kept, all are counted. */
void wad_diags_add(wad_diags *diags, wad_severity severity, const wad_where *where,
                   const char *quoted, const char *format, ...)
    __attribute__((format(printf, 5, 6)));

/** How many errors (warnings and notes apart) were added. */
unsigned wad_diags_errors(const wad_diags *diags);
unsigned wad_diags_warnings(const wad_diags *diags);

/** How many messages are kept, and the i-th of them. */
unsigned wad_diags_count(const wad_diags *diags);
const wad_diag *wad_diags_at(const wad_diags *diags, unsigned i);

/** Prints all messages with their quoted lines and carets. */
void wad_diags_print(const wad_diags *diags, FILE *out);

#endif
