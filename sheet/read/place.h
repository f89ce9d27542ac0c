/* SPDX-License-Identifier: MIT */
/* Where the bits of a role are. */
#ifndef WADI_PLACE_H
#define WADI_PLACE_H

#include "build.h"

/**
 * Reads a place at the cursor and binds the role to it. `layout`: whose registers and values are
 * meant first, NULL in the chip; `index`: the name in `role[n]`, NULL for one element. False: it
 * has said what is wrong.
 */
bool wadi_bind_place(wadi_build *b, wadi_cursor *c, const wadi_env *env, const wad_layout *layout,
                     const char *index, wad_role *role);

/** Gives roles that always read the same as many elements as the unit has. */
void wadi_count_always(wad_role *roles, unsigned n);

#endif
