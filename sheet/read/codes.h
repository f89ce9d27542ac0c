/* SPDX-License-Identifier: MIT */
/* What the bits of a role say. */
#ifndef WADI_CODES_H
#define WADI_CODES_H

#include "build.h"

/** `{ 0 stopped, 1 is 1, 2 .. 3 is 8 }` behind a role's place. */
bool wadi_parse_meanings(wadi_build *b, const wadi_group *group, const wadi_env *env,
                         const wad_layout *layout, const wad_kind *kind, wad_role *role);

#endif
