/* SPDX-License-Identifier: MIT */
/* `acts as own can { ... }`: kinds that Wadium has not. */
#ifndef WADI_OWN_KIND_H
#define WADI_OWN_KIND_H

#include "build.h"

#define WADI_MOST_ROLES 64

/** A kind whose roles are those that the statements name, in their order; `in_chip`: statements of
 * a unit stand among them. */
const wad_kind *wadi_own_kind(wadi_build *b, const char *name, const wadi_group *group,
                              bool in_chip);

#endif
