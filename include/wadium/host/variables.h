/* SPDX-License-Identifier: MIT */
/*
 * The firmware's variables by name, from its debugging information.
 *
 *     wad_variable v;
 *     char *why;
 *     if (!wad_variable_find(sim, "samples[3].raw", &v, &why))
 *         fprintf(stderr, "%s\n", why);
 *     char *text = wad_variable_text(&v, 60);      "2047", "{head 3, tail 1}", "[64] 1 2 3 ..."
 *
 * They live in the loaded firmware: while a run goes on, and between runs until wad_sim_unload.
 * Reading one costs the simulated chip nothing.
 */
#ifndef WADIUM_HOST_VARIABLES_H
#define WADIUM_HOST_VARIABLES_H

#include "sim.h"

/** A variable, or a part of one. */
typedef struct wad_variable {
    const char *name; /**< as found: "gauge", "samples[3].raw", or "main.count" for a static inside
                         of a function; lives as long as the loaded firmware */
    const char *file; /**< where it is defined */
    unsigned line;
    const void *address;
    size_t bytes;
    wad_sim *sim; /* private, as all below */
    const void *type;
    void *unit;
    unsigned bit, bits; /* of a bit field, else 0 */
} wad_variable;

/** The firmware's own that may change: not the library's, no constants. By file and line. */
unsigned wad_variable_count(wad_sim *sim);
wad_variable wad_variable_at(wad_sim *sim, unsigned i);

/** By name, with `.member` and `[element]`; constants too, and `file.c:name` where several files
 * have one. False: `why` (g_free) says what there is instead. */
bool wad_variable_find(wad_sim *sim, const char *path, wad_variable *variable, char **why);

/** The same of an image for a target elsewhere: `address` is the target's, and whoever has its
 * bytes puts theirs there. NULL: `why` (g_free). */
typedef struct wadi_variables wad_variables;
wad_variables *wad_variables_open(const char *elf, char **why);
void wad_variables_close(wad_variables *variables);
bool wad_variables_find(wad_variables *variables, const char *path, wad_variable *variable,
                        char **why);

/** Its value now, in about `width` characters; g_free. */
char *wad_variable_text(const wad_variable *variable, unsigned width);

/** The numbers of a buffer (an array of numbers), the first `room` of them; how many it has, 0: it
 * is none. */
unsigned wad_variable_numbers(const wad_variable *variable, double *numbers, unsigned room);

#endif
