/* SPDX-License-Identifier: MIT */
/* The tide gauge's command line: help, read, write, dump, rate. */
#ifndef COMMANDS_H
#define COMMANDS_H

#include <wadium/print.h>
#include <wadium/status.h>

/** Carries out one line, and answers with `put`. */
void obey(const char *line, wad_put_fn put, void *context);

/** telemetry.c: sentences a second, 1 to 10; else WAD_E_RANGE. */
wad_status set_rate(uint32_t hz);

#endif
