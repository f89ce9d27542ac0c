/* SPDX-License-Identifier: MIT */
/* The roles of a unit, looked up once. */
#ifndef WADI_BIND_H
#define WADI_BIND_H

#include "sim/core/block.h"

/** Binds a role of the block's layout to the places, signals or numbers that the sheet says. */
void wadi_bind_role(wadi_block *block, const wad_role *role);
/** Once all roles are bound: what `enable` rests on. */
void wadi_bind_enable(wad_model *m);
/** Another model takes the block: what registers know of the one before goes. */
void wadi_forget_hearer(wad_sim *sim, const wad_model *m);

#endif
