/* SPDX-License-Identifier: MIT */
/* `on EVENT when CONDITION { FIELD = EXPRESSION ... }`: what hardware assigns by itself. */
#ifndef WADI_HOOK_H
#define WADI_HOOK_H

#include "register.h"

typedef struct wadi_hook wadi_hook;

/** The event has come; `written`: what an access wrote. */
void wadi_hook_runs(wadi_hook *hook, uint32_t written);
/** `block` NULL: of the chip; `element`: of an array of registers. */
wadi_hook *wadi_hook_new(wad_sim *sim, wadi_block *block, const wad_hook *def, unsigned element);
void wadi_hook_free(wadi_hook *hook);

#endif
