/* SPDX-License-Identifier: MIT */
/* Roles that lie elsewhere by a condition: which place is meant is chosen when the condition turns.
 */
#ifndef WADI_WAY_H
#define WADI_WAY_H

#include "model.h"

/* One way to bind a role: laid out as the binding's own places. */
typedef struct wadi_way {
    const wad_role *role;
    wadi_part *parts;
    wadi_odd_place *odd;
    unsigned count;
} wadi_way;

/** All roles of the model that have ways. */
void wadi_ways_choose(wad_model *m);
void wadi_ways_free(wadi_binding *b);

#endif
