/* SPDX-License-Identifier: MIT */
/* Split values. */
#ifndef WADI_VALUE_H
#define WADI_VALUE_H

#include "wadium/host/sheet.h"

/** True for a value of two parts that meet at a register's end: the high one from bit 0 on, the low
 * one up to its last bit. Those are what role tables can say. */
bool wadi_value_is_pair(const wad_value *value);

#endif
