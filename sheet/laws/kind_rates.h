/* SPDX-License-Identifier: MIT */
/* Laws of rates that a kind gives, from the places of its roles. */
#ifndef WADI_KIND_RATES_H
#define WADI_KIND_RATES_H

#include "rate.h"

/** The i-th rate that its kind may have; NULL: there are no more. */
const char *wadi_kind_rate_name(const wad_layout *layout, unsigned i);
/** The law by the roles of `law->block`, and for element `law->element` of those that are arrays.
 * NULL: the block has no such rate; `law->why` (g_free) says so where it should have one. Nodes are
 * the law's. */
const wad_expr *wadi_kind_rate(wad_rate_law *law, const char *name);

#endif
