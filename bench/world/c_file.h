/* SPDX-License-Identifier: MIT */
/* C files that a bench names: compiled, and loaded for as long as the bench lives. */
#ifndef WADI_C_FILE_H
#define WADI_C_FILE_H

#include "bench/language/bench.h"

/** The function `symbol` of the file, which the macro `macro` at its end makes. NULL: `why`
 * (g_free), the compiler's words for instance. */
void *wadi_c_file_load(wad_bench *bench, const char *path, const char *symbol, const char *macro,
                       char **why);

#endif
