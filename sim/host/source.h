/* SPDX-License-Identifier: MIT */
/* Source lines of the firmware, from its debug information. */
#ifndef WADI_SOURCE_H
#define WADI_SOURCE_H

#include "sim/core/trace.h"
#include "wadium/host/sim.h"

struct Dwarf;
typedef struct wadi_debug_info wadi_debug_info;

void wadi_source_free(wadi_debug_info *source);

/** The user's own line first; at most `room` places. */
unsigned wadi_source_places(wad_sim *sim, const wadi_trace *trace, wad_place *places,
                            unsigned room);

/** The firmware's debug information, NULL without. */
struct Dwarf *wadi_source_dwarf(wad_sim *sim);

/** Drivers, headers and ports of the library itself. */
bool wadi_source_is_library(const char *file);

/** The line of a place and those before it, at most `room`, the line itself first; g_free each. */
unsigned wadi_source_before(wad_sim *sim, const wadi_trace *trace, char **lines, unsigned room);

/** The first line behind it that is not empty, NULL without. */
char *wadi_source_after(wad_sim *sim, const wadi_trace *trace);

/** Does a place, or one of the two lines behind it, shift or divide? */
bool wadi_source_line_shifts(wad_sim *sim, const wadi_trace *trace);

/** The name of the variable at an address, "buffer+4", or the address; g_free. */
char *wadi_source_variable(wad_sim *sim, uintptr_t address);

/** True when both addresses come from one source line (inlined calls counted at their caller). */
bool wadi_source_same_line(wad_sim *sim, uintptr_t a, uintptr_t b);

/** True when one statement holds both: the innermost function that they share has them on one line.
 * `unbranched`: and no branch lies between, as far as the compiler has told. */
bool wadi_source_one_statement(wad_sim *sim, uintptr_t a, uintptr_t b, bool unbranched);

#endif
