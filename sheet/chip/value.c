/* SPDX-License-Identifier: MIT */
#include "value.h"

bool wadi_value_is_pair(const wad_value *value)
{
    if (value->n_parts != 2)
        return false;
    const wad_bitfield *high = value->parts[0], *low = value->parts[1];
    return high->lsb == 0 && low->lsb + low->width == low->reg->width &&
           high->reg->width == low->reg->width && high->reg->step == low->reg->step &&
           value->width <= 64;
}
