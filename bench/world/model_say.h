/* SPDX-License-Identifier: MIT */
#ifndef WADI_MODEL_SAY_H
#define WADI_MODEL_SAY_H

#include "bench/language/bench.h"
#include "wadium/host/board.h"

/** Models that the board names are the bench's, unless it has its own. The first that is none, and
 * `why` (g_free); NULL: all are. */
const wad_model_file *wadi_models_of_board(wad_bench *bench, char **why);

#endif
