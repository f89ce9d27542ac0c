/* SPDX-License-Identifier: MIT */
/* Numbers in statements that build no chip: boards, benches. */
#ifndef WADI_READ_NUMBER_H
#define WADI_READ_NUMBER_H

#include "lang/cursor.h"

/** A whole number within limits; `what` names it in messages. */
bool wadi_take_number(wadi_cursor *c, const char *what, int64_t min, int64_t max, int64_t *value);
/** A quantity of the given unit: `2 ms`. */
bool wadi_take_quantity(wadi_cursor *c, wad_unit unit, wad_rational *value);
/** A quantity of whatever unit. */
bool wadi_take_amount(wadi_cursor *c, wad_rational *value, wad_unit *unit);

#endif
