/* SPDX-License-Identifier: MIT */
/* Random C programs whose results every compiler and core must agree on. */
#ifndef TEST_PROGRAMS_H
#define TEST_PROGRAMS_H

#include <glib.h>

#define PROGRAM_RESULTS 64u

/** A C file that defines `void program(uint32_t *results)`, the same for the same seed. It leans on
 * nothing that C leaves open: unsigned arithmetic, shifts within the width, no division by 0. */
char *test_program(guint32 seed);

#endif
