/* SPDX-License-Identifier: MIT */
/* ring.c, and nothing is counted. */
#define LEAN
#include "ring.c"
