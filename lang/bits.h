/* SPDX-License-Identifier: MIT */
#ifndef WADI_BITS_H
#define WADI_BITS_H

#include <stdint.h>

/** `width` ones from bit 0 on; all 64 from a width of 64 on. */
static inline uint64_t wadi_ones(unsigned width)
{
    return width >= 64 ? ~UINT64_C(0) : (UINT64_C(1) << width) - 1;
}

#endif
