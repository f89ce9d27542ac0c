/* SPDX-License-Identifier: MIT */
/*
 * Processes: the command's work is done in a child, and so is each run of firmware, which may take
 * its process down. Who waits cleans up: files that were begun, programs that were started,
 * firmware that would not end. Under a debugger there is one process, so that it sees the firmware.
 *
 *     watcher - command - [waits] - bench 1 and all after it - [waits] - bench 2 ...
 */
#ifndef WADI_CLI_APART_H
#define WADI_CLI_APART_H

#include "wadium/host/bench.h"

/** At the beginning of the program: what follows happens in a child, whose status becomes the
 * watcher's. Returns in the child only. */
void cli_apart_begin(void);

/**
 * Before firmware is loaded: true in a new process that goes on with all the rest of the command,
 * while this one waits and ends with its status. Where that process dies of the firmware, it is
 * false here, as if nothing had been run; `how` (g_free) is "signal 11, Segmentation fault".
 */
bool cli_apart_run(char **how);
/** What it left. */
const wad_last_words *cli_apart_words(void);
/** The terminal shows a screen of ours from now on, or no longer: a process that dies leaves it. */
void cli_apart_screen(bool on);
/** Reports a bench whose process died, and frees `how`; CLI_FAILED. */
int cli_apart_died(wad_bench *bench, const wad_bench_options *options, char *how);

#endif
