/* SPDX-License-Identifier: MIT */
/* The stand-in board as a process of its own, for tests. */
#ifndef BOARD_SUPPORT_H
#define BOARD_SUPPORT_H

#include "support.h"

#define IMAGE_DIR BUILD_DIR "/images"
#define JUMPERS   SOURCE_DIR "/examples/board-check/jumpers.world"

typedef struct test_standin {
    GPid pid;
    int out;
    char where[40]; /* "127.0.0.1:40123" */
} test_standin;

/** `wadium board` with these arguments (NULL-terminated), on a free port; waits until it is ready.
 */
void test_plug_in_board(test_standin *b, const char *board, ...);
#define test_plug_in(b, ...) test_plug_in_board((b), "skerry", __VA_ARGS__)
/** Ctrl-C; its exit status. */
int test_unplug(test_standin *b);
/** As test_plug_in, and waits for its end: for runs with --for. */
void test_let_run(const char *firmware, const char *vcd, const char *duration, ...);

#endif
