/* SPDX-License-Identifier: MIT */
/*
 * Files that are whole or not there: written beside their place under a name of their own, checked
 * to the last byte, then put in place.
 *
 *     char *why;
 *     wad_output *out = wad_output_open("lamp.csv", &why);
 *     if (out) {
 *         fprintf(wad_output_file(out), "time_s,lamp\n");
 *         ok = wad_output_close(out, &why);
 *     }
 *
 * What is no regular file (a device, a pipe, the standard output by its path) is written straight
 * through; a link is followed, and stays. The file that was there keeps its permissions. All
 * functions block while the system writes.
 */
#ifndef WADIUM_HOST_OUTPUT_H
#define WADIUM_HOST_OUTPUT_H

#include <stdbool.h>
#include <stddef.h>
#include <stdint.h>
#include <stdio.h>

typedef struct wad_output wad_output;

/** Opens an output; `path` NULL: the standard output. NULL: `why` (g_free). */
wad_output *wad_output_open(const char *path, char **why);
/** Where to write. Not to be closed. */
FILE *wad_output_file(wad_output *out);
/** Puts the file in place and frees `out`. False: nothing was written where it should be, what was
 * there before is there still; `why` (g_free) names the file and the reason. */
bool wad_output_close(wad_output *out, char **why);
/** Gives up what was written so far and frees `out`, which may be NULL. */
void wad_output_drop(wad_output *out);
/** All of it at once. False: `why` (g_free). */
bool wad_output_bytes(const char *path, const void *bytes, size_t size, char **why);

/* ---- what is left lying when a process is ended from outside ---- */

/** A folder for passing files, removed by wad_output_remove_folder or wad_output_sweep. NULL: `why`
 * (g_free). The name begins with `prefix`; g_free. */
char *wad_output_folder(const char *prefix, char **why);
void wad_output_remove_folder(const char *folder);
/** Removes files and folders that processes forked since the first call of a function of this page
 * have begun and not ended. To be called by a process that outlives them. */
void wad_output_sweep(void);

#endif
