/* SPDX-License-Identifier: MIT */
/* What hardware does by itself. */
#ifndef WADI_READ_HOOK_H
#define WADI_READ_HOOK_H

#include "layout.h"

/** `on EVENT when CONDITION { ... }`; all blocks exist. False: it has said what is wrong. */
bool wadi_parse_hook(layout_build *lb, const wadi_stmt *stmt, wad_hook *hook);
/** `3 cycles of slow`, `20 ms` */
bool wadi_parse_delay(layout_build *lb, wadi_cursor *c, wad_delay *delay);
/** Errors for events of roles that no unit has; when all units exist. */
void wadi_check_events(wadi_build *b);

#endif
