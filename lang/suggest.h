/* SPDX-License-Identifier: MIT */
/* The name that was perhaps meant. */
#ifndef WADI_SUGGEST_H
#define WADI_SUGGEST_H

#include "arena.h"

/** " (did you mean 'X'?)" for the closest of `n` names, or "". Lives in the arena. */
const char *wadi_suggest(wadi_arena *arena, const char *name, const char *const *names, unsigned n);

#endif
