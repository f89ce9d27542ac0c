/* SPDX-License-Identifier: MIT */
/* What the tests share. */
#ifndef TEST_SUPPORT_H
#define TEST_SUPPORT_H

#include <setjmp.h>
#include <stdarg.h>
#include <stddef.h>
#include <stdint.h>

#include <cmocka.h>
#include <glib.h>

#include "wadium/host/bench.h"

#define FIRMWARE_DIR BUILD_DIR "/firmware"

/** The made-up chip; fails the test when it does not read. */
wad_sheet *test_chip(const char *name);
wad_board *test_board(const char *name);

/** All messages of `diags` as they are printed; g_free. */
char *test_diags_text(const wad_diags *diags);

/** Reads a sheet that is wrong; its messages as printed; g_free. */
char *test_sheet_errors(const char *text);

/** Runs a program with arguments (NULL-terminated); exit status, output and errors (g_free). */
int test_spawn(char **out, char **err, const char *program, ...);
/** The wadium command. */
#define WADIUM(out, err, ...) test_spawn((out), (err), BUILD_DIR "/bin/wadium", __VA_ARGS__, NULL)

/** The line of `file` that holds `mark` after "here"; 0 when there is none. */
unsigned test_marked_line(const char *file, const char *mark);

/** A folder of the test's own, removed by test_remove. */
char *test_folder(void);
void test_remove(char *folder);

/** Runs a firmware of tests/firmware on the board for `ms`; NULL and a failed test on errors. */
wad_bench_result *test_run_prepared(wad_board *board, wad_bench **bench, const char *firmware,
                                    const char *const *statements,
                                    void (*prepare)(wad_sim *sim, void *ctx), void *ctx);
wad_bench_result *test_run(wad_board *board, wad_bench **bench, const char *firmware,
                           const char *const *statements);

/** The bench's expectations were met; else its report, and a failed test. */
void test_passed(const wad_bench_result *result);
/** A run of a firmware on a board, by its name, whose expectations are met. */
void test_must_pass(const char *board, const char *firmware, const char *const *statements);
/** So many findings; others are printed. */
void test_findings(wad_sim *sim, unsigned n);

/** A statement that is wrong, and what must be told of it: one message, with the cure. */
typedef struct test_slip {
    const char *say, *want;
} test_slip;
/** Each on a new bench of the board, after `first` (NULL: nothing) was said. */
void test_slips(const wad_board *board, const char *first, const test_slip *slips, unsigned n);

#endif
