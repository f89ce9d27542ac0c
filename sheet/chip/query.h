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

/** The registers of a layout, one after the other, beginning with {0}. */
typedef struct wadi_registers {
    unsigned next;
    uint32_t behind;  /* elements of the last array that were looked at */
    uint32_t element; /* which of its array the last one is, where it was changed */
    bool is_element;
} wadi_registers;
/** The next one; elements of an array that were changed come behind it. NULL: there are no more. */
const wad_register *wadi_next_register(const wad_layout *layout, wadi_registers *at);

#endif
