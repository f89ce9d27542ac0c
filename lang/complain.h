/* SPDX-License-Identifier: MIT */
/* Messages about places of a text, and the texts themselves. */
#ifndef WADI_COMPLAIN_H
#define WADI_COMPLAIN_H

#include "statement.h"

/** A file's text (g_free); NULL: `diags` says why `what` cannot be read. */
char *wadi_read_file(const char *path, const char *what, size_t *size, wad_diags *diags);

/** An error at a place of `src`, with its line quoted. */
void wadi_error(const wadi_source *src, const wad_where *where, const char *format, ...)
    __attribute__((format(printf, 3, 4)));

void wadi_warn(const wadi_source *src, const wad_where *where, const char *format, ...)
    __attribute__((format(printf, 3, 4)));

/** What was read as it was meant, and is better written otherwise. */
void wadi_note(const wadi_source *src, const wad_where *where, const char *format, ...)
    __attribute__((format(printf, 3, 4)));

#endif
