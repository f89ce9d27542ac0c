/* SPDX-License-Identifier: MIT */
/* Exact arithmetic on wad_rational. Every function returns false on overflow or division by 0. */
#ifndef WADI_RATIONAL_H
#define WADI_RATIONAL_H

#include "wadium/host/sheet.h"

__extension__ typedef __int128 wadi_i128;
__extension__ typedef unsigned __int128 wadi_u128;

static inline wad_rational wadi_int(int64_t n)
{
    return (wad_rational){n, 1};
}

bool wadi_rat_make(wadi_i128 num, wadi_i128 den, wad_rational *out);
bool wadi_rat_add(wad_rational a, wad_rational b, wad_rational *out);
bool wadi_rat_sub(wad_rational a, wad_rational b, wad_rational *out);
bool wadi_rat_mul(wad_rational a, wad_rational b, wad_rational *out);
bool wadi_rat_div(wad_rational a, wad_rational b, wad_rational *out);
bool wadi_rat_pow(wad_rational a, wad_rational b, wad_rational *out);
int wadi_rat_cmp(wad_rational a, wad_rational b);
int64_t wadi_rat_floor(wad_rational a);
double wadi_rat_double(wad_rational a);

#endif
