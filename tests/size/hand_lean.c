/* SPDX-License-Identifier: MIT */
/* hand_ring.c, and nothing is counted. */
#define LEAN
#include "hand_ring.c"
