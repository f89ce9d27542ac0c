/* SPDX-License-Identifier: MIT */
/* Look-ups that the public header has no need of. */
#ifndef WADI_QUERY_H
#define WADI_QUERY_H

#include "wadium/host/sheet.h"

/** One field of one register of one block. */
bool wadi_same_field(const wad_fieldref *a, const wad_fieldref *b);

/** Fills in register, lsb and width of a field array's element from its index. */
void wadi_place_element(wad_fieldref *ref);

/** Element i of a role that is one field or register, or an array of such: in it, block NULL; and
 * how many such an array has. */
wad_fieldref wadi_plain_ref(const wad_role *role, unsigned i);
unsigned wadi_plain_count(const wad_role *role);

#endif
